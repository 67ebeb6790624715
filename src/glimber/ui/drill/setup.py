"""Before a round: the round as a sentence, what is due and why as cards along its time, and what waits to be sorted."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPushButton,
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
from glimber.ui.drill.coming import Coming, ComingList
from glimber.ui.drill.round_sentence import RoundSentence
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.decide.round_choice import Chosen
    from glimber.core.decide.selection import Selection
    from glimber.store.system.device import Device

_MODE_WORDS = {"press": "press the keys", "point": "point at a blank board", "name": "name a lit key",
               "spell": "spell, one after another"}  # fmt: skip
_DEADLINE_WORDS = {"fixed": f"{USUAL_DEADLINE_MS / 1000:.0f} s", "adaptive": "by your own times", "none": "none"}
_LOW = 620
"""px of height below which the page is folded."""
_CUE_WORDS = {"name": "name", "situation": "situation", "picture": "icon or picture", "mixed": "mixed"}


class DrillSetup(QWidget):
    """The round as a sentence, its prompts to come as cards, what is not sorted yet, and the way to begin."""

    def __init__(
        self,
        session: Session,
        begin: Callable[[], None],
        resume: Callable[[], None],
        act: Callable[[str], None],
        weigh: Callable[[str], None],
        parent: QWidget,
    ) -> None:
        """``act``: carries out an action of the room by its id; ``weigh``: opens the case of a binding."""
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
        self.sentence = RoundSentence(act, self)
        self.values = self.sentence.values
        self.note, self.standin, self.waiting = Label(), Label(), Label()
        for label in (self.note, self.standin, self.waiting):
            label.setProperty("role", "quiet")
            label.setWordWrap(True)
        self.list = ComingList(self)
        self.list.opened.connect(weigh)
        self.begin_button = QPushButton("Begin")
        self.begin_button.setProperty("role", "chosen")
        self.begin_button.setFixedSize(160, 48)
        self.begin_button.clicked.connect(begin)
        self.resume_button = QPushButton("Resume the round put aside")
        self.resume_button.clicked.connect(resume)
        self.resume_button.hide()
        self.sorting = QFrame(self)
        self.sorting.setObjectName("panel")
        box = QVBoxLayout(self.sorting)
        box.setContentsMargins(18, 12, 18, 12)
        box.addWidget(self.waiting)
        foot = QHBoxLayout()
        foot.setSpacing(16)
        foot.addWidget(self.sorting, 5)
        foot.addStretch(3)
        foot.addWidget(self.resume_button)
        foot.addWidget(self.begin_button)
        self._outer = QVBoxLayout(self)
        self._outer.setSpacing(12)
        for widget in (self.sentence, self.note, self.standin, self.list):
            self._outer.addWidget(widget, 1 if widget is self.list else 0)
        self._outer.addLayout(foot)
        self._fold()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fold()

    def _fold(self) -> None:
        """Leave out in a low window what is shown elsewhere, so that the cards are seen."""
        low = self.height() < _LOW
        self._outer.setContentsMargins(56, 16 if low else 36, 56, 10 if low else 24)
        self.standin.setVisible(bool(self.standin.text()) and not low)
        self.sorting.setVisible(not low and bool(self.waiting.text()))
        self._outer.setSpacing(6 if low else 12)

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
        due, row = self.due(), self.list.front()
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
        """Return the folio as it is set so far: what waits on the change sheet is asked at its old place."""
        ledger = self.session.ledger
        return as_set(self.session.folio, ledger.practice.changes if ledger is not None else ())

    def chosen(self) -> Chosen | None:
        """Return the round of all this; None before anything is weighed. Worked out once for a ledger and a choice."""
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
            "drill-hands": {"stand-in": "this keyboard", "board": "the board itself",
                            "device": f"{options.device_board}, as a device"}[options.hands],
            "drill-sprint": "with its last step, in order, as one" if self.selection is not None and self.selection.run
            else f"with {minutes}, as many hits as there are" if options.sprint else "with its planned hits",
            "drill-deadline": _DEADLINE_WORDS[options.deadline],
            "drill-strict": "this trigger alone" if options.strict else "any binding of the command",
        }  # fmt: skip
        for id, text in texts.items():
            self.values[id].setText(text)
        some = bool(self.session.folio.drillable(self.session.computer))
        for widget in (self.sentence, self.begin_button):
            widget.setVisible(some)
        self.note.setAlignment(Qt.AlignmentFlag.AlignLeft if some else Qt.AlignmentFlag.AlignCenter)
        self.note.setProperty("role", "quiet" if some else "large")
        self.begin_button.setEnabled(bool(due))
        self.list.setVisible(bool(due))
        self.note.setText(self._note(due, chosen))
        folio = self.folio()
        self.list.show_coming(self._coming(folio, due), self.minutes)
        self.standin.setText(self._standin_words(folio, due) if options.mode == "press" else "")
        self.values["drill-hands"].setToolTip(tip(self.standin.text()))
        self.waiting.setText(self._waiting_words(len(due)) if some else "")
        self._fold()

    def _coming(self, folio: Folio, due: list[Due]) -> list[Coming]:
        """Return the cards of what is due."""
        named = [folio.command_of(folio.bindings[one.binding]) for one in due if one.binding in folio.bindings]
        names = [command.name for command in named if command is not None]
        found = []
        for one in due:
            binding = folio.bindings.get(one.binding)
            command = folio.command_of(binding) if binding is not None else None
            group = folio.group_of(command)
            name = command.name if command else one.binding
            if binding is not None and names.count(name) > 1:  # where, but not which key: that is asked
                name += f" · {binding.trigger.board if isinstance(binding.trigger, Spot) else 'shortcut'}"
            hits = 0 if self.options.sprint else one.hits
            # Where it is must not be shown before it is asked: only somebody new to it may look.
            place = place_words(folio, binding.trigger) if one.new and binding is not None else ""
            mark, ink = (group.mark, group.ink) if group is not None else ("square", "slate")
            why, p_now = one.why.removesuffix(" last time"), None if one.new else one.p_now
            found.append(Coming(one.binding, name, mark, ink, why, p_now, hits, f"{name}: {_due_words(one, hits)}", place))
        return found

    def _waiting_words(self, due: int) -> str:
        """Return commands that are not in the round, and how the commands were sorted."""
        folio = self.session.folio
        refs = {binding.command for binding in folio.drillable(self.session.computer)}
        states = [folio.commands[ref].learn for ref in refs if ref is not None]
        unsorted = states.count(None)
        counts = [f"{count} as {state}" for state in ("known", "never") if (count := states.count(state))]
        marked = f" You marked {' and '.join(counts)}." if counts else ""
        sort = f"\nL sorts {unsorted} into known, learn and never." if unsorted else ""
        waiting = max(0, len(states) - due)
        more = f"{waiting} more {'is' if waiting == 1 else 'are'} waiting." if waiting else ""
        return f"{more}{marked}{sort}".strip()

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
    """Return how a round is drilled by default."""
    deadline: Deadline = next((one for one in DEADLINES if one == settings.deadline), "fixed")
    return Options(minutes=settings.minutes if 0.5 <= settings.minutes <= 60 else USUAL_MINUTES, deadline=deadline)


def _due_words(one: Due, hits: int) -> str:
    """Return why a binding is due, its planned hits, what they are worth, and the chance of a clean hit now."""
    worth = f"{one.worth_s_week:.0f} s a week" if one.worth_s_week >= 1 else "under 1 s a week"
    chance = "not tried yet" if one.new else f"{100 * one.p_now:.0f} %"
    return ", ".join(part for part in (one.why, f"{hits} hits" if hits else "", worth, chance) if part)
