"""The selection of the Arrange room: board, layer, key and the current mode. No widgets."""

from __future__ import annotations

from typing import Protocol

from msgspec import Struct, field
from msgspec.structs import replace
from PySide6.QtCore import Signal

from glimber.core.model.chord_boards import program_of_board, spot_on_keyboard, with_chord_boards
from glimber.core.model.chord_layers import held_in_order
from glimber.core.model.describe import key_words
from glimber.core.model.folio import Binding, Folio
from glimber.core.model.walk import Way, reading_order, step_from
from glimber.core.notation.keys import Gesture, Spot, Trigger
from glimber.ui.arrange.place import Place, gestures_of, layer_of, layout_of, settled
from glimber.ui.session.desk import Desk
from glimber.ui.session.session import Session


class Mode(Protocol):
    """The mode that holds the keyboard in the Arrange room, until it lets go."""

    def words(self) -> str:
        """Return what is going on, for the line above the board."""

    def let_go(self) -> None:
        """Let the keyboard go; called by the desk, once."""


class Carried(Struct, frozen=True):
    """The key, layer or board that was lifted and waits to be put down."""

    lifted: Place | None = None
    marked: str | None = None
    copying: Place | None = None


class Lights(Struct, frozen=True):
    """Keys that are lit in free play, and keys of a hand that is away."""

    lit: frozenset[str] = field(default_factory=frozenset)
    dim: frozenset[str] = field(default_factory=frozenset)


