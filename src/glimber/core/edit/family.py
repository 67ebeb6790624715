"""A family of chords changed at once: those with the same modifiers, of one group, behind the same keys, or chosen by hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.edit import EditError, with_program
from glimber.core.model.chord_layers import block_of
from glimber.core.model.collisions import collisions
from glimber.core.model.folio import Binding, Folio, Stem
from glimber.core.model.meaning import following
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord, NotationError, chord_of, parse_trigger, strike_of, strikes_of
from glimber.core.notation.keys import Sequence as Keys
from glimber.core.notation.nearest import did_you_mean

Change = Callable[[Folio, Keys], Keys | None]
"""The new trigger of each member of a family; None where there is none."""
_NEAR: Final = 0.8
"""Keys of two rows belong together up to so many key widths apart: rows are set off by half a width at most."""


class FamilyMove(Struct, frozen=True):
    """One binding of a family: where it is, where it would go, and what is in the way there; nothing where it is free."""

    binding: str
    command: str
    start: Keys
    to: Keys
    in_the_way: str = ""


def held_with(folio: Folio, program: str, modifiers: Sequence[str], group: str | None = None) -> list[Binding]:
    """Return the bindings of a program whose last chord is held with just these modifiers; of one group, if given."""
    wanted = frozenset(modifiers)
    return [
        binding for binding in folio.programs[program].bindings
        if isinstance(binding.trigger, Keys) and frozenset(binding.trigger.chords[-1].modifiers) == wanted
        and (group is None or _group_of(folio, binding) == group)
    ]  # fmt: skip


def of_group(folio: Folio, program: str, group: str | None) -> list[Binding]:
    """Return the chords and sequences of a program's group."""
    return [binding for binding in folio.programs[program].bindings
            if isinstance(binding.trigger, Keys) and _group_of(folio, binding) == group]  # fmt: skip


def _group_of(folio: Folio, binding: Binding) -> str | None:
    command = folio.command_of(binding)
    return command.group if command is not None else None


def modifiers_of(text: str) -> tuple[str, ...]:
    """Read modifiers such as "Ctrl+Alt", or "none". Raises EditError."""
    words = [word.strip() for word in text.split("+") if word.strip() and word.strip().casefold() != "none"]
    known = {name.casefold(): name for name in MODIFIERS}
    for word in words:
        if word.casefold() not in known:
            raise EditError(f"{word} is not a modifier{did_you_mean(word, MODIFIERS)}; expected {', '.join(MODIFIERS)}, or none")
    held = {known[word.casefold()] for word in words}
    return tuple(name for name in MODIFIERS if name in held)


# What their keys become


def with_modifiers(modifiers: Sequence[str]) -> Change:
    """Hold other modifiers with the last key."""

    def change(folio: Folio, keys: Keys) -> Keys:
        last = keys.chords[-1]
        return Keys((*keys.chords[:-1], Chord(tuple(modifiers), last.key, last.by_place)))

    return change


def put_behind(stem: Keys | None) -> Change:
    """Strike other keys first, or none. A chord that is put behind keys is struck without its modifiers."""

    def change(folio: Folio, keys: Keys) -> Keys:
        last = keys.chords[-1]
        if stem is None:
            return Keys((last,))
        return Keys((*stem.chords, last if len(keys.chords) > 1 else _bare(folio, last)))

    return change


def _bare(folio: Folio, chord: Chord) -> Chord:
    """Return a chord's key struck alone."""
    strike = strike_of(chord, folio.legend, folio.bundles)
    return chord_of((frozenset(), strike[1]), folio.legend) if strike is not None else replace(chord, modifiers=())


def stem_of(text: str, bundles: Iterable[str] = ()) -> Keys | None:
    """Read the keys to put a family behind; none for an empty text or "none". Raises EditError."""
    if text.strip().casefold() in ("", "none"):
        return None
    try:
        found = parse_trigger(text.strip(), frozenset(bundles))
    except NotationError as error:
        raise EditError(str(error)) from error
    if not isinstance(found, Keys):
        raise EditError(f"{text.strip()} is no key; expected a chord or several, such as Ctrl+M")
    return found


def in_row(up: int) -> Change:
    """Use the key of the same column so many rows further up, or with a negative number down. Columns lean as they are touched:
    1 Q A Z is one."""

    def change(folio: Folio, keys: Keys) -> Keys | None:
        strike = strike_of(keys.chords[-1], folio.legend, folio.bundles)
        code = strike[1] if strike is not None else None
        for _ in range(abs(up)):
            code = _beyond(folio, code, 1 if up > 0 else -1) if code is not None else None
        if strike is None or code is None:
            return None
        return Keys((*keys.chords[:-1], chord_of((strike[0], code), folio.legend)))

    return change


