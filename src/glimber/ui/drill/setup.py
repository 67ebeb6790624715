"""Before a round: what is due and why, how many, how it is answered."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from glimber.core.drill.cues import CUES, CueWish
from glimber.core.engine.standin_keys import board_keys, why_not_pressed
from glimber.core.folio.folio import Binding, Folio
from glimber.core.folio.words import key_words, place_words
from glimber.core.notation.keys import Spot
from glimber.core.session.pending import as_set
from glimber.core.weigh.plan import MINUTES, USUAL_MINUTES, Due, plan_round
from glimber.ui.plain import Label, tip
from glimber.ui.session import Session

_SHOWN = 9
"""Bindings that are listed; how many more there are is said."""


def chosen_for(session: Session, mode: str, minutes: int) -> tuple[list[Due], list[tuple[Due, str]]]:
    """The round of a mode: what is due and can be answered so, and what is due and cannot, with why."""
    if session.ledger is None:
        return [], []
    folio = as_set(session.folio, session.ledger.practice.changes)
    why_not: dict[str, str | None] = {}

    def may(id: str) -> bool:
        if id not in why_not:
            binding = folio.bindings.get(id)  # None: taken away since it was weighed; the new weighing is on its way
            found = (
                ""
                if binding is None
                else why_not_pressed(folio, binding)
                if mode == "press"
                else _why_not_pointed(binding)
            )
            why_not[id] = found
        return why_not[id] is None

    due = plan_round(session.ledger, minutes, may=may)
    asked = {one.binding for one in due}
    left = [(one, why) for one in plan_round(session.ledger, minutes)
            if one.binding not in asked and (why := why_not.get(one.binding))]  # fmt: skip
    return due, left


def _why_not_pointed(binding: Binding) -> str | None:
    return None if isinstance(binding.trigger, Spot) else "only places on a board can be pointed at"


class DrillSetup(QWidget):
    """The list of what is due, and the way to begin."""

    def __init__(self, session: Session, begin: Callable[[], None], resume: Callable[[], None]) -> None:
        super().__init__()
        self.session = session
        self.mode, self.length = "press", MINUTES.index(USUAL_MINUTES)
        self.title = Label("Next round")
        self.title.setProperty("role", "title")
        self.note = Label()
        self.note.setProperty("role", "quiet")
        self.note.setWordWrap(True)
        self.list = QFrame()
        self.list.setObjectName("panel")
        self._rows = QVBoxLayout(self.list)
        self._rows.setContentsMargins(20, 14, 20, 14)
        self._rows.setSpacing(10)
        self.begin_button = QPushButton("Begin")
        self.begin_button.setProperty("role", "chosen")
        self.begin_button.clicked.connect(begin)
        self.resume_button = QPushButton("Resume the round put aside")
        self.resume_button.clicked.connect(resume)
        self.resume_button.hide()
        modes = QHBoxLayout()
        self._modes = QButtonGroup(self)
        self.mode_buttons = {}
        for mode, text in (("press", "Press the keys"), ("point", "Point at a blank board")):
            button = QPushButton(text)
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, mode=mode: self.set_mode(mode))
            self._modes.addButton(button)
            self.mode_buttons[mode] = button
            modes.addWidget(button)
        self.cue: CueWish = "name"
        self.cue_button = QPushButton()
        self.cue_button.clicked.connect(self.other_cue)
        modes.addWidget(self.cue_button)
        modes.addStretch(1)
        self.size_label = Label()
        fewer, more = QPushButton("Shorter"), QPushButton("Longer")
        fewer.clicked.connect(lambda: self.resize_round(-1))
        more.clicked.connect(lambda: self.resize_round(1))
        modes.addWidget(fewer)
        modes.addWidget(self.size_label)
        modes.addWidget(more)
        self.standin = Label()
        self.standin.setProperty("role", "quiet")
        self.standin.setWordWrap(True)
        buttons = QHBoxLayout()
        buttons.addWidget(self.begin_button)
        buttons.addWidget(self.resume_button)
        buttons.addStretch(1)
        column = QVBoxLayout()
        column.setSpacing(14)
        column.addStretch(1)
        for widget in (self.title, self.note, self.list):
            column.addWidget(widget)
        column.addLayout(modes)
        column.addWidget(self.standin)
        column.addLayout(buttons)
        column.addStretch(2)
        outer = QHBoxLayout(self)
        outer.addStretch(1)
        box = QWidget()
        box.setLayout(column)
        box.setMaximumWidth(760)
        outer.addWidget(box, 6)
        outer.addStretch(1)

    @property
    def minutes(self) -> int:
        """How long the round is to be."""
        return MINUTES[self.length]

    def set_mode(self, mode: str) -> None:
        self.mode = mode
        self.refresh()

    def other_cue(self) -> None:
        """What a prompt shows: the name, then the situation in the person's words, then the icon or picture."""
        self.cue = CUES[(CUES.index(self.cue) + 1) % len(CUES)]
        self.refresh()

    def resize_round(self, by: int) -> None:
        self.length = max(0, min(len(MINUTES) - 1, self.length + by))
        self.refresh()

    def due(self) -> list[Due]:
        return chosen_for(self.session, self.mode, self.minutes)[0]

    def refresh(self) -> None:
        while self._rows.count():
            taken = self._rows.takeAt(0).widget()
            if taken is not None:
                taken.hide()  # it goes when the event loop comes to it; until then it must not be painted over
                taken.deleteLater()
        for mode, button in self.mode_buttons.items():
            button.setChecked(mode == self.mode)
            button.setProperty("role", "chosen" if mode == self.mode else "")
            button.style().unpolish(button)
            button.style().polish(button)
        self.size_label.setText(f"{self.minutes} {'minute' if self.minutes == 1 else 'minutes'}")
        self.cue_button.setText(f"Cue: {self.cue}")
        due, left = chosen_for(self.session, self.mode, self.minutes)
        waiting = self.session.ledger is None
        self.begin_button.setEnabled(bool(due))
        self.list.setVisible(bool(due))
        self.note.setText(self._note(due, left, waiting))
        ledger = self.session.ledger
        folio = as_set(self.session.folio, ledger.practice.changes if ledger is not None else ())
        for one in due[:_SHOWN]:
            self._rows.addWidget(self._row(folio, one))
        if len(due) > _SHOWN:
            rest = Label(f"and {len(due) - _SHOWN} more, {sum(one.hits for one in due[_SHOWN:])} hits")
            rest.setProperty("role", "quiet")
            self._rows.addWidget(rest)
        self.standin.setText(self._standin_words(folio, due) if self.mode == "press" else "")

    def _note(self, due: list[Due], left: list[tuple[Due, str]], waiting: bool) -> str:
        if waiting:
            return "Weighing what is due…"
        if not self.session.folio.drillable(self.session.computer):
            return "Nothing to drill yet: give a command a shortcut in programs/, or a key in layouts/ that does it."
        if not due:
            return f"Nothing is due that can be answered so{': ' + left[0][1] if left else ''}."
        worth, seconds = sum(one.worth_s_week for one in due), sum(one.seconds for one in due)
        hits = sum(one.hits for one in due)
        time = f"{seconds / 60:.0f} min" if seconds >= 60 else f"{seconds:.0f} s"
        text = f"{hits} clean hits of {len(due)} bindings in about {time}, worth {worth:.0f} s a week. "
        text += "What goes wrong comes back sooner."
        pressing = [one for one, _ in left if not one.new]
        return text + (f" {len(pressing)} more cannot be answered so: {left[0][1]}." if pressing else "")

    def _row(self, folio: Folio, one: Due) -> QWidget:
        binding = folio.bindings[one.binding]
        command = folio.command_of(binding)
        row = QWidget()
        layout = QHBoxLayout(row)
        layout.setContentsMargins(0, 0, 0, 0)
        name, why = Label(command.name if command else one.binding), Label(one.why)
        name.setProperty("role", "large")
        why.setProperty("role", "quiet")
        chance = Label("not tried yet" if one.new else f"{100 * one.p_now:.0f} %")
        worth = Label(f"{one.hits} hits, {one.worth_s_week:.0f} s a week")
        worth.setProperty("role", "quiet")
        chance.setProperty("role", "quiet")
        chance.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        layout.addWidget(name, 3)
        layout.addWidget(why, 2)
        layout.addWidget(worth, 2)
        layout.addWidget(chance, 1)
        row.setAccessibleName(f"{name.text()}, {one.why}, {worth.text()}, {chance.text()}")
        # Where it is must not be told before it is asked: only somebody new to it may look.
        if one.new:
            name.setToolTip(tip(place_words(folio, binding.trigger)))
        return row

    def _standin_words(self, folio: Folio, due: list[Due]) -> str:
        """Which keys act for those the keyboard does not have."""
        boards = {t.board for one in due if isinstance(t := folio.bindings[one.binding].trigger, Spot)}
        parts = []
        for id in sorted(boards):
            board = folio.boards[id]
            acting = {code: key for code, key in board_keys(board).items() if key in board.stand_in}
            pairs = [
                f"{folio.legend.print_of(code)} for {key_words(folio, id, (key,))}" for code, key in acting.items()
            ]
            if pairs:
                parts.append(f"This keyboard stands in for {id}: {', '.join(pairs)}.")
        return " ".join(parts)
