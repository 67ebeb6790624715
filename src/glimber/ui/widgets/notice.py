"""The band under the top line that says what is wrong with a file, line by line, while the last good value stays."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from glimber.ui.paint.plain_text import Label
from glimber.ui.session.session import Session

_SHOWN = 5


class Notice(QFrame):
    """Hidden while there is nothing to say. Faults of files stay until they are mended; other words can be put away."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("notice")
        self.setAccessibleName("What is wrong")
        self._session = session
        self._lines: list[str] = []
        self._held_back = False
        self.head, self.text = Label(), Label()
        self.head.setProperty("role", "large")
        self.text.setWordWrap(True)
        self.text.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.TextSelectableByKeyboard
        )
        self.close_button = QPushButton("Put away")
        self.close_button.clicked.connect(self.put_away)
        words = QVBoxLayout()
        words.setSpacing(4)
        words.addWidget(self.head)
        words.addWidget(self.text)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.addLayout(words, 1)
        layout.addWidget(self.close_button, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()
        session.faults_changed.connect(self._show_faults)
        if session.faults:
            self._show_faults()

    def say(self, lines: list[str]) -> None:
        """Say something that went wrong; it stays until it is put away."""
        self._put("This could not be done. Nothing was changed.", lines, True)

    def tell(self, head: str, lines: list[str]) -> None:
        """Say something that is to be known; it stays until it is put away."""
        self._put(head, lines, True)

    def put_away(self) -> None:
        """Close it; a file that is still broken is reported again at its next change."""
        self._lines = []
        self.hide()

    def hold_back(self, held: bool) -> None:
        """During a round nothing but the prompt is shown."""
        self._held_back = held
        self.setVisible(bool(self._lines) and not held)

    def _show_faults(self) -> None:
        faults = [str(fault) for fault in self._session.faults]
        if faults:
            what = "A file of the folio is broken" if len(faults) == 1 else f"{len(faults)} faults in the folio's files"
            shown = "The rest is shown" if self._session.opened.faults else "The last good value is shown"
            self._put(f"{what}. {shown} until it is fixed.", faults, False)
        else:
            self.put_away()

    def _put(self, head: str, lines: list[str], closable: bool) -> None:
        self._lines = lines
        shown = lines[:_SHOWN]
        if len(lines) > _SHOWN:
            shown = [*shown, f"and {len(lines) - _SHOWN} more"]
        self.head.setText(head)
        self.text.setText("\n".join(shown))
        self.setAccessibleDescription(f"{head} {' '.join(shown)}")
        self.close_button.setVisible(closable)
        self.setVisible(not self._held_back)
