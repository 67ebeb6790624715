"""Press it: keys are pressed instead of described. The keyboard is held meanwhile, so that the desktop takes none of them."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRect, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QFontMetricsF, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLineEdit, QPushButton, QWidget

from glimber.core.engine.capture import SpotCapture
from glimber.core.engine.events import Event
from glimber.core.engine.listen import KeyboardListener
from glimber.core.engine.standin_keys import board_keys
from glimber.core.model.collisions import collisions
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord, NotationError, Sequence, Spot, Strike, Trigger, chord_of, parse_trigger
from glimber.core.notation.spelling import NotKeysError, read_spelling
from glimber.ui.capture.keyboard_grab import KeyHold
from glimber.ui.capture.keystrokes import monotonic_ms
from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import BODY, HEADING, LARGE, PANEL_RADIUS, TITLE
from glimber.ui.paint.style import theme
from glimber.ui.session.host import Asked
from glimber.ui.widgets.chips import chips_width, put_chips
from glimber.ui.widgets.sheet_over import Cover

HOLD_ESC_MS = 800
MOST_STEPS = 4
WIDE, HIGH = 680.0, 316.0
_WAYS = 3


class PressIt(Cover):
    """Covers its parent until a trigger was taken or Esc was held.

    Enter takes, Backspace clears, Tab names it by print, by place or as a spot of a board; on a board ↑ and ↓ choose the layer.
    """

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Press it")
        self._asked: Asked | None = None
        self._ways: list[str] = []
        self._way = 0
        self._strikes: list[Strike] = []
        self._capture: SpotCapture | None = None
        self._layer = 0
        self._spelt: Trigger | None = None
        self._fault = self._near = ""
        self._listener = KeyboardListener()
        self._hold = KeyHold(self, self.hear)
        self._esc, self._open = QTimer(self), QTimer(self)
        self._esc.setSingleShot(True)
        self._esc.setInterval(HOLD_ESC_MS)
        self._esc.timeout.connect(self.cancel)
        self._open.setInterval(15)
        self._open.timeout.connect(self._time_passes)
        self.line = QLineEdit(self)
        self.line.setAccessibleName("Spell the keys")
        self.line.setPlaceholderText("Ctrl+Shift+K, or g i, or split-42:draw:KeyS:tap")
        self.line.textChanged.connect(self._spelling)
        self.line.returnPressed.connect(self._take)
        self.other = QPushButton(self)
        self.other.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.other.setProperty("narrow", "true")
        self.other.clicked.connect(self._other_way)

    def ask(self, asked: Asked, spelt: bool = False) -> None:
        """Ask for the keys of a command, pressed or spelt; ``asked.taken`` gets them."""
        self._asked = asked
        boards = [f"board:{id}" for id in asked.boards]
        self._ways = boards if asked.only_spots else ["print", "place", *boards]
        self._strikes, self._listener, self._way = [], KeyboardListener(), 0
        self._spelt, self._fault, self._near = None, "", ""
        self._choose_way(0)
        self.show_over()
        self._begin(spelt)

    def _begin(self, spelt: bool) -> None:
        self.line.setVisible(spelt)
        self.other.setText("Press it instead" if spelt else "Spell it instead")
        self.line.clear()
        if spelt:
            self._hold.let_go()
            self.line.setFocus()
        else:
            self._hold.take()
        self.arrange()
        self._tell()

    def _other_way(self) -> None:
        self._spelt, self._fault, self._strikes = None, "", []
        self._begin(spelt=not self.line.isVisible())

    # What was pressed so far

    @property
    def board(self) -> str | None:
        """The board whose spot is asked for just now; None for keys of the ordinary keyboard."""
        way = self._ways[self._way] if self._ways else "print"
        return way.partition(":")[2] or None

    @property
    def by_place(self) -> bool:
        return bool(self._ways) and self._ways[self._way] == "place"

    def trigger(self) -> Trigger | None:
        """Return what was pressed or spelt so far: by print, by place, or as a spot."""
        if self._asked is None:
            return None
        if self.line.isVisible():
            return self._spelt
        if self._capture is not None:
            return self._capture.spot(self._layers()[self._layer])
        if not self._strikes:
            return None
        return Sequence(tuple(self._chord(strike) for strike in self._strikes))

    def _layers(self) -> list[str]:
        assert self._asked is not None
        if self._asked.layer is not None:
            return [self._asked.layer]
        layout = self._asked.folio.layouts.get(self.board or "")
        return [layer.id for layer in layout.layers] if layout else ["base"]

    def _chord(self, strike: Strike) -> Chord:
        assert self._asked is not None
        if self.by_place:
            held, code = strike
            return Chord(tuple(name for name in MODIFIERS if name in held), code, by_place=True)
        return chord_of(strike, self._asked.folio.legend)

    def _choose_way(self, way: int) -> None:
        """By print, by place, or as a spot of a board: the one key struck so far is then that board's."""
        self._way = way
        asked = self._asked
        assert asked is not None
        board = self.board
        if board is None:
            self._capture = None
            return
        self._capture = SpotCapture(asked.folio, board)
        self._layer = min(self._layer, len(self._layers()) - 1)
        key = self._key(self._strikes[0][1]) if len(self._strikes) == 1 else None
        if key is not None:
            self._capture.keys, self._capture.gesture = (key,), "tap"

    def _key(self, code: str) -> str | None:
        """Return the key of the board that a place of the ordinary keyboard stands in for."""
        assert self._asked is not None and self.board is not None
        return board_keys(self._asked.folio.boards[self.board]).get(code)

    # Leaving

    def cancel(self) -> None:
        """Leave without anything."""
        self._close()

    def _close(self) -> None:
        self._esc.stop()
        self._open.stop()
        self._hold.let_go()
        self.dismiss()

    def _take(self) -> None:
        trigger, asked = self.trigger(), self._asked
        if trigger is None or asked is None:
            return
        self._close()
        asked.taken(trigger)

    # Keys

    def event(self, event: QEvent) -> bool:
        struck = (
            isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape
        )
        if struck and self.line.isVisible():
            self.cancel()
            return True
        return bool(super().event(event))

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
        if event.kind == "down" and not self._held() and self._begun() and self._reserved(event.key):
            return
        if self._capture is not None:
            key = self._key(event.key)
            if key is not None:
                self._capture.feed(Event(event.t, event.kind, key))
                self._open.start()
                self._tell()
            return
        for unit in self._listener.feed(event):
            if not unit.modifier:
                self._add(unit.strikes[0])

    def _begun(self) -> bool:
        return bool(self._strikes) or self.trigger() is not None

    def _reserved(self, key: str) -> bool:
        """Return keys that mean something once there is a trigger."""
        if key in ("Enter", "NumpadEnter"):
            self._take()
        elif key == "Backspace":
            self._clear()
        elif key == "Tab":
            self._choose_way((self._way + 1) % len(self._ways))
        elif key in ("ArrowUp", "ArrowDown") and self._capture is not None:
            by = 1 if key == "ArrowDown" else -1
            self._layer = (self._layer + by) % len(self._layers())
        else:
            return False
        self._tell()
        return True

    def _clear(self) -> None:
        self._strikes = []
        if self._capture is not None:
            self._capture.clear()

    def _held(self) -> bool:
        return self._capture is None and self._listener.holds_modifier()

    def _add(self, strike: Strike) -> None:
        if self._capture is not None:
            key = self._key(strike[1])
            if key is not None:
                self._capture.keys, self._capture.gesture = (key,), "tap"
        elif len(self._strikes) < MOST_STEPS:
            self._strikes.append(strike)
        self._tell()

    def _time_passes(self) -> None:
        if self._capture is None or self._capture.pending_until() is None:
            self._open.stop()
            return
        if self._capture.advance(monotonic_ms()):
            self._tell()

    def _spelling(self, text: str) -> None:
        """Any spelling that the readers know will do; a spot or a typed text in our notation."""
        self._spelt, self._fault = None, ""
        if text.strip() and self._asked is not None:
            try:
                spelt = self._read(text)
            except (NotationError, NotKeysError) as error:
                self._fault = str(error)
            else:
                if isinstance(spelt, Spot) and self._asked.boards and spelt.board not in self._asked.boards:
                    self._fault = f"{spelt.board} has no layout in this folio"
                else:
                    self._spelt = spelt
        self._tell()

    def _read(self, text: str) -> Trigger:
        assert self._asked is not None
        try:
            return parse_trigger(text, self._asked.folio.bundles)
        except NotationError:
            found = read_spelling(text)
            if len(found) != 1:
                raise NotationError(text, 0, "one trigger, not several") from None
            return found[0]

    # What is seen

    def in_the_way(self) -> list[str]:
        """Return what already answers to the keys, a sentence each."""
        trigger, asked = self.trigger(), self._asked
        if trigger is None or asked is None or asked.title:
            return []
        found = collisions(asked.folio, asked.program, trigger, asked.context, asked.computer)
        return [one.words(trigger) for one in found]

    def free_near(self) -> str:
        """Return which chords like one that is taken are free, as a sentence; empty for one that is not taken."""
        from glimber.core.decide.free_places import free_near

        trigger, asked = self.trigger(), self._asked
        if not isinstance(trigger, Sequence) or asked is None or not self.in_the_way():
            return ""
        program = asked.folio.programs.get(asked.program)
        ref = next((one.ref for one in program.commands.values() if one.name == asked.name), None) if program else None
        found = free_near(asked.folio, ref, trigger, asked.computer) if ref is not None else []
        return f"Free near it: {', '.join(str(one.trigger) for one in found)}" if found else ""

    def _tell(self) -> None:
        trigger = self.trigger()
        name = self._asked.name if self._asked else ""
        self._near = self.free_near()
        text = " ".join([*self.in_the_way(), self._near]).strip()
        self.setAccessibleDescription(f"{name}: {trigger or 'nothing pressed yet'}. {text}".strip())
        self.update()

    def _box(self) -> QRectF:
        return QRectF((self.width() - WIDE) / 2, (self.height() - HIGH) / 2, WIDE, HIGH)

    def hand(self) -> QRect | None:
        """Return what is looked at: the sheet, not what is dimmed around it."""
        box: QRect = self._box().toAlignedRect()
        return box

    def arrange(self) -> None:
        box = self._box()
        self.line.setGeometry(int(box.left()) + 60, int(box.top()) + 74, int(WIDE) - 120, 34)
        self.other.adjustSize()
        self.other.move(int(box.right()) - self.other.width() - 14, int(box.bottom()) - self.other.height() - 12)

    def paintEvent(self, event: QPaintEvent) -> None:
        t, box = theme(), self._box()
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(box, PANEL_RADIUS, PANEL_RADIUS)
        verb = "Spell" if self.line.isVisible() else "Press"
        title = self._asked.title if self._asked else ""
        name = self._asked.name if self._asked else ""
        self._line(painter, box, 26, f"{verb} {title}" if title else f"{verb} the keys for {name}", HEADING, t.text)
        trigger, ways = self.trigger(), self.in_the_way()
        if trigger is not None:
            self._chips(painter, box, trigger)
        elif not self.line.isVisible():
            wanted = (
                f"A key of {self.board}: tapped, held, twice, two together"
                if self.board
                else "A chord, or several in a row"
            )
            self._line(painter, box, 112, wanted, LARGE, t.faint)
        if self._fault:
            self._line(painter, box, 176, self._fault, BODY, t.slip)
        for place, words in enumerate(ways[:_WAYS]):
            self._line(
                painter, box, 172 + place * 24, words, BODY, t.quiet if words.startswith("Underneath") else t.slip
            )
        if trigger is not None and not ways and not title:
            self._line(painter, box, 176, "Nothing else answers to it.", BODY, t.settled)
        if self._near and len(ways) < _WAYS:
            self._line(painter, box, 172 + len(ways) * 24, self._near, BODY, t.settled)
        self._line(painter, box, 250, self._hint(), BODY, t.quiet)

    def _hint(self) -> str:
        if self.line.isVisible():
            return "Enter accepts · Esc closes"
        after = self._ways[(self._way + 1) % len(self._ways)] if len(self._ways) > 1 else ""
        turned = {"": "", "print": " · Tab names it by print", "place": " · Tab names it by place"}
        tab = turned.get(after, f" · Tab puts it on {after.partition(':')[2]}")
        layers = " · ↑ ↓ another layer" if self._capture is not None and len(self._layers()) > 1 else ""
        return f"Enter accepts · Backspace clears{tab}{layers} · hold Esc to close"

    def _line(self, painter: QPainter, box: QRectF, top: float, text: str, size: int, ink: str) -> None:
        painter.setFont(font(size, 500 if size > BODY else 400))
        painter.setPen(QColor(ink))
        fitted = QFontMetricsF(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, box.width() - 40)
        painter.drawText(
            QRectF(box.left() + 20, box.top() + top, box.width() - 40, 28), Qt.AlignmentFlag.AlignHCenter, fitted
        )

    def _chips(self, painter: QPainter, box: QRectF, trigger: Trigger) -> None:
        whole = chips_width([trigger], TITLE)
        scale = min(1.0, (box.width() - 40) / whole)
        painter.save()
        painter.translate(box.center().x() - whole * scale / 2, box.top() + (112 if self.line.isVisible() else 92))
        painter.scale(scale, scale)
        put_chips(painter, QRectF(0, 0, whole + 1, 50), [trigger], TITLE)
        painter.restore()
