"""All settings in one sheet: the person's own and the folio's, each with its effect seen at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Final

from msgspec import Struct
from PySide6.QtCore import QEvent, QObject, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QFrame,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.decide.plan import MINUTES
from glimber.core.edit.edit import EditError
from glimber.core.edit.settings import NUMBERS, number_of, set_setting
from glimber.core.practice.options import DEADLINES
from glimber.store.faults import StoreError
from glimber.store.settings import UserSettings, remember
from glimber.ui.paint.fonts import font, put_text
from glimber.ui.paint.look import BODY, SMALL
from glimber.ui.paint.plain_text import Label
from glimber.ui.paint.style import theme
from glimber.ui.session.host import Choice, Host
from glimber.ui.session.session import Session
from glimber.ui.shell.find import Found
from glimber.ui.shell.window_place import SCALES
from glimber.ui.widgets.rows import Index, PaintedRow
from glimber.ui.widgets.sheet_over import Cover

_ROW: Final = 52
_PRINTS: Final = ("us", "gb", "de", "de(nodeadkeys)", "fr", "es", "it", "pt", "se", "no", "dk", "fi", "pl", "cz", "ch", "ru",
                  "us(dvorak)", "us(colemak)", "us(intl)")  # fmt: skip


class Setting(Struct, frozen=True):
    """One row: ``value`` as it is now, ``choices`` it may be (none: it is written), ``put`` makes it so. Raises EditError,
    StoreError."""

    id: str
    name: str
    detail: str
    value: Callable[[], str]
    put: Callable[[str], None]
    choices: Callable[[], Sequence[str]] = tuple
    words: Callable[[str], str] = str


class Settings:
    """The rows, and what carries them out. ``themed`` is told a theme, ``anew`` that everything is to be drawn anew, ``resized``
    that the size is another."""

    def __init__(
        self, session: Session, themed: Callable[[str], None], anew: Callable[[], None], resized: Callable[[], None]
    ) -> None:
        self._session, self._themed, self._anew, self._resized = session, themed, anew, resized

    @property
    def own(self) -> UserSettings:
        return self._session.settings

    def _remember(self, **values: object) -> None:
        self._session.settings = remember(**values)
        self._session.settings_changed.emit()

    def rows(self) -> list[Setting]:
        """Every setting, the person's own first."""
        return [*self._own_rows(), *self._folio_rows()]

    def _own_rows(self) -> list[Setting]:
        def minutes(text: str) -> None:
            self._remember(minutes=float(text))

        def kept(text: str) -> None:
            if not text.strip().isdigit() or not 1 <= int(text) <= 100_000:
                raise EditError(f"{text.strip()!r} is not a size; expected whole megabytes from 1 to 100000")
            self._remember(backups_mb=int(text))

        def named(text: str) -> None:
            self._remember(computer=" ".join(text.split()))
            self._session.edits.computer = self._session.computer
            self._session.weigh_later()
            self._anew()

        return [
            Setting("theme", "Desk", "dark, day, or as the desktop is", lambda: self.own.theme, self._themed,
                    lambda: ("dark", "day", "desktop"), lambda one: "as the desktop" if one == "desktop" else one),
            Setting("scale", "Size", "type, keys and all; it starts anew in it", lambda: str(self.own.scale), self._scale,
                    lambda: [str(one) for one in SCALES], lambda one: f"{one} %"),
            Setting("computer", "This computer", "its name in bindings and tries", lambda: self._session.computer, named),
            Setting("minutes", "Round", "how long a round is unless said otherwise", lambda: f"{self.own.minutes:g}", minutes,
                    lambda: [f"{one:g}" for one in MINUTES], lambda one: f"{one} min"),
            Setting("deadline", "Deadline", "how long a prompt waits", lambda: self.own.deadline,
                    lambda one: self._remember(deadline=one), lambda: DEADLINES,
                    lambda one: {"fixed": "4 s", "adaptive": "by your own times"}.get(one, one)),
            Setting("day-page", "Day's page", "shown on starting, from the second week on",
                    lambda: self.own.day_page or "shown", lambda one: self._remember(day_page="" if one == "shown" else one),
                    lambda: ("shown", "never")),
            Setting("backups", "Copies of files", "the room they may take; the newest of each file stays whatever it takes",
                    lambda: str(self.own.backups_mb), kept, words=lambda one: f"{one} MB"),
        ]  # fmt: skip

    def _scale(self, text: str) -> None:
        self._remember(scale=int(text))
        self._resized()

    def _folio_rows(self) -> list[Setting]:
        def chosen(id: str, name: str, detail: str, choices: Callable[[], Sequence[str]], unit: str = "") -> Setting:
            return Setting(id, name, detail, lambda: self._said(id), lambda text: self._put(id, name, text), choices,
                           lambda one: f"{one}{unit}")  # fmt: skip

        def number(id: str, name: str, detail: str, unit: str) -> Setting:
            return chosen(id, name, detail, tuple, f" {unit}")

        return [
            chosen("title", "Folio", "its title", tuple),
            chosen("keyboard", "Keyboard", "the ordinary keyboard in front of you", lambda: tuple(self._session.folio.boards)),
            chosen("xkb", "Print", "what is printed on it: layout or layout(variant)", lambda: _PRINTS),
            chosen("away", "Hand away", "a hand that is on a mouse or an instrument", lambda: ("none", "left", "right")),
            number("hold_ms", "Hold", "what is longer is a hold, what is shorter a tap", "ms"),
            number("again_ms", "Again", "how soon the second tap of two comes", "ms"),
            number("together_ms", "Together", "how close two keys struck as one are", "ms"),
            number("sequence_ms", "Sequence", "how long the next step is waited for", "ms"),
            chosen("policy", "Tap or hold", "by the timer, or by what else is struck", lambda: ("timer", "crossed", "eager")),
            number("target_ms", "Target", "a hit this fast is as good as it need be", "ms"),
            number("working_days", "Working days", "in a week", "days"),
            number("horizon_weeks", "Horizon", "over how long a change is to pay", "weeks"),
            number("recovery_s", "Recovery", "what a slip costs", "s"),
            number("careful_recovery_s", "Careful recovery", "what a slip of a careful command costs", "s"),
            number("sure", "Sure", "how sure a change must be to be better", "of 1"),
            number("least_gain_s", "Least gain", "what a change must save", "s a week"),
        ]  # fmt: skip

    def _said(self, id: str) -> str:
        settings = self._session.folio.settings
        value = getattr(settings.timing, id) if hasattr(settings.timing, id) else getattr(settings, id)
        return f"{value:g}" if isinstance(value, float | int) else str(value)

    def _put(self, id: str, name: str, text: str) -> None:
        if id in NUMBERS:
            number_of(id, text)  # told before anything is asked of the folio
        self._session.edit(f"set {name.lower()}", lambda folio: set_setting(folio, id, text))


