"""The Arrange room: a layer large on its board, the ladder of all layers, the key in front all the way through."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from glimber.core.cards.keyface import layer_words
from glimber.core.folio.walk import Way, reading_order, step_from
from glimber.core.notation.keys import Gesture
from glimber.ui.actions import Action
from glimber.ui.arrange.canvas import BoardCanvas, Shown
from glimber.ui.arrange.keys import arrange_actions
from glimber.ui.arrange.ladder import Ladder
from glimber.ui.arrange.place import Place, gestures_of, layer_of, layout_of, settled
from glimber.ui.arrange.side import SidePane, spot_of
from glimber.ui.arrange.through import ThroughView
from glimber.ui.room import Room
from glimber.ui.session import Session

if TYPE_CHECKING:
    from glimber.core.audit import AuditMemory
    from glimber.ui.arrange.boards import BoardDoing
    from glimber.ui.arrange.doing import Doing
    from glimber.ui.arrange.shapepane import ShapePane
    from glimber.ui.window import Window

BESIDE_MS = 60


class ArrangeRoom(Room):
    """Everything that is done here is done to the key in front, or to those selected with it."""

    id = "arrange"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.place: Place | None = None
        self.lifted: Place | None = None
        self.marked: str | None = None
        self.lit: frozenset[str] = frozenset()
        self.dim: frozenset[str] = frozenset()
        self.title, self.how, self.count = QLabel(), QLabel(), QLabel()
        self.mode = QLabel()
        self.title.setProperty("role", "title")
        for label in (self.how, self.count):
            label.setProperty("role", "quiet")
        self.mode.setProperty("role", "lit")
        self.mode.setWordWrap(True)
        self.boards = QComboBox()
        self.boards.setAccessibleName("Board")
        self.boards.activated.connect(lambda _: self.go_board(str(self.boards.currentData())))
        self.ladder, self.canvas, self.through, self.side = Ladder(), BoardCanvas(), ThroughView(), SidePane()
        self.empty = QLabel("No board is laid out yet. N lays one out; glimber new begins with one.")
        self.empty.setProperty("role", "large")
        self.ladder.currentRowChanged.connect(self._rung_chosen)
        self.canvas.pointed.connect(self._pointed)
        self.through.chosen.connect(self._cell_chosen)
        self.side.finding_chosen.connect(self._finding_chosen)
        self.window_of: Window | None = None
        self.numbers_changed: Callable[[], None] = lambda: None
        self._beside = QTimer(self)
        self._beside.setSingleShot(True)
        self._beside.setInterval(BESIDE_MS)
        self._beside.timeout.connect(self.show_beside)
        self._lay_out()
        self.refresh()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setSpacing(14)
        for widget in (self.title, self.how):
            head.addWidget(widget)
        head.addStretch(1)
        head.addWidget(self.count)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addLayout(head)
        middle.addWidget(self.mode)
        middle.addWidget(self.empty)
        middle.addWidget(self.canvas, 1)
        middle.addWidget(self.through)
        left = QVBoxLayout()
        left.addWidget(self.boards)
        left.addWidget(self.ladder, 1)
        self.left = QWidget()
        self.left.setLayout(left)
        left.setContentsMargins(0, 0, 0, 0)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 14, 14, 12)
        layout.setSpacing(14)
        layout.addWidget(self.left)
        layout.addLayout(middle, 1)
        layout.addWidget(self.side)

    # Made when they are first needed: the first frame shows a layer, and does nothing to it

    @cached_property
    def memory(self) -> AuditMemory:
        """What the audit found before."""
        from glimber.core.audit import AuditMemory

        return AuditMemory()

    @cached_property
    def doing(self) -> Doing:
        """What is done to keys and layers."""
        from glimber.ui.arrange.doing import Doing

        made = Doing(self)
        self.canvas.dragged.connect(made.drag)
        self.canvas.dropped.connect(made.drop)
        self.side.bench.dropped.connect(made.drop_command)
        return made

    @cached_property
    def boarding(self) -> BoardDoing:
        """What is done to boards."""
        from glimber.ui.arrange.boards import BoardDoing

        return BoardDoing(self)

    @cached_property
    def shape(self) -> ShapePane:
        """The shape of the board, beside it."""
        from glimber.ui.arrange.shapepane import ShapePane

        made = ShapePane(self.boarding.send, self.session.told.emit)
        made.guess.clicked.connect(self.boarding.guess)
        layout = self.layout()
        assert layout is not None
        layout.addWidget(made)
        return made

    def complete(self) -> None:
        self.doing.stop()
        self.show_place()

    def _mode(self) -> str:
        """What is going on, in words."""
        if "doing" not in self.__dict__:
            return ""
        return self.boarding.check.words() or self.doing.mode_words()

    # As a room

    def number(self) -> int | None:
        """Findings."""
        return len(self.side.findings)

    def panes(self) -> list[QWidget]:
        return [self.ladder, self.canvas, self.side.bench, self.side.list]

    def wire(self, window: Window) -> None:
        self.numbers_changed = window.show_numbers
        self.window_of = window

    def enter(self) -> None:
        self.canvas.setFocus()

    def leave(self) -> None:
        if "doing" in self.__dict__:
            self.doing.stop()
            self.boarding.check.stop()

    def actions_here(self) -> list[Action]:
        return arrange_actions(self)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_side()

    def _show_side(self) -> None:
        """Bench and findings, or the shape of the board while that is what is edited."""
        shaping = "boarding" in self.__dict__ and self.boarding.shaping
        self.side.setVisible(self.width() >= 960 and not shaping)
        if shaping or "shape" in self.__dict__:
            self.shape.setVisible(shaping)

    def refresh(self) -> None:
        folio = self.session.folio
        self.place = settled(folio, self.place)
        if self.lifted is not None and self.lifted.board not in folio.layouts:
            self.lifted = None
        for widget in (self.canvas, self.through, self.left):
            widget.setVisible(self.place is not None)
        self.empty.setVisible(self.place is None)
        self._show_boards()
        self.show_place()
        # The board is seen first: the bench and the audit follow when no key is struck for a moment.
        self._beside.start()

    def show_beside(self) -> None:
        """What stands beside the board: the bench and the findings, with their flags on it."""
        self._beside.stop()
        self.side.show_bench(self.session.folio)
        self._show_findings()
        self.show_place()
        self.numbers_changed()

    def _show_findings(self) -> None:
        from glimber.core.audit import audit

        found = audit(self.session.folio, self.session.computer, self.memory)
        board, layer = (self.place.board, self.place.layer) if self.place else ("", "")
        self.side.show_findings(found, board, layer)

    def _show_boards(self) -> None:
        folio = self.session.folio
        here = [str(self.boards.itemData(row)) for row in range(self.boards.count())]
        if here != list(folio.layouts):
            self.boards.clear()
            for id in folio.layouts:
                self.boards.addItem(folio.boards[id].name, id)
        if self.place is not None:
            self.boards.setCurrentIndex(list(folio.layouts).index(self.place.board))
        self.boards.setVisible(self.boards.count() > 1)

    # The place

    def show_place(self) -> None:
        """Show the place in front: everything but the folio is as it was."""
        folio, place = self.session.folio, self.place
        if place is None:
            self.title.setText("Arrange")
            self.how.setText("")
            self.count.setText("")
            return
        layout, layer, board = layout_of(folio, place), layer_of(folio, place), folio.boards[place.board]
        self.title.setText(layer.name)
        self.how.setText(f"{board.id}, {layer_words(folio, layout, layer)}")
        keys = len({key for name in layer.by_key for key in name.split("&")})
        self.count.setText(f"{keys} of {len(board.keys) + len(board.knobs)} keys, {len(layer.bindings)} bindings")
        self.mode.setText(self._mode())
        self._show_side()
        if "boarding" in self.__dict__ and self.boarding.shaping:
            self.shape.show_keys(board, place.keys)
        self.mode.setVisible(bool(self.mode.text()))
        self.canvas.show_layer(folio, board, layer)
        lifted = self.lifted
        here = lifted is not None and (lifted.board, lifted.layer) == (place.board, place.layer)
        self.canvas.mark(Shown(
            place.key, place.selected, lifted.key if lifted and here else None,
            self.marked, self.lit, self.dim, self.side.flags(place.board, place.layer),
        ))  # fmt: skip
        self.through.show_place(folio, place)
        self.ladder.show_layout(folio, layout, place.layer)

    def move_to(self, place: Place) -> None:
        """Bring another place to the front."""
        before = self.place
        self.place = settled(self.session.folio, place)
        if before is None or self.place is None or (before.board, before.layer) != (self.place.board, self.place.layer):
            self._show_findings()
            self._show_boards()
        self.show_place()

    def walk(self, way: Way, extend: bool = False) -> None:
        """Walk to the next key in a direction; with ``extend`` those passed are selected."""
        place = self.place
        if place is None:
            return
        board = self.session.folio.boards[place.board]
        to = step_from(board, place.key.partition("&")[0], way)
        selected = place.selected | {place.key, to} if extend else frozenset()
        self.move_to(replace(place, key=to, selected=selected))

    def walk_layers(self, by: int) -> None:
        """The layer before or after."""
        if self.place is None:
            return
        ids = [layer.id for layer in layout_of(self.session.folio, self.place).layers]
        at = ids.index(self.place.layer)
        self.move_to(replace(self.place, layer=ids[(at + by) % len(ids)], selected=frozenset()))

    def walk_boards(self, by: int) -> None:
        """The board before or after."""
        ids = list(self.session.folio.layouts)
        if self.place is not None and len(ids) > 1:
            self.go_board(ids[(ids.index(self.place.board) + by) % len(ids)])

    def walk_gestures(self, by: int = 1) -> None:
        """The next gesture of the key in front."""
        if self.place is not None:
            ways = gestures_of(self.session.folio.boards[self.place.board], self.place.key)
            self.move_to(replace(self.place, gesture=ways[(ways.index(self.place.gesture) + by) % len(ways)]))

    def go_board(self, board: str) -> None:
        """Bring a board to the front, on its first layer."""
        self.move_to(Place(board, "", "", "tap"))
        self.canvas.setFocus()

    def select_all(self) -> None:
        """Every key of the board, or none where all are selected."""
        if self.place is not None:
            every = frozenset(reading_order(self.session.folio.boards[self.place.board]))
            self.move_to(replace(self.place, selected=frozenset() if self.place.selected == every else every))

    def choose(self, binding: str) -> None:
        """Bring the spot of a binding to the front."""
        found = self.session.folio.bindings.get(binding)
        spot = found.trigger if found is not None else None
        if spot is not None and hasattr(spot, "layer"):
            self.move_to(Place(spot.board, spot.layer, spot.key, spot.gesture))

    # What was pointed at

    def _rung_chosen(self, row: int) -> None:
        if self.place is not None and 0 <= row < len(self.ladder.layers):
            self.move_to(replace(self.place, layer=self.ladder.layers[row].id, selected=frozenset()))

    def _pointed(self, key: str, add: bool) -> None:
        if self.place is not None:
            selected = (self.place.selected | {self.place.key}) ^ {key} if add else frozenset()
            self.move_to(replace(self.place, key=key, selected=selected))
            self.doing.pointed()

    def _cell_chosen(self, layer: str, gesture: Gesture) -> None:
        if self.place is not None:
            self.move_to(replace(self.place, layer=layer, gesture=gesture, selected=frozenset()))
            self.canvas.setFocus()

    def _finding_chosen(self, row: int) -> None:
        spot = spot_of(self.side.findings[row]) if 0 <= row < len(self.side.findings) else None
        if spot is not None and spot.board in self.session.folio.layouts:
            self.move_to(Place(spot.board, spot.layer, spot.key, spot.gesture))
