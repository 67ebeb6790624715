"""Set what waits on the change sheet where it belongs: shown as a difference first, and put back with one key."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from glimber.ui.session.host import Host
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from pathlib import Path

    from glimber.store.inplace.setting import Plan, PutBack
    from glimber.ui.session.pages import PageRow

_JOB: Final = "setting"


class InPlace:
    """Plans off the event loop, shows what would be set, and sets it where the person says so."""

    def __init__(self, session: Session, host: Host) -> None:
        self._session, self._host = session, host

    def show(self) -> None:
        """The difference that setting what waits would make."""
        session = self._session
        opened, computer, setting = session.opened, session.computer, session.folio.settings.log

        def plan(work: Work) -> tuple[Plan, list[str]]:
            from glimber.store.inplace.setting import plan_setting, recover
            from glimber.store.practice.log import read_practice

            undone = recover()
            return plan_setting(opened, read_practice(opened.folder, setting).changes, computer), undone

        session.notified.emit("Looking where what waits is set…")
        session.jobs.run(_JOB, plan, self._shown)

    def _shown(self, found: tuple[Plan, list[str]]) -> None:
        plan, undone = found
        for sentence in undone:
            self._session.notified.emit(sentence)
        from glimber.ui.session.pages import Page, PageAction

        if not (plan.steps or plan.already or plan.left):
            self._session.notified.emit("Nothing waits to be set.")
            return
        rows = _rows(plan, self._session.folder)
        if not plan.steps and not plan.already:
            self._host.show_page(Page("Nothing that waits can be set from here", lambda: rows))
            return
        count, places = len(plan.set), len(plan.steps)
        title = f"Set {_counted(count, 'change')} in {_counted(places, 'place')}" if count else "Tick off what is set already"
        sets = PageAction("Enter", "set it" if count else "tick it off", lambda _: self._set(plan))
        about = "A dated copy of each file is kept; Shift+W undoes it all." if count else ""
        self._host.show_page(Page(title, lambda: rows, (sets,), about))

    def _set(self, plan: Plan) -> None:
        session = self._session
        opened, setting, now = session.opened, session.folio.settings.log, session.now()

        def work(work: Work) -> None:
            from glimber.store.inplace.setting import carry_out
            from glimber.store.practice.log import open_log

            with open_log(opened.folder, setting) as log:
                carry_out(opened, plan, log, now)

        def done(_: None) -> None:
            names = ", ".join(sorted({place.brief(opened.folder) for _, place in plan.set})) or "what was set already"
            session.notified.emit(f"Set and ticked off: {names}. Shift+W undoes it.")
            session.weigh_later()

        session.jobs.run(_JOB, work, done)

    def put_back(self) -> None:
        """Put the last set changes back."""
        session = self._session
        opened, setting = session.opened, session.folio.settings.log

        def work(work: Work) -> PutBack:
            from glimber.store.inplace.setting import set_back
            from glimber.store.practice.log import open_log

            with open_log(opened.folder, setting) as log:
                return set_back(opened, log)

        def done(back: PutBack) -> None:
            session.notified.emit(f"Put back: {', '.join(back.places)}. It waits on the sheet again.")
            session.weigh_later()

        session.jobs.run(_JOB, work, done)


def _counted(count: int, what: str) -> str:
    return f"{count} {what}{'s' * (count != 1)}"


def _rows(plan: Plan, folder: Path) -> list[PageRow]:
    """Return the difference place by place, then what is set already and what is left to the person."""
    from glimber.ui.widgets.page_rows import Head, Plain, diff_rows

    rows: list[PageRow] = []
    for step in plan.steps:
        before, after = (data.decode("utf-8", "replace").splitlines() for data in (step.before, step.out.data))
        rows.append(Head(step.place.brief(folder), _counted(len(step.out.set), "change")))
        rows += diff_rows(before, after)
    if plan.already:
        rows.append(Head("Set already", "only ticked off"))
        rows += [Plain(one.names[0], str(one.new or "")) for one in plan.already]
    if plan.left:
        rows.append(Head("Left to do by hand", "these stay on the sheet"))
        rows += [Plain(one.names[0], why) for one, why in plan.left]
    return rows
