"""Edits: a folio in, a new folio out. Nothing here touches a file; undo is the stack of values."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from operator import is_

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.folio import Binding, Folio, Layer, Layout, Program
from glimber.core.notation.ids import free_id, spot_id
from glimber.core.notation.keys import Sent, Sequence, Spot, Trigger


class EditError(ValueError):
    """An edit that would break a rule of the folio; the message says which and what can be done."""


class Moved(Struct, frozen=True):
    """A folio after a binding went elsewhere, with what swapped with it."""

    folio: Folio
    binding: str
    before: Trigger
    after: Trigger
    swapped: str | None = None


def move_binding(folio: Folio, id: str, to: Trigger, swap: bool = False) -> Moved:
    """Give a binding another trigger; its id, reason, icon and history stay. Raises EditError.

    A spot that is taken needs ``swap``: what is there then goes to where the binding was.
    """
    binding = folio.bindings.get(id)
    if binding is None:
        raise EditError(f"{id} is not a binding of this folio")
    if binding.trigger == to:
        raise EditError(f"{called(folio, binding)} is on {to} already")
    if binding.pinned:
        raise EditError(f"{id} is pinned; take the pin off first")
    if isinstance(binding.trigger, Spot) != isinstance(to, Spot):
        raise EditError(f"{binding.trigger} and {to} are of different kinds; make a new binding instead")
    if not isinstance(to, Spot):
        return _move_shortcut(folio, binding, to, swap)
    check_spot(folio, to)
    there = folio.by_trigger.get(to)
    if there is not None and not swap:
        raise EditError(f"{to} already carries {called(folio, there)}; use --swap to exchange the two")
    if there is not None and there.pinned:
        raise EditError(f"{called(folio, there)} on {to} is pinned; take the pin off first")
    if there is None and swap:
        raise EditError(f"nothing is on {to} to swap with")
    moves = {id: replace(binding, trigger=to, given_id=True)}
    if there is not None:
        moves[there.id] = replace(there, trigger=binding.trigger, given_id=True)
    return Moved(with_spots(folio, moves), id, binding.trigger, to, there.id if there else None)


def move_together(folio: Folio, steps: Mapping[str, Trigger]) -> Folio:
    """Several bindings of spots go to others at once, such as the steps of a plan. Raises EditError."""
    moves = {}
    for id, to in steps.items():
        binding = folio.bindings.get(id)
        if binding is None:
            raise EditError(f"{id} is not a binding of this folio")
        if binding.pinned:
            raise EditError(f"{id} is pinned; take the pin off first")
        if not isinstance(to, Spot) or not isinstance(binding.trigger, Spot):
            raise EditError(f"{id} and {to} are not both on a board")
        check_spot(folio, to)
        there = folio.by_trigger.get(to)
        if there is not None and there.id not in steps:
            raise EditError(f"{to} already carries {called(folio, there)}, which stays")
        moves[id] = replace(binding, trigger=to, given_id=True)
    if len(set(steps.values())) < len(steps):
        raise EditError("two of these would come to the same place")
    return with_spots(folio, moves)


def called(folio: Folio, binding: Binding) -> str:
    """Return what a binding does by name; its id where it carries out no command."""
    command = folio.command_of(binding)
    return command.name if command is not None else binding.id


def _move_shortcut(folio: Folio, binding: Binding, to: Trigger, swap: bool) -> Moved:
    program = folio.programs[(binding.command or "").partition("/")[0]]
    there = next((other for other in program.bindings if other.trigger == to), None)
    if there is not None and not swap:
        raise EditError(f"{to} already carries {called(folio, there)} in {program.name}; use --swap to exchange the two")
    if there is not None and there.pinned:
        raise EditError(f"{called(folio, there)} on {to} is pinned; take the pin off first")
    if there is None and swap:
        raise EditError(f"nothing is on {to} in {program.name} to swap with")
    moves = {binding.id: replace(binding, trigger=to, given_id=True)}
    if there is not None:
        moves[there.id] = replace(there, trigger=binding.trigger, given_id=True)
    changed = replace(program, bindings=tuple(moves.get(b.id, b) for b in program.bindings))
    return Moved(with_program(folio, changed), binding.id, binding.trigger, to, there.id if there else None)


def is_move(old: Trigger, new: Trigger) -> bool:
    """Return True if going from one trigger to the other is a move: same kind, gesture and modifiers; otherwise it is a
    rebind."""
    if isinstance(old, Spot) and isinstance(new, Spot):
        return old.gesture == new.gesture and len(old.keys) == len(new.keys)
    if isinstance(old, Sequence) and isinstance(new, Sequence):
        return [chord.modifiers for chord in old.chords] == [chord.modifiers for chord in new.chords]
    return False


def check_spot(folio: Folio, spot: Spot) -> None:
    """Raises EditError for a spot that its board or layout does not have."""
    layout, board = folio.layouts.get(spot.board), folio.boards.get(spot.board)
    if layout is None or board is None:
        raise EditError(f"{spot.board} has no layout in this folio")
    layer = layout.layer(spot.layer)
    if layer is None:
        raise EditError(
            f"{spot.layer} is not a layer of {spot.board}; it has {', '.join(one.id for one in layout.layers)}"
        )
    for key in spot.keys:
        if not board.has(key):
            raise EditError(f"{key} is not a key of {spot.board}")
        if (spot.gesture in ("left", "right", "press")) != (key in board.knob_ids):
            raise EditError(f"{spot.gesture} is not a gesture of {key}")


def with_spots(folio: Folio, moved: dict[str, Binding]) -> Folio:
    """Return the folio with these spot bindings on the layers their triggers now name; others keep their order."""

    arriving = {(b.spot.board, b.spot.layer) for b in moved.values()}

    def layer_with(board: str, layer: Layer) -> Layer:
        if (board, layer.id) not in arriving and moved.keys().isdisjoint(b.id for b in layer.bindings):
            return layer
        kept: list[Binding] = []
        for old in layer.bindings:
            new = moved.get(old.id)
            if new is None:
                kept.append(old)
            elif (new.spot.board, new.spot.layer) == (board, layer.id):
                kept.append(new)
        arrived = [b for b in moved.values() if (b.spot.board, b.spot.layer) == (board, layer.id) and b not in kept]
        if not arrived and len(kept) == len(layer.bindings) and all(map(is_, kept, layer.bindings)):
            return layer
        unset = {key: state for key, state in layer.unset.items() if key not in {b.spot.key for b in arrived + kept}}
        return replace(layer, bindings=(*kept, *arrived), unset=unset)

    return replace(folio, layouts=_layouts_with(folio, lambda layout, layer: layer_with(layout.board, layer)))


def with_program(folio: Folio, program: Program) -> Folio:
    """Return the folio with one program replaced."""
    return replace(folio, programs={**folio.programs, program.id: program})


def map_bindings(folio: Folio, change: Callable[[Binding], Binding | None]) -> Folio:
    """Return the folio with every binding changed; None takes it away, its command then waits on the bench.

    Programs, layouts and layers that it leaves alone stay the same objects: what was worked out from them stays good.
    """

    def changed(bindings: tuple[Binding, ...]) -> tuple[Binding, ...]:
        made = tuple(new for old in bindings if (new := change(old)) is not None)
        return bindings if len(made) == len(bindings) and all(map(is_, made, bindings)) else made

    def program_with(program: Program) -> Program:
        bindings = changed(program.bindings)
        return program if bindings is program.bindings else replace(program, bindings=bindings)

    def layer_with(layer: Layer) -> Layer:
        bindings = changed(layer.bindings)
        return layer if bindings is layer.bindings else replace(layer, bindings=bindings)

    programs = {id: program_with(program) for id, program in folio.programs.items()}
    return replace(folio, programs=programs, layouts=_layouts_with(folio, lambda layout, layer: layer_with(layer)))


def _layouts_with(folio: Folio, change: Callable[[Layout, Layer], Layer]) -> dict[str, Layout]:
    """Return the layouts with every layer changed; those it leaves alone stay the same objects."""
    found = {}
    for id, layout in folio.layouts.items():
        layers = tuple(change(layout, layer) for layer in layout.layers)
        found[id] = layout if all(map(is_, layers, layout.layers)) else replace(layout, layers=layers)
    return found


def retire_binding(folio: Folio, id: str) -> Folio:
    """Take a binding away; its command keeps everything else. Raises EditError."""
    if id not in folio.bindings:
        raise EditError(f"{id} is not a binding of this folio")
    if folio.bindings[id].pinned:
        raise EditError(f"{id} is pinned; take the pin off first")
    return map_bindings(folio, lambda binding: None if binding.id == id else binding)


def with_binding(folio: Folio, binding: Binding) -> Folio:
    """Put a binding in that the folio does not have. Raises EditError where its id or its trigger is taken."""
    if binding.id in folio.bindings:
        raise EditError(f"{binding.id} is a binding of this folio already")
    if isinstance(binding.trigger, Spot):
        check_spot(folio, binding.trigger)
        there = folio.by_trigger.get(binding.trigger)
        if there is not None:
            raise EditError(f"{binding.trigger} already carries {called(folio, there)}")
        return with_spots(folio, {binding.id: binding})
    program = folio.programs[(binding.command or "").partition("/")[0]]
    return with_program(folio, replace(program, bindings=(*program.bindings, binding)))


def add_trigger(folio: Folio, command: str, trigger: Trigger) -> Folio:
    """Give a command (``program/command``) a shortcut, or put it on a spot. Raises EditError where that is taken."""
    if not isinstance(trigger, Spot):
        return add_shortcut(folio, command, trigger)
    known = folio.commands.get(command)
    if known is None:
        raise EditError(f"{command} is not a command of this folio")
    id = free_id(spot_id(trigger), folio.bindings)
    return with_binding(folio, Binding(id, trigger, command, given_id=True))


def add_shortcut(folio: Folio, command: str, trigger: Sent) -> Folio:
    """Give a command (``program/command``) a shortcut of its own. Raises EditError where it is taken in that program."""
    known = folio.commands.get(command)
    if known is None:
        raise EditError(f"{command} is not a command of this folio")
    there = next((b for b in folio.programs[known.program].bindings if b.trigger == trigger), None)
    if there is not None:
        raise EditError(f"{trigger} already carries {called(folio, there)} in {folio.programs[known.program].name}")
    return with_binding(folio, Binding(free_id(known.id, folio.bindings), trigger, command, given_id=True))


def state_ids(folio: Folio, ids: set[str]) -> Folio:
    """Return the folio with these bindings' ids stated, so that its files keep them whatever is added later."""
    return map_bindings(folio, lambda b: replace(b, given_id=True) if b.id in ids else b)
