"""The commands among which the right one of a lit key is picked: those it is truly struck for first."""

from __future__ import annotations

from collections.abc import Mapping
from random import Random
from typing import Final

from glimber.core.model.folio import Binding, Command, Folio

CHOICES: Final = 5


def mix_ups(folio: Folio, would_do: Mapping[str, Mapping[str, int]]) -> dict[tuple[str, str], int]:
    """Return how often one command was struck for another, either way round: ``would_do`` counts by binding what its slips
    would have done."""
    found: dict[tuple[str, str], int] = {}
    for id, counts in would_do.items():
        binding = folio.bindings.get(id)
        if binding is None or binding.command is None:
            continue
        for other, count in counts.items():
            for pair in ((binding.command, other), (other, binding.command)):
                found[pair] = found.get(pair, 0) + count
    return found


def look_alikes(
    folio: Folio, binding: Binding, mixed: Mapping[tuple[str, str], int], seed: str, count: int = CHOICES
) -> tuple[Command, ...]:
    """Return the right command among others of its program or of the same board, in an order of their own for each prompt.

    First what was mixed up with it, most often first; then its group; then its program; then any other that has a binding.
    """
    right = folio.commands[binding.command or ""]
    others = {folio.commands[one.command].ref for one in folio.drillable() if one.command} - {right.ref}
    random = Random(f"look-alikes {seed} {right.ref}")

    def rank(ref: str) -> tuple[int, bool, bool, float]:
        other = folio.commands[ref]
        same = other.program == right.program
        return -mixed.get((right.ref, ref), 0), not (same and other.group == right.group), not same, random.random()

    chosen = [right, *(folio.commands[ref] for ref in sorted(sorted(others), key=rank)[: count - 1])]
    random.shuffle(chosen)
    return tuple(chosen)
