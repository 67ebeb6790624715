"""Actions on a verdict: take it with a reason, set it aside, confirm, go back, set it in place, and look at its evidence."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Final

from msgspec.structs import replace

from glimber.core.decide.choices import PAIR_ANSWERS
from glimber.core.edit.edit import EditError, is_move
from glimber.core.model.describe import place_words, seconds_words
from glimber.core.notation.keys import NotationError, Spot, Trigger, parse_trigger
from glimber.core.practice.slip_kinds import CAUSE_WORDS, WITHOUT_CAUSE
from glimber.core.session.changes import OldTrigger
from glimber.core.session.pending import with_partners
from glimber.store.faults import StoreError
from glimber.ui.session.host import Asked, Choice, Host
from glimber.ui.session.pages import Page, PageAction
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.decide.candidates import Candidate
    from glimber.core.decide.settling import Settling
    from glimber.core.decide.verdict import Verdict
    from glimber.core.practice.tries import Change, Try
    from glimber.core.session.change_sheet import Edit
    from glimber.core.stats.ledger import Ledger
    from glimber.ui.session.pages import PageRow

_OLD: Final[tuple[tuple[OldTrigger, str, str], ...]] = (
    ("dead", "does nothing", "the hand notices immediately"),
    ("works", "still works", "nothing is lost while the new one is learnt"),
    ("reminds", "does the new one's work as a reminder", "and shows the new keys"),
)
_DAYS: Final = (("in a week", 7), ("in two weeks", 14), ("in a month", 30))


class WeighVerbs:
    """Acts on the case that ``verdict`` gives; ``choose`` brings a binding to the front."""

    def __init__(
        self, session: Session, host: Host, verdict: Callable[[], Verdict | None], choose: Callable[[str], object]
    ) -> None:
        self._session, self._host, self._verdict, self._choose = session, host, verdict, choose
        self._ticked: dict[str, Change] = {}
        self._order: dict[str, int] = {}
        self._ticked_since: Ledger | None = None

    # Verdicts taken

    def take(self, choice: str, candidate: Candidate | None) -> None:
        """Carry out a verdict: a place that is gone to has its why asked first, filled in."""
        verdict = self._verdict()
        if verdict is None:
            return
        id, words = verdict.row.binding.id, verdict.words
        if choice in ("move", "rebind") and candidate is not None:
            self._why(candidate.binding, candidate.to, candidate.swap_with is not None, words, choice)
            return
        try:
            if choice == "retire":
                self._session.take_retire(id, words)
                self._session.notified.emit(f"{verdict.row.command.name} waits on the bench. Ctrl+Z takes it back.")
            else:
                self._session.note_verdict(id, choice, words)
        except (EditError, StoreError) as error:
            self._session.notified.emit(str(error))

    def _why(self, id: str, to: Trigger, swap: bool, words: str, verdict: str) -> None:
        place = place_words(self._session.folio, to)

        def on_answer(why: object) -> None:
            if swap:  # what is there now does something else: nothing becomes of the old place
                self._go(id, to, swap, str(why), verdict, "dead")
                return
            choices = [Choice(text, detail, value=old) for old, text, detail in _OLD]
            self._host.choose("Until it is set, the old place", lambda old: self._go(
                id, to, swap, str(why), verdict, old), choices)  # type: ignore[arg-type]  # fmt: skip

        self._host.choose(f"Why {place}?", on_answer, text=words, hint="It is kept with the change, and asked later.")

    def _go(self, id: str, to: Trigger, swap: bool, why: str, verdict: str, old: OldTrigger) -> None:
        session = self._session
        try:
            session.take_move(id, to, swap, why or "chosen by hand", verdict, old)
        except (EditError, StoreError) as error:
            session.notified.emit(str(error))
            return
        binding = session.folio.bindings.get(id)
        command = session.folio.command_of(binding) if binding is not None else None
        name = command.name if command is not None else id
        session.notified.emit(
            f"{name} goes to {place_words(session.folio, to)}. It waits on the change sheet (S); Ctrl+Z takes it back."
        )

    def press_it(self, id: str | None) -> None:
        """Move to a place that is not offered: press it, then write why."""
        session = self._session
        binding = session.folio.bindings.get(id or "")
        command = session.folio.command_of(binding) if binding is not None else None
        if binding is None or command is None:
            return
        spot = binding.trigger if isinstance(binding.trigger, Spot) else None

        def taken(trigger: Trigger) -> None:
            program = session.folio.programs[command.program]
            there = session.folio.by_trigger if isinstance(trigger, Spot) else {b.trigger: b for b in program.bindings}
            verdict = session.verdicts.get(binding.id)
            self._why(binding.id, trigger, trigger in there, verdict.words if verdict is not None else "",
                      "move" if is_move(binding.trigger, trigger) else "rebind")  # fmt: skip

        boards = (spot.board,) if spot is not None else ()
        self._host.ask_keys(Asked(session.folio, command.program, command.name, taken, command.context, session.computer, boards,
                                  only_spots=spot is not None))  # fmt: skip

    def set_aside(self) -> None:
        """The verdict is not asked again until a day."""
        verdict = self._verdict()
        if verdict is None:
            return
        now = self._session.now().astimezone()

        def until(value: object) -> None:
            day = _day(value, now)
            if day is None:
                self._session.notified.emit(
                    f"{value} is not a day to come; expected one such as {now + timedelta(days=10):%Y-%m-%d}"
                )
                return
            try:
                self._session.note_verdict(verdict.row.binding.id, "aside", verdict.words, day)
            except (EditError, StoreError) as error:
                self._session.notified.emit(str(error))
                return
            self._session.notified.emit(f"{verdict.row.command.name} is set aside until {day:%-d %B}.")
            self._session.weigh_later()

        choices = [Choice(text, f"{now + timedelta(days=days):%-d %B}", value=days) for text, days in _DAYS]
        self._host.choose("Set aside until", until, choices, free=True, hint="or a day such as 2026-12-24")

    def answer_pair(self, answer: str) -> None:
        """Keep what the person says of two commands that are taken for each other."""
        verdict = self._verdict()
        if verdict is None or verdict.pair is None:
            self._session.notified.emit("This binding is not taken for another one.")
            return
        try:
            self._session.note_verdict(verdict.row.binding.id, answer, PAIR_ANSWERS[answer], swap_with=verdict.pair)
        except (EditError, StoreError) as error:
            self._session.notified.emit(str(error))
            return
        self._session.weigh_later()

    # What is behind it

    def causes(self) -> None:
        """Every cause with its chance and the tries that speak for it."""
        verdict = self._verdict()
        if verdict is None or not verdict.row.count:
            self._session.notified.emit("Not tried yet: nothing speaks for any cause.")
            return
        row = verdict.row
        away = sum(row.slips.kinds.get(kind, 0) for kind in ("mix-up", "stray", "mirror"))
        kinds = {**row.slips.kinds, "knowing": away + row.slips.blanks, "place": row.place_count}
        chances = sorted(row.causes.items(), key=lambda one: -one[1])
        from glimber.ui.widgets.page_rows import Bar

        rows: list[PageRow] = []
        for cause, chance in chances:
            count = sum(one.outcome == "hit" for one in row.tries) if cause == "none" else kinds.get(cause, 0)
            lasts = f" · lasts with {100 * row.lasting:.0f} %" if cause == row.cause and chance > 0.5 else ""
            words = CAUSE_WORDS[cause]
            judged = f"{count} of {row.count} tries{lasts}"
            rows.append(Bar(words.name, chance, f"{100 * chance:.0f} %", judged, words.judged_by, value=cause))
        tried = PageAction("Enter", "the tries that speak for it", lambda cause: self.from_what(str(cause)), of_row=True)
        about = f"How likely each cause is, from {row.count} tries on {_days_of(row.tries)}."
        self._host.show_page(Page(f"What is wrong with {row.command.name}", lambda: rows, (tried,), about))

    def from_what(self, cause: str = "") -> None:
        """The tries behind the figures, the newest first; of one cause where one is asked for."""
        verdict = self._verdict()
        if verdict is None:
            return
        row, folio = verdict.row, self._session.folio
        from glimber.ui.widgets.page_rows import Plain

        rows: list[PageRow] = []
        for one in reversed(row.tries):
            kind = one.slip or one.outcome
            wanted = {"knowing": ("blank", *WITHOUT_CAUSE), "none": ("hit",)}.get(cause, (cause,))
            if cause == "place" and one.pressed != row.place:
                continue
            if cause and cause != "place" and kind not in wanted:
                continue
            struck = ""
            if one.pressed:
                try:
                    struck = f" {place_words(folio, parse_trigger(one.pressed, folio.bundles))}"
                except NotationError:
                    struck = f" {one.pressed}"
            times = (
                ""
                if one.recall_ms is None
                else f", recall {seconds_words(one.recall_ms)}, hand {seconds_words(one.motor_ms or 0)}"
            )
            cold = ", cold" if one.cold else ""
            rows.append(Plain(f"{one.at:%-d %b %H:%M}  {kind}{struck}", f"{one.computer}{cold}{times}"))
        if not rows:
            self._session.notified.emit("No try speaks for this.")
            return
        of_cause = f": {CAUSE_WORDS[cause].name.lower()}" if cause in CAUSE_WORDS else ""
        what = f"{len(rows)} tries of {row.command.name}{of_cause}"
        self._host.show_page(Page(what, lambda: rows, about="The newest first."))

    # Changes

    def history(self) -> None:
        """Every change with its why, the newest first; one is gone back to by taking it."""
        from glimber.ui.widgets.page_rows import Plain

        ledger, folio = self._session.ledger, self._session.folio
        rows: list[PageRow] = []
        for change in reversed(ledger.practice.changes if ledger is not None else ()):
            command = folio.commands.get(change.command or "")
            name = command.name if command is not None else change.binding
            way = (
                f"{_words(folio, change.from_trigger)} → {_words(folio, change.to_trigger)}"
                if change.to_trigger
                else change.verdict
            )
            state = " (gone back)" if change.reverted else ""
            rows.append(Plain(f"{change.at:%-d %b}  {name}: {way}{state}", change.why, change))
        if not rows:
            self._session.notified.emit("No change has been made yet.")
            return
        back = PageAction("Enter", "back to how it was before this change", self._go_back_to, of_row=True)
        self._host.show_page(Page("All changes", lambda: rows, (back,), "The newest first, each with its reason."))

    def _go_back_to(self, change: object) -> None:
        from glimber.core.practice.tries import Change

        if isinstance(change, Change):
            self.go_back(change)

    def go_back(self, change: Change) -> None:
        """To the trigger a change took its binding from."""
        session, folio = self._session, self._session.folio
        binding = folio.bindings.get(change.binding)
        if binding is None or not change.to_trigger or not change.from_trigger:
            session.notified.emit("There is no place to go back to.")
            return
        try:
            to = parse_trigger(change.from_trigger, folio.bundles)
            partner = folio.bindings.get(change.swap_with or "")
            taken = to in folio.by_trigger if isinstance(to, Spot) else partner is not None and partner.trigger == to
            session.take_move(binding.id, to, taken, f"back from {_words(folio, str(binding.trigger))}", "back")
        except (EditError, StoreError, NotationError) as error:
            session.notified.emit(str(error))
            return
        session.notified.emit(f"Back to {_words(folio, change.from_trigger)}.")

    def confirm(self, settling: Settling) -> None:
        """The new place stays: it has settled."""
        change = settling.change
        try:
            self._session.note_verdict(change.binding, "confirmed", change.why)
        except (EditError, StoreError) as error:
            self._session.notified.emit(str(error))
            return
        self._session.weigh_later()

    def sheet(self) -> None:
        """Show what is still to be set, and what is, as a sheet whose boxes are ticked."""
        self._order = {}
        self._order = {one.change.id: place for place, one in enumerate(self._edits())}
        if not self._order:
            self._session.notified.emit("Nothing waits to be set.")
            return
        ticks = PageAction("Space", "ticks it off, or takes the tick back", self._tick, of_row=True, leaves=False)
        about = "Until a box is ticked, drills ask for the old keys. W sets what can be set here; Shift+S writes a file."
        self._host.show_page(Page("To be set in programs and on boards", self._sheet_rows, (ticks,), about, paper=True))

    def _edits(self) -> list[Edit]:
        """Return the lines of the change sheet: what is set comes last, and what is ticked while it is shown stays where it
        is."""
        from glimber.core.session.change_sheet import sheet_of

        ledger = self._session.ledger
        if ledger is not self._ticked_since:
            self._ticked_since, self._ticked = ledger, {}  # what was ticked before is in it
        changes = [self._ticked.get(one.id, one) for one in (ledger.practice.changes if ledger is not None else ())]
        edits = sheet_of(self._session.folio, changes, with_done=True)
        return sorted(edits, key=lambda one: (self._order.get(one.change.id, len(self._order)), one.done))

    def _sheet_rows(self) -> list[PageRow]:
        from glimber.ui.widgets.page_rows import Head, Tick

        edits = self._edits()
        rows: list[PageRow] = []
        for where in dict.fromkeys(one.where for one in edits):
            mine = [one for one in edits if one.where == where]
            waiting = sum(not one.done for one in mine)
            rows.append(Head(where, f"{waiting} to set" if waiting else "all set"))
            for one in mine:
                how = ". ".join(part.rstrip(".") for part in (one.set_at, f"The old keys: {one.then}", one.change.why) if part)
                rows.append(Tick(one.command, one.old, one.new, how, one.done, one))
        return rows

    def _tick(self, edit: object) -> None:
        from glimber.core.session.change_sheet import Edit

        if not isinstance(edit, Edit):
            return
        changes = with_partners(edit.change, [one.change for one in self._edits()])
        try:
            self._session.tick(changes, not edit.done)
        except StoreError as error:
            self._session.notified.emit(str(error))
            return
        when = None if edit.done else self._session.now()
        self._ticked |= {one.id: replace(one, applied=when) for one in changes}
        asks = "old" if edit.done else "new"
        state = "not set after all" if edit.done else "set"
        self._session.notified.emit(f"{edit.command}: {state}; drills ask for the {asks} place now.")

    def write_sheet(self, to: Path) -> None:
        """Write the sheet as Markdown, CSV or PDF; report what went wrong."""
        from glimber.core.session.change_sheet import sheet_of, to_csv, to_markdown
        from glimber.core.sheets.list import change_pages
        from glimber.store.cache.fonts import faces
        from glimber.store.files import write_atomically
        from glimber.ui.paint.export import write_sheets

        session = self._session
        edits = sheet_of(session.folio, session.ledger.practice.changes if session.ledger is not None else ())
        title = session.folio.settings.title
        try:
            if to.suffix == ".pdf":
                write_sheets(change_pages(title, edits, faces()), to)
            else:
                write_atomically(to, (to_csv(edits) if to.suffix == ".csv" else to_markdown(title, edits)).encode())
        except StoreError as error:
            session.notified.emit(str(error))
            return
        session.notified.emit(f"The change sheet is in {to}.")


def _words(folio: object, text: str | None) -> str:
    from glimber.core.model.folio import Folio

    assert isinstance(folio, Folio)
    try:
        return place_words(folio, parse_trigger(text or "", folio.bundles))
    except NotationError:
        return text or "nothing"


def _day(value: object, now: datetime) -> datetime | None:
    """Return a moment so many days ahead, or at which a day that is written begins by the person's clock; None for one that is
    none or past."""
    if isinstance(value, int):
        return now + timedelta(days=value)
    try:
        day = datetime.fromisoformat(str(value).strip()).astimezone()  # without a zone it is the person's own
    except (ValueError, OverflowError):  # no day, or one so far off that another zone has none for it
        return None
    return day if day > now else None


def _days_of(tries: Sequence[Try]) -> str:
    days = len({one.at.date() for one in tries})
    return f"{days} day{'s' * (days != 1)}"
