"""The modifier tally: which modifiers a program's shortcuts use, how often, and what holding them costs the hand."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from glimber.core.model.folio import Folio
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord, Sequence, expanded
from glimber.core.stats.reach import Reach
from glimber.core.stats.usage import share_of, weekly_uses


class Held(Struct, frozen=True):
    """One set of modifiers, in canonical order; empty for keys struck bare.

    ``strikes``: chords with just these in the shortcuts; ``uses_week``: how often they are struck, guesses included;
    ``hold_ms``: what holding them adds to the key alone, on average over those strikes; None where no key is known.
    """

    modifiers: tuple[str, ...]
    strikes: int
    uses_week: float
    hold_ms: float | None

    @property
    def week_s(self) -> float | None:
        """Seconds a week that holding them takes."""
        return None if self.hold_ms is None else self.hold_ms * self.uses_week / 1000


def modifier_tally(folio: Folio, program: str | None = None, computer: str | None = None) -> list[Held]:
    """Return the sets of modifiers of a program's shortcuts, or of all programs', heaviest week first.

    Reach as in docs/measures.md; a command's uses are split equally among its live shortcuts that say no share.
    """
    reach = Reach(folio)
    counted: dict[tuple[str, ...], list[tuple[float, float | None]]] = {}
    for chord, uses in _struck(folio, program, computer):
        held = expanded(chord.modifiers, folio.bundles)
        bare = reach.ms(Sequence((Chord((), chord.key, chord.by_place),)))
        whole = reach.ms(Sequence((chord,)))
        cost = None if bare is None or whole is None else max(0.0, whole - bare)
        counted.setdefault(tuple(name for name in MODIFIERS if name in held), []).append((uses, cost))
    found = []
    for modifiers, rows in counted.items():
        known = [cost for _, cost in rows if cost is not None]
        mean = sum(known) / len(known) if known else None
        found.append(Held(modifiers, len(rows), sum(uses for uses, _ in rows), mean))
    return sorted(found, key=lambda one: (-(one.week_s or 0.0), -one.uses_week, one.modifiers))


def _struck(folio: Folio, program: str | None, computer: str | None) -> Iterable[tuple[Chord, float]]:
    for here in folio.programs.values():
        if program is not None and here.id != program:
            continue
        for binding in here.bindings:
            command = folio.command_of(binding)
            if command is None or not binding.lives_on(computer) or not isinstance(binding.trigger, Sequence):
                continue
            share = share_of(folio, binding, computer)
            for chord in binding.trigger.chords:
                yield chord, weekly_uses(folio, command)[0] * share
