"""A task run recorded from real strokes: the keyboard is held, what is struck is written down, then it is looked through."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QListWidget, QVBoxLayout, QWidget

from glimber.core.engine.events import Event
from glimber.core.engine.listen import KeyboardListener
from glimber.core.practice.recording import Recording
from glimber.ui.capture.keyboard_grab import KeyHold
from glimber.ui.paint.plain_text import Label
from glimber.ui.widgets.sheet_over import Cover

HOLD_ESC_MS = 800
_DOING = "Do it as at work: each command is written down. Hold Esc when it is done."
_DONE = "Enter keeps them as a task run · ↑ ↓ Del takes one out · Esc closes"


class RunRecorder(Cover):
    """Covers the room until the strokes were taken or left. ``taken`` gets the commands in order."""

    def __init__(self, parent: QWidget, taken: Callable[[tuple[str, ...]], object]) -> None:
        super().__init__(parent)
        self._taken = taken
        self.recording: Recording | None = None
        self._listener = KeyboardListener()
        self.box = QFrame(self)
        self.box.setObjectName("panel")
        self.head, self.hint = Label(), Label()
        self.head.setProperty("role", "heading")
        self.hint.setProperty("role", "quiet")
        self.hint.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Commands in order")
        self.list.installEventFilter(self)
        layout = QVBoxLayout(self.box)
        layout.setContentsMargins(24, 18, 24, 14)
        for widget in (self.head, self.list, self.hint):
            layout.addWidget(widget, 1 if widget is self.list else 0)
        self._hold = KeyHold(self, self.hear)
        self._esc, self._esc_ms = QTimer(self), 0.0
        self._esc.setSingleShot(True)
        self._esc.setInterval(HOLD_ESC_MS)
        # The keyboard is held until Esc goes up: its repeats would come to the list otherwise, and end everything.
        self._esc.timeout.connect(lambda: self.hint.setText("Let Esc go."))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def begin(self, recording: Recording) -> None:
        """Write down what is struck from now on."""
        self.recording, self._listener = recording, KeyboardListener()
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hint.setText(_DOING)
        self._show()
        self.show_over()
        self._hold.take()

    def arrange(self) -> None:
        wide, high = min(620, self.width() - 80), min(520, self.height() - 60)
        self.box.setGeometry((self.width() - wide) // 2, (self.height() - high) // 2, wide, high)

    def hear(self, event: Event, late_ms: float) -> None:
        """A key went down or up."""
        if event.key == "Escape" and event.kind == "down":
            self._esc_ms = event.t
            self._esc.start()
            return
        if event.key == "Escape":
            self._esc.stop()
            if event.t - self._esc_ms >= HOLD_ESC_MS:  # by the clock of the keys: the timer may come late
                self._look_through()
            else:
                self._take(((frozenset(), "Escape"),))
            return
        for unit in self._listener.feed(event):
            if not unit.modifier:
                self._take(unit.strikes)

    def _take(self, strikes: tuple[tuple[frozenset[str], str], ...]) -> None:
        assert self.recording is not None
        self.recording = self.recording.with_strikes(strikes)
        self._show()

    def _look_through(self) -> None:
        """It is done: the keyboard is let go, and what was written down can be looked through."""
        self._esc.stop()
        self._hold.let_go()
        assert self.recording is not None
        if not self.recording.commands:
            self.dismiss()
            return
        self.hint.setText(_DONE)
        self.list.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.list.setFocus()
        self.list.setCurrentRow(0)

    def _show(self) -> None:
        recording = self.recording
        assert recording is not None
        row = self.list.currentRow()
        names = [recording.folio.commands[ref].name for ref in recording.commands]
        self.list.clear()
        self.list.addItems([f"{place}   {name}" for place, name in enumerate(names, start=1)])
        self.list.setCurrentRow(min(max(row, 0), len(names) - 1) if self.list.hasFocus() else len(names) - 1)
        count = f"{len(names)} {'command' if len(names) == 1 else 'commands'}"
        none = "1 strike was" if recording.unknown == 1 else f"{recording.unknown} strikes were"
        other = f"; {none} none of this folio's" if recording.unknown else ""
        self.head.setText(f"A task run from real strokes: {count}{other}")
        self.setAccessibleName(self.head.text())
        self.setAccessibleDescription(", ".join(names))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.list and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # while it lies over the room, no key means anything else
            return True
        if watched is self.list and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            return self._key(event.key())
        return super().eventFilter(watched, event)

    def _key(self, key: int) -> bool:
        recording = self.recording
        assert recording is not None
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.dismiss()
            if recording.commands:
                self._taken(recording.commands)
        elif key == Qt.Key.Key_Delete and self.list.currentRow() >= 0:
            self.recording = recording.without(self.list.currentRow())
            self._show()
        elif key == Qt.Key.Key_Escape:
            self.dismiss()
        else:
            return False
        return True