def _beyond(folio: Folio, code: str, up: int) -> str | None:
    """Return the key with a character in the next row of the same column."""
    here = folio.keyboard.by_id.get(code)
    if here is None or block_of(code) != "main":
        return None
    lean = -0.01 if up > 0 else 0.01  # of two keys that are as near, the one in the same column
    row = [key for key in folio.keyboard.keys if abs(key.y - (here.y - up)) < 0.1 and block_of(key.id) == "main"
           and len(folio.legend.key_at(key.id) or "") == 1]  # fmt: skip
    middle = here.x + here.w / 2 + lean
    nearest = min(row, key=lambda key: abs(key.x + key.w / 2 - middle), default=None)
    return nearest.id if nearest is not None and abs(nearest.x + nearest.w / 2 - middle) <= _NEAR else None


# The plan, and the edit


def plan_family(
    folio: Folio, program: str, bindings: Iterable[Binding], change: Change, computer: str | None = None
) -> list[FamilyMove]:
    """Return where each binding would go, and what is in the way; nothing is changed.

    What a binding of the family leaves is not in the way of another, unless it stays because something is in its own way.
    """
    family = [binding for binding in bindings if isinstance(binding.trigger, Keys)]
    leaving = {binding.id for binding in family if not binding.pinned}
    while True:
        found = [_move(folio, program, binding, change, leaving, computer) for binding in family]
        _say_which_meet(folio, program, found)
        staying = {move.binding for move in found if move.in_the_way} & leaving
        if not staying:
            return found
        leaving -= staying


def _move(
    folio: Folio, program: str, binding: Binding, change: Change, leaving: set[str], computer: str | None
) -> FamilyMove:
    start = binding.trigger
    assert isinstance(start, Keys)
    command = folio.command_of(binding)
    name = command.name if command is not None else binding.id
    to = change(folio, start)
    if to is None or strikes_of(to, folio.legend, folio.bundles) is None:
        return FamilyMove(binding.id, name, start, start, "there is no such key")
    if binding.pinned:
        return FamilyMove(binding.id, name, start, to, "it is pinned")
    context = command.context if command is not None else None
    met = [one for one in collisions(folio, program, to, context, computer) if one.binding not in leaving]
    return FamilyMove(binding.id, name, start, to, met[0].words(to).rstrip(".") if met else "")


def _say_which_meet(folio: Folio, program: str, moves: list[FamilyMove]) -> None:
    """Of several that would go to one place, or one behind another, the first may."""
    taken: dict[tuple[object, ...], str] = {}
    contexts = {one.id: command.context if (command := folio.command_of(one)) is not None else None
                for one in folio.programs[program].bindings}  # fmt: skip
    for place, move in enumerate(moves):
        strikes = strikes_of(move.to, folio.legend, folio.bundles) or ()
        if move.in_the_way or not strikes:
            continue
        beginnings = [(contexts[move.binding], *strikes[:length]) for length in range(1, len(strikes) + 1)]
        met = next((taken[key] for key in beginnings if key in taken), None)
        if met is not None:
            moves[place] = replace(move, in_the_way=f"{met} goes there as well")
        else:
            taken[beginnings[-1]] = move.command


def move_family(folio: Folio, program: str, moves: Iterable[FamilyMove]) -> Folio:
    """Return the folio with every move made that nothing is in the way of, as one edit; ids and history stay, and the name of a
    group of sequences goes along where all of it goes.

    Raises EditError where all of them are in each other's or something's way.
    """
    to = {move.binding: move.to for move in moves if not move.in_the_way and move.to != move.start}
    if not to:
        raise EditError("none of these can move; something is in the way of each")
    found = folio.programs[program]
    bindings = tuple(
        replace(binding, trigger=to[binding.id], given_id=True) if binding.id in to else binding for binding in found.bindings
    )
    return with_program(folio, replace(found, bindings=bindings, stems=_stems_after(folio, program, to)))


def _stems_after(folio: Folio, program: str, to: Mapping[str, Keys]) -> tuple[Stem, ...]:
    """Return the named stems of a program, each where all that was behind it is now."""
    stems, taken = [], {stem.trigger for stem in folio.programs[program].stems}
    for stem in folio.programs[program].stems:
        length = len(stem.trigger.chords)
        after = {Keys(keys.chords[: len(keys.chords) - (len(one.trigger.chords) - length)])
                 if (keys := to.get(one.id)) is not None and isinstance(one.trigger, Keys) else stem.trigger
                 for one in following(folio, program, stem.trigger)}  # fmt: skip
        place = next(iter(after)) if len(after) == 1 else stem.trigger
        stems.append(replace(stem, trigger=place) if place.chords and place not in taken else stem)
    return tuple(stems)
