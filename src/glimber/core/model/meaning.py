"""The meaning of a sent chord, sequence or text: which command of which program it carries out."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from msgspec import Struct, field

from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import EVERYWHERE, Binding, Folio
from glimber.core.notation.keys import Sent, Sequence, Spot, Strike, strikes_of

Strikes = tuple[Strike, ...]


class _Node(Struct):
    """One step deep in the trie of sequences."""

    next: dict[Strike, _Node] = field(default_factory=dict)
    bindings: list[Binding] = field(default_factory=list)


class Reading(Struct, frozen=True):
    """The match of the strikes so far: nothing begins so, a prefix, complete, or complete and a prefix of something longer."""

    state: Literal["none", "beginning", "complete", "both"]
    bindings: tuple[Binding, ...] = ()


class Meanings:
    """The shortcuts that are live in one context of a program, with those of Everywhere, as a trie of strikes."""

    def __init__(self, folio: Folio, program: str | None, context: str | None = None, computer: str | None = None):
        self.folio = folio
        self.programs = frozenset(id for id in (EVERYWHERE, program) if id is not None)
        self._root = _Node()
        # The desktop takes its chords before a program sees them.
        for id in (EVERYWHERE, program):
            if id is None or id not in folio.programs:
                continue
            for binding in folio.programs[id].bindings:
                self._add(binding, context, computer)

    def _add(self, binding: Binding, context: str | None, computer: str | None) -> None:
        command = self.folio.command_of(binding)
        if command is None or isinstance(binding.trigger, Spot) or not binding.lives_on(computer):
            return
        if context is not None and command.context not in (None, context):
            return
        strikes = strikes_of(binding.trigger, self.folio.legend, self.folio.bundles)
        if not strikes:
            return
        node = self._root
        for strike in strikes:
            node = node.next.setdefault(strike, _Node())
        if binding not in node.bindings:
            node.bindings.append(binding)

    def read(self, strikes: Iterable[Strike]) -> Reading:
        """Return where these strikes lead."""
        node = self._root
        for strike in strikes:
            if strike not in node.next:
                return Reading("none")
            node = node.next[strike]
        if node.bindings and node.next:
            return Reading("both", tuple(node.bindings))
        if node.bindings:
            return Reading("complete", tuple(node.bindings))
        return Reading("beginning")

    def command(self, strikes: Strikes) -> str | None:
        """Return the command carried out by exactly these strikes, as ``program/command``."""
        bindings = self.read(strikes).bindings if strikes else ()
        return bindings[0].command if bindings else None

    def of_binding(self, binding: Binding) -> str | None:
        """Return the command a spot carries out here: its own where it is heard here, or else what it sends means."""
        command = self.folio.command_of(binding)
        if command is not None and command.program in self.programs:
            return command.ref
        sent = self.folio.sent_by(binding)
        strikes = strikes_of(sent, self.folio.legend, self.folio.bundles) if sent is not None else None
        return self.command(strikes) if strikes else None


def following(folio: Folio, program: str, keys: Sent) -> list[Binding]:
    """Return the bindings of a program whose sequences go on after these keys; none for keys the legend lacks."""
    first = strikes_of(keys, folio.legend, folio.bundles)
    if not first:
        return []

    def goes_on(binding: Binding) -> bool:
        strikes = strikes_of(binding.trigger, folio.legend, folio.bundles) if isinstance(binding.trigger, Sequence) else None
        return strikes is not None and len(strikes) > len(first) and strikes[: len(first)] == first

    return list(filter(goes_on, folio.programs[program].bindings))


def meanings(folio: Folio, program: str | None, context: str | None, computer: str | None) -> Meanings:
    """Return the meanings of a program's context, worked out once for each folio value."""
    key = program, context, computer
    return _MEANINGS.get(folio, key, lambda: Meanings(folio, program, context, computer))


_MEANINGS: DerivedCache[Folio, tuple[str | None, str | None, str | None], Meanings] = DerivedCache()
