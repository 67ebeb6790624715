"""Before a round: what is due and why, in seconds a week, with the hits planned; and on the right how it is drilled."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.decide.plan import MINUTES, USUAL_MINUTES, Due
from glimber.core.engine.standin_keys import board_keys
from glimber.core.model.describe import key_words, place_words
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Spot
from glimber.core.practice.cues import CUES
from glimber.core.practice.options import DEADLINES, USUAL_DEADLINE_MS, Deadline, Hands, Options
from glimber.core.practice.tries import MODES, AnswerMode
from glimber.core.session.pending import as_set
from glimber.store.settings import UserSettings
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.decide.round_choice import Chosen
    from glimber.core.decide.selection import Selection
    from glimber.store.system.device import Device

_MODE_WORDS = {"press": "press the keys", "point": "point at a blank board", "name": "name a lit key",
               "spell": "spell, one after another"}  # fmt: skip
_DEADLINE_WORDS = {"fixed": f"{USUAL_DEADLINE_MS / 1000:.0f} s", "adaptive": "by your own times", "none": "none"}
_CUE_WORDS = {"name": "name", "situation": "situation", "picture": "icon or picture", "mixed": "mixed"}


class DrillSetup(QWidget):
    """The list of what is due, how it is drilled, and the way to begin."""

    def __init__(
        self,
        session: Session,
        begin: Callable[[], None],
        resume: Callable[[], None],
        act: Callable[[str], None],
        parent: QWidget,
    ) -> None:
        """``act``: carries out an action of the room by its id."""
        super().__init__(parent)
        self.session = session
        self.options = _usual(session.settings)
        self.device: Device | None = None
        """The device read as ``options.device_board``, where a board is there as a device."""
        session.settings_changed.connect(self._take_settings)
        self.selection: Selection | None = None
        self.dropped: set[str] = set()
        self.added: list[str] = []
        self._chosen: tuple[tuple[object, ...], Chosen] | None = None
        self.title = Label("Next round")
        self.title.setProperty("role", "title")
        self.note, self.standin = Label(), Label()
        for label in (self.note, self.standin):
            label.setProperty("role", "quiet")
            label.setWordWrap(True)
        self.list = QTableWidget(0, 4)
        self.list.setAccessibleName("What is due")
        self.list.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.list.setShowGrid(False)
        self.list.setTabKeyNavigation(False)
        self.list.horizontalHeader().hide()
        self.list.verticalHeader().hide()
        self.list.verticalHeader().setDefaultSectionSize(34)
        for column, mode in enumerate((QHeaderView.ResizeMode.Stretch, *[QHeaderView.ResizeMode.ResizeToContents] * 3)):
            self.list.horizontalHeader().setSectionResizeMode(column, mode)
        self.begin_button = QPushButton("Begin")
        self.begin_button.setProperty("role", "chosen")
        self.begin_button.clicked.connect(begin)
        self.resume_button = QPushButton("Resume the round put aside")
        self.resume_button.clicked.connect(resume)
        self.resume_button.hide()
        self.how = QFrame(self)
        self.how.setObjectName("panel")
        grid = QGridLayout(self.how)
        grid.setContentsMargins(18, 14, 18, 14)
        grid.setVerticalSpacing(6)
        self.values: dict[str, QPushButton] = {}
        for row, (id, what) in enumerate((("drill-of", "Of"), ("drill-mode", "Answer"), ("drill-hands", "Boards"),
                                          ("drill-cue", "Cue"), ("drill-more", "Length"), ("drill-sprint", "Ends"),
                                          ("drill-deadline", "Deadline"), ("drill-strict", "Counts"))):  # fmt: skip
            label, value = Label(what), QPushButton()
            label.setProperty("role", "quiet")
            value.setProperty("role", "line")
            value.clicked.connect(lambda _=False, id=id: act(id))
            grid.addWidget(label, row, 0)
            grid.addWidget(value, row, 1)
            self.values[id] = value
        grid.setColumnStretch(1, 1)
        buttons = QHBoxLayout()
        buttons.addWidget(self.begin_button)
        buttons.addWidget(self.resume_button)
        buttons.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(12)
        for widget in (self.title, self.note, self.list):
            left.addWidget(widget, 1 if widget is self.list else 0)
        left.addLayout(buttons)
        right = QVBoxLayout()
        right.setSpacing(12)
        right.addSpacing(64)
        right.addWidget(self.how)
        right.addWidget(self.standin)
        right.addStretch(1)
        outer = QHBoxLayout(self)
        outer.setContentsMargins(40, 32, 40, 24)
        outer.setSpacing(28)
        outer.addLayout(left, 5)
        outer.addLayout(right, 3)

    def _take_settings(self) -> None:
        """Take over the defaults of a round after the settings changed."""
        usual = _usual(self.session.settings)
        self.set_options(replace(self.options, minutes=usual.minutes, deadline=usual.deadline))

    # What is chosen

    @property
    def mode(self) -> AnswerMode:
        return self.options.mode

    @property
    def minutes(self) -> float:
        """Return how long the round is to be."""
        return self.options.minutes or USUAL_MINUTES

    def set_options(self, options: Options) -> None:
        self.options = options
        self.refresh()

    def other_mode(self) -> None:
        """Another way to answer."""
        self.set_options(replace(self.options, mode=MODES[(MODES.index(self.mode) + 1) % len(MODES)]))

    def other_cue(self) -> None:
        """Switch what a prompt shows: the name, the situation in the person's words, the icon or picture, or each by turns."""
        self.set_options(replace(self.options, cue=CUES[(CUES.index(self.options.cue) + 1) % len(CUES)]))

    def other_deadline(self) -> None:
        """Switch how long a prompt waits."""
        place = DEADLINES.index(self.options.deadline)
        self.set_options(replace(self.options, deadline=DEADLINES[(place + 1) % len(DEADLINES)]))

    def set_hands(self, hands: Hands, device: Device | None = None, board: str | None = None) -> None:
        """Choose between the ordinary keyboard standing in for a board, the board itself, and the board read as a device."""
        self.device = device
        self.set_options(replace(self.options, hands=hands, device_board=board))

    def turn_strict(self) -> None:
        """Toggle whether any binding of a command counts."""
        self.set_options(replace(self.options, strict=not self.options.strict))

    def turn_sprint(self) -> None:
        """Toggle whether the round ends with its planned hits or takes as many as fit in its time."""
        self.set_options(replace(self.options, sprint=not self.options.sprint))

    def resize_round(self, by: int) -> None:
        """A longer or shorter round."""
        lengths = [float(one) for one in MINUTES]
        place = lengths.index(float(self.minutes)) if float(self.minutes) in lengths else 1
        self.set_options(replace(self.options, minutes=MINUTES[max(0, min(len(MINUTES) - 1, place + by))]))

    def select(self, selection: Selection) -> None:
        """Make the round of something else; what was struck from the last one or added to it is forgotten."""
        self.selection, self.dropped, self.added = selection, set(), []
        self.refresh()

    def drop(self) -> None:
        """Strike the binding in front from the list."""
        due, row = self.due(), self.list.currentRow()
        if 0 <= row < len(due):
            id = due[row].binding
            self.added = [one for one in self.added if one != id]
            self.dropped.add(id)
            self.refresh()

    def add(self, id: str) -> None:
        """Have a binding in the round whatever it is worth."""
        self.dropped.discard(id)
        self.added = [*dict.fromkeys([*self.added, id])]
        self.refresh()

    def folio(self) -> Folio:
        """The folio as it is set so far: what waits on the change sheet is asked at its old place."""
        ledger = self.session.ledger
        return as_set(self.session.folio, ledger.practice.changes if ledger is not None else ())

    def chosen(self) -> Chosen | None:
        """The round of all this; None before anything is weighed. Worked out once for a ledger and a choice."""
        ledger = self.session.ledger
        if ledger is None:
            return None
        key = (
            id(ledger),
            id(self.session.folio),
            self.options,
            self.selection,
            frozenset(self.dropped),
            tuple(self.added),
        )
        if self._chosen is None or self._chosen[0] != key:
            from glimber.core.decide.round_choice import choose_round
            from glimber.core.decide.selection import EVERYTHING

            self._chosen = (
                key,
                choose_round(
                    ledger, self.folio(), self.options, self.selection or EVERYTHING, self.dropped, self.added
                ),
            )
        return self._chosen[1]

    def due(self) -> list[Due]:
        chosen = self.chosen()
        return list(chosen.due) if chosen is not None else []

    # What is shown

    def refresh(self) -> None:
        options = self.options
        chosen = self.chosen()
        due = list(chosen.due) if chosen is not None else []
        minutes = f"{self.minutes:g} {'minute' if self.minutes == 1 else 'minutes'}"
        texts = {
            "drill-of": self.selection.name if self.selection is not None else "what is due",
            "drill-mode": _MODE_WORDS[options.mode], "drill-cue": _CUE_WORDS[options.cue], "drill-more": minutes,
            "drill-hands": {"stand-in": "this keyboard stands in", "board": "the board itself",
                            "device": f"{options.device_board}, as a device"}[options.hands],
            "drill-sprint": "with its last step, in order, as one" if self.selection is not None and self.selection.run
            else f"with {minutes}, as many hits as there are" if options.sprint else "with its planned hits",
            "drill-deadline": _DEADLINE_WORDS[options.deadline],
            "drill-strict": "this trigger alone" if options.strict else "any binding of the command",
        }  # fmt: skip
        for id, text in texts.items():
            self.values[id].setText(text)
        some = bool(self.session.folio.drillable(self.session.computer))
        for widget in (self.title, self.how, self.begin_button):
            widget.setVisible(some)
        self.note.setAlignment(Qt.AlignmentFlag.AlignLeft if some else Qt.AlignmentFlag.AlignCenter)
        self.note.setProperty("role", "quiet" if some else "large")
        self.begin_button.setEnabled(bool(due))
        self.list.setVisible(bool(due))
        self.note.setText(self._note(due, chosen))
        folio = self.folio()
        self._fill(folio, due)
        self.standin.setText(self._standin_words(folio, due) if options.mode == "press" else "")

    def _fill(self, folio: Folio, due: list[Due]) -> None:
        row = self.list.currentRow()
        self.list.setRowCount(len(due))
        named = [folio.command_of(folio.bindings[one.binding]) for one in due if one.binding in folio.bindings]
        names = [command.name for command in named if command is not None]
        for place, one in enumerate(due):
            binding = folio.bindings.get(one.binding)
            command = folio.command_of(binding) if binding is not None else None
            hits = f"{one.hits} {'hit' if one.hits == 1 else 'hits'}" if not self.options.sprint else ""
            worth = f"{one.worth_s_week:.0f} s a week" if one.worth_s_week >= 1 else "under 1 s a week"
            chance = "not tried yet" if one.new else f"{100 * one.p_now:.0f} %"
            name = command.name if command else one.binding
            if binding is not None and names.count(name) > 1:  # where, but not which key: that is asked
                name += f" · {binding.trigger.board if isinstance(binding.trigger, Spot) else 'shortcut'}"
            for column, text in enumerate((name, one.why,
                                           ", ".join(part for part in (hits, worth) if part), chance)):  # fmt: skip
                item = QTableWidgetItem(text)
                if column == 3:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                # Where it is must not be told before it is asked: only somebody new to it may look.
                if one.new and binding is not None and column == 0:
                    item.setToolTip(tip(place_words(folio, binding.trigger)))
                item.setData(Qt.ItemDataRole.AccessibleTextRole, text)
                self.list.setItem(place, column, item)
        if due:
            self.list.setCurrentCell(min(max(row, 0), len(due) - 1), 0)

    def _note(self, due: list[Due], chosen: Chosen | None) -> str:
        if chosen is None:
            return "Weighing what is due…"
        if not self.session.folio.drillable(self.session.computer):
            return "Nothing to drill yet. Ctrl+1 brings the shortcuts to drill."
        left = chosen.left
        away = self.session.folio.settings.away
        one_hand = f" The {away} hand is away: only what the other can do is asked." if away != "none" else ""
        if not due:
            return f"Nothing is due that can be answered so{': ' + left[0][1] if left else ''}.{one_hand}"
        worth, seconds = sum(one.worth_s_week for one in due), sum(one.seconds for one in due)
        time = f"{seconds / 60:.0f} min" if seconds >= 60 else f"{seconds:.0f} s"
        text = f"{sum(one.hits for one in due)} clean hits of {len(due)} bindings in about {time}, worth {worth:.0f} s a week. "
        if self.options.sprint:
            text = f"As many clean hits of {len(due)} bindings as there are in {self.minutes:g} min. "
        text += "What goes wrong comes back sooner."
        pressing = [one for one, _ in left if not one.new]
        return text + (f" {len(pressing)} more cannot be answered so: {left[0][1]}." if pressing else "") + one_hand

    def _standin_words(self, folio: Folio, due: list[Due]) -> str:
        """Return which keys act for those the keyboard does not have."""
        known = [folio.bindings[one.binding] for one in due if one.binding in folio.bindings]
        boards = {one.trigger.board for one in known if isinstance(one.trigger, Spot)}
        if self.options.hands == "board":
            return f"What {' and '.join(sorted(boards))} sends is seen, not the key itself." if boards else ""
        parts = []
        if self.device is not None:
            parts.append(f"{self.device.words} is {self.options.device_board}.")
        for id in sorted(boards - {self.options.device_board}):
            board = folio.boards[id]
            acting = {code: key for code, key in board_keys(board).items() if key in board.stand_in}
            pairs = [
                f"{folio.legend.print_of(code)} for {key_words(folio, id, (key,))}" for code, key in acting.items()
            ]
            if pairs:
                parts.append(f"This keyboard stands in for {id}: {', '.join(pairs)}.")
        return " ".join(parts)


def _usual(settings: UserSettings) -> Options:
    """Return how a round is drilled unless said otherwise."""
    deadline: Deadline = next((one for one in DEADLINES if one == settings.deadline), "fixed")
    return Options(minutes=settings.minutes if 0.5 <= settings.minutes <= 60 else USUAL_MINUTES, deadline=deadline)
