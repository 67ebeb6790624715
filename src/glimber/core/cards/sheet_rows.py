"""The rows of a sheet card: a command with every way to strike it, rows of a family drawn as one, by group."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from functools import cache
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.card_bindings import NOTHING_KNOWN, Known, chosen
from glimber.core.model.describe import DONE, key_words
from glimber.core.model.folio import Binding, Card, Command, Folio, Group
from glimber.core.model.open_sets import digits_of
from glimber.core.model.systems import SYSTEMS, as_called_on
from glimber.core.notation.keys import Chord, Spot, Typed

Chips = tuple[str, ...]
"""The words on the chips of one step."""
_ARROWS: Final = {"Left": "←", "Right": "→", "Up": "↑", "Down": "↓"}
_SPACED: Final = re.compile(r"(?<=[a-z])(?=[A-Z0-9])")
_WORDS: Final = re.compile(r"\d+|[^\W\d_]+|[^\w\s]", re.UNICODE)
_LEAST_DIGITS, _LEAST_ARROWS = 3, 2
OTHERS: Final = "Others"


class Way(Struct, frozen=True, gc=False):
    """One way to strike a command: the ids of its bindings, chips by step, and the same in words."""

    binding: str
    steps: tuple[Chips, ...]
    spoken: str
    chord: Chord | None = None


class SheetRow(Struct, frozen=True, gc=False):
    """One row. ``full``: the exact name, or all of them where the row stands for a family."""

    name: str
    full: str
    ways: tuple[Way, ...]
    note: str = ""
    careful: bool = False
    faint: bool = False
    grip: float | None = None
    bindings: tuple[str, ...] = ()


Sections = list[tuple[Group | None, str, list[SheetRow]]]


def sections_of(folio: Folio, card: Card, known: Known = NOTHING_KNOWN) -> Sections:
    """Return the rows of a card by group, in the order of the program's groups; without a group last."""
    found: dict[str, list[tuple[Binding, Command]]] = {}
    for binding, command in chosen(folio, card, known):
        found.setdefault(command.ref, []).append((binding, command))
    by_group: dict[tuple[str, str], tuple[Group | None, list[SheetRow]]] = {}
    order = {(program.id, group): at for program in folio.programs.values() for at, group in enumerate(program.groups)}
    for ref, pairs in found.items():
        command = pairs[0][1]
        group = folio.group_of(command)
        key = (command.program, command.group or "")
        by_group.setdefault(key, (group, []))[1].append(_row(folio, card, known, pairs, ref))
    ranked = sorted(by_group.items(), key=lambda one: order.get(one[0], len(order)))
    several = len(ranked) > 1
    return [(group, group.name if group else OTHERS if several else "", families(rows))
            for _, (group, rows) in ranked]  # fmt: skip


def _row(folio: Folio, card: Card, known: Known, pairs: Sequence[tuple[Binding, Command]], ref: str) -> SheetRow:
    binding, command = pairs[0]
    note = [f"in {command.context}"] if command.context and command.context != card.context else []
    reasons = dict.fromkeys(binding.reason for binding, _ in pairs if binding.reason)
    note += list(reasons) if "reasons" in card.shows else []
    if "systems" in card.shows:
        note += [f"{SYSTEMS[system]} {' or '.join(as_called_on(system, one) for one in triggers)}"
                 for system, triggers in command.keys_of]  # fmt: skip
    ways = _joined_arrows([_way_of_digits(folio, part) for part in digits_of([binding for binding, _ in pairs])])
    grip = known.grips.get(binding.id) if "grip" in card.shows else None
    sorts = "learn" in card.shows
    if sorts and grip is None and command.learn == "learn":
        grip = 0.0  # an open lamp
    return SheetRow(command.name, command.name, ways, " · ".join(note), command.careful, sorts and command.learn == "never", grip,
                    tuple(binding.id for binding, _ in pairs))  # fmt: skip


def _way_of_digits(folio: Folio, bindings: Sequence[Binding]) -> Way:
    """Return the way of one binding, or of several that differ in their last digit alone: "Ctrl+K 1 … 9"."""
    ways = [_way(folio, binding) for binding in bindings]
    first, last = ways[0], ways[-1]
    if len(ways) == 1:
        return first
    keys = [way.steps[-1][-1] for way in ways]
    run = [str((int(keys[0]) + at) % 10) for at in range(len(keys))]
    digits = f"{keys[0]} … {keys[-1]}" if keys == run else " ".join(keys)
    steps = (*first.steps[:-1], (*first.steps[-1][:-1], digits))
    return Way(" ".join(way.binding for way in ways), steps, f"{first.spoken} to {last.spoken}")


def _joined_arrows(ways: Sequence[Way]) -> tuple[Way, ...]:
    """Several arrows with the same modifiers that do one thing are one way."""
    chords = [way.chord for way in ways]
    first = chords[0]
    if (
        len(ways) < 2
        or first is None
        or not all(
            chord is not None and chord.key in _ARROWS and chord.modifiers == first.modifiers for chord in chords
        )
    ):
        return tuple(ways)
    keys = " ".join(way.steps[0][-1] for way in ways)
    spoken = ", ".join(way.spoken for way in ways)
    return (Way(" ".join(way.binding for way in ways), ((*first.modifiers, keys),), spoken),)


