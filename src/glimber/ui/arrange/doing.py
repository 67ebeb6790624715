"""What is done to the keys in front: every operation one edit, undone by its name."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, QPointF

from glimber.core.audit.cures import cure
from glimber.core.edits.edit import EditError, add_trigger
from glimber.core.edits.spots import (
    Does,
    clear_spots,
    copy_to,
    each,
    move_key,
    set_spot,
    swap_keys,
    type_on,
)
from glimber.core.folio.folio import Folio
from glimber.core.folio.walk import after
from glimber.core.notation.keys import Chord, Sequence, Spot, Trigger
from glimber.store.faults import StoreError
from glimber.ui.arrange.freeplay import FreePlay
from glimber.ui.arrange.place import Place, bindings_at, layer_of, settled
from glimber.ui.arrange.saying import SayingDoing
from glimber.ui.arrange.typist import Typist
from glimber.ui.choose import Choice
from glimber.ui.pressit import Asked

if TYPE_CHECKING:
    from glimber.ui.arrange.room import ArrangeRoom
    from glimber.ui.arrange.tree import SequenceTree


class Doing(SayingDoing):
    """Operations on what keys do; those on what is said of them, on layers and on boards are in the bases."""

    def __init__(self, room: ArrangeRoom) -> None:
        super().__init__(room)
        self.typist = Typist(room.canvas)
        self.play = FreePlay(room)
        self._copying: Place | None = None
        self._tree: SequenceTree | None = None

    def mode_words(self) -> str:
        """What is going on besides walking."""
        place = self.place
        if self.typist.on and place is not None:
            return f"Run: type what {place.key} is to send; the next key comes by itself. Esc ends."
        if self.play.on:
            return self.play.words()
        if self._copying is not None:
            return f"Copying what {self._copying.key} does: walk, Space puts it on a key, Esc ends."
        if self.room.lifted is not None:
            name = layer_of(self.folio, self.room.lifted).name
            return f"Lifted from {self.room.lifted.key} on {name}: walk, on any layer, and P puts it down."
        if self.room.marked is not None:
            return f"Swapping {self.room.marked}: walk to the other key and S swaps them, Esc leaves them."
        return ""

    def end(self) -> None:
        """End what is going on; otherwise let the selection go."""
        self.stop()
        self.room.lifted = self.room.marked = self._copying = None
        self.room.dim = frozenset()
        if self.place is not None:
            self.room.move_to(replace(self.place, selected=frozenset()))

    def stop(self) -> None:
        """Let the keyboard go."""
        self.typist.stop()
        self.play.stop()

    # What a key is to do

    def enter(self) -> None:
        """By where one is: press it, put the command of the bench here, or cure the finding."""
        side = self.room.side
        if side.bench.hasFocus():
            row = side.bench.currentRow()
            if 0 <= row < len(side.stakes):
                self._put_command(side.stakes[row].command.ref)
        elif side.list.hasFocus():
            self._cure(side.list.currentRow())
        elif self.place is not None:
            self._press_it(self.place)

    def _press_it(self, place: Place) -> None:
        spots = place.spots()
        name = str(place.key) if len(spots) == 1 else f"{len(spots)} keys"

        def taken(trigger: Trigger) -> None:
            self.edit(
                f"let {name} send {trigger}",
                lambda folio: each(folio, lambda f, spot: type_on(f, spot, str(trigger)), spots),
            )

        asked = Asked(
            self.folio, self._program(place) or "", f"{name} to send", taken, computer=self.room.session.computer
        )
        self.ask_keys(asked, False)

    def _program(self, place: Place) -> str | None:
        """The program that most of the layer's commands are of."""
        programs = [b.command.partition("/")[0] for b in layer_of(self.folio, place).bindings if b.command]
        return max(set(programs), key=programs.count) if programs else next(iter(self.folio.programs), None)

    def run(self) -> None:
        """Assign what is typed to one key after another."""
        if self.place is None or self.typist.on:
            return

        def told(chord: Chord, t: float) -> None:
            place = self.place
            if place is None:
                return
            trigger = Sequence((chord,))
            if self.edit(f"let {place.key} send {trigger}", lambda folio: type_on(folio, place.spot, str(trigger))):
                self.room.move_to(place.to(after(self.folio.boards[place.board], place.key)))

        self.typist.start(self.folio, told, self.room.show_place)
        self.room.show_place()

    def place_command(self) -> None:
        """Find a command by any of its names and put it on the key in front."""
        folio = self.folio
        choices = [
            Choice(
                command.name,
                self._where(folio, command.ref, folio.programs[command.program].name),
                " ".join((command.label or "", *command.words, *command.was)),
                command.ref,
            )
            for command in folio.commands.values()
        ]
        if self.place is not None:
            self.choose(f"Put a command on {self.place.key}", lambda ref: self._put_command(str(ref)), choices)

    def _where(self, folio: Folio, ref: str, program: str) -> str:
        bound = folio.bindings_of.get(ref, ())
        return f"{program}, {bound[0].trigger}" if bound else f"{program}, on the bench"

    def _put_command(self, ref: str) -> None:
        place = self.place
        if place is None or ref not in self.folio.commands:
            return
        command = self.folio.commands[ref]

        def change(folio: Folio) -> Folio:
            if place.spot in folio.by_trigger:
                return set_spot(folio, place.spot, Does(command=ref))
            return add_trigger(folio, ref, place.spot)

        if self.edit(f"put {command.name} on {place.key}", change):
            self.room.session.told.emit(f"{command.name} is on {place.key} of {layer_of(self.folio, place).name} now.")

    # From key to key

    def lift(self) -> None:
        """Lift what is on the key; it can be put on another one, on any layer and board."""
        place = self.place
        if place is None or not bindings_at(self.folio, place, [place.key]):
            self.room.session.told.emit("Nothing is bound there to lift.")
            return
        self.room.lifted = replace(place, selected=frozenset())
        self.room.show_place()

    def put(self) -> None:
        """Put down what was lifted; what is there goes where that came from."""
        lifted, place = self.room.lifted, self.place
        if lifted is None or place is None:
            self.room.session.told.emit("Nothing is lifted; X lifts what is on a key.")
            return
        self.room.lifted = None
        self._move(lifted, place)

    def _move(self, start: Place, to: Place) -> None:
        if (start.board, start.layer, start.key) == (to.board, to.layer, to.key):
            self.room.show_place()
            return
        if not self.edit(
            f"move {start.key} to {to.key}",
            lambda folio: move_key(folio, (start.board, start.layer, start.key), (to.board, to.layer, to.key)),
        ):
            self.room.show_place()

    def drag(self, start: str, to: str) -> None:
        """A key was dragged onto another one of the layer."""
        if self.place is not None:
            place = self.place.to(to)
            self._move(self.place.to(start), place)
            self.room.move_to(place)

    def drop(self, start: str, at: QPoint) -> None:
        """A key was dragged out of the board: onto a layer of the ladder, or onto the bench."""
        place, room = self.place, self.room
        if place is None:
            return
        rung = room.ladder.itemAt(room.ladder.viewport().mapFromGlobal(at))
        if rung is not None and room.ladder.rect().contains(room.ladder.mapFromGlobal(at)):
            layer = room.ladder.layers[room.ladder.row(rung)].id
            self._move(place.to(start), replace(place.to(start), layer=layer))
        elif room.side.bench.rect().contains(room.side.bench.mapFromGlobal(at)):
            room.move_to(place.to(start))
            self.bench()

    def drop_command(self, row: int, at: QPoint) -> None:
        """A command was dragged from the bench onto a key."""
        canvas = self.room.canvas
        key = canvas.key_at(QPointF(canvas.mapFromGlobal(at)))
        if key is not None and self.place is not None and 0 <= row < len(self.room.side.stakes):
            ref = self.room.side.stakes[row].command.ref
            self.room.move_to(self.place.to(key))
            self._put_command(ref)

    def swap(self) -> None:
        """Mark a key; the next time swap it with the key in front."""
        place, marked = self.place, self.room.marked
        if place is None:
            return
        if marked is None or marked == place.key:
            self.room.marked = None if marked == place.key else place.key
            self.room.show_place()
            return
        self.room.marked = None
        here = (place.board, place.layer)
        if not self.edit(
            f"swap {marked} and {place.key}", lambda folio: swap_keys(folio, (*here, marked), (*here, place.key))
        ):
            self.room.show_place()

    def copy(self) -> None:
        """Take what the spot in front does, to be put on many others."""
        place = self.place
        if place is None or place.spot not in self.folio.by_trigger:
            self.room.session.told.emit("Nothing is bound there to copy.")
            return
        others = [spot for spot in place.spots() if spot != place.spot]
        if others:
            self._copy_to(place.spot, others)
            return
        self._copying = place
        self.room.show_place()

    def paint(self) -> None:
        """Put the copy on the keys in front; without one, select the key in front or let it go."""
        place = self.place
        if place is None:
            return
        if self._copying is not None:
            self._copy_to(self._copying.spot, place.spots())
            return
        self.room.move_to(replace(place, selected=place.selected ^ {place.key}))

    def _copy_to(self, start: Spot, targets: list[Spot]) -> None:
        where = targets[0].key if len(targets) == 1 else f"{len(targets)} keys"
        self.edit(f"copy {start.key} to {where}", lambda folio: copy_to(folio, start, targets))

    def bench(self) -> None:
        """Take everything off the keys in front, or only the gesture in front where it is not the first one."""
        place = self.place
        if place is None:
            return
        found = bindings_at(self.folio, place)
        if place.gesture not in ("tap", "left"):
            found = [binding for binding in found if binding.spot.gesture == place.gesture] or found
        names = place.key if len(place.keys) == 1 else f"{len(place.keys)} keys"
        self.edit(f"take {names} to the bench", lambda folio: clear_spots(folio, [binding.spot for binding in found]))

    def pointed(self) -> None:
        """A key was clicked: while copying, the copy goes there."""
        if self._copying is not None and self.place is not None and self.place.key != self._copying.key:
            self.paint()

    # Findings and free places

    def _cure(self, row: int) -> None:
        findings = self.room.side.findings
        if not 0 <= row < len(findings):
            return
        one = findings[row]
        if one.cure is None:
            self.room.session.told.emit("Nothing cures this by itself: change one of the keys.")
            return
        self.edit(one.cure.words, lambda folio: cure(folio, one, self.room.session.computer))

    def free_places(self) -> None:
        """Free spots and chords for the command in front, or the one in front on the bench."""
        from glimber.core.weigh.free import free_chords, free_spots
        from glimber.ui.chips import words_of

        side, place = self.room.side, self.place
        ref = None
        if side.bench.hasFocus() and 0 <= side.bench.currentRow() < len(side.stakes):
            ref = side.stakes[side.bench.currentRow()].command.ref
        elif place is not None:
            binding = self.folio.by_trigger.get(place.spot)
            ref = binding.command if binding else None
        if ref is None and side.stakes:
            ref = side.stakes[max(0, side.bench.currentRow())].command.ref
        if ref is None:
            self.room.session.told.emit("No command is in front.")
            return
        command = self.folio.commands[ref]
        found = [
            *free_spots(self.folio, ref, most=16),
            *free_chords(self.folio, ref, self.room.session.computer, most=16),
        ]
        found.sort(key=lambda one: one.score)
        choices = [
            Choice(
                f"{one.trigger}", f"{one.reach_ms:.0f} ms   {'; '.join(one.why)}", words_of(one.trigger), one.trigger
            )
            for one in found
        ]

        def taken(value: object) -> None:
            trigger: Trigger = value  # type: ignore[assignment]
            if self.edit(
                f"give {command.name} {trigger}", lambda folio: add_trigger(folio, ref, trigger)
            ) and isinstance(trigger, Spot):
                self.room.move_to(Place(trigger.board, trigger.layer, trigger.key, trigger.gesture))

        self.choose(f"Free places for {command.name}, the easiest first", taken, choices)

    def show_tree(self) -> None:
        """The sequences of the program in front."""
        from glimber.ui.arrange.tree import SequenceTree

        if self._tree is None:
            self._tree = SequenceTree(self.room)
        self._tree.open(self._program(self.place) if self.place is not None else None)

    # Everything goes through here

    @property
    def folio(self) -> Folio:
        return self.room.session.folio

    @property
    def place(self) -> Place | None:
        return settled(self.folio, self.room.place)

    def edit(self, name: str, change: Callable[[Folio], Folio]) -> bool:
        """Send an edit; one that cannot be is told."""
        try:
            self.room.session.edit(name, change)
        except (EditError, StoreError) as error:
            self.room.session.told.emit(str(error))
            return False
        return True
