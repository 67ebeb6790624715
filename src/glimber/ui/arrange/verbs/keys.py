"""Actions on the selected keys: every operation is one edit, undone by its name."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace

from glimber.core.edit.edit import add_trigger
from glimber.core.edit.spots import (
    Does,
    clear_spots,
    commands_sent,
    copy_to,
    each,
    move_key,
    set_spot,
    swap_keys,
    type_on,
)
from glimber.core.model.chord_boards import program_of_board
from glimber.core.model.folio import Folio
from glimber.core.model.walk import after
from glimber.core.notation.keys import Chord, Sequence, Spot, Trigger
from glimber.ui.arrange.desk import ArrangeDesk, Carried
from glimber.ui.arrange.place import Place, bindings_at, layer_of
from glimber.ui.arrange.verbs.base import Panes, Verbs, act
from glimber.ui.arrange.verbs.chords import ChordVerbs
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Asked, Choice, Host

if TYPE_CHECKING:
    from glimber.ui.capture.keyboard_grab import HoldMaker


class KeyVerbs(Verbs):
    """Operations on what keys do, from key to key, and from the bench."""

    def __init__(self, desk: ArrangeDesk, host: Host, hold: HoldMaker) -> None:
        super().__init__(desk, host)
        self._hold = hold
        self.chords = ChordVerbs(desk, host)

    def actions(self, panes: Panes, in_front: Callable[[], str | None]) -> list[Action]:
        """``in_front``: the command in front on the bench."""
        here, board = self.is_somewhere, panes.board

        def give() -> None:
            ref = in_front()
            if ref is not None:
                self.give(ref)

        return [
            act("enter", "Press what the key sends", "Enter", self.press_it, "press it", scope=board, when=here),
            act("give", "Put the selected command on the key", "Enter", give, scope=panes.bench, when=here),
            self.for_layouts(
                act("run", "Type a run: each chord is put on a key, then the next key is selected", "r", self.run, "run", "R")
            ),
            act("lift", "Lift what is on the key", "x", self.lift, "lift, put", "X P", when=self.is_bound),
            act("put", "Put what was lifted", "p", self.put, when=lambda: self.desk.carried.lifted is not None),
            act("swap", "Swap with the key marked before", "s", self.swap, "swap", "S", when=here),
            act("copy", "Copy what is on the key to many", "c", self.copy, "copy to many", "C", when=self.is_spot_bound),
            act("paint", "Copy it here", "Space", self.paint, scope=board, when=here),
            act("bench", "Take what is on the keys to the bench", "Delete", self.bench, "bench", "Del", scope=board,
                when=self.is_bound),
            act("family", "Change every chord of this layer", "m", self.chords.ask_family,
                when=lambda: here() and not self.is_on_layout()),
            act("find", "Find a command and put it here", "f", self.place_command, "find and place", "F", when=here),
        ]  # fmt: skip

    def is_bound(self) -> bool:
        """Return True if anything is bound on the keys in front."""
        place = self.place
        if place is not None and self.chords.is_on(place):
            return any(self.chords.has_any(place.to(key)) for key in place.keys)
        return place is not None and bool(bindings_at(self.folio, place))

    def is_spot_bound(self) -> bool:
        """Return True if the gesture in front is bound."""
        return self.place is not None and self.place.spot in self.folio.by_trigger

    # What a key is to do

    def press_it(self) -> None:
        """Press what the keys in front are to send; on the ordinary keyboard, other keys for the command in front."""
        place = self.place
        if place is None:
            return
        if self.chords.is_on(place):
            if not self.chords.enter(place):
                self.place_command()
            return
        spots = place.spots()
        name = self.desk.called(place) if len(spots) == 1 else f"{len(spots)} keys"

        def taken(trigger: Trigger) -> None:
            self.desk.edit(
                f"let {name} send {trigger}",
                lambda folio: each(folio, lambda f, spot: type_on(f, spot, str(trigger)), spots),
            )

        program, computer = self.program(place) or "", self.desk.session.computer
        self.host.ask_keys(Asked(self.stored, program, f"{name} to send", taken, computer=computer))

    def run(self) -> None:
        """Assign what is typed to one key after another."""
        from glimber.ui.arrange.modes.typist import Typist

        desk, put = self.desk, list[Spot]()

        def on_chord(chord: Chord, t: float) -> None:
            place = desk.place
            if place is None:
                return
            trigger = Sequence((chord,))
            name = f"let {desk.called(place)} send {trigger}"
            if desk.edit(name, lambda folio: type_on(folio, place.spot, str(trigger))):
                put.append(place.spot)
                desk.move_to(place.to(after(self.folio.boards[place.board], place.key)))

        def words() -> str:
            key = desk.called(desk.place) if desk.place is not None else "the key"
            return f"Run: type what {key} is to send; then the next key is selected. Esc ends."

        if desk.place is not None:
            Typist(desk, self._hold, on_chord, words, lambda: self._offer_commands(put))

    def _offer_commands(self, spots: list[Spot]) -> None:
        """Offer to bind the commands whose shortcuts were typed, in place of the bare keys."""
        found = commands_sent(self.stored, spots)
        if not found:
            return
        names = ", ".join(self.folio.commands[ref].name for ref in dict.fromkeys(found.values()))

        def bind(folio: Folio) -> Folio:
            for spot, ref in found.items():
                folio = set_spot(folio, spot, Does(command=ref))
            return folio

        def taken(wanted: object) -> None:
            if wanted and self.desk.edit("bind the commands of the run", bind):
                self.desk.tell(f"Bound: {names}.")

        keys = f"{len(found)} of the keys send" if len(found) > 1 else "One of the keys sends"
        choices = [Choice("Bind the commands", names, value=True), Choice("Leave them as keys", "", value=False)]
        self.host.choose(f"{keys} the shortcut of a command", taken, choices)

    def place_command(self) -> None:
        """Find a command by any of its names and put it on the key in front."""
        folio, shown = self.stored, None
        if self.place is not None and self.chords.is_on(self.place):
            shown = self.chords.program_of(self.place)
        choices = [
            Choice(
                command.name,
                self._where(folio, command.ref, folio.programs[command.program].name),
                " ".join((command.label or "", *command.words, *command.was)),
                command.ref,
            )
            for command in folio.commands.values()
            if shown is None or command.program == shown
        ]
        if self.place is not None:
            self.host.choose(
                f"Put a command on {self.desk.called(self.place)}", lambda ref: self.give(str(ref)), choices
            )

    def _where(self, folio: Folio, ref: str, program: str) -> str:
        bound = folio.bindings_of.get(ref, ())
        return f"{program}, {bound[0].trigger}" if bound else f"{program}, on the bench"

    def give(self, ref: str) -> None:
        """Put a command on the key in front, in place of what it did."""
        place = self.place
        if place is None or ref not in self.folio.commands:
            return
        if self.chords.is_on(place):
            self.chords.give(ref, place)
            return
        command = self.folio.commands[ref]

        def change(folio: Folio) -> Folio:
            if place.spot in folio.by_trigger:
                return set_spot(folio, place.spot, Does(command=ref))
            return add_trigger(folio, ref, place.spot)

        key = self.desk.called(place)
        if self.desk.edit(f"put {command.name} on {key}", change):
            self.desk.tell(f"{command.name} is on {key} of {layer_of(self.folio, place).name} now.")

    # From key to key

    def lift(self) -> None:
        """Lift what is on the key; it can be put on another one, on any layer and board."""
        place = self.place
        if place is None:
            return
        if not (
            self.chords.has_any(place) if self.chords.is_on(place) else bindings_at(self.folio, place, [place.key])
        ):
            return
        self.desk.carry(Carried(lifted=replace(place, selected=frozenset())))

    def put(self) -> None:
        """Put down what was lifted; what is there goes where that came from."""
        lifted, place = self.desk.carried.lifted, self.place
        if lifted is None or place is None:
            return
        self.desk.carry(Carried())
        self._move(lifted, place)

    def _move(self, start: Place, to: Place) -> None:
        if (start.board, start.layer, start.key) == (to.board, to.layer, to.key):
            return
        if self.chords.is_on(start) or self.chords.is_on(to):
            self.chords.move(start, to)
            return
        self.desk.edit(
            f"move {self.desk.called(start)} to {self.desk.called(to)}",
            lambda folio: move_key(folio, (start.board, start.layer, start.key), (to.board, to.layer, to.key)),
        )

    def drag(self, start: str, to: str) -> None:
        """A key was dragged onto another one of the layer."""
        if self.place is not None:
            place = self.place.to(to)
            self._move(self.place.to(start), place)
            self.desk.move_to(place)

    def drop_on_layer(self, key: str, layer: str) -> None:
        """A key was dragged onto another layer: it goes to the same key there."""
        if self.place is not None:
            start = self.place.to(key)
            self._move(start, replace(start, layer=layer))

    def drop_on_bench(self, key: str) -> None:
        """A key was dragged onto the bench."""
        if self.place is not None:
            self.desk.move_to(self.place.to(key))
            self.bench()

    def drop_command(self, ref: str, key: str) -> None:
        """A command was dragged from the bench onto a key."""
        if self.place is not None:
            self.desk.move_to(self.place.to(key))
            self.give(ref)

    def swap(self) -> None:
        """Mark a key; the next time swap it with the key in front."""
        place, marked = self.place, self.desk.carried.marked
        if place is None:
            return
        if marked is None or marked == place.key:
            self.desk.carry(Carried(marked=None if marked == place.key else place.key))
            return
        self.desk.carry(Carried())
        if self.chords.is_on(place):
            self.chords.move(place.to(marked), place)
            return
        board, layer = place.board, place.layer
        self.desk.edit(
            f"swap {self.desk.called(place, marked)} and {self.desk.called(place)}",
            lambda folio: swap_keys(folio, (board, layer, marked), (board, layer, place.key)),
        )

    def copy(self) -> None:
        """Take what the spot in front does, to be put on many others."""
        place = self.place
        if place is None or place.spot not in self.folio.by_trigger:
            return
        others = [spot for spot in place.spots() if spot != place.spot]
        if others:
            self._copy_to(place.spot, others)
            return
        self.desk.carry(Carried(copying=place))

    def paint(self) -> None:
        """Put the copy on the keys in front; without one, select the key in front or let it go."""
        place = self.place
        if place is None:
            return
        copying = self.desk.carried.copying
        if copying is not None:
            self._copy_to(copying.spot, place.spots())
            return
        self.desk.move_to(replace(place, selected=place.selected ^ {place.key}))

    def _copy_to(self, start: Spot, targets: list[Spot]) -> None:
        if any(program_of_board(spot.board) is not None for spot in (start, *targets)):
            self.chords.copy(start, targets)
            return
        where = self.desk.called_spot(targets[0]) if len(targets) == 1 else f"{len(targets)} keys"
        self.desk.edit(f"copy {self.desk.called_spot(start)} to {where}", lambda folio: copy_to(folio, start, targets))

    def bench(self) -> None:
        """Take everything off the keys in front, or only the gesture in front where it is not the first one."""
        place = self.place
        if place is None:
            return
        if self.chords.is_on(place):
            self.chords.bench(place)
            return
        found = bindings_at(self.folio, place)
        if place.gesture not in ("tap", "left"):
            found = [binding for binding in found if binding.spot.gesture == place.gesture] or found
        names = self.desk.called(place) if len(place.keys) == 1 else f"{len(place.keys)} keys"
        self.desk.edit(
            f"take {names} to the bench", lambda folio: clear_spots(folio, [binding.spot for binding in found])
        )

    def pointed(self) -> None:
        """A key was clicked: while copying, the copy goes there."""
        copying = self.desk.carried.copying
        if copying is not None and self.place is not None and self.place.key != copying.key:
            self.paint()
