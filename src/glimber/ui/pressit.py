"""Press it: keys are pressed instead of described. The keyboard is held meanwhile, so that the desktop takes none of them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QFontMetricsF, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from glimber.core.collisions import collisions
from glimber.core.events import Event
from glimber.core.folio import Folio
from glimber.core.keycodes import MODIFIERS
from glimber.core.keys import Chord, Sequence, Strike, chord_of
from glimber.core.listen import KeyboardListener
from glimber.ui.keystrokes import KeyReader
from glimber.ui.look import BODY, HEADING, KEY_RADIUS, LARGE, PANEL_RADIUS, TITLE
from glimber.ui.style import theme
from glimber.ui.type import font

HOLD_ESC_MS = 800
MOST_STEPS = 4


class PressIt(QWidget):
    """Covers its parent until a trigger was taken or Esc was held. Enter takes, Backspace clears, Tab changes print and place."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Press it")
        self.by_place = False
        self._folio: Folio | None = None
        self._program, self._for = "", ""
        self._taken: Callable[[Sequence], None] = lambda trigger: None
        self._strikes: list[Strike] = []
        self._before: QWidget | None = None
        self._listener = KeyboardListener()
        self.reader = KeyReader(self.hear, self)
        self._esc = QTimer(self)
        self._esc.setSingleShot(True)
        self._esc.setInterval(HOLD_ESC_MS)
        self._esc.timeout.connect(self.cancel)
        self.hide()

    def ask(self, folio: Folio, program: str, name: str, taken: Callable[[Sequence], None]) -> None:
        """Ask for the keys of a command; ``taken`` gets them."""
        self._folio, self._program, self._for, self._taken = folio, program, name, taken
        self._strikes, self.by_place, self._listener = [], False, KeyboardListener()
        self._before = self.window().focusWidget()
        self.setGeometry(self.parentWidget().rect())
        self.show()
        self.raise_()
        self.setFocus()
        self.grabKeyboard()
        self._tell()

    def trigger(self) -> Sequence | None:
        """What was pressed so far: by print, or by place."""
        if not self._strikes or self._folio is None:
            return None
        return Sequence(tuple(self._chord(strike) for strike in self._strikes))

    def _chord(self, strike: Strike) -> Chord:
        assert self._folio is not None
        if self.by_place:
            held, code = strike
            return Chord(tuple(name for name in MODIFIERS if name in held), code, by_place=True)
        return chord_of(strike, self._folio.legend)

    def cancel(self) -> None:
        """Leave without anything."""
        self._close()

    def _close(self) -> None:
        self._esc.stop()
        self.releaseKeyboard()
        self.reader.forget()
        self.hide()
        if self._before is not None:
            self._before.setFocus()

    # Keys

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and self.isVisible():
            if event.type() in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                self.reader.read(event)
            event.accept()
            return True
        return super().event(event)

    def hear(self, event: Event, late_ms: float) -> None:
        """A key went down or up."""
        if event.key == "Escape" and event.kind == "down" and not self._held():
            self._esc.start()
            return
        if event.key == "Escape" and event.kind == "up" and self._esc.isActive():
            self._esc.stop()
            self._add((frozenset(), "Escape"))
            return
        self._esc.stop()
        if event.kind == "down" and not self._held() and self._strikes:
            if event.key in ("Enter", "NumpadEnter"):
                self._take()
                return
            if event.key == "Backspace":
                self._strikes = []
                self._tell()
                return
            if event.key == "Tab":
                self.by_place = not self.by_place
                self._tell()
                return
        for unit in self._listener.feed(event):
            if not unit.modifier:
                self._add(unit.strikes[0])

    def _held(self) -> bool:
        return self._listener.holds_modifier()

    def _add(self, strike: Strike) -> None:
        if len(self._strikes) < MOST_STEPS:
            self._strikes.append(strike)
            self._tell()

    def _take(self) -> None:
        trigger = self.trigger()
        self._close()
        if trigger is not None:
            self._taken(trigger)

    def _tell(self) -> None:
        trigger = self.trigger()
        self.setAccessibleDescription(f"{self._for}: {trigger or 'nothing pressed yet'}. {' '.join(self.in_the_way())}")
        self.update()

    def in_the_way(self) -> list[str]:
        """What already answers to the keys, a sentence each."""
        trigger = self.trigger()
        if trigger is None or self._folio is None:
            return []
        return [one.words(trigger) for one in collisions(self._folio, self._program, trigger)]

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(0, 0, 0, 150))
        box = QRectF((self.width() - 640) / 2, (self.height() - 300) / 2, 640, 300)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(box, PANEL_RADIUS, PANEL_RADIUS)
        self._line(painter, box, 26, f"Press the keys for {self._for}", HEADING, t.text)
        trigger = self.trigger()
        if trigger is None:
            self._line(painter, box, 108, "A chord, or several one after another", LARGE, t.faint)
        else:
            self._chips(painter, box, trigger)
        for place, words in enumerate(self.in_the_way()[:2]):
            self._line(painter, box, 176 + place * 24, words, BODY, t.slip)
        if trigger is not None and not self.in_the_way():
            self._line(painter, box, 176, "Nothing else answers to it.", BODY, t.settled)
        other = "by print" if self.by_place else "by place"
        hint = f"Enter takes it · Backspace clears · Tab says it {other} · hold Esc to leave"
        self._line(painter, box, 256, hint, BODY, t.quiet)

    def _line(self, painter: QPainter, box: QRectF, top: float, text: str, size: int, ink: str) -> None:
        painter.setFont(font(size, 500 if size > BODY else 400))
        painter.setPen(QColor(ink))
        fitted = QFontMetricsF(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, box.width() - 40)
        painter.drawText(
            QRectF(box.left() + 20, box.top() + top, box.width() - 40, 28), Qt.AlignmentFlag.AlignHCenter, fitted
        )

    def _chips(self, painter: QPainter, box: QRectF, trigger: Sequence) -> None:
        """Each chord a row of small chips with a thin plus between; steps apart."""
        t = theme()
        metrics = QFontMetricsF(font(TITLE, 500))
        rows = [[*chord.modifiers, f"[{chord.key}]" if chord.by_place else chord.key] for chord in trigger.chords]
        widths = [[metrics.horizontalAdvance(key) + 22 for key in row] for row in rows]
        whole = sum(sum(row) + 16 * (len(row) - 1) for row in widths) + 28 * (len(rows) - 1)
        scale = min(1.0, (box.width() - 40) / whole)
        painter.save()
        painter.translate(box.center().x() - whole * scale / 2, box.top() + 92)
        painter.scale(scale, scale)
        x = 0.0
        for row, sizes in zip(rows, widths, strict=True):
            for place, (key, width) in enumerate(zip(row, sizes, strict=True)):
                if place:
                    painter.setPen(QColor(t.faint))
                    painter.setFont(font(BODY))
                    painter.drawText(QRectF(x, 0, 16, 46), Qt.AlignmentFlag.AlignCenter, "+")
                    x += 16
                painter.setPen(QPen(QColor(t.line), 1))
                painter.setBrush(QColor(t.raised))
                painter.drawRoundedRect(QRectF(x, 0, width, 46), KEY_RADIUS, KEY_RADIUS)
                painter.setPen(QColor(t.text))
                painter.setFont(font(TITLE, 500))
                painter.drawText(QRectF(x, 0, width, 46), Qt.AlignmentFlag.AlignCenter, key)
                x += width
            x += 28
        painter.restore()
