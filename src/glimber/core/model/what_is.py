"""Everything that a chord, a sequence or a board's key does, in every program, on the desktop, with and without Shift; and where
it is free."""

from __future__ import annotations

from msgspec import Struct

from glimber.core.model.describe import place_words, what_it_does
from glimber.core.model.folio import EVERYWHERE, Folio, Program
from glimber.core.model.meaning import following
from glimber.core.notation.keys import (
    NotationError,
    Sent,
    Sequence,
    Spot,
    Strike,
    Trigger,
    chord_of,
    parse_trigger,
    strikes_of,
)


class Meaning(Struct, frozen=True):
    """One thing that keys do. ``detail``: where; ``binding``: what can be gone to, None where nothing is bound."""

    text: str
    detail: str
    binding: str | None = None


def what_is(folio: Folio, trigger: Trigger, computer: str | None = None) -> list[Meaning]:
    """Return everything that a trigger does, the desktop first, then each program, the keys of layers that send it, its twin with
    or without Shift, and the programs in which it is free."""
    if isinstance(trigger, Spot):
        return _of_spot(folio, trigger, computer)
    wanted = strikes_of(trigger, folio.legend, folio.bundles)
    if not wanted:
        return [Meaning("Nothing", f"{trigger} has a key that is not on this keyboard")]
    programs = sorted(folio.programs.values(), key=lambda program: program.id != EVERYWHERE)
    found, free = list[Meaning](), list[str]()
    for program in programs:
        mine = _in_program(folio, program, trigger, computer)
        found += mine
        free += [] if mine else [program.name]
    found += _on_layers(folio, wanted)
    twin = _twin(folio, wanted)
    theirs = [one for program in programs for one in _in_program(folio, program, twin, computer)]
    found += [Meaning(one.text, f"{one.detail}, with {twin}", one.binding) for one in theirs]
    if free:
        found.append(Meaning("Free", f"in {', '.join(free)}"))
    return found


def keys_written(folio: Folio, text: str) -> Sequence | None:
    """Return the keys that a text spells, where it can hardly be a name: with a modifier, a key's name, or a single sign."""
    try:
        found = parse_trigger(text.strip(), folio.bundles)
    except NotationError:
        return None
    if not isinstance(found, Sequence) or not strikes_of(found, folio.legend, folio.bundles):
        return None
    first = found.chords[0]
    return found if first.modifiers or len(first.key) > 1 or not first.key.isalnum() else None


def one_more(folio: Folio, before: Sequence | None, strike: Strike) -> Sequence:
    """Return the keys after one more was struck: it goes on with those before where sequences begin with them."""
    chord = chord_of(strike, folio.legend)
    if before is not None and any(following(folio, program, before) for program in folio.programs):
        return Sequence((*before.chords, chord))
    return Sequence((chord,))


def _in_program(folio: Folio, program: Program, keys: Sent, computer: str | None) -> list[Meaning]:
    wanted = strikes_of(keys, folio.legend, folio.bundles)
    where = "the desktop" if program.id == EVERYWHERE else program.name
    found = list[Meaning]()
    for binding in program.bindings:
        if isinstance(binding.trigger, Spot) or not binding.lives_on(computer):
            continue
        theirs = strikes_of(binding.trigger, folio.legend, folio.bundles)
        command = folio.command_of(binding)
        if wanted and theirs == wanted and command is not None:
            part = f", {command.context}" if command.context else ""
            found.append(Meaning(command.name, f"{where}{part}", binding.id))
    follow = sum(binding.lives_on(computer) for binding in following(folio, program.id, keys))
    if follow:
        name = next((stem.name for stem in program.stems if strikes_of(stem.trigger, folio.legend, folio.bundles) == wanted), "")
        many = "sequence" if follow == 1 else "sequences"
        found.append(Meaning(f"Begins {follow} {many}", f"{where}, {name}" if name else where))
    return found


def _on_layers(folio: Folio, wanted: tuple[Strike, ...]) -> list[Meaning]:
    """Return the keys of layers that send it."""
    found = []
    for layout in folio.layouts.values():
        for layer in layout.layers:
            for binding in layer.bindings:
                sent = folio.sent_by(binding)
                if sent is not None and strikes_of(sent, folio.legend, folio.bundles) == wanted:
                    detail = f"sent by {place_words(folio, binding.trigger)} of {layout.board}"
                    found.append(Meaning(what_it_does(folio, binding), detail, binding.id))
    return found


def _twin(folio: Folio, wanted: tuple[Strike, ...]) -> Sequence:
    """Return the same keys with Shift, or without it where it is held."""
    *before, (modifiers, code) = wanted
    turned = modifiers ^ {"Shift"}
    return Sequence(tuple(chord_of(strike, folio.legend) for strike in (*before, (turned, code))))


def _of_spot(folio: Folio, spot: Spot, computer: str | None) -> list[Meaning]:
    """Return what a board's key does on its layer and on the others, and what the keys it sends do."""
    found = []
    layout = folio.layouts.get(spot.board)
    for layer in layout.layers if layout is not None else ():
        for gesture, binding in layer.by_key.get(spot.key, {}).items():
            found.append(Meaning(what_it_does(folio, binding), f"{gesture} on {layer.name} of {spot.board}", binding.id))
            sent = folio.sent_by(binding)
            if binding.command is None and sent is not None and layer.id == spot.layer:
                found += [one for one in what_is(folio, sent, computer) if one.binding is not None and one.binding != binding.id]
    return found or [Meaning("Free", f"on every layer of {spot.board}")]
