"""Audit a program's shortcuts: triggers that clash with each other or with the desktop's, or are hard to tell apart."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import combinations

from glimber.core.audit.finding import Cure, Finding, check, finding
from glimber.core.audit.parts import ElsewherePart, FolioPart, ProgramPart, Strikes
from glimber.core.model.folio import EVERYWHERE, Binding, Folio
from glimber.core.notation.keys import Sequence, Spot, Typed, expanded, strikes_of

_EACH = 3
"""Up to so many shortcuts of a program that meet a bundle are reported one by one."""


def _free_key(name: str, binding: Binding) -> Cure:
    return Cure("free-key", f"give {name} a free key", binding.id)


@check(ProgramPart, {"same-trigger": "error"})
def same_triggers(part: ProgramPart) -> Iterator[Finding]:
    """Report shortcuts with the same strikes in the same place."""
    folio, program, struck = part.folio, part.program, part.struck
    seen: dict[Strikes, list[Binding]] = {}
    for binding, strikes in struck:
        for other in seen.setdefault(strikes, []):
            if can_meet(folio, binding, other):
                one, two = (folio.commands[b.command or ""].name for b in (other, binding))
                same = "twice for the same command" if one == two else f"for {one} and for {two}"
                text = f"{binding.trigger} is bound in {program.name} {same}; give one of them another trigger."
                cure = Cure("take-off", "remove it", binding.id) if one == two else _free_key(two, binding)
                yield finding("same-trigger", str(binding.trigger), (other.id, binding.id), text, cure)
        seen[strikes].append(binding)


def can_meet(folio: Folio, one: Binding, other: Binding) -> bool:
    """Return True if two bindings can be live at once: on one computer and in one context."""
    a, b = folio.commands[one.command or ""], folio.commands[other.command or ""]
    contexts = a.context is None or b.context is None or a.context == b.context
    computers = not one.computers or not other.computers or bool(set(one.computers) & set(other.computers))
    return contexts and computers


@check(ProgramPart, {"stem-complete": "warning"})
def complete_stems(part: ProgramPart) -> Iterator[Finding]:
    """Report shortcuts that have to wait because a longer one begins with them."""
    folio, program, struck = part.folio, part.program, part.struck
    whole: dict[Strikes, list[Binding]] = {}
    for binding, strikes in struck:
        whole.setdefault(strikes, []).append(binding)
    reported: set[str] = set()
    for binding, strikes in struck:
        for length in range(1, len(strikes)):
            for shorter in whole.get(strikes[:length], ()):
                if shorter.id in reported or isinstance(binding.trigger, Typed) or not can_meet(folio, shorter, binding):
                    continue
                reported.add(shorter.id)
                name = folio.commands[shorter.command or ""].name
                text = (
                    f"{shorter.trigger} does {name} in {program.name} only after {folio.settings.timing.sequence_ms} ms, "
                    f"because {binding.trigger} begins with it."
                )
                yield finding(
                    "stem-complete", str(shorter.trigger), (shorter.id, binding.id), text, _free_key(name, shorter)
                )


@check(ProgramPart, {"desktop-takes": "warning"})
def taken_by_the_desktop(part: ProgramPart) -> Iterator[Finding]:
    """Report shortcuts that the desktop takes before a program sees them."""
    folio, program, struck = part.folio, part.program, part.struck
    if program.id == EVERYWHERE or EVERYWHERE not in folio.programs:
        return
    taken = {
        strikes[0]: other
        for other in folio.programs[EVERYWHERE].bindings
        if not isinstance(other.trigger, Spot | Typed)
        if (strikes := strikes_of(other.trigger, folio.legend, folio.bundles))
    }
    for binding, strikes in struck:
        other = next((taken[strike] for strike in strikes if strike in taken), None)
        if other is None or isinstance(binding.trigger, Typed):
            continue
        both = not binding.computers or not other.computers or bool(set(binding.computers) & set(other.computers))
        if both:
            name, theirs = folio.commands[binding.command or ""].name, folio.commands[other.command or ""].name
            text = f"The desktop takes {other.trigger} for {theirs} before {program.name} sees it; {name} is not carried out."
            yield finding("desktop-takes", str(binding.trigger), (binding.id, other.id), text, _free_key(name, binding))


@check(ProgramPart, {"no-such-key": "warning"})
def on_no_key(part: ProgramPart) -> Iterator[Finding]:
    """Report shortcuts with a character that the keyboard does not print, such as Ctrl+Ü on a US layout."""
    folio, program = part.folio, part.program
    for binding in program.bindings:
        if not isinstance(binding.trigger, Sequence):
            continue
        missing = next((chord.key for chord in binding.trigger.chords
                        if not chord.by_place and folio.legend.place_of(chord.key) is None), None)  # fmt: skip
        if missing is not None:
            name = folio.commands[binding.command or ""].name
            text = (
                f"{binding.trigger} cannot be struck: no key prints {missing} in the keyboard layout {folio.legend.name}. Choose "
                f"the keyboard's layout in the settings, or give {name} another trigger."
            )
            yield finding("no-such-key", str(binding.trigger), (binding.id,), text, _free_key(name, binding))


@check(ProgramPart, {"place-or-print": "note"})
def places_and_prints(part: ProgramPart) -> Iterator[Finding]:
    """Report digits that are on two places, and symbols that are only there with Shift."""
    folio, program, struck = part.folio, part.program, part.struck
    places = {strikes for _, strikes in struck}
    for binding, strikes in struck:
        trigger = binding.trigger
        if not isinstance(trigger, Sequence):
            continue
        chord, (held, code) = trigger.chords[-1], strikes[-1]
        name = folio.commands[binding.command or ""].name
        twin = code.replace("Digit", "Numpad") if code.startswith("Digit") else None
        if twin and twin in folio.keyboard.by_id and (*strikes[:-1], (held, twin)) in places:
            text = f"{trigger} does {name} on the digit row only; the same digit of the number pad does something else."
            yield finding("place-or-print", str(trigger), (binding.id,), text)
        elif (
            not chord.by_place
            and "Shift" in held
            and "Shift" not in expanded(chord.modifiers, folio.bundles)
            and len(chord.key) == 1
        ):
            bare = (*strikes[:-1], (held - {"Shift"}, code))
            if bare not in places:
                key = folio.legend.print_of(code)
                text = f"{trigger} is Shift with {key}: {key} without Shift does nothing in {program.name}."
                yield finding("place-or-print", str(trigger), (binding.id,), text)


@check(ProgramPart, {"typed-prefix": "warning"})
def typed_prefixes(part: ProgramPart) -> Iterator[Finding]:
    """Report a typed text that begins another: it acts before the other can be finished."""
    folio, program = part.folio, part.program
    typed = [(b, b.trigger.text) for b in program.bindings if isinstance(b.trigger, Typed)]
    for (one, text), (other, longer) in combinations(sorted(typed, key=lambda pair: len(pair[1])), 2):
        if longer != text and longer.startswith(text) and can_meet(folio, one, other):
            words = f"{one.trigger} begins {other.trigger} in {program.name}: the longer one cannot be finished."
            yield finding("typed-prefix", str(one.trigger), (one.id, other.id), words)


@check(ElsewherePart, {"not-on-this-computer": "note"})
def not_on_this_computer(part: ElsewherePart) -> Iterator[Finding]:
    """Report commands that have keys, but none on this computer."""
    folio, program, computer = part.folio, part.program, part.computer
    bound: dict[str, list[Binding]] = {}
    for binding in program.bindings:
        bound.setdefault(binding.command or "", []).append(binding)
    for ref, own in bound.items():
        every = folio.bindings_of.get(ref, ())
        if not any(binding.lives_on(computer) for binding in every):
            command, there = folio.commands[ref], sorted({name for binding in own for name in binding.computers})
            text = f"{command.name} has a key on {', '.join(there)}, and none on {computer}."
            cure = Cure("here", f"let {own[0].trigger} be on {computer} too", own[0].id)
            yield finding("not-on-this-computer", str(own[0].trigger), tuple(b.id for b in own), text, cure)


@check(FolioPart, {"bundle-clash": "warning"})
def bundle_clashes(part: FolioPart) -> Iterator[Finding]:
    """Report bundles for the same modifiers, or for some that a shortcut spells out."""
    folio = part.folio
    for (one, held), (other, also) in combinations(folio.bundles.items(), 2):
        if set(held) == set(also):
            yield finding(
                "bundle-clash", "folio.toml", (), f"The bundles {one} and {other} name the same modifiers."
            )
    for name, held in folio.bundles.items():
        for program in folio.programs.values() if len(held) > 1 else ():
            spelt = [binding for binding in program.bindings if _spells(binding, name, held)]
            if len(spelt) > _EACH:
                text = (
                    f"{program.name} has {len(spelt)} shortcuts with {'+'.join(held)}, {spelt[0].trigger} among them: "
                    f"the bundle {name} is not free of other uses."
                )
                yield finding("bundle-clash", str(spelt[0].trigger), tuple(one.id for one in spelt), text)
                continue
            for binding in spelt:
                text = (
                    f"{binding.trigger} does {folio.commands[binding.command or ''].name} in {program.name}: "
                    f"the bundle {name} is not free of other uses."
                )
                yield finding("bundle-clash", str(binding.trigger), (binding.id,), text)


def _spells(binding: Binding, name: str, held: Iterable[str]) -> bool:
    """Return True for a shortcut that holds the modifiers of a bundle without naming it."""
    if not isinstance(binding.trigger, Sequence):
        return False
    return any(name not in chord.modifiers and set(chord.modifiers) == set(held) for chord in binding.trigger.chords)
