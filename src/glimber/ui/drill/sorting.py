"""Sorting what to learn: one command after another, a key each for known, learn and never, and how often it is used."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QEvent, QRectF, Qt
from PySide6.QtGui import QColor, QHideEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from glimber.core.decide.learning import OFTEN, ToSort, sort_commands, to_sort, use_often
from glimber.core.edit.edit import EditError
from glimber.core.model.describe import place_words
from glimber.core.model.folio import LearnState
from glimber.core.notation.keys import Spot
from glimber.store.faults import StoreError
from glimber.ui.drill.trial import Trial
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import BODY, LARGE, SMALL, TITLE
from glimber.ui.paint.style import fill, theme
from glimber.ui.session.session import Session
from glimber.ui.widgets.announce import announce
from glimber.ui.widgets.chips import put_chips
from glimber.ui.widgets.sheet_over import Cover

_KEYS: dict[Qt.Key, LearnState] = {Qt.Key.Key_K: "known", Qt.Key.Key_L: "learn", Qt.Key.Key_N: "never"}
_WORDS = tuple(OFTEN)
_Choice = tuple[str, str, Callable[[], None]]


class SortingPage(Cover):
    """Covers the room until everything is sorted or Esc is struck. ``left`` is called when it goes."""

    def __init__(self, parent: QWidget, session: Session, left: Callable[[], object]) -> None:
        super().__init__(parent)
        self._session, self._left = session, left
        self._waiting: list[ToSort] = []
        self._undone: list[tuple[list[ToSort], int]] = []
        self._boxes: list[tuple[QRectF, Callable[[], None]]] = []
        self.trial: Trial | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sort what to learn")

    def begin(self) -> bool:
        """Show the first command that is not sorted; False where there is none."""
        self._waiting, self._undone = to_sort(self._session.folio, self._session.ledger), []
        if not self._waiting:
            return False
        self.show_over()
        self.setFocus()
        self._show()
        return True

    @property
    def front(self) -> ToSort | None:
        """The command in front."""
        return self._waiting[0] if self._waiting else None

    def _show(self) -> None:
        one = self.front
        if one is None:
            self._leave()
            return
        message = f"{one.command.name}, {self._where(one)}. {self._proposal(one)} {len(self._waiting)} to sort."
        self.setAccessibleDescription(message)
        self.update()

    def _where(self, one: ToSort) -> str:
        folio = self._session.folio
        triggers = [place_words(folio, binding.trigger) for binding in folio.bindings_of.get(one.command.ref, ())]
        return " or ".join(triggers)

    def _proposal(self, one: ToSort) -> str:
        return f"Proposed: {one.proposed}, {one.why}." if one.proposed else ""

    def _leave(self) -> None:
        self.dismiss()
        self._left()

    # By trying

    def try_all(self) -> None:
        """Ask for each name once; what is struck right is known."""
        trial = Trial(self._session.folio, self._waiting, self)
        if not trial.waiting:
            self._session.notified.emit("None of these can be struck on this keyboard.")
            return
        self.trial = trial
        trial.hit.connect(self._struck_right)
        trial.changed.connect(self._show_trial)
        trial.ended.connect(self._trial_ended)
        self.grabKeyboard()
        trial.go_on()

    def _struck_right(self, one: ToSort) -> None:
        ref = one.command.ref
        if self._edit(f"sort {one.command.name} as known", lambda folio: sort_commands(folio, [ref], "known")):
            self._undone.append((list(self._waiting), 1))
            self._waiting = [other for other in self._waiting if other.command.ref != ref]

    def _show_trial(self) -> None:
        trial = self.trial
        if trial is not None and trial.front is not None and trial.was_right is None:
            message = f"{trial.front.command.name}. {len(trial.waiting)} more."
            self.setAccessibleDescription(message)
            announce(self, message)
        self.update()

    def _trial_ended(self) -> None:
        self.releaseKeyboard()
        if self.trial is not None:
            self.trial.deleteLater()
        self.trial = None
        self._show()

    # What is done

    def sort(self, learn: LearnState, whole_group: bool = False) -> None:
        """Sort the command in front, or all of its group that wait."""
        one = self.front
        if one is None:
            return
        group = (one.command.program, one.command.group)
        alike = [other for other in self._waiting if (other.command.program, other.command.group) == group]
        mine = alike if whole_group else [one]
        refs = [other.command.ref for other in mine]
        name = one.command.name if len(refs) == 1 else f"{len(refs)} commands"
        if self._edit(f"sort {name} as {learn}", lambda folio: sort_commands(folio, refs, learn)):
            self._undone.append((list(self._waiting), 1))
            self._waiting = [other for other in self._waiting if other not in mine]
            self._show()

    def often(self, word: str) -> None:
        """Say how often the command in front is used; it stays in front."""
        one = self.front
        if one is None:
            return
        ref = one.command.ref
        if self._edit(f"use {one.command.name} {word}", lambda folio: use_often(folio, ref, word)):
            self._undone.append((list(self._waiting), 1))
            self.update()

    def later(self) -> None:
        """Leave the command in front unsorted and go on."""
        if self._waiting:
            self._undone.append((list(self._waiting), 0))
            self._waiting = self._waiting[1:]
            self._show()

    def undo(self) -> None:
        """Take back the last step."""
        if self._undone:
            self._waiting, edits = self._undone.pop()
            for _ in range(edits):
                self._session.undo()
            self._show()

    def _edit(self, name: str, change: Callable[..., object]) -> bool:
        try:
            self._session.edit(name, change)  # type: ignore[arg-type]
        except (EditError, StoreError) as error:
            self._session.notified.emit(str(error))
            return False
        return True

    def event(self, event: QEvent) -> bool:
        """Keep keys from the room's shortcuts, and give the keyboard back when another window is in front."""
        if event.type() == QEvent.Type.WindowDeactivate and self.trial is not None:
            self.trial.stop()
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return bool(super().event(event))

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if self.trial is not None:
            self.trial.key(event)

    def hideEvent(self, event: QHideEvent) -> None:
        if self.trial is not None:
            self.trial.stop()
        super().hideEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.trial is not None:
            if event.key() == Qt.Key.Key_Escape:
                self.trial.stop()
            else:
                self.trial.key(event)
            return
        key, shift = Qt.Key(event.key()), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        number = event.key() - Qt.Key.Key_1
        if key in _KEYS:
            self.sort(_KEYS[key], shift)
        elif 0 <= number < len(_WORDS):
            self.often(_WORDS[number])
        elif key == Qt.Key.Key_Space:
            self.later()
        elif key == Qt.Key.Key_T:
            self.try_all()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            one = self.front
            if one is not None and one.proposed is not None:
                self.sort(one.proposed)
        elif key == Qt.Key.Key_Backspace or (
            key == Qt.Key.Key_Z and event.modifiers() & Qt.KeyboardModifier.ControlModifier
        ):
            self.undo()
        elif key == Qt.Key.Key_Escape:
            self._leave()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            for box, act in self._boxes:
                if box.contains(event.position()):
                    act()
                    return

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, t, one = QPainter(self), theme(), self.front
        fill(painter, event.rect(), QColor(t.desk))
        if one is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.trial is not None:
            self._paint_trial(painter, self.trial)
            return
        folio, wide = self._session.folio, self.width()
        left, line = max(60.0, wide / 2 - 330), wide - 2 * max(60.0, wide / 2 - 330)
        self._boxes = []
        put_text(painter, QRectF(left, 26, line, 24), "Sort what to learn", BODY, 500, QColor(t.quiet))
        put_text(
            painter, QRectF(left, 26, line, 24), f"{len(self._waiting)} to sort", BODY, 400, QColor(t.quiet), end=True
        )
        top = self.height() * 0.2
        put_text(painter, QRectF(left, top, line, 44), one.command.name, TITLE, 600, QColor(t.text))
        group = folio.group_of(one.command)
        where = " · ".join(
            part for part in (folio.programs[one.command.program].name, group.name if group else "") if part
        )
        put_text(painter, QRectF(left, top + 48, line, 24), where, BODY, 400, QColor(t.quiet))
        triggers = [binding.trigger for binding in folio.bindings_of.get(one.command.ref, ())]
        chips = [place_words(folio, one) if isinstance(one, Spot) else one for one in triggers]
        put_chips(painter, QRectF(left, top + 82, line, 34), chips, BODY)
        put_text(painter, QRectF(left, top + 124, line, 24), self._proposal(one), BODY, 400, QColor(t.light))
        choices: list[_Choice] = [("K", "known", partial(self.sort, "known")), ("L", "learn", partial(self.sort, "learn")),
                   ("N", "never", partial(self.sort, "never")), ("Space", "later", self.later)]  # fmt: skip
        self._row(painter, left, top + 170, choices, one.proposed or "")
        uses = one.command.ref in folio.commands and folio.commands[one.command.ref].uses_per_day
        often = next((word for word, a_day in OFTEN.items() if uses is not None and uses == a_day), "")
        put_text(painter, QRectF(left, top + 244, line, 22), "How often do you need it?", SMALL, 400, QColor(t.quiet))
        words: list[_Choice] = [(str(at), word, partial(self.often, word)) for at, word in enumerate(_WORDS, start=1)]
        self._row(painter, left, top + 270, words, often)
        foot = (
            "Shift with K, L or N sorts the whole group · Enter takes the proposal · T tries what you know · Backspace "
            "takes back · Esc stops"
        )
        put_text(painter, QRectF(left, self.height() - 48, line, 24), foot, SMALL, 400, QColor(t.quiet))

    def _paint_trial(self, painter: QPainter, trial: Trial) -> None:
        """The name that is asked for, and whether it was struck right."""
        t, one = theme(), trial.front
        if one is None:
            return
        left, line = max(60.0, self.width() / 2 - 330), self.width() - 2 * max(60.0, self.width() / 2 - 330)
        top = self.height() * 0.3
        put_text(painter, QRectF(left, 26, line, 24), "What do you know already?", BODY, 500, QColor(t.quiet))
        put_text(painter, QRectF(left, 26, line, 24), f"{len(trial.waiting)} more", BODY, 400, QColor(t.quiet), end=True)
        put_text(painter, QRectF(left, top, line, 44), one.command.name, TITLE, 600, QColor(t.text))
        place = self._session.folio.programs[one.command.program].name
        put_text(painter, QRectF(left, top + 48, line, 24), place, BODY, 400, QColor(t.quiet))
        result = {True: "Known.", False: f"{self._where(one)}.", None: ""}[trial.was_right]
        put_text(painter, QRectF(left, top + 90, line, 30), result, LARGE, 500, QColor(t.settled if trial.was_right else t.quiet))
        foot = "Strike its keys, or wait three seconds · nothing is judged · Esc stops"
        put_text(painter, QRectF(left, self.height() - 48, line, 24), foot, SMALL, 400, QColor(t.quiet))

    def _row(self, painter: QPainter, x: float, y: float, choices: Sequence[_Choice], lit: str) -> None:
        """Choices beside each other: the key, the word; the one that is proposed or chosen is lit."""
        t = theme()
        for key, word, act in choices:
            box = QRectF(x, y, 150, 48)
            front = word == lit
            painter.setPen(QColor(t.light if front else t.line))
            painter.setBrush(QColor(t.raised if front else t.panel))
            painter.drawRoundedRect(box, 8, 8)
            put_text(painter, box.adjusted(14, 0, -8, 0), key, BODY, 700, QColor(t.light))
            put_text(painter, box.adjusted(64, 0, -8, 0), word, LARGE, 500, QColor(t.text))
            self._boxes.append((box, act))
            x += 162
