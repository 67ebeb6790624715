"""The Arrange room: a layer large on its board, the ladder of all layers, the key in front all the way through.

Here it is only put together: the desk has what is in front, verbs change the folio, modes hold the keyboard, views show.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from glimber.core.audit.finding import Finding
from glimber.core.cards.key_face import chord_faces, layer_words
from glimber.core.drawing.short_labels import short_forms_of
from glimber.core.model.chord_boards import beyond, chord_board_id, chord_layer, held_keys, program_of_board
from glimber.core.notation.keys import Gesture
from glimber.store.cache.pictures import icons_of
from glimber.ui.arrange.desk import ArrangeDesk
from glimber.ui.arrange.place import Place, layer_of, layout_of
from glimber.ui.arrange.verbs.base import Panes, act
from glimber.ui.arrange.verbs.boards import BoardVerbs
from glimber.ui.arrange.verbs.does import DoesVerbs
from glimber.ui.arrange.verbs.findings import FindingVerbs
from glimber.ui.arrange.verbs.keys import KeyVerbs
from glimber.ui.arrange.verbs.layers import LayerVerbs
from glimber.ui.arrange.verbs.saying import SayingVerbs
from glimber.ui.arrange.verbs.sequences import SequenceVerbs
from glimber.ui.arrange.verbs.shape import ShapeVerbs
from glimber.ui.arrange.verbs.walking import WalkVerbs
from glimber.ui.arrange.views.canvas import BoardCanvas, Shown
from glimber.ui.arrange.views.ladder import Ladder
from glimber.ui.arrange.views.programs import ProgramsView
from glimber.ui.arrange.views.side import SidePane, flagged_keys, spot_of
from glimber.ui.arrange.views.through import ThroughView
from glimber.ui.paint.plain_text import Label
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Host
from glimber.ui.session.lazy import Lazy
from glimber.ui.session.room import Room
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.audit.checks import AuditMemory
    from glimber.core.decide.carry import CarryPlan
    from glimber.core.engine.events import Event
    from glimber.core.model.board import Board
    from glimber.core.model.chord_layers import ChordLayer
    from glimber.core.model.folio import Folio
    from glimber.ui.arrange.views.carry import CarrySheet
    from glimber.ui.arrange.views.shapepane import ShapePane
    from glimber.ui.arrange.views.tree import SequenceTree
    from glimber.ui.capture.keyboard_grab import HoldMaker, KeyHold

BESIDE_MS = 60
_TALL = 1.5
"""A board less wide than this many times its height has what stands beside it on its right, not below."""
_BELOW, _RIGHT, _LEAST_BELOW = (170, 300), 320, 132


class ArrangeRoom(Room):
    """Everything that is done here is done to the key in front, or to those selected with it."""

    id = "arrange"

    def __init__(self, session: Session, host: Host, parent: QWidget) -> None:
        super().__init__(session, host, parent)
        self.desk = ArrangeDesk(session)
        self.title, self.how, self.count, self.mode, self.empty = Label(), Label(), Label(), Label(), Label()
        self.boards = QComboBox()
        self.ladder, self.canvas, self.through, self.side = Ladder(), BoardCanvas(), ThroughView(), SidePane()
        self.programs = ProgramsView()
        self.shape = Lazy(self._make_shape)
        self.tree, self.carrying = Lazy(self._make_tree), Lazy(self._make_carrying)
        self._carry: Callable[[bool], None] = lambda keep: None
        self._audit = Lazy(_audit_memory)
        self._folded = self._complete = False
        self._lay_out()
        self._make_verbs(self._hold)
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        self.title.setProperty("role", "title")
        for label in (self.how, self.count):
            label.setProperty("role", "quiet")
        self.mode.setProperty("role", "lit")
        self.mode.setWordWrap(True)
        self.empty.setText("Import a program's shortcuts in Gather: they appear here on your keyboard.")
        self.empty.setProperty("role", "large")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.boards.setAccessibleName("Board")
        head = QHBoxLayout()
        head.setSpacing(14)
        for widget in (self.title, self.how):
            head.addWidget(widget)
        head.addStretch(1)
        head.addWidget(self.mode, 100)
        head.addWidget(self.count)
        head.addWidget(self.boards)
        self.beside = QWidget(self)
        self._beside_box = QBoxLayout(QBoxLayout.Direction.LeftToRight, self.beside)
        self._beside_box.setContentsMargins(0, 0, 0, 0)
        self._beside_box.setSpacing(14)
        self._beside_box.addWidget(self.through, 7)
        self._beside_box.addWidget(self.programs, 7)
        self._beside_box.addWidget(self.side, 6)
        self._body = QBoxLayout(QBoxLayout.Direction.TopToBottom)
        self._body.setSpacing(8)
        self._body.addWidget(self.canvas, 1)
        self._body.addWidget(self.beside)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addLayout(head)
        middle.addWidget(self.empty, 1)
        middle.addLayout(self._body, 1)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(14, 10, 14, 10)
        self._row.setSpacing(12)
        self._row.addWidget(self.ladder)
        self._row.addLayout(middle, 1)

    def _hold(self, tell: Callable[[Event, float], None]) -> KeyHold:
        """Return the keyboard held by the board."""
        from glimber.ui.capture.keyboard_grab import KeyHold

        return KeyHold(self.canvas, tell)

    def _make_verbs(self, hold: HoldMaker) -> None:
        desk, host = self.desk, self.host
        self.walking = WalkVerbs(desk, host)
        self.keys = KeyVerbs(desk, host, hold)
        self.saying = SayingVerbs(desk, host)
        self.does = DoesVerbs(desk, host, hold)
        self.layers = LayerVerbs(desk, host)
        self.board_verbs = BoardVerbs(desk, host, hold, self._show_plan)
        self.shaping = ShapeVerbs(desk, host)
        self.findings = FindingVerbs(desk, host, self.side.finding_in_front, self._command_in_front,
                                     self.side.command_in_front)  # fmt: skip
        self.sequences = SequenceVerbs(desk, host, self._open_tree)

    def _connect(self) -> None:
        desk, keys = self.desk, self.keys
        desk.shown.connect(self.show_place)
        desk.elsewhere.connect(self._elsewhere)
        desk.wanted.connect(self.canvas.setFocus)
        desk.shaping_changed.connect(self._show_shape)
        self.boards.activated.connect(lambda _: desk.go_board(str(self.boards.currentData())))
        self.ladder.chosen.connect(desk.go_layer)
        self.ladder.itemActivated.connect(lambda _: self.canvas.setFocus())
        self.canvas.pointed.connect(self._pointed)
        self.canvas.dragged.connect(keys.drag)
        self.canvas.dropped.connect(self._dropped)
        self.side.bench.dropped.connect(self._command_dropped)
        self.side.finding_chosen.connect(self._finding_chosen)
        self.through.chosen.connect(self._cell_chosen)
        self.programs.chosen.connect(self._program_chosen)
        self.canvas.held.connect(desk.peek)
        self._keys = QTimer(self)
        self._keys.setSingleShot(True)
        self._keys.setInterval(BESIDE_MS)
        self._keys.timeout.connect(self.host.show_numbers)
        desk.shown.connect(self._keys.start)
        self._beside = QTimer(self)
        self._beside.setSingleShot(True)
        self._beside.setInterval(BESIDE_MS)
        self._beside.timeout.connect(self.show_beside)

    def _make_shape(self) -> ShapePane:
        """Return the shape of the board, on its right while that is what is edited."""
        from glimber.ui.arrange.views.shapepane import ShapePane

        made = ShapePane(self.shaping.send, self.desk.tell)
        made.guess.clicked.connect(self.shaping.guess)
        self._row.addWidget(made)
        return made

    def _make_tree(self) -> SequenceTree:
        from glimber.ui.arrange.views.tree import SequenceTree

        made, verbs, focus = SequenceTree(self), self.sequences, lambda: self.tree().tree.setFocus()

        made.pressed.connect(lambda one: verbs.press(one, focus))
        made.named.connect(lambda one: verbs.name(made.program_id(), one, focus))
        made.opened.connect(lambda one: verbs.stay_open(made.program_id(), one))
        made.closed.connect(lambda one: verbs.ask_closing(made.program_id(), one, focus))
        made.dialog.connect(lambda one: verbs.ask_dialog(made.program_id(), one, focus))
        made.taken_off.connect(verbs.take_off)
        made.left.connect(self.canvas.setFocus)
        return made

    def _make_carrying(self) -> CarrySheet:
        from glimber.ui.arrange.views.carry import CarrySheet

        made = CarrySheet(self)
        made.taken.connect(lambda keep: self._carry(keep))
        return made

    def _show_plan(self, folio: Folio, plan: CarryPlan, done: Callable[[bool], None]) -> None:
        self._carry = done
        self.carrying().show_plan(folio, plan)

    def _open_tree(self, programs: Sequence[str], program: str | None) -> None:
        self.tree().open(self.session.folio, programs, program)

    # As a room

    def number(self) -> int | None:
        """Findings."""
        return len(self.side.findings)

    def panes(self) -> list[QWidget]:
        return [self.ladder, self.canvas, self.side.bench, self.side.list]

    def enter(self) -> None:
        self.canvas.setFocus()

    def leave(self) -> None:
        self.desk.end_mode()

    def close_down(self) -> None:
        self.desk.end_mode()

    def actions_here(self) -> list[Action]:
        panes = Panes(self.canvas, self.side.bench, self.side.list)
        keys = self.keys.actions(panes, self._command_in_front)
        return [
            *self.walking.actions(panes), *keys, *self.does.actions(), *self.walking.to_others(), *self.findings.actions(panes),
            *self.saying.actions(), *self.layers.actions(), *self.board_verbs.actions(), *self.shaping.actions(panes),
            *self.sequences.actions(),
            act("fold", "Fold or show the panes beside the board", "z", self.fold),
            act("leave", "Stop the current mode", "Escape", self.desk.end),
        ]  # fmt: skip

    def choose(self, binding: str) -> None:
        """Bring the spot of a binding to the front."""
        found = self.session.folio.bindings.get(binding)
        if found is not None:
            self.desk.go_binding(found)

    # The room that things have

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def fold(self) -> None:
        """Fold what stands beside the board away, so that the board has the whole room, or show it again."""
        self._folded = not self._folded
        self._fit()

    def _fit(self) -> None:
        """The board as large as the room allows; the rest below it, or on its right where the board is tall."""
        place = self.desk.place
        shown = place is not None
        self.ladder.setVisible(shown and not self._folded)
        self.beside.setVisible(shown and not (self._folded or self.desk.shaping))
        if place is None:
            return
        left, top, right, bottom = self.desk.folio.boards[place.board].extent
        tall = (right - left) / (bottom - top) < _TALL
        directions = QBoxLayout.Direction
        self._body.setDirection(directions.LeftToRight if tall else directions.TopToBottom)
        self._beside_box.setDirection(directions.TopToBottom if tall else directions.LeftToRight)
        self.side.lie(across=not tall)
        wide = self.width() - 40 - (self.ladder.width() if self.ladder.isVisibleTo(self) else 0)
        if tall:
            self.beside.setMinimumSize(_RIGHT, 0)
            self.beside.setMaximumSize(max(_RIGHT, round(wide * 0.46)), 16_777_215)
        else:
            room = self.height() - 66
            board = min(self.canvas.largest_u, wide / (right - left)) * (bottom - top) + 16
            low, high = _BELOW
            below = max(min(low, max(_LEAST_BELOW, round(room * 0.42))), min(high, round(room - board)))
            self.beside.setMinimumSize(0, below)
            self.beside.setMaximumSize(16_777_215, below)

    def _show_shape(self) -> None:
        if self.desk.shaping or self.shape.made is not None:
            self.shape().setVisible(self.desk.shaping)
        self._fit()

    # What is shown

    def refresh(self) -> None:
        self.desk.refresh()
        shown = self.desk.place is not None
        self.canvas.setVisible(shown)
        self.empty.setVisible(not shown)
        for widget in (self.title, self.how, self.boards):
            widget.setVisible(shown)
        self.canvas.icons = icons_of(self.session.folder)
        self.canvas.short = short_forms_of(self.session.folio)
        self._show_boards()
        self._fit()
        self.show_place()
        if self.tree.made is not None:
            self.tree.made.show_folio(self.session.folio)
        # The board is seen first: the bench and the audit follow when no key is struck for a moment.
        if self._complete:
            self._beside.start()

    def complete(self) -> None:
        self._complete = True
        self._beside.start()

    def show_beside(self) -> None:
        """Show the bench and the findings beside the board, with their flags on it."""
        self._beside.stop()
        self.side.show_bench(self.session.folio)
        self._show_findings()
        self.show_place()
        self.host.show_numbers()

    def _show_findings(self) -> None:
        from glimber.core.audit.checks import audit

        found = audit(self.session.folio, self.session.computer, self._audit())
        place = self.desk.place
        self.side.show_findings(found, partial(flagged_keys, self.session.folio, place))

    def _elsewhere(self) -> None:
        self._show_findings()
        self._show_boards()
        self._fit()

    def _show_boards(self) -> None:
        folio, place = self.desk.folio, self.desk.place
        here = [str(self.boards.itemData(row)) for row in range(self.boards.count())]
        if here != list(folio.layouts):
            self.boards.clear()
            for id in folio.layouts:
                self.boards.addItem(folio.boards[id].name, id)
        if place is not None:
            self.boards.setCurrentIndex(list(folio.layouts).index(place.board))
        self.boards.setVisible(self.boards.count() > 1)

    def show_place(self) -> None:
        """Show the place in front: everything but the folio is as it was."""
        folio, place = self.desk.folio, self.desk.place
        if place is None:
            self.title.setText("Arrange")
            self.how.setText("")
            self.count.setText("")
            return
        layout, layer, board = layout_of(folio, place), layer_of(folio, place), folio.boards[place.board]
        self.title.setText(layer.name)
        chords = chord_layer(self.session.folio, place.board, place.layer)
        if chords is None:
            self.canvas.show_layer(folio, board, layer)
            self.how.setText(f"{board.id}, {layer_words(folio, layout, layer)}")
            keys = len({key for name in layer.by_key for key in name.split("&")})
            bindings = "1 binding" if len(layer.bindings) == 1 else f"{len(layer.bindings)} bindings"
            self.count.setText(f"{keys} of {len(board.keys) + len(board.knobs)} keys used, {bindings}")
        else:
            self._show_chords(place, board, chords)
        self.mode.setText(self.desk.words())
        # In the head's own line, so that the board keeps its size while a mode is on.
        self.mode.setVisible(bool(self.mode.text()))
        for label in (self.how, self.count):
            label.setVisible(not self.mode.text())
        if self.desk.shaping:
            self.shape().show_keys(board, place.keys)
        self.canvas.mark(self._marks(place))
        if chords is None:
            self.through.show_place(folio, place)
        else:
            self.programs.show_place(self.session.folio, place)
        self.through.setVisible(chords is None)
        self.programs.setVisible(chords is not None)
        self.ladder.show_layout(folio, layout, place.layer)

    def _show_chords(self, place: Place, board: Board, layer: ChordLayer) -> None:
        """Show a program's chords on the ordinary keyboard."""
        folio, program = self.session.folio, program_of_board(place.board) or ""
        made = chord_faces(folio, board, layer, program)
        self.canvas.show_faces(board, made, (folio.programs[program], layer.id))
        self.how.setText(f"{folio.programs[program].name} · this keyboard")
        taken, free = sum(bool(face.taken) for face in made.values()), sum(face.free for face in made.values())
        words = [f"{layer.count} bound", f"{taken} used by the desktop" if taken else "", f"{free} free"]
        hidden = beyond(self.desk.folio, place.board, layer.id)
        words.append(f"{hidden} more on other keys, Shift+Z" if hidden else "")
        self.count.setText(", ".join(word for word in words if word))

    def _marks(self, place: Place) -> Shown:
        carried, lights = self.desk.carried, self.desk.lights
        lifted = carried.lifted
        here = lifted is not None and (lifted.board, lifted.layer) == (place.board, place.layer)
        return Shown(
            place.key, place.selected, lifted.key if lifted and here else None, carried.marked, lights.lit | self._held(place),
            lights.dim, self.side.flags(),
        )  # fmt: skip

    def _held(self, place: Place) -> frozenset[str]:
        """Return the modifier keys that are down on a layer of chords."""
        layer = chord_layer(self.session.folio, place.board, place.layer)
        return held_keys(layer) if layer is not None else frozenset()

    # What was pointed at

    def _command_in_front(self) -> str | None:
        return self.side.command_in_front() if self.side.bench.hasFocus() else None

    def _pointed(self, key: str, add: bool) -> None:
        self.desk.point(key, add)
        self.keys.pointed()

    def _dropped(self, key: str, at: QPoint) -> None:
        """A key was dragged out of the board: onto a layer of the ladder, or onto the bench."""
        layer = self.ladder.layer_at(at)
        if layer is not None:
            self.keys.drop_on_layer(key, layer)
        elif self.side.bench.rect().contains(self.side.bench.mapFromGlobal(at)):
            self.keys.drop_on_bench(key)

    def _command_dropped(self, row: int, at: QPoint) -> None:
        key = self.canvas.key_at(QPointF(self.canvas.mapFromGlobal(at)))
        ref = self.side.command_at(row)
        if key is not None and ref is not None:
            self.keys.drop_command(ref, key)

    def _cell_chosen(self, layer: str, gesture: Gesture) -> None:
        self.desk.go_layer(layer, gesture)
        self.canvas.setFocus()

    def _program_chosen(self, program: str, layer: str) -> None:
        """A cell of another program, or of another set of modifiers, was clicked: the same key there."""
        place, board = self.desk.place, chord_board_id(program)
        if place is not None and board in self.desk.folio.layouts:
            self.desk.move_to(replace(place, board=board, layer=layer, selected=frozenset()))
        self.canvas.setFocus()

    def _finding_chosen(self, finding: Finding) -> None:
        spot = spot_of(finding)
        if spot is not None:
            self.desk.go_spot(spot)
        elif finding.bindings:
            self.choose(finding.bindings[0])


def _audit_memory() -> AuditMemory:
    from glimber.core.audit.checks import AuditMemory

    return AuditMemory()
