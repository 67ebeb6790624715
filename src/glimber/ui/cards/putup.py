"""A card over the desktop: no frame, on top, as opaque as wished, letting clicks through or not, where it was last time."""

from __future__ import annotations

import json
from typing import Final

from msgspec import Struct
from msgspec.structs import asdict, replace
from PySide6.QtCore import QPoint, QRect, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QCloseEvent,
    QColor,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QShowEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from glimber.core.drawing.drawing import Drawing, Rect
from glimber.store.settings import load_settings, remember
from glimber.ui.paint.draw import to_pixmap
from glimber.ui.paint.style import theme

STEP: Final = 1.1
NARROWEST: Final = 160
FAINTEST: Final = 0.2
ABOVE_MS: Final = 700
_SHARE: Final = 0.5
_ASIDE: Final = 0.35
"""The opacity of a card while another layer is in use."""


class Place(Struct, frozen=True):
    """The position of a card over the desktop, in px of its screen."""

    x: int = -1
    y: int = -1
    width: int = 0
    opacity: float = 0.92
    through: bool = False


def place_of(card: str) -> Place:
    """Return where a card was last; what cannot be read is as if it were not known."""
    try:
        kept = json.loads(load_settings().up or "{}").get(card, {})
        return replace(
            Place(),
            **{name: kept[name] for name in asdict(Place()) if type(kept.get(name)) is type(asdict(Place())[name])},
        )
    except (ValueError, AttributeError, TypeError):
        return Place()


def keep_place(card: str, place: Place) -> None:
    """Remember where a card is up."""
    try:
        kept = json.loads(load_settings().up or "{}")
    except ValueError:
        kept = {}
    remember(up=json.dumps({**(kept if isinstance(kept, dict) else {}), card: asdict(place)}))


def keeps_on_top() -> bool:
    """Return True if this platform lets a window stay above others."""
    return not QGuiApplication.platformName().startswith("wayland")


