"""A walk through a card part by part, each with its sentence: as its file says, or made of its groups and reasons."""

from __future__ import annotations

from collections.abc import Iterable

from glimber.core.model.card_bindings import NOTHING_KNOWN, Known, chosen
from glimber.core.model.folio import Binding, Card, Command, Folio, TourStop
from glimber.core.notation.keys import Spot

MOST_NAMES = 6


def tour_of(folio: Folio, card: Card, known: Known = NOTHING_KNOWN) -> tuple[TourStop, ...]:
    """Return the stops of a card. ``keys`` are what its drawing calls its parts: keys of a board, else bindings."""
    if card.tour:
        return card.tour
    found = [(binding, command) for binding, command in chosen(folio, card, known) if _part(card, binding)]
    by_group: dict[str, list[tuple[Binding, Command]]] = {}
    for binding, command in found:
        group = folio.group_of(command)
        by_group.setdefault(group.name if group else "", []).append((binding, command))
    stops = [TourStop(_parts(card, part), _sentence(name, part)) for name, part in by_group.items()]
    reasons: dict[str, list[Binding]] = {}
    for binding, _ in found:
        if binding.reason:
            reasons.setdefault(binding.reason, []).append(binding)
    stops += [TourStop(tuple(dict.fromkeys(_part(card, one) for one in bindings)), f"Why: {reason}.")
              for reason, bindings in reasons.items() if len(bindings) > 1]  # fmt: skip
    return tuple(stops)


def _part(card: Card, binding: Binding) -> str:
    """Return what the drawing of a card calls the part that a binding is on; empty where it is on none."""
    if card.kind != "board":
        return binding.id
    return binding.trigger.keys[0] if isinstance(binding.trigger, Spot) and len(binding.trigger.keys) == 1 else ""


def _parts(card: Card, part: Iterable[tuple[Binding, Command]]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(_part(card, binding) for binding, _ in part))


def _sentence(group: str, part: list[tuple[Binding, Command]]) -> str:
    names = list(dict.fromkeys(command.name for _, command in part))
    more = f" and {len(names) - MOST_NAMES} more" if len(names) > MOST_NAMES else ""
    return f"{group or 'The others'}: {', '.join(names[:MOST_NAMES])}{more}."
