"""The options of a card as a list: a line for each with the key that changes it; a click does the same."""

from __future__ import annotations

from functools import partial
from typing import Final

from PySide6.QtCore import QEvent, QObject, QSize, Qt, Signal
from PySide6.QtWidgets import QFrame, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout

from glimber.core.model.card_options import CARD_OPTIONS, options_for
from glimber.core.model.folio import Card
from glimber.ui.paint.plain_text import Label, tip

_WIDE: Final = 160
KEYS = {
    "about": "A",
    "kind": "D",
    "beside": "F",
    "group": "M",
    "order": "S",
    "title": "T",
    "paper": "P",
    "turn": "O",
} | {option.id: option.key for option in CARD_OPTIONS if option.offered}
_PAPERS = {"index": "index card", "strip": "strip", "screen": "screen 1280 × 800", "large-screen": "screen 2560 × 1440"}


class Options(QFrame):
    """Lines of one card. ``wanted`` tells which of them is to be changed: title, paper, turn, or something shown."""

    wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAccessibleName("Options of the card")
        self._lines = QVBoxLayout(self)
        self._lines.setContentsMargins(12, 12, 12, 12)
        self._lines.setSpacing(2)
        self.buttons: dict[str, QPushButton] = {}

    def show_card(self, card: Card | None, own: bool, sheets: int, about: str = "") -> None:
        """Lay out the lines of a card; ``own``: it has a file of its own; ``about``: what it shows, in words."""
        while (item := self._lines.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                # Hidden, and not taken from its parent: a layout shows what was added to it a turn of the loop later, and what
                # has no parent then would be a window of its own that takes the keys.
                widget.hide()
                widget.deleteLater()
        self.buttons.clear()
        self.setVisible(card is not None)
        if card is None:
            return
        self._line("kind", f"{card.kind} card")
        self._line("about", f"of  {about}")
        paper = _PAPERS.get(card.paper, card.paper)
        if card.kind == "facing":
            self._line("beside", f"facing  {card.beside.replace(':', ' · ') if card.beside else 'itself, before'}")
        self._line("title", f"title  {card.title}")
        self._line("paper", f"paper  {paper}")
        self._line("turn", "landscape" if card.landscape else "portrait")
        self._head("Shows")
        offered = options_for(card.kind)
        for option in offered:
            self._line(option.id, f"{'●' if option.id in card.shows else '○'}  {option.label}")
        if any(option.id == "legend" for option in offered):
            self._head("Groups")
            self._line("group", "ink and mark")
            self._line("order", "order")
        self._head("Own file" if own else "Automatic")
        if sheets > 1:
            self._head(f"{sheets} sheets, PgUp PgDn")

    def _head(self, text: str) -> None:
        label = Label(text)
        label.setProperty("role", "quiet")
        label.setContentsMargins(4, 8, 0, 2)
        label.setWordWrap(True)
        self._lines.addWidget(label)

    def _line(self, what: str, text: str) -> None:
        line = self.fontMetrics().elidedText(f"{KEYS[what]}   {text}", Qt.TextElideMode.ElideRight, _WIDE)
        button = QPushButton(line.replace("&", "&&"))
        button.setProperty("role", "line")
        button.setFlat(True)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.setAccessibleName(text)
        button.setToolTip(tip(f"{text}: {KEYS[what]} changes it"))
        button.clicked.connect(partial(self.wanted.emit, what))
        self._lines.addWidget(button)
        self.buttons[what] = button


class OptionsFrame(QScrollArea):
    """Shows the options in full where there is room; in a small window they scroll."""

    def __init__(self, options: Options) -> None:
        super().__init__()
        self._options = options
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.setWidget(options)

    def sizeHint(self) -> QSize:
        return self._options.sizeHint()

    def minimumSizeHint(self) -> QSize:
        return QSize(0, 0)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._options and event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().eventFilter(watched, event)
