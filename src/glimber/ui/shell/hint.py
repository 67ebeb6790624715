"""``python -m glimber.ui.shell.hint NAME KEYS``: a small card in the corner of the screen with the key of a command that was
chosen by menu again. It takes no focus and no click, and goes after four seconds."""

from __future__ import annotations

import sys
from typing import Final

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QWidget

from glimber.store.settings import load_settings
from glimber.ui.paint.fonts import load_fonts
from glimber.ui.paint.plain_text import Label
from glimber.ui.paint.style import apply_theme
from glimber.ui.widgets.chips_line import ChipsLine

SHOWN_MS: Final = 4_000
_EDGE: Final = 24
_WIDTH: Final = 320


class HintCard(QWidget):
    """The card. ``keys``: the triggers, with " or " between."""

    def __init__(self, name: str, keys: str) -> None:
        flags = Qt.WindowType
        super().__init__(None, flags.ToolTip | flags.FramelessWindowHint | flags.WindowDoesNotAcceptFocus |
                         flags.WindowTransparentForInput | flags.WindowStaysOnTopHint)  # fmt: skip
        self.setAttribute(Qt.WidgetAttribute.WA_ShowWithoutActivating)
        self.setObjectName("desk")
        self.setWindowTitle("Glimber hint")
        self.setAccessibleName(f"{name}: {keys}")
        panel, chips = QFrame(self), ChipsLine()
        panel.setObjectName("panel")
        chips.show_triggers(keys.split(" or "))
        inside = QHBoxLayout(panel)
        inside.addWidget(Label(name))
        inside.addWidget(chips, 1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(1, 1, 1, 1)
        layout.addWidget(panel)
        self.setFixedWidth(_WIDTH)

    def show_in_corner(self) -> None:
        """Show it in the lower right corner of the screen."""
        self.adjustSize()
        screen = QGuiApplication.primaryScreen().availableGeometry()
        self.move(screen.right() - self.width() - _EDGE, screen.bottom() - self.height() - _EDGE)
        self.show()


def main(name: str, keys: str) -> int:
    """Show the card for four seconds; the exit status."""
    app = QApplication(sys.argv[:1])
    load_fonts()
    apply_theme(app, load_settings().theme)
    card = HintCard(name, keys)
    card.show_in_corner()
    QTimer.singleShot(SHOWN_MS, app, app.quit)
    return app.exec()


if __name__ == "__main__":
    sys.exit(main(sys.argv[1], sys.argv[2]))
