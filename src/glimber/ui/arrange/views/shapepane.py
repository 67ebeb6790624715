"""The shape of the board: place, size, turn, finger, reach, print of the keys in front, in place of bench and findings."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QFrame, QPushButton, QVBoxLayout, QWidget

from glimber.core.edit.shape import edit_keys
from glimber.core.model.board import FINGERS, REACHES, Board
from glimber.ui.arrange.views.side import WIDTH
from glimber.ui.paint.plain_text import Label
from glimber.ui.widgets.field import Field

_NUMBERS = (
    ("x", "From the left"),
    ("y", "From the top"),
    ("w", "Width"),
    ("h", "Height"),
    ("angle", "Turned, degrees"),
)


class ShapePane(QWidget):
    """Fields of the keys in front; a field that is left changes all of them. ``send`` gets a name and a change of the board."""

    def __init__(self, send: Callable[[str, Callable[[Board], Board]], bool], tell: Callable[[str], None]) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self._send, self._tell = send, tell
        self._board: Board | None = None
        self._keys: list[str] = []
        self.head, self.hint = Label(), Label()
        self.head.setProperty("role", "heading")
        self.hint.setProperty("role", "quiet")
        self.hint.setWordWrap(True)
        self.hint.setText(
            "Alt with an arrow moves by a quarter unit, Shift with one selects, Ctrl with a click adds to what is selected."
        )
        self.numbers = {name: Field() for name, _ in _NUMBERS}
        self.finger, self.reach = QComboBox(), QComboBox()
        self.finger.addItems(["", *(finger.replace("-", " ") for finger in FINGERS)])
        self.reach.addItems(["", *REACHES])
        self.home, self.printed, self.mirror = QCheckBox("Home key"), Field(), Field()
        self.guess = QPushButton("Guess missing fingers")
        form = QFormLayout()
        rows: list[tuple[str, QWidget]] = [(title, self.numbers[name]) for name, title in _NUMBERS]
        rows += [
            ("Finger", self.finger),
            ("Reach", self.reach),
            ("", self.home),
            ("Print", self.printed),
            ("Mirror", self.mirror),
        ]
        for title, widget in rows:
            label = Label(title)
            label.setProperty("role", "quiet")
            form.addRow(label, widget)
            if title:
                widget.setAccessibleName(title)
        panel = QFrame()
        panel.setObjectName("panel")
        inside = QVBoxLayout(panel)
        inside.setContentsMargins(14, 12, 14, 12)
        inside.addWidget(self.head)
        inside.addLayout(form)
        inside.addWidget(self.guess)
        inside.addWidget(self.hint)
        inside.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(panel)
        for name in self.numbers:
            self.numbers[name].editingFinished.connect(lambda name=name: self._number(name))
        self.finger.activated.connect(
            lambda _: self._say("finger", self.finger.currentText().replace(" ", "-") or None)
        )
        self.reach.activated.connect(lambda _: self._say("reach", self.reach.currentText() or None))
        self.home.clicked.connect(lambda on: self._say("home", on))
        self.printed.editingFinished.connect(lambda: self._text(self.printed, "print"))
        self.mirror.editingFinished.connect(lambda: self._text(self.mirror, "mirror"))

    def show_keys(self, board: Board, keys: list[str]) -> None:
        """Show the first of the keys in front; a change is one of all of them."""
        self._board, self._keys = board, [key for key in keys if key in board.by_id]
        self.setEnabled(bool(self._keys))
        if not self._keys:
            self.head.setText("A knob keeps its place")
            return
        key = board.by_id[self._keys[0]]
        more = f" and {len(self._keys) - 1} more" if len(self._keys) > 1 else ""
        self.head.setText(f"{key.id}{more}")
        for name, field in self.numbers.items():
            field.put(f"{getattr(key, name):g}")
        self.finger.setCurrentText((key.finger or "").replace("-", " "))
        self.reach.setCurrentText(key.reach or "")
        self.home.setChecked(key.home)
        self.printed.put(key.print or "")
        self.printed.setPlaceholderText("as the layout has it")
        self.mirror.put(key.mirror or "")

    def _number(self, name: str) -> None:
        field = self.numbers[name]
        if not field.isModified():
            return
        field.setModified(False)
        try:
            self._say(name, float(field.text().replace(",", ".")))
        except ValueError:
            self._tell(f"{field.text()!r} is not a number of units")
            self._again()

    def _text(self, field: Field, what: str) -> None:
        if field.isModified():
            field.setModified(False)
            self._say(what, field.text().strip() or None)

    def _say(self, what: str, value: object) -> None:
        keys = list(self._keys)
        name = keys[0] if len(keys) == 1 else f"{len(keys)} keys"
        if not keys or not self._send(
            f"change {what} of {name}", lambda board: edit_keys(board, keys, **{what: value})
        ):
            self._again()

    def _again(self) -> None:
        if self._board is not None:
            self.show_keys(self._board, self._keys)
