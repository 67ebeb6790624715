"""The timing study in the Drill room: worked out by a job, shown as what could be set, set in one step that can be undone."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from glimber.core.model.describe import key_words
from glimber.ui.session.host import Choice, Host
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.stats.timing import KeyStudy, Study

_JOB = "timing study"


class TimingStudy:
    """Asks what to set of what the study suggests. ``exercise`` begins two minutes of the bindings it is given."""

    def __init__(self, session: Session, host: Host, exercise: Callable[[list[str]], object]) -> None:
        self._session, self._host, self._exercise = session, host, exercise

    def begin(self) -> None:
        """Work the study out from the logged key events."""
        session = self._session
        ledger, folio, folder, setting = session.ledger, session.folio, session.folder, session.folio.settings.log
        if ledger is None:
            session.notified.emit("Weighing what is due…")
            return
        tries = ledger.practice.tries
        session.notified.emit("Looking at how long keys were held…")

        computer = session.computer

        def work(work: Work) -> tuple[Study | None, list[str]]:
            from glimber.core.decide.round_choice import why_not
            from glimber.core.practice.options import Options
            from glimber.core.stats.plain_taps import with_plain_taps
            from glimber.core.stats.timing import exercise, presses_of, study
            from glimber.store.practice.log import read_key_events

            events = read_key_events(folder, setting)
            work.give_way()
            presses = presses_of(folio, events, tries)
            asked = with_plain_taps(folio)
            live = [one for one in asked.drillable(computer) if why_not(asked, one, Options()) is None]
            return study(folio, presses), exercise(asked, live, presses)

        session.jobs.run(_JOB, work, self._show)

    def _show(self, result: tuple[Study | None, list[str]]) -> None:
        found, asked = result
        more = Choice("Two minutes of exercise", f"{len(asked)} bindings whose keys are tapped and held", value=asked)
        if found is None and asked:
            self._host.choose("No key was tapped and held often enough yet", lambda _: self._exercise(asked), [more])
            return
        if found is None:
            self._session.notified.emit(
                "No key of this folio is both tapped and held: there is nothing to study."
            )
            return
        choices = [Choice(f"Set it for all: hold from {found.limit_ms} ms, {found.policy}", _gain(found.now, found.best),
                          value=found)]  # fmt: skip
        for one in found.keys:
            own = "pays" if one in found.own else "as good as for all"
            times = ", ".join(words for words in (_ms("taps", one.tap_ms), _ms("holds", one.hold_ms)) if words)
            choices.append(Choice(f"{self._name(one)}: {one.limit_ms} ms, {one.policy}",
                                  f"{own}; {times}; {_gain(one.now, one.best)} of {one.presses}", value=one))  # fmt: skip
        choices += [more] if asked else []

        def taken(value: object) -> None:
            from glimber.core.stats.timing import KeyStudy, Study, with_timing

            if isinstance(value, list):
                self._exercise(value)
            elif isinstance(value, Study):
                self._session.edit("limits from the timing study", lambda folio: with_timing(folio, value))
                self._session.notified.emit(f"Keys are held from {value.limit_ms} ms on now. Ctrl+Z takes it back.")
            elif isinstance(value, KeyStudy):
                self._session.edit(f"limits of {value.key}", lambda folio: with_timing(folio, found, [value]))
                self._session.notified.emit(
                    f"{self._name(value)} is held from {value.limit_ms} ms on now. Ctrl+Z takes it back."
                )

        self._host.choose(f"Of {found.presses} presses", taken, choices)

    def _name(self, one: KeyStudy) -> str:
        layout = self._session.folio.layouts[one.board]
        layer = layout.layer(one.layer)
        return f"{key_words(self._session.folio, one.board, (one.key,))} on {layer.name if layer is not None else one.layer}"


def _gain(now: float, best: float) -> str:
    return f"misread {100 * best:.1f} % instead of {100 * now:.1f} %"


def _ms(what: str, value: float | None) -> str:
    return f"{what} {value:.0f} ms" if value is not None else ""
