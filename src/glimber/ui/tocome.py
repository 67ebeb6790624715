"""Rooms that are not built yet: a sentence on what will be there, and what can be done meanwhile."""

from __future__ import annotations

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from glimber.core.audit import audit
from glimber.ui.actions import Action
from glimber.ui.room import Room
from glimber.ui.session import Session


class _ToCome(Room):
    """One sentence, a list of what is known already, and the folder where it is edited until then."""

    sentence = ""
    meanwhile = ""
    list_head = ""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        title, text, rest, self.head = QLabel(self.id.title()), QLabel(self.sentence), QLabel(self.meanwhile), QLabel()
        for label, role in ((title, "title"), (text, "large"), (rest, "quiet"), (self.head, "quiet")):
            label.setProperty("role", role)
            label.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName(self.list_head)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.folder = QPushButton("Open the folio's folder")
        self.folder.clicked.connect(self.open_folder)
        panel = QFrame()
        panel.setObjectName("panel")
        inside = QVBoxLayout(panel)
        inside.setContentsMargins(16, 12, 12, 12)
        inside.addWidget(self.head)
        inside.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.addWidget(self.folder)
        row.addStretch(1)
        column = QVBoxLayout()
        column.setSpacing(12)
        column.setContentsMargins(0, 36, 0, 24)
        for widget in (title, text, rest):
            column.addWidget(widget)
        column.addLayout(row)
        column.addWidget(panel, 1)
        column.addStretch(0)
        panel.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        box = QWidget()
        box.setLayout(column)
        box.setMaximumWidth(760)
        layout = QHBoxLayout(self)
        layout.addStretch(1)
        layout.addWidget(box, 8)
        layout.addStretch(1)
        self.refresh()

    def lines(self) -> list[str]:
        """What the list shows."""
        raise NotImplementedError

    def head_text(self, count: int) -> str:
        raise NotImplementedError

    def refresh(self) -> None:
        lines = self.lines()
        self.list.clear()
        self.list.addItems(lines)
        self.list.setVisible(bool(lines))
        self.head.setText(self.head_text(len(lines)))

    def number(self) -> int | None:
        return self.list.count()

    def panes(self) -> list[QWidget]:
        return [self.list, self.folder]

    def enter(self) -> None:
        self.list.setFocus()

    def actions_here(self) -> list[Action]:
        return [
            Action(
                f"{self.id}-folder",
                "Open the folio's folder",
                ("o",),
                self.open_folder,
                self.id,
                "open the folder",
                "O",
            )
        ]

    def open_folder(self) -> None:
        """Show the folder where the files are edited by hand."""
        if not QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.session.folder))):
            self.session.told.emit(f"The folio is in {self.session.folder}")


class ArrangeToCome(_ToCome):
    """Until Arrange is built: the findings."""

    id = "arrange"
    sentence = (
        "Here each layer will be laid out on its board: keys pressed instead of described, swapped, lifted and put, "
        "with every collision flagged."
    )
    meanwhile = (
        "Until then layers are written in layouts/, one file a board, and Weigh moves and swaps keys; "
        "a saved file is taken in at once."
    )
    list_head = "Findings"

    def lines(self) -> list[str]:
        return [f"{one.where} · {one.text}" for one in audit(self.session.folio)]

    def head_text(self, count: int) -> str:
        return (
            f"{count} {'finding' if count == 1 else 'findings'} of the audit" if count else "The audit found nothing."
        )
