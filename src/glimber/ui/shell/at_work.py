"""Counting at work, as the window shows it: a lamp as long as it counts, the sheet of what was counted, on and off."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QObject, QTimer

from glimber.core.edit.edit import EditError
from glimber.core.edit.ownkeys import OWN
from glimber.core.model.folio import EVERYWHERE
from glimber.store.faults import StoreError
from glimber.ui.session.host import Choice, Host, carry_out
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.practice.tally import Measured, Tally

LOOKED_EVERY_MS: Final = 2_000
_JOB: Final = "counting at work"
PROMISE: Final = "Only how often each binding of the folio is struck, by day: no letters, no text, no order."


class AtWork(QObject):
    """``shown`` is told whether it counts, whenever that is another."""

    def __init__(self, session: Session, host: Host, shown: Callable[[bool], object]) -> None:
        super().__init__(session)
        self._session, self._host, self._shown = session, host, shown
        self.counting = False
        self._timer = QTimer(self)
        self._timer.setInterval(LOOKED_EVERY_MS)
        self._timer.timeout.connect(self.look)

    def begin(self) -> None:
        """Look from now on, and go on counting where that was turned on before."""
        folder = self._session.folder

        def go_on(work: Work) -> bool:
            from glimber.store.work.running import go_on

            return go_on(folder)

        self._session.jobs.run(_JOB, go_on, lambda _: self.look())
        self._timer.start()

    def look(self) -> None:
        """Check whether uses are being counted now."""
        from glimber.store.work.running import process_of

        now = process_of(self._session.folder) is not None
        if now != self.counting:
            self.counting = now
            self._shown(now)

    def turn(self, on: bool) -> None:
        """Turn it on or off."""
        folder = self._session.folder

        def work(work: Work) -> None:
            from glimber.store.work.running import begin, end

            begin(folder) if on else end(folder)

        def done(_: None) -> None:
            self.look()
            self._session.told.emit("Counting at work, until it is turned off." if on else "No longer counting.")

        def failed(error: Exception) -> bool:
            self._session.told.emit(str(error))
            return isinstance(error, StoreError)

        self._session.jobs.run(_JOB, work, done, failed)

    def other(self) -> None:
        """On where it is off, off where it is on."""
        self.look()
        self.turn(not self.counting)

    # The sheet

    def show(self) -> None:
        """Show the counts, the most struck first; each can be looked into."""
        from glimber.core.practice.tally import measured, uses_words
        from glimber.core.practice.watched import watched
        from glimber.store.tally import read_tally

        session, folio = self._session, self._session.folio
        self.look()
        try:
            tally = read_tally(session.folder)
        except StoreError as error:
            session.told.emit(str(error))
            return
        table = watched(folio, session.computer)
        counts = measured(folio, tally, table.countable)
        turn = "Turn counting off" if self.counting else "Turn counting on"
        choices = [
            Choice(turn, value=self.other),
            Choice(
                "Which windows are whose…", "a program is known by the class of its windows", value=self.ask_program
            ),
        ]
        if tally.days:
            choices.append(
                Choice("Throw everything away", f"{len(tally.days)} days", value=partial(self._forget, None))
            )
        for ref, one in sorted(counts.items(), key=lambda row: (-row[1].struck, row[0])):
            command, undone = folio.commands[ref], f", {one.undone} undone at once" if one.undone else ""
            text, program = f"{command.name}: {uses_words(one)}{undone}", folio.programs[command.program].name
            choices.append(Choice(text, program, value=partial(self._look_into, ref, one, tally)))
        for id, why in table.not_counted.items():
            named = folio.command_of(folio.bindings[id])
            choices.append(Choice(f"not counted: {named.name if named is not None else id}", why, id))
        state = "Counting at work" if self.counting else "Not counting"
        self._host.choose(f"{state}; {len(tally.days)} days so far", carry_out, choices, hint=PROMISE)

    def _look_into(self, ref: str, one: Measured, tally: Tally) -> None:
        """One command: its figure taken, a day's count mended, or what was counted of it thrown away."""
        folio = self._session.folio
        ids = [binding.id for binding in folio.bindings_of.get(ref, ()) if binding.id in tally.bindings]
        uses = round(one.mean, 1)
        choices = [
            Choice(
                f"Take {uses:g} as its uses a day", "as if it were set by hand", value=partial(self._take, ref, uses)
            )
        ]
        for day, rows in sorted(tally.days.items(), reverse=True):
            for id in ids:
                if id in rows:
                    struck, undone = rows[id]
                    choices.append(
                        Choice(
                            f"{day}: {struck} struck, {undone} undone at once",
                            f"{id}; Enter mends it",
                            value=partial(self._ask_count, id, day, struck),
                        )
                    )
        choices += [Choice(f"Throw away what was counted of {id}", value=partial(self._forget, id)) for id in ids]
        self._host.choose(folio.commands[ref].name, carry_out, choices)

    def _take(self, ref: str, uses: float) -> None:
        from glimber.core.edit.commands import edit_command

        self._edit(
            f"uses a day of {self._session.folio.commands[ref].name}",
            lambda folio: edit_command(folio, ref, uses_per_day=uses),
        )

    def _ask_count(self, id: str, day: str, struck: int) -> None:
        def said(value: object) -> None:
            text = str(value).strip()
            if not text.isdigit():
                self._session.told.emit(f"{text!r} is not how often; expected a whole number")
                return
            self._change(lambda tally: tally.with_row(id, day, int(text)))

        self._host.choose(f"How often was {id} struck on {day}?", said, text=str(struck))

    def _forget(self, id: str | None) -> None:
        if id is not None:
            self._change(lambda tally: tally.without(id))
            return
        from glimber.store.tally import forget_tally

        try:
            forget_tally(self._session.folder)
        except StoreError as error:
            self._session.told.emit(str(error))
            return
        self._session.told.emit("What was counted is thrown away.")
        self._session.weigh_later()

    def _change(self, change: Callable[[Tally], Tally]) -> None:
        from glimber.store.tally import change_tally

        try:
            change_tally(self._session.folder, change)
        except StoreError as error:
            self._session.told.emit(str(error))
            return
        self._session.weigh_later()
        self.show()

    def _edit(self, name: str, change: Callable[..., object]) -> None:
        try:
            self._session.edit(name, change)  # type: ignore[arg-type]
        except (EditError, StoreError) as error:
            self._session.told.emit(str(error))

    # Which windows are whose

    def ask_program(self) -> None:
        """Ask which program's windows are to be named."""
        choices = []
        for program in self._session.folio.programs.values():
            if program.id not in (EVERYWHERE, OWN):
                known = ", ".join(program.windows) or f"known by its name, {program.id}"
                choices.append(Choice(program.name, known, value=partial(self._ask_windows, program.id)))
        if choices:
            self._host.choose("Whose windows?", carry_out, choices)
        else:
            self._session.told.emit("There is no program yet whose windows could be named.")

    def _ask_windows(self, program: str) -> None:
        """The class of a program's windows: offered from what is open, or written."""
        from glimber.store.work.x_server import open_windows

        folio = self._session.folio
        windows = folio.programs[program].windows
        try:
            there = open_windows()
        except StoreError as error:
            self._session.told.emit(str(error))
            there = []
        choices = [
            Choice(one, "no longer" if one in windows else "open now", value=one)
            for one in dict.fromkeys([*there, *windows])
        ]

        def taken(value: object) -> None:
            from glimber.core.edit.commands import set_windows

            one = str(value).strip()
            after = [each for each in windows if each != one] if one in windows else [*windows, one]
            self._edit(f"windows of {folio.programs[program].name}", lambda now: set_windows(now, program, after))

        self._host.choose(
            f"Windows of {folio.programs[program].name}",
            taken,
            choices,
            free=True,
            hint="Enter adds one, or takes it out",
        )
