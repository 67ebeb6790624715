"""The top line: the loop as words joined by a thin line, each with the one number that matters; find; the folio's name."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QWidget

from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import LARGE, SMALL, TOP_LINE
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.paint.style import fill, theme
from glimber.ui.session.actions import ROOMS

_JOIN = 34


class LoopWords(QWidget):
    """Gather — Arrange — Cards — Drill — Weigh. The arrow keys and Ctrl+1…5 choose; so does a click."""

    def __init__(self, choose: Callable[[str], None]) -> None:
        super().__init__()
        self._choose = choose
        self.current = "cards"
        self.numbers: Mapping[str, int | None] = {}
        self.setAccessibleName("Rooms")
        self.setFixedHeight(TOP_LINE)

    def show_state(self, current: str, numbers: Mapping[str, int | None]) -> None:
        if (current, numbers) == (self.current, self.numbers):
            return
        self.current, self.numbers = current, numbers
        words = ", ".join(f"{room.title()} {numbers[room]}" if numbers.get(room) else room.title() for room in ROOMS)
        self.setAccessibleDescription(f"{words}; now in {current.title()}")
        self.updateGeometry()
        self.setFixedWidth(self.sizeHint().width())
        self.update()

    def _number(self, room: str) -> str:
        number = self.numbers.get(room)
        return "" if number is None else str(number)

    def _places(self) -> list[tuple[str, float, float, float]]:
        """Room, left end, width of the word, width with its number."""
        large, small = QFontMetricsF(font(LARGE, 500)), QFontMetricsF(font(SMALL, 500))
        found, x = [], 22.0
        for room in ROOMS:
            word = large.horizontalAdvance(room.title())
            number = self._number(room)
            whole = word + (small.horizontalAdvance(number) + 7 if number else 0)
            found.append((room, x, word, whole))
            x += whole + 2 * 13 + _JOIN
        return found

    def sizeHint(self) -> QSize:
        _, x, _, whole = self._places()[-1]
        return QSize(round(x + whole + 12), TOP_LINE)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        places = self._places()
        for place, (room, x, word, whole) in enumerate(places):
            here = room == self.current
            painter.setFont(font(LARGE, 600 if here else 500))
            painter.setPen(QColor(t.text if here else t.quiet))
            painter.drawText(QRectF(x - 2, 0, word + 8, TOP_LINE - 1), Qt.AlignmentFlag.AlignVCenter, room.title())
            painter.setFont(font(SMALL, 500))
            painter.setPen(QColor(t.light if here else t.faint))
            painter.drawText(
                QRectF(x + word + 7, 1, 60, TOP_LINE - 1), Qt.AlignmentFlag.AlignVCenter, self._number(room)
            )
            if here:
                fill(painter, QRectF(x - 2, TOP_LINE - 4, whole + 4, 2), QColor(t.light))
            if place + 1 < len(places):
                painter.setPen(QPen(QColor(t.line), 1))
                join = x + whole + 13
                painter.drawLine(QPointF(join, TOP_LINE / 2 + 0.5), QPointF(join + _JOIN, TOP_LINE / 2 + 0.5))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for room, x, _, whole in self._places():
            if x - 8 <= event.position().x() <= x + whole + 8:
                self._choose(room)


class TopLine(QWidget):
    """The whole line."""

    def __init__(self, choose: Callable[[str], None]) -> None:
        super().__init__()
        self.setObjectName("topline")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(TOP_LINE)
        self.loop = LoopWords(choose)
        self.field = QLineEdit()
        self.field.setPlaceholderText("/  find a command, key, card…")
        self.field.setAccessibleName("Find")
        self.field.setMinimumWidth(120)
        self.field.setMaximumWidth(250)
        self.field.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.counting = Label("● counting")
        self.counting.setProperty("role", "lit")
        self.counting.setToolTip(
            tip("How often the folio's bindings are struck at work is being counted; Ctrl+U shows it")
        )
        self.counting.hide()
        self.title, self._title = QPushButton(), ""
        self.title.setProperty("role", "line")
        self.title.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.title.setCursor(Qt.CursorShape.PointingHandCursor)
        self.title.setMinimumWidth(0)
        self.title.setMaximumWidth(220)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 20, 0)
        layout.setSpacing(16)
        layout.addWidget(self.loop)
        layout.addStretch(1)
        layout.addWidget(self.counting)
        layout.addWidget(self.field, 2)
        layout.addWidget(self.title)

    def show_counting(self, counting: bool) -> None:
        """A lamp as long as strikes are counted."""
        self.counting.setVisible(counting)

    def show_title(self, title: str) -> None:
        if title == self._title:
            return
        self._title, metrics = title, self.title.fontMetrics()
        self.title.setText(f"{metrics.elidedText(title, Qt.TextElideMode.ElideRight, 180)} ▾".replace("&", "&&"))
        self.title.setToolTip(tip(f"{title}: undo, settings, the day's page, other folios and all else that works everywhere"))


class BottomLine(QWidget):
    """The keys that work here and now, in one quiet line, each of which can be clicked; what has just happened at its right
    end."""

    clicked = Signal(int)
    """The number of the key shown that was clicked, from 0."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("bottomline")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(32)
        self._keys: list[tuple[str, str]] = []
        self._boxes: list[QRectF] = []
        self._shown = self._stands = ""
        self.setAccessibleName("Keys that work here")

    def show_keys(self, keys: list[tuple[str, str]]) -> None:
        if keys == self._keys:
            return
        self._keys = keys
        self.setAccessibleDescription(", ".join(f"{key}: {what}" for key, what in keys))
        self.update()

    def say(self, text: str) -> None:
        self._shown = text
        self.setAccessibleName(f"Keys that work here. {text}")  # a screen reader tells what has just happened too
        self.update()

    def rest(self) -> None:
        """Put away a message that something is under way, which it no longer is."""
        if self._shown.endswith("…"):
            self.say("")

    def show_message(self, text: str) -> None:
        """Show a message at the right end for as long as it holds."""
        self._stands = text
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            for place, box in enumerate(self._boxes):
                if box.contains(event.position()):
                    self.clicked.emit(place)
                    return
        super().mousePressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        t = theme()
        painter = QPainter(self)
        bold, plain = font(12, 600), font(12, 400)
        metrics = QFontMetricsF(plain)
        room = self.width() - 40.0
        end = self.width() - 20.0
        if self._stands:
            painter.setFont(bold)
            painter.setPen(QColor(t.light))
            right = QRectF(0, 1, end, 31)
            painter.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._stands)
            wide = QFontMetricsF(bold).horizontalAdvance(self._stands) + 20
            room, end = room - wide, end - wide
        if self._shown:
            text = metrics.elidedText(self._shown, Qt.TextElideMode.ElideRight, self.width() * 0.5)
            room -= metrics.horizontalAdvance(text) + 24
            painter.setFont(plain)
            painter.setPen(QColor(t.text))
            right = QRectF(0, 1, end, 31)
            painter.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
        x, self._boxes = 20.0, []
        for key, what in self._keys:
            wide = QFontMetricsF(bold).horizontalAdvance(key)
            words = metrics.horizontalAdvance(what)
            if x + wide + words + 8 > 20 + room:
                break
            self._boxes.append(QRectF(x - 8, 0, wide + words + 24, 32))
            painter.setFont(bold)
            painter.setPen(QColor(t.quiet))
            painter.drawText(QRectF(x, 1, wide + 2, 31), Qt.AlignmentFlag.AlignVCenter, key)
            painter.setFont(plain)
            painter.setPen(QColor(t.faint))
            painter.drawText(QRectF(x + wide + 8, 1, words + 4, 31), Qt.AlignmentFlag.AlignVCenter, what)
            x += wide + words + 30
