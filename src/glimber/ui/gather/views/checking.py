"""Beside the page: what is in front on it, what the page and the folio have, and what will be imported, by groups."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QPointF, QRectF, QSize, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from glimber.core.model.folio import Group
from glimber.core.model.group_marks import next_pair
from glimber.ui.gather.importing import Importing
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import BODY, KEY_RADIUS
from glimber.ui.paint.marks import paint_mark
from glimber.ui.paint.plain_text import Label
from glimber.ui.paint.style import theme
from glimber.ui.widgets.chips_line import ChipsLine
from glimber.ui.widgets.flow import Flow

if TYPE_CHECKING:
    from glimber.ui.gather.checks import Check

_TILE, _TILE_GAP = 40, 8


class GroupTiles(QWidget):
    """Tiles in two columns: for each group, how many rows are imported or there already. The last one counts the rest."""

    def __init__(self) -> None:
        super().__init__()
        self._groups: list[tuple[str, str, str, int]] = []
        self.setMinimumHeight(_TILE)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_groups(self, groups: list[tuple[str, str, str, int]]) -> None:
        """``groups``: name, ink, mark and count of each."""
        self._groups = groups
        self.setAccessibleName(", ".join(f"{name}: {count}" for name, _, _, count in groups))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(320, max(_TILE, -(-len(self._groups) // 2) * (_TILE + _TILE_GAP)))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t, wide = theme(), (self.width() - _TILE_GAP) / 2
        rows = max(1, int((self.height() + _TILE_GAP) // (_TILE + _TILE_GAP)))
        shown = self._groups if len(self._groups) <= 2 * rows else self._groups[: 2 * rows - 1]
        for place, (name, ink, mark, count) in enumerate(shown):
            box = self._box(painter, place, wide)
            paint_mark(painter, mark, QPointF(box.left() + 17, box.center().y()), 11, QColor(t.inks[ink]))
            put_text(painter, box.adjusted(34, 0, -52, 0), name, BODY, 500, QColor(t.text))
            put_text(painter, box.adjusted(0, 0, -14, 0), str(count), BODY, 400, QColor(t.quiet), end=True)
        rest = self._groups[len(shown) :]
        if rest:
            box = self._box(painter, len(shown), wide)
            put_text(painter, box.adjusted(14, 0, -52, 0), f"{len(rest)} more groups", BODY, 400, QColor(t.quiet))
            count = sum(count for *_, count in rest)
            put_text(painter, box.adjusted(0, 0, -14, 0), str(count), BODY, 400, QColor(t.quiet), end=True)

    @staticmethod
    def _box(painter: QPainter, place: int, wide: float) -> QRectF:
        box = QRectF((place % 2) * (wide + _TILE_GAP), (place // 2) * (_TILE + _TILE_GAP), wide, _TILE)
        painter.setPen(QColor(theme().panel))
        painter.setBrush(QColor(theme().panel))
        painter.drawRoundedRect(box, KEY_RADIUS, KEY_RADIUS)
        return box


class CheckPane(QFrame):
    """``decided`` carries True for the page's way and False for the folio's."""

    decided = Signal(bool)

    def __init__(self, importing: Importing, parent: QWidget) -> None:
        super().__init__(parent)
        self.importing = importing
        self.name: str | None = None
        self.count, self.title, self.message = Label(), Label(), Label()
        self.page_label, self.own_label = Label("the page"), Label("yours")
        self.page, self.own = ChipsLine(), ChipsLine()
        self.first, self.second = QPushButton(), QPushButton()
        self.offer = QPushButton()
        self.certain, self.certain_count = Label("Certain"), Label()
        self.groups = GroupTiles()
        self.import_button, self.rest = QPushButton("Import"), Label()
        self.sides, self.verbs = QFrame(), QWidget()
        self._verbs = Flow(6, self.verbs)
        self._lay_out()
        self.first.clicked.connect(lambda: self.decided.emit(True))
        self.second.clicked.connect(lambda: self.decided.emit(False))
        importing.changed.connect(self._changed)
        self._show_rest()

    def _lay_out(self) -> None:
        for label in (self.count, self.message, self.page_label, self.own_label, self.certain, self.certain_count, self.rest):
            label.setProperty("role", "quiet")
        self.title.setProperty("role", "heading")
        for label in (self.title, self.message, self.rest):
            label.setWordWrap(True)
        self.sides.setObjectName("panel")
        sides = QGridLayout(self.sides)
        sides.setContentsMargins(16, 10, 10, 10)
        sides.setColumnStretch(1, 1)
        rows = ((self.page_label, self.page, self.first), (self.own_label, self.own, self.second))
        for row, widgets in enumerate(rows):
            for column, widget in enumerate(widgets):
                sides.addWidget(widget, row, column)
        for button in (self.first, self.second, self.offer):
            button.setProperty("role", "line")
        self.import_button.setProperty("role", "chosen")
        certain, foot = QHBoxLayout(), QHBoxLayout()
        certain.addWidget(self.certain)
        certain.addStretch(1)
        certain.addWidget(self.certain_count)
        foot.addWidget(self.import_button)
        foot.addWidget(self.rest, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        for widget in (self.count, self.title, self.message, self.sides, self.verbs, self.offer):
            layout.addWidget(widget)
        layout.addSpacing(10)
        layout.addLayout(certain)
        layout.addWidget(self.groups, 1)
        layout.addLayout(foot)

    def add_verbs(self, verbs: Sequence[tuple[str, str, Callable[[], object]]]) -> None:
        """Offer what can be done with a row, by mouse as by key: key, words and what it does."""
        for key, words, do in verbs:
            button = QPushButton(f"{key}  {words}")
            button.setProperty("role", "line")
            button.clicked.connect(lambda _=False, do=do: do())
            self._verbs.addWidget(button)

    def add_choices(self, choices: QWidget) -> None:
        """Take the choices of program and column into the pane, above the button that imports."""
        layout = self.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.insertWidget(layout.count() - 1, choices)

    # What is shown

    def check(self) -> Check | None:
        """Return the check in front."""
        if self.name is None:
            return None
        name = self.name.casefold()
        return next((one for one in self.importing.checks() if one.read_as.casefold() == name), None)

    def _changed(self) -> None:
        self.show_front(self.name)
        self._show_rest()

    def show_front(self, name: str | None) -> None:
        """Show a command of the page, by the name it was read as."""
        self.name = name
        found = self.importing.found
        if found is None:
            return
        check = self.check()
        self._show_count(check)
        for widget in (self.title, self.message, self.sides, self.verbs):
            widget.setVisible(name is not None)
        if check is not None:
            self._show_check(check)
        elif name is not None:
            self._show_row(name)
        offer = self.importing.offer
        self.offer.setVisible(offer is not None)
        if offer is not None:
            others = "1 other" if offer.count == 1 else f"{offer.count} others"
            self.offer.setText(f"=  do the same to {others}: {offer.words}")

    def _show_count(self, check: Check | None) -> None:
        opened = self.importing.open_checks()
        if not opened:
            certain = "Everything here is certain" if self.importing.rows.rowCount() else "No shortcut could be read from it"
            self.count.setText("Nothing left to check" if self.importing.checks() else certain)
        elif check in opened:
            self.count.setText(f"To check: {opened.index(check) + 1} of {len(opened)}")
        else:
            self.count.setText(f"{len(opened)} to check · Tab goes to the next")

    def _show_check(self, check: Check) -> None:
        self.title.setText(check.name)
        dropped = check.read_as.casefold() in self.importing.corrections.dropped
        decided = " It is not imported." if dropped else " Decided." if check.decided else ""
        self.message.setText(f"{check.message.removesuffix('.')}.{decided}")
        self.page.show_triggers(check.page)
        self._show_own(check.own)
        self._show_ways(check.ways, True)

    def _show_row(self, name: str) -> None:
        """Show a row that needs no checking, or a line that is none."""
        importing = self.importing
        place = importing.place_of(name)
        self.title.setText(importing.corrections.name_of(name))
        if name.casefold() in importing.corrections.dropped or place is None:
            self.message.setText("No shortcut: it is not imported.")
            found = importing.found
            rows = found.rows if found is not None else []
            self.page.show_triggers(next((row.triggers for row in rows if row.command.casefold() == name.casefold()), ()))
            self._show_own(())
            self._show_ways(("", ""), False)
            return
        one, origin = importing.rows.differences[place], importing.rows.origins[place]
        menus = importing.reading is not None and importing.reading.kind == "menus"
        where = "Menu entry" if menus else f"Line {origin.line}" if origin.line else "On the page"
        group = f", in {shortened(one.row.group, 40)}" if one.row.group else ""
        state = "the folio has it so" if one.kind in ("same", "yours") else (
            "will be imported" if place in importing.rows.ticked else "left out")  # fmt: skip
        more = " New is its menu path, another name, or its keys on another system." if one.kind == "more" else ""
        remark = f" It is {origin.remark}." if not origin.sure and origin.remark else ""
        letters = importing.offered(name)
        ways = f" The letters of its menus are {letters[0]}; V adds them." if letters else ""
        note = f" {one.row.note}" if one.row.note else ""
        self.message.setText(f"{where}{group}: {state}.{remark}{more}{note}{ways}")
        self.page.show_triggers(one.row.triggers)
        self._show_own(one.was if one.kind in ("same", "yours") else ())
        self._show_ways(("import it", "leave it out"), one.to_take)

    def _show_own(self, triggers: Sequence[str]) -> None:
        self.own.show_triggers(triggers)
        for widget in (self.own_label, self.own):
            widget.setVisible(bool(triggers))

    def _show_ways(self, ways: tuple[str, str], offered: bool) -> None:
        self.first.setText(f"1  {ways[0]}")
        self.second.setText(f"2  {ways[1]}")
        for button in (self.first, self.second):
            button.setVisible(offered)

    def _show_rest(self) -> None:
        rows = self.importing.rows
        ticked = len(rows.ticked)
        self.import_button.setText(f"Import {ticked}" if ticked else "Import")
        self.import_button.setEnabled(bool(ticked))
        waiting = len(self.importing.open_checks())
        self.rest.setText("" if not waiting else "The one to check stays marked on the page." if waiting == 1
                          else f"The other {waiting} stay marked on the page until you check them.")  # fmt: skip
        groups = self._groups()
        count = sum(one[3] for one in groups)
        self.certain_count.setText(f"{count} in {len(groups)} groups" if len(groups) > 1 else str(count))
        self.groups.show_groups(groups)

    def _groups(self) -> list[tuple[str, str, str, int]]:
        """Name, ink, mark and count of the groups of what is imported or there already, without what is still to check; new ones
        get the next free pair."""
        importing = self.importing
        rows, folio = importing.rows, importing.folio
        program = folio.programs.get(importing.program_id()) if folio is not None else None
        known = {group.name.casefold(): group for group in program.groups.values()} if program is not None else {}
        waiting = {importing.place_of(check.read_as) for check in importing.open_checks()}
        counts = Counter(
            one.row.group or "No group" for place, one in enumerate(rows.differences)
            if place not in waiting and (place in rows.ticked or one.kind in ("same", "yours"))
        )  # fmt: skip
        made: dict[str, Group] = dict(known)
        found = []
        for name, count in counts.items():
            group = made.get(name.casefold())
            if group is None:
                group = Group(name.casefold(), name, *next_pair(made))
                made[name.casefold()] = group
            found.append((name, group.ink, group.mark, count))
        return found

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.groups.updateGeometry()


VERBS: Final = (("K", "press the keys"), ("E", "another name"), ("X", "the other way round"), ("Del", "no shortcut"))


def shortened(text: str, most: int) -> str:
    """Return a text of at most so many characters, cut at a word."""
    return text if len(text) <= most else f"{text[:most].rpartition(' ')[0] or text[:most]}…"