def _way(folio: Folio, binding: Binding) -> Way:
    trigger = binding.trigger
    if isinstance(trigger, Spot):
        layer = folio.layouts[trigger.board].layer(trigger.layer) if trigger.board in folio.layouts else None
        layout = folio.layouts.get(trigger.board)
        words = [key_words(folio, trigger.board, (key,)) for key in trigger.keys]
        if layer is not None and layout is not None and layer is not layout.base:
            words = [layer.name, *words]
        done = "" if trigger.gesture in ("tap", "press") else f" {DONE[trigger.gesture]}"
        chips: tuple[Chips, ...] = ((*words[:-1], words[-1] + done),)
        return Way(binding.id, chips, "+".join(chips[0]))
    if isinstance(trigger, Typed):
        return Way(binding.id, ((f"“{trigger.text}”",),), f"typed {trigger.text}")
    return Way(binding.id, tuple(chips_of(chord) for chord in trigger.chords), str(trigger),
               trigger.chords[0] if len(trigger.chords) == 1 else None)  # fmt: skip


@cache
def chips_of(chord: Chord) -> Chips:
    """Return the words on the chips of a chord: arrows as signs, "PageUp" as two words."""
    key = _ARROWS.get(chord.key) or (_SPACED.sub(" ", chord.key) if len(chord.key) > 1 else chord.key.upper())
    if len(key) > 1 and len(chord.key) == 1:
        key = chord.key  # a letter whose capital is two letters
    return (*chord.modifiers, key)


# Families: Ctrl+1 … Ctrl+9, Shift with the arrows


def families(rows: Iterable[SheetRow]) -> list[SheetRow]:
    """Return rows in order, those whose keys are digits or arrows with the same modifiers and whose names differ in one word
    drawn as one row."""
    rows = list(rows)
    kin: dict[tuple[object, ...], list[int]] = {}
    for at, row in enumerate(rows):
        for key in _family_keys(row):
            kin.setdefault(key, []).append(at)
    taken: set[int] = set()
    replaced: dict[int, SheetRow] = {}
    for key, members in sorted(kin.items(), key=lambda one: -len(one[1])):
        members = [at for at in members if at not in taken]
        least = _LEAST_DIGITS if key[0] == "digits" else _LEAST_ARROWS
        if len(members) >= least and _is_run([rows[at] for at in members], key[0] == "digits"):
            replaced[members[0]] = _joined([rows[at] for at in members], int(str(key[-1])))
            taken.update(members)
    return [replaced.get(at, row) for at, row in enumerate(rows) if at not in taken or at in replaced]


def _family_keys(row: SheetRow) -> Iterable[tuple[object, ...]]:
    """Traits that rows of one family share: kind of key, modifiers, and the name without one of its words."""
    if len(row.ways) != 1 or row.ways[0].chord is None or row.note or row.careful:
        return
    chord = row.ways[0].chord
    kind = "digits" if len(chord.key) == 1 and chord.key.isdigit() else "arrows" if chord.key in _ARROWS else ""
    if not kind:
        return
    words = _WORDS.findall(row.name)
    for at in range(len(words)):
        yield kind, chord.modifiers, tuple(words[:at]), tuple(words[at + 1 :]), at


def _is_run(rows: Sequence[SheetRow], digits: bool) -> bool:
    """Return True for arrows, and for digits that follow each other (0 after 9 too)."""
    if not digits:
        return True
    values = [10 if chord.key == "0" and at else int(chord.key)
              for at, row in enumerate(rows) if (chord := row.ways[0].chord) is not None]  # fmt: skip
    return values == list(range(values[0], values[0] + len(values)))


def _joined(rows: Sequence[SheetRow], at: int) -> SheetRow:
    """Return one row for a family whose names differ in word ``at``."""
    chords = [row.ways[0].chord for row in rows]
    keys = [chips_of(chord)[-1] for chord in chords if chord is not None]
    differing = [_WORDS.findall(row.name)[at] for row in rows]
    digits = keys[0].isdigit()
    if digits and len(keys) > _LEAST_DIGITS:
        keys = [f"{keys[0]} … {keys[-1]}"]
        members = f"{differing[0]} … {differing[-1]}"
    else:
        members = ", ".join(differing)
    name = rows[0].name
    starts = [found.start() for found in _WORDS.finditer(name)]
    end = starts[at] + len(differing[0])
    name = name[: starts[at]] + members + name[end:]
    modifiers = chords[0].modifiers if chords[0] is not None else ()
    step = (*modifiers, keys[0] if len(keys) == 1 else " ".join(keys))
    ids = tuple(way.binding for row in rows for way in row.ways)
    way = Way(" ".join(ids), (step,), ", ".join(row.ways[0].spoken for row in rows))
    return replace(rows[0], name=name, full=", ".join(row.full for row in rows), ways=(way,), bindings=ids)