class ArrangeDesk(Desk):
    """``shown`` tells that something in front is another, ``elsewhere`` that it is another layer or board; ``wanted`` that the
    board should have the focus; ``shaping_changed`` that the board's shape is what is edited, or no longer."""

    shown = Signal()
    elsewhere = Signal()
    wanted = Signal()
    shaping_changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._place: Place | None = None
        self._settled_in: Folio | None = None
        self.carried = Carried()
        self.lights = Lights()
        self.mode: Mode | None = None
        self.shaping = False
        self.unfolded = False
        self._peeked: str | None = None

    # What there is

    @property
    def folio(self) -> Folio:
        """The folio with the ordinary keyboard as a board of each program. Edits get the stored one."""
        return with_chord_boards(self.session.folio, self.unfolded)

    def refresh(self) -> None:
        """The folio may be another: the place as far as it is still there."""
        self._settled_in = None
        lifted = self.carried.lifted
        if lifted is not None and lifted.board not in self.folio.layouts:
            self.carry(Carried())

    def called(self, place: Place, key: str | None = None) -> str:
        """Return what the key in front, or another one of its board, is called."""
        return key_words(self.folio, place.board, tuple((key or place.key).split("&")))

    def called_spot(self, spot: Spot) -> str:
        """Return what the key of a spot is called."""
        return key_words(self.folio, spot.board, spot.keys)

    # The place

    @property
    def place(self) -> Place | None:
        """Return what is in front, as far as it is there in the folio as it is now, whoever has changed it or opened
        another."""
        folio = self.folio
        if self._settled_in is not folio:
            self._place, self._settled_in = settled(folio, self._place), folio
        return self._place

    @place.setter
    def place(self, place: Place | None) -> None:
        self._place = place

    def move_to(self, place: Place) -> None:
        """Bring another place to the front."""
        before = self.place
        self.place = settled(self.folio, place)
        if before is None or self.place is None or (before.board, before.layer) != (self.place.board, self.place.layer):
            self.elsewhere.emit()
        self.shown.emit()

    def walk(self, way: Way, extend: bool = False) -> None:
        """Walk to the next key in a direction; with ``extend`` those passed are selected."""
        place = self.place
        if place is None:
            return
        to = step_from(self.folio.boards[place.board], place.key.partition("&")[0], way)
        selected = place.selected | {place.key, to} if extend else frozenset()
        self.move_to(replace(place, key=to, selected=selected))

    def walk_layers(self, by: int) -> None:
        """The layer before or after."""
        if self.place is None:
            return
        ids = [layer.id for layer in layout_of(self.folio, self.place).layers]
        at = ids.index(self.place.layer)
        self.move_to(replace(self.place, layer=ids[(at + by) % len(ids)], selected=frozenset()))

    def walk_boards(self, by: int) -> None:
        """The board before or after."""
        ids = list(self.folio.layouts)
        if self.place is not None and len(ids) > 1:
            self.go_board(ids[(ids.index(self.place.board) + by) % len(ids)])

    def walk_gestures(self, by: int = 1) -> None:
        """The next gesture of the key in front."""
        if self.place is not None:
            ways = gestures_of(self.folio.boards[self.place.board], self.place.key)
            self.move_to(replace(self.place, gesture=ways[(ways.index(self.place.gesture) + by) % len(ways)]))

    def go_board(self, board: str) -> None:
        """Bring a board to the front, on its first layer."""
        self.move_to(Place(board, "", "", "tap"))
        self.wanted.emit()

    def go_layer(self, layer: str, gesture: Gesture | None = None) -> None:
        """Bring another layer to the front, and another gesture with it."""
        if self.place is not None:
            self.move_to(replace(self.place, layer=layer, gesture=gesture or self.place.gesture, selected=frozenset()))

    def go_spot(self, spot: Spot) -> None:
        """Bring a spot to the front, where its board is laid out."""
        if spot.board in self.folio.layouts:
            self.move_to(Place(spot.board, spot.layer, spot.key, spot.gesture))

    def go_trigger(self, ref: str, trigger: Trigger) -> None:
        """Bring to the front where a command has a trigger: on its board, or on the ordinary keyboard."""
        if isinstance(trigger, Spot):
            self.go_spot(trigger)
            return
        found = next((one for one in self.session.folio.bindings_of.get(ref, ()) if one.trigger == trigger), None)
        if found is not None:
            self.go_binding(found)

    def go_binding(self, binding: Binding) -> None:
        """Bring the place of a binding to the front."""
        spot = binding.trigger if isinstance(binding.trigger, Spot) else spot_on_keyboard(self.session.folio, binding)
        if spot is None:
            return
        if program_of_board(spot.board) is not None and not self.folio.boards[spot.board].has(spot.key):
            self.unfolded = True
        self.go_spot(spot)

    def fold_blocks(self) -> None:
        """Show the whole ordinary keyboard, or only its main block."""
        self.unfolded = not self.unfolded
        self.elsewhere.emit()
        self.shown.emit()

    def peek(self, modifiers: frozenset[str]) -> None:
        """Show the layer of the modifiers that are held; none held: the layer that was in front before."""
        place = self.place
        if place is None or program_of_board(place.board) is None:
            return
        if not modifiers:
            if self._peeked is not None:
                layer, self._peeked = self._peeked, None
                self.move_to(replace(place, layer=layer))
            return
        layers = layout_of(self.folio, place).layers
        wanted = "-".join(held_in_order(modifiers)).lower()
        if wanted != place.layer and any(layer.id == wanted for layer in layers):
            self._peeked = self._peeked or place.layer
            self.move_to(replace(place, layer=wanted))

    def point(self, key: str, add: bool) -> None:
        """A key was pointed at: it comes to the front, or is added to what is selected."""
        if self.place is not None:
            selected = (self.place.selected | {self.place.key}) ^ {key} if add else frozenset()
            self.move_to(replace(self.place, key=key, selected=selected))

    def select_all(self) -> None:
        """Every key of the board, or none where all are selected."""
        if self.place is not None:
            every = frozenset(reading_order(self.folio.boards[self.place.board]))
            self.move_to(replace(self.place, selected=frozenset() if self.place.selected == every else every))

    # What is carried, lit, and what holds the keyboard

    def carry(self, carried: Carried) -> None:
        """Carry something from key to key, or nothing any more."""
        self.carried = carried
        self.shown.emit()

    def light(self, lights: Lights) -> None:
        """Light or dim keys."""
        if lights != self.lights:
            self.lights = lights
            self.shown.emit()

    def begin(self, mode: Mode) -> None:
        """Give the keyboard to a mode; the one that had it lets it go."""
        self.end_mode()
        self.mode = mode
        self.shown.emit()

    def end_mode(self) -> None:
        """Let the keyboard go."""
        mode, self.mode = self.mode, None
        if mode is not None:
            mode.let_go()
            self.shown.emit()

    def shape(self, on: bool) -> None:
        """Edit the shape of the board, or no longer."""
        self.shaping = on
        self.shaping_changed.emit()
        self.shown.emit()

    def end(self) -> None:
        """Stop the current mode; otherwise let the selection go."""
        self.end_mode()
        self.carried, self.lights = Carried(), Lights()
        if self.place is not None:
            self.move_to(replace(self.place, selected=frozenset()))

    def words(self) -> str:
        """Return what is going on besides walking."""
        place, carried = self.place, self.carried
        if self.mode is not None:
            return self.mode.words()
        if place is None:
            return ""
        if carried.copying is not None:
            return f"Copying what {self.called(carried.copying)} does: walk, Space puts it on a key, Esc ends."
        if carried.lifted is not None:
            name = layer_of(self.folio, carried.lifted).name
            return f"Lifted from {self.called(carried.lifted)} on {name}: walk, on any layer, and P puts it down."
        if carried.marked is not None:
            return f"Swapping {self.called(place, carried.marked)}: walk to the other key and S swaps them, Esc leaves them."
        return ""
