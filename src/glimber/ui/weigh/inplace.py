"""Set what waits on the change sheet where it belongs: shown as a difference first, and put back with one key."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from glimber.ui.session.host import Choice, Host
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.store.inplace.setting import Plan, PutBack

_JOB: Final = "setting"
_SET: Final = "set"


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

        session.told.emit("Looking where what waits is set…")
        session.jobs.run(_JOB, plan, self._shown)

    def _shown(self, found: tuple[Plan, list[str]]) -> None:
        plan, undone = found
        for sentence in undone:
            self._session.told.emit(sentence)
        left = [Choice(f"stays on the sheet  {one.names[0]}", why) for one, why in plan.left]
        if not plan.steps and not plan.already:
            if left:
                self._host.choose("Nothing of what waits can be set from here", lambda _: None, left)
            else:
                self._session.told.emit("Nothing waits to be set.")
            return
        count, places = len(plan.set), len(plan.steps)
        name = (f"Set {count} {'edit' if count == 1 else 'edits'} in {places} {'place' if places == 1 else 'places'}"
                if count else "Tick off what is set already")  # fmt: skip
        choices = [Choice(name, "a dated copy of what is there is kept", value=_SET)]
        choices += [Choice(f"set already  {one.names[0]}", str(one.new or "")) for one in plan.already]
        for step in plan.steps:
            for line in step.diff.splitlines():
                if line[:1] in "+-" and not line.startswith(("+++", "---")):
                    choices.append(
                        Choice(f"{'−' if line[0] == '-' else '+'}  {line[1:]}", step.place.brief(self._session.folder))
                    )

        def taken(value: object) -> None:
            if value == _SET:
                self._set(plan)

        self._host.choose("The difference; Enter on the first line sets it", taken, [*choices, *left])

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
            session.told.emit(f"Set and ticked off: {names}. Shift+W puts it back.")
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
            session.told.emit(f"Put back: {', '.join(back.places)}. It waits on the sheet again.")
            session.weigh_later()

        session.jobs.run(_JOB, work, done)
