"""Select the bindings a card is about: by program, context, groups, found text, weakness, use, recent change or task run."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from msgspec import Struct, field

from glimber.core.model.folio import Binding, Card, Command, Folio
from glimber.core.notation.keys import Chord, Sequence, Spot


class Moved(Struct, frozen=True):
    """One change of a binding's trigger, as texts; ``at`` an ISO moment."""

    at: str
    binding: str
    was: str
    now: str


class Known(Struct, frozen=True):
    """Practice data for cards, where there is any: grip by binding, how bindings were moved, and uses a week where they were
    stated or counted."""

    grips: Mapping[str, float] = field(default_factory=dict)
    moves: tuple[Moved, ...] = ()
    uses: Mapping[str, float] = field(default_factory=dict)

    @property
    def changed(self) -> Mapping[str, str]:
        """Return when each binding was last moved."""
        return {move.binding: move.at for move in sorted(self.moves, key=lambda move: move.at)}


NOTHING_KNOWN = Known()


def chosen(folio: Folio, card: Card, known: Known = NOTHING_KNOWN) -> list[tuple[Binding, Command]]:
    """Return the bindings of commands a card is about, in folio order; those of a task run in its order."""
    found = [
        (binding, command) for binding in folio.all_bindings() if (command := folio.command_of(binding)) is not None
    ]
    tests = _tests_of(card, known)
    found = [one for one in found if all(test(*one) for test in tests)]
    if card.weakest is not None:
        weak = sorted((one for one in found if one[0].id in known.grips), key=lambda one: known.grips[one[0].id])
        found = weak[: card.weakest]
    if card.most_used is not None:
        found = _most_used(found, card.most_used, known)
    if card.run is not None and card.run in folio.runs:
        found = _in_order(found, folio.runs[card.run].commands)
    return found


def _tests_of(card: Card, known: Known) -> list[Callable[[Binding, Command], bool]]:
    """Return the tests a binding must pass to be on a card, one for each field that is set."""
    tests: list[Callable[[Binding, Command], bool]] = []
    if card.program is not None:
        tests.append(lambda binding, command: command.program == card.program)
    if card.context is not None:
        tests.append(lambda binding, command: command.context == card.context)
    if card.board is not None:
        tests.append(lambda binding, command: isinstance(binding.trigger, Spot) and binding.trigger.board == card.board)
    if card.layers:
        tests.append(
            lambda binding, command: isinstance(binding.trigger, Spot) and binding.trigger.layer in card.layers
        )
    if card.groups:
        tests.append(lambda binding, command: command.group in card.groups)
    if card.find:
        wanted = card.find.casefold().split()
        tests.append(lambda binding, command: all(word in _searched(binding, command) for word in wanted))
    if card.changed_since is not None:
        since, changed = card.changed_since, known.changed
        tests.append(lambda binding, command: changed.get(binding.id, "") >= since)
    return tests


def _most_used(found: list[tuple[Binding, Command]], most: int, known: Known) -> list[tuple[Binding, Command]]:
    """Return the bindings that are used most, the most used first: as counted, else as their command is stated to be used."""
    uses = {id(one): known.uses.get(one[0].id, one[1].uses_per_day or 0.0) for one in found}
    return sorted((one for one in found if uses[id(one)] > 0), key=lambda one: -uses[id(one)])[:most]


def _searched(binding: Binding, command: Command) -> str:
    words = (
        command.name,
        command.label or "",
        binding.label or "",
        binding.reason or "",
        str(binding.trigger),
        *command.words,
    )
    return " ".join(words).casefold()


def _in_order(found: Iterable[tuple[Binding, Command]], commands: Iterable[str]) -> list[tuple[Binding, Command]]:
    """Return one binding of each command, in the order of the commands, each as often as it is named."""
    first: dict[str, tuple[Binding, Command]] = {}
    for binding, command in found:
        first.setdefault(command.ref, (binding, command))
    return [first[ref] for ref in commands if ref in first]


def chords_of(found: Iterable[tuple[Binding, Command]]) -> list[tuple[Binding, Command, Chord]]:
    """Return those struck as one chord."""
    return [(binding, command, trigger.chords[0]) for binding, command in found
            if isinstance(trigger := binding.trigger, Sequence) and len(trigger.chords) == 1]  # fmt: skip


def sequences_of(found: Iterable[tuple[Binding, Command]]) -> list[tuple[Binding, Command, Sequence]]:
    """Return those struck as several chords one after another."""
    return [(binding, command, trigger) for binding, command in found
            if isinstance(trigger := binding.trigger, Sequence) and len(trigger.chords) > 1]  # fmt: skip


def label_of(binding: Binding, command: Command) -> str:
    """Return what stands for a command where there is little room."""
    return binding.label or command.short
