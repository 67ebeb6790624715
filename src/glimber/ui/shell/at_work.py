"""Counting at work, as the window shows it: a lamp as long as it counts, the sheet of what was counted, on and off."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QObject, QTimer

from glimber.core.edit.edit import EditError
from glimber.core.edit.ownkeys import OWN
from glimber.core.model.folio import EVERYWHERE
from glimber.store.faults import StoreError
from glimber.ui.session.host import Choice, Host, carry_out
from glimber.ui.session.jobs import Work
from glimber.ui.session.pages import Page, PageAction
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.practice.tally import Measured, Tally
    from glimber.ui.session.pages import PageRow

LOOKED_EVERY_MS: Final = 2_000
_JOB: Final = "counting at work"
PROMISE: Final = (
    "Only how often each binding of the folio is struck, and each command chosen in a menu and how long that took, by day: "
    "no letters, no text, no order."
)


class AtWork(QObject):
    """``shown`` is called with whether it counts, whenever that changes."""

    def __init__(self, session: Session, host: Host, shown: Callable[[bool], object]) -> None:
        super().__init__(session)
        self._session, self._host, self._shown = session, host, shown
        self.counting, self._by_use = False, True
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
            self._session.notified.emit("Counting at work, until it is turned off." if on else "No longer counting.")

        def failed(error: Exception) -> bool:
            self._session.notified.emit(str(error))
            return isinstance(error, StoreError)

        self._session.jobs.run(_JOB, work, done, failed)

    def other(self) -> None:
        """On where it is off, off where it is on."""
        self.look()
        self.turn(not self.counting)

    # The sheet

    def show(self) -> None:
        """Show the counts, the most struck first; each can be looked into."""
        from glimber.core.practice.tally import measured
        from glimber.core.practice.watched import watched
        from glimber.store.tally import read_tally

        session, folio = self._session, self._session.folio
        self.look()
        try:
            tally = read_tally(session.folder)
        except StoreError as error:
            session.notified.emit(str(error))
            return
        counts = measured(folio, tally, watched(folio, session.computer).countable)

        def rows() -> list[PageRow]:
            order = sorted(counts, key=lambda ref: (-counts[ref].mean, ref)) if self._by_use else sorted(
                counts, key=lambda ref: (folio.programs[folio.commands[ref].program].name, folio.commands[ref].name))  # fmt: skip
            most = max((one.high for one in counts.values()), default=1.0) or 1.0
            found: list[PageRow] = [self._row(ref, counts[ref], most) for ref in order]
            return [*found, *self._not_counted(watched(folio, session.computer).not_counted)]

        def open_one(value: object) -> None:
            ref = str(value)
            self._look_into(ref, counts[ref], tally)

        def sort(_: object) -> None:
            self._by_use = not self._by_use

        turn = "stops counting" if self.counting else "starts counting"
        actions = [
            PageAction("C", turn, lambda _: self.other()),
            PageAction("W", "which windows are whose", lambda _: self.ask_program()),
        ]
        if counts:
            actions.insert(0, PageAction("Enter", "opens the days of a command", open_one, of_row=True))
            actions.append(PageAction("O", "sorts by use or by program", sort, leaves=False))
        if tally.days:
            actions.append(PageAction("Del", "deletes all counts", lambda _: self._ask_forget(len(tally.days))))
        state = "Counting" if self.counting else "Not counting"
        title = f"{state}; {len(tally.days)} day{'s' * (len(tally.days) != 1)} so far"
        self._host.show_page(Page(title, rows, tuple(actions), PROMISE))

    def _row(self, ref: str, one: Measured, most: float) -> PageRow:
        """Return the uses a day of a command as a bar with its 90 % interval, by key and by menu."""
        from glimber.core.practice.tally import uses_words
        from glimber.ui.widgets.page_rows import Bar

        folio = self._session.folio
        command, undone = folio.commands[ref], f"{one.undone} of {one.struck} undone" if one.undone else ""
        menu = f"{one.by_menu} by menu" if one.by_menu else ""
        detail = " · ".join(filter(None, (menu, undone, folio.programs[command.program].name)))
        return Bar(command.name, one.mean / most, uses_words(one), detail, low=one.low / most, high=one.high / most, value=ref)

    def _not_counted(self, why: Mapping[str, str]) -> list[PageRow]:
        from glimber.ui.widgets.page_rows import Head, Plain

        if not why:
            return []
        folio = self._session.folio
        rows: list[PageRow] = [Head("Not counted", "and why")]
        for id, reason in why.items():
            named = folio.command_of(folio.bindings[id])
            rows.append(Plain(named.name if named is not None else id, reason))
        return rows

    def _ask_forget(self, days: int) -> None:
        choice = Choice("Delete all counts", f"{days} days", value=partial(self._forget, None))
        self._host.choose("Delete everything that was counted?", carry_out, [choice])

    def _look_into(self, ref: str, one: Measured, tally: Tally) -> None:
        """One command: its figure used, a day's count corrected, or its counts deleted."""
        from glimber.core.practice.tally import uses_words
        from glimber.ui.widgets.page_rows import Bar, Head

        folio = self._session.folio
        ids = [binding.id for binding in folio.bindings_of.get(ref, ()) if binding.id in tally.bindings]
        uses = round(one.mean, 1)
        days = [(day, id, rows[id]) for day, rows in sorted(tally.days.items(), reverse=True) for id in ids if id in rows]
        most = max((struck for _, _, (struck, _) in days), default=1) or 1
        rows: list[PageRow] = []
        for id in ids:
            rows.append(Head(id, str(folio.bindings[id].trigger)))
            for day, other, (struck, undone) in days:
                if other == id:
                    slips = f"{undone} undone immediately" if undone else ""
                    rows.append(Bar(day, struck / most, f"{struck} struck", slips, value=(id, day, struck)))

        def mend(value: object) -> None:
            assert isinstance(value, tuple)
            self._ask_count(*value)

        def forget(value: object) -> None:
            assert isinstance(value, tuple)
            self._forget(value[0])

        actions = (PageAction("Enter", "corrects the count of that day", mend, of_row=True),
                   PageAction("T", f"uses {uses:g} as its uses a day", lambda _: self._take(ref, uses)),
                   PageAction("Del", "deletes the counts of that binding", forget, of_row=True))  # fmt: skip
        self._host.show_page(Page(folio.commands[ref].name, lambda: rows, actions, uses_words(one)))

    def _take(self, ref: str, uses: float) -> None:
        from glimber.core.edit.commands import edit_command

        self._edit(
            f"uses a day of {self._session.folio.commands[ref].name}",
            lambda folio: edit_command(folio, ref, uses_per_day=uses),
        )

    def _ask_count(self, id: str, day: str, struck: int) -> None:
        def on_answer(value: object) -> None:
            text = str(value).strip()
            if not text.isdigit():
                self._session.notified.emit(f"{text!r} is not how often; expected a whole number")
                return
            self._change(lambda tally: tally.with_row(id, day, int(text)))

        binding = self._session.folio.bindings[id]
        named = self._session.folio.command_of(binding)
        what = f"{named.name} ({binding.trigger})" if named is not None else str(binding.trigger)
        self._host.choose(f"How often was {what} struck on {day}?", on_answer, text=str(struck))

    def _forget(self, id: str | None) -> None:
        if id is not None:
            self._change(lambda tally: tally.without(id))
            return
        from glimber.store.tally import forget_tally

        try:
            forget_tally(self._session.folder)
        except StoreError as error:
            self._session.notified.emit(str(error))
            return
        self._session.notified.emit("The counts are deleted.")
        self._session.weigh_later()

    def _change(self, change: Callable[[Tally], Tally]) -> None:
        from glimber.store.tally import change_tally

        try:
            change_tally(self._session.folder, change)
        except StoreError as error:
            self._session.notified.emit(str(error))
            return
        self._session.weigh_later()
        self.show()

    def _edit(self, name: str, change: Callable[..., object]) -> None:
        try:
            self._session.edit(name, change)  # type: ignore[arg-type]
        except (EditError, StoreError) as error:
            self._session.notified.emit(str(error))

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
            self._session.notified.emit("There is no program yet whose windows could be named.")

    def _ask_windows(self, program: str) -> None:
        """The class of a program's windows: offered from what is open, or written."""
        from glimber.store.work.x_server import open_windows

        folio = self._session.folio
        windows = folio.programs[program].windows
        try:
            there = open_windows()
        except StoreError as error:
            self._session.notified.emit(str(error))
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