class SettingsSheet(Cover):
    """The sheet: ↑↓ choose a row, ←→ another value, Enter writes or chooses one, Esc leaves."""

    def __init__(self, parent: QWidget, settings: Settings, host: Host, told: Callable[[str], None]) -> None:
        super().__init__(parent)
        self._settings, self._host, self._told = settings, host, told
        self._rows: list[Setting] = []
        self.box = QFrame(self)
        self.box.setObjectName("panel")
        self.head = Label("Settings")
        self.head.setProperty("role", "title")
        self.list = QListWidget()
        self.list.setAccessibleName("Settings")
        self.list.setItemDelegate(_Row(self))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.list.installEventFilter(self)
        self.list.itemDoubleClicked.connect(lambda _: self.enter())
        self.hint = Label(
            "↑ ↓ choose · ← → another value · Enter write it · Esc leaves; Ctrl+Z takes an edit of the folio back"
        )
        self.hint.setProperty("role", "quiet")
        layout = QVBoxLayout(self.box)
        layout.setContentsMargins(24, 18, 24, 14)
        layout.addWidget(self.head)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.hint)

    def found(self) -> list[Found]:
        """Every setting, to be gone to by its name."""
        found = []
        for one in self._settings.rows():
            words = f"setting {one.name} {one.detail}"
            found.append(Found(one.name, f"setting · {one.words(one.value())}", words, partial(self.open, one.id)))
        return found

    def refresh(self) -> None:
        """Show settings that changed elsewhere."""
        if self.isVisible():
            self._fill()

    def open(self, id: str = "") -> None:
        """Lay it over the room, with a setting in front."""
        self._fill(id)
        self.lay()
        self.list.setFocus()

    def _fill(self, id: str = "") -> None:
        here = self.list.currentRow()
        self._rows = self._settings.rows()
        self.list.clear()
        for one in self._rows:
            item = QListWidgetItem(f"{one.name}: {one.words(one.value())}. {one.detail}")
            self.list.addItem(item)
        place = next((n for n, one in enumerate(self._rows) if one.id == id), max(0, here))
        self.list.setCurrentRow(place)

    def row(self, place: int) -> Setting | None:
        """Return what a row of the list is."""
        return self._rows[place] if 0 <= place < len(self._rows) else None

    def arrange(self) -> None:
        width, height = (
            min(720, self.width() - 80, self.window().width() - 48),
            min(self.height() - 80, 150 + _ROW * len(self._rows)),
        )
        self.box.setGeometry((self.width() - width) // 2, (self.height() - height) // 2, width, height)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is not self.list or not isinstance(event, QKeyEvent):
            return bool(super().eventFilter(watched, event))
        if event.type() == QEvent.Type.ShortcutOverride:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                return False  # undo works here too
            event.accept()
            return True
        if event.type() != QEvent.Type.KeyPress:
            return False
        if event.key() == Qt.Key.Key_Escape:
            self.take_away()
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.step(1 if event.key() == Qt.Key.Key_Right else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.enter()
        else:
            return False
        return True

    def step(self, by: int) -> None:
        """The next value of a setting that has some, or the one before."""
        one = self.row(self.list.currentRow())
        choices = list(one.choices()) if one is not None else []
        if one is None or not choices:
            return
        now = one.value()
        place = choices.index(now) if now in choices else -1 if by > 0 else 0
        self.put(one, choices[(place + by) % len(choices)])

    def enter(self) -> None:
        """Have a value chosen or written."""
        one = self.row(self.list.currentRow())
        if one is None:
            return

        def taken(value: object) -> None:
            self.put(one, str(value))
            self.open(one.id)

        choices = [Choice(one.words(value), value=value) for value in one.choices()]
        self.take_away()
        free = not choices or one.id == "xkb"
        self._host.choose(one.name, taken, choices, text="" if choices else one.value(), free=free, hint=one.detail)

    def put(self, one: Setting, value: str) -> None:
        """Make it so; what is wrong with it is told."""
        try:
            one.put(value)
        except (EditError, StoreError) as error:
            self._told(str(error))
        self._fill()


class _Row(PaintedRow):
    """Name and value, what it means below."""

    def __init__(self, sheet: SettingsSheet) -> None:
        super().__init__(sheet.list, (200, _ROW))
        self._sheet = sheet

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        one, t = self._sheet.row(index.row()), theme()
        if one is None:
            return
        upper = QRectF(box.left() + 12, box.top() + 4, box.width() * 0.55, 24)
        put_text(painter, upper, one.name, BODY, 600, QColor(t.text))
        put_text(
            painter, QRectF(upper.left(), box.top() + 27, box.width() - 24, 20), one.detail, SMALL, 400, QColor(t.quiet)
        )
        value = one.words(one.value())
        if one.choices() and index.row() == self._sheet.list.currentRow():
            value = f"‹ {value} ›"
        right = QRectF(box.left() + box.width() * 0.5, box.top() + 4, box.width() * 0.5 - 14, 24)
        painter.setFont(font(BODY, 600))
        painter.setPen(QColor(t.light))
        text = painter.fontMetrics().elidedText(value, Qt.TextElideMode.ElideRight, int(right.width()))
        painter.drawText(right, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
