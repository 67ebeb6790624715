"""The Weigh room: the ledger at the left, the case at the right."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from glimber.core.edits.edit import EditError, is_move
from glimber.core.folio.words import place_words
from glimber.core.notation.keys import Spot, Trigger
from glimber.core.weigh.choices import CHOICES
from glimber.store.faults import StoreError
from glimber.ui.actions import Action
from glimber.ui.host import Asked, Host
from glimber.ui.plain import Label
from glimber.ui.room import Room
from glimber.ui.session import Session
from glimber.ui.weigh.case import CaseView
from glimber.ui.weigh.ledger import Ledger, LedgerHead

if TYPE_CHECKING:
    from glimber.core.weigh.candidates import Candidate


class WeighRoom(Room):
    """Ledger and case. Keys 1 to 5 take a verdict."""

    id = "weigh"

    def __init__(self, session: Session, host: Host) -> None:
        super().__init__(session, host)
        self.ledger, self.head = Ledger(), LedgerHead()
        self.ledger.chosen.connect(lambda _: self._show_case())
        self.empty = Label()
        self.empty.setProperty("role", "large")
        self.empty.setWordWrap(True)
        self.case = CaseView(self.take)
        left = QVBoxLayout()
        left.addWidget(self.empty)
        left.setSpacing(0)
        left.addWidget(self.head)
        left.addWidget(self.ledger, 1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 14, 14, 14)
        layout.setSpacing(16)
        layout.addLayout(left, 8)
        layout.addWidget(self.case, 5)
        self.refresh()

    def number(self) -> int | None:
        return self.session.summary.open_verdicts if self.session.summary is not None else None

    def panes(self) -> list[QWidget]:
        return [self.ledger, *([self.case.details().places] if self.session.ledger is not None else [])]

    def actions_here(self) -> list[Action]:
        keys = [
            Action(f"weigh-{choice}", f"Take the verdict: {choice}", (str(number),),
                   partial(self.case.take, choice), self.id, *(("take a verdict", "1–5") if number == 1 else ()))
            for number, choice in enumerate(CHOICES, start=1)
        ]  # fmt: skip
        return [
            Action("weigh-next", "Next binding", ("n",), lambda: self.walk(1), self.id, "next", "↑ ↓"),
            Action("weigh-before", "Binding before", ("p",), lambda: self.walk(-1), self.id),
            *keys,
            Action("weigh-press", "Press another key for it", ("k",), self.press_it, self.id, "press another key", "K"),
            Action("weigh-drill", "Drill this binding", ("d",), self.drill_this, self.id, "drill it", "D"),
        ]

    def enter(self) -> None:
        self.ledger.setFocus()

    def walk(self, by: int) -> None:
        self.ledger.go_to(self.ledger.current + by)

    def choose(self, binding: str) -> None:
        self.ledger.choose(binding)

    def refresh(self) -> None:
        summary = self.session.summary
        rows = summary.rows if summary is not None else ()
        self.empty.setVisible(not rows)
        for part in (self.head, self.ledger, self.case):
            part.setVisible(bool(rows))
        if not rows:
            nothing = not self.session.folio.drillable(self.session.computer)
            self.empty.setText(
                "Nothing to weigh yet: give commands their triggers in programs/ and layouts/, then drill a round."
                if nothing else "Weighing…"
            )  # fmt: skip
            return
        self.ledger.show_rows(rows)
        self._show_case()

    def _show_case(self) -> None:
        id, ledger = self.ledger.current_id(), self.session.ledger
        if ledger is not None and id in self.session.verdicts:
            self.case.show_verdict(ledger, self.session.verdicts[id])
        elif self.ledger.rows:
            self.case.show_row(self.ledger.rows[self.ledger.current])

    # Verdicts taken

    def take(self, choice: str, candidate: Candidate | None) -> None:
        """Carry out a verdict; what could not be done is told, and nothing is changed."""
        verdict = self.case.verdict
        if verdict is None:
            return
        session, id = self.session, verdict.row.binding.id
        try:
            if choice == "move" and candidate is not None:
                session.take_move(id, candidate.to, candidate.swap_with is not None, verdict.words)
                session.told.emit(
                    f"Moved {verdict.row.command.name} to {place_words(session.folio, candidate.to)}. Ctrl+Z takes it back."
                )
            elif choice == "retire":
                session.take_retire(id, verdict.words)
                session.told.emit(f"{verdict.row.command.name} waits on the bench. Ctrl+Z takes it back.")
            else:
                session.note_verdict(id, choice, verdict.words)
        except (EditError, StoreError) as error:
            session.told.emit(str(error))

    def press_it(self) -> None:
        """Another place than those that are offered: pressed, then said why."""
        session, host, id = self.session, self.host, self.ledger.current_id()
        binding = session.folio.bindings.get(id or "")
        command = session.folio.command_of(binding) if binding is not None else None
        if binding is None or command is None:
            return
        spot = binding.trigger if isinstance(binding.trigger, Spot) else None

        def taken(trigger: Trigger) -> None:
            verdict = self.session.verdicts.get(binding.id)
            host.choose(
                f"Why {place_words(session.folio, trigger)}?", lambda why: self._move(binding.id, trigger, str(why)),
                text=verdict.words if verdict is not None else "", hint="It is kept with the change, and asked later.",
            )  # fmt: skip

        boards = (spot.board,) if spot is not None else ()
        asked = Asked(session.folio, command.program, command.name, taken, command.context, session.computer, boards,
                      only_spots=spot is not None)  # fmt: skip
        host.ask_keys(asked)

    def _move(self, id: str, to: Trigger, why: str) -> None:
        """Move or rebind by hand; what is there already goes where the binding was."""
        session, folio = self.session, self.session.folio
        binding = folio.bindings.get(id)
        if binding is None:
            return
        program = folio.programs[(binding.command or "").partition("/")[0]]
        swap = to in folio.by_trigger if isinstance(to, Spot) else any(b.trigger == to for b in program.bindings)
        try:
            session.take_move(
                id, to, swap, why or "chosen by hand", "move" if is_move(binding.trigger, to) else "rebind"
            )
        except (EditError, StoreError) as error:
            session.told.emit(str(error))
            return
        command = session.folio.command_of(binding)
        name = command.name if command is not None else id
        session.told.emit(f"{name} is on {place_words(session.folio, to)} now. Ctrl+Z takes it back.")

    def drill_this(self) -> None:
        """A round of this binding alone."""
        id = self.ledger.current_id()
        if id is not None:
            self.host.drill([id])