class PutUp(QWidget):
    """One card that is up. Drag moves it, the wheel sizes it, with Ctrl makes it fainter; C lets clicks through, Esc takes it
    down."""

    def __init__(self, card: str, drawing: Drawing) -> None:
        super().__init__(None, self._flags(place_of(card).through))
        self.card, self.drawing = card, drawing
        self.place = place_of(card)
        self._pixmap: QPixmap | None = None
        self.lit: frozenset[str] = frozenset()
        self.aside = False
        self._held: QPoint | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_TranslucentBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_ShowWithoutActivating)
        self.setWindowTitle(f"{drawing.title} — Glimber")
        self.setAccessibleName(drawing.title)
        self.setAccessibleDescription(drawing.description)
        self.setWindowOpacity(self.place.opacity)
        self._put()
        self._above = QTimer(self)
        self._above.setInterval(ABOVE_MS)
        self._above.timeout.connect(self.raise_)
        self._stay_above()

    def _stay_above(self) -> None:
        """The window manager keeps a window on top, but not one that goes past it."""
        if self.place.through:
            self._above.start()
        else:
            self._above.stop()

    @staticmethod
    def _flags(through: bool) -> Qt.WindowType:
        """Return what lets clicks through goes past the window manager: the frame that it gives every window would take
        them."""
        flags = Qt.WindowType.Window
        if keeps_on_top():
            flags = Qt.WindowType.Tool | Qt.WindowType.FramelessWindowHint | Qt.WindowType.WindowStaysOnTopHint
        if through:
            flags |= Qt.WindowType.WindowTransparentForInput | Qt.WindowType.X11BypassWindowManagerHint
        return flags

    def _put(self) -> None:
        """To its place, or the middle of the screen the first time; never outside all screens."""
        screen = QGuiApplication.primaryScreen().availableGeometry()
        width = self.place.width or round(min(screen.width() * _SHARE, screen.height() * 0.8 * self._proportion()))
        size = self._size(width)
        at = QRect(QPoint(self.place.x, self.place.y), size)
        if self.place.width == 0 or not any(
            one.availableGeometry().intersects(at) for one in QGuiApplication.screens()
        ):
            at.moveCenter(screen.center())
        self.setGeometry(at)

    def _proportion(self) -> float:
        return self.drawing.width / self.drawing.height

    def _size(self, width: int) -> QSize:
        width = max(NARROWEST, width)
        return QSize(width, max(1, round(width / self._proportion())))

    def show_drawing(self, drawing: Drawing) -> None:
        """The folio changed: the same card as it is now."""
        self.drawing, self._pixmap = drawing, None
        self.resize(self._size(self.width()))
        self.update()

    def light(self, keys: frozenset[str], aside: bool = False) -> None:
        """Light these keys; ``aside``: another layer is in use, so the card is fainter."""
        if (keys, aside) != (self.lit, self.aside):
            self.lit, self.aside = keys, aside
            self.update()

    def showEvent(self, event: QShowEvent) -> None:
        self._stay_above()
        super().showEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._pixmap is None or round(self._pixmap.deviceIndependentSize().width()) != self.width():
            self._pixmap = to_pixmap(self.drawing, self.width(), self.devicePixelRatioF())
        painter = QPainter(self)
        painter.setOpacity(_ASIDE if self.aside else 1.0)
        painter.drawPixmap(0, 0, self._pixmap)
        if self.lit:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            scale = self.width() / self.drawing.width
            lamp = QColor(theme().lamp[-2])
            painter.setPen(QPen(lamp, 3))
            lamp.setAlpha(90)
            painter.setBrush(lamp)
            for group in self.drawing.groups:
                shape = group.items[0] if group.key in self.lit and group.items else None
                if isinstance(shape, Rect):
                    painter.save()
                    painter.scale(scale, scale)
                    painter.translate(*group.pivot)
                    painter.rotate(group.angle)
                    painter.translate(-group.pivot[0], -group.pivot[1])
                    pen = painter.pen()
                    pen.setWidthF(3 / scale)
                    painter.setPen(pen)
                    painter.drawRoundedRect(QRectF(shape.x, shape.y, shape.w, shape.h), shape.radius, shape.radius)
                    painter.restore()

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = event.globalPosition().toPoint() - self.pos()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self.move(event.globalPosition().toPoint() - self._held)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None
        self._keep()

    def wheelEvent(self, event: QWheelEvent) -> None:
        up = event.angleDelta().y() > 0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.fade(0.06 if up else -0.06)
        else:
            self.grow(STEP if up else 1 / STEP)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self.close()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.grow(1 / STEP if key == Qt.Key.Key_Minus else STEP)
        elif key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight):
            self.fade(-0.06 if key == Qt.Key.Key_BracketLeft else 0.06)
        elif key == Qt.Key.Key_C:
            self.let_through(not self.place.through)
        else:
            super().keyPressEvent(event)

    def grow(self, by: float) -> None:
        """Larger or smaller about its middle."""
        middle = self.geometry().center()
        at = QRect(QPoint(), self._size(min(6000, round(self.width() * by))))
        at.moveCenter(middle)
        self.setGeometry(at)
        self._keep()

    def fade(self, by: float) -> None:
        """More or less opaque."""
        self.place = replace(self.place, opacity=round(min(1.0, max(FAINTEST, self.place.opacity + by)), 2))
        self.setWindowOpacity(self.place.opacity)
        self._keep()

    def let_through(self, through: bool) -> None:
        """Let clicks through to what is below; the card can then only be taken down by its command."""
        self.place = replace(self.place, through=through)
        at = self.geometry()
        self.setWindowFlags(self._flags(through))
        self.setGeometry(at)
        self.show()
        self.raise_()
        self._stay_above()
        self._keep()

    def _keep(self) -> None:
        at = self.geometry()
        self.place = replace(self.place, x=at.x(), y=at.y(), width=at.width())
        keep_place(self.card, self.place)

    def closeEvent(self, event: QCloseEvent) -> None:
        self._above.stop()
        if self.isVisible():
            self._keep()
        super().closeEvent(event)
