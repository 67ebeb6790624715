"""The strikes that may be counted: the chords of the folio's own bindings, and nothing else.

Chords without a modifier, or with Shift alone, are looked at only where their keys are function, navigation or media keys: what
types a letter is never looked at, in no step of a sequence.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import Final

from msgspec import Struct

from glimber.core.model.folio import EVERYWHERE, Binding, Command, Folio, Program
from glimber.core.notation.keycodes import CODES
from glimber.core.notation.keys import Sequence, Strike, strikes_of

_NAVIGATION: Final = frozenset(
    "ArrowLeft ArrowRight ArrowUp ArrowDown Home End PageUp PageDown Insert ContextMenu".split()
)
_SYSTEM: Final = frozenset(
    "PrintScreen Pause ScrollLock Again Props Undo Select Copy Open Paste Find Cut Help Power Sleep WakeUp Eject".split()
)
_FAMILIES: Final = ("Audio", "Media", "Browser", "Launch", "Brightness")
BARE: Final = frozenset(
    code for code in CODES if code in _NAVIGATION or code in _SYSTEM or code.startswith(_FAMILIES)
    or (code[0] == "F" and code[1:].isdigit())
)  # fmt: skip
"""Places that may be counted without a modifier."""
_UNDO: Final = "undo"


class Watched(Struct, frozen=True, dict=True):
    """``strikes``: by program, then by the strikes of a trigger, the binding that is counted for it; ``stems`` the beginnings of
    those of several strikes. ``undo`` the bindings that undo, by program. ``windows`` the window classes of each program in
    small letters. ``not_counted``: bindings that cannot be counted, with why."""

    strikes: Mapping[str, Mapping[tuple[Strike, ...], str]]
    stems: Mapping[str, frozenset[tuple[Strike, ...]]]
    undo: frozenset[str]
    windows: Mapping[str, frozenset[str]]
    not_counted: Mapping[str, str]

    def program_of(self, classes: Iterable[str]) -> str | None:
        """The program a window is of, by its classes; None for one of no program of the folio."""
        lowered = {one.casefold() for one in classes if one}
        return next((id for id, names in self.windows.items() if names & lowered), None)

    @cached_property
    def steps(self) -> frozenset[Strike]:
        """Every strike that is a step of something: what else is struck need not be looked at any further."""
        return frozenset(strike for table in self.strikes.values() for strikes in table for strike in strikes)

    @property
    def countable(self) -> frozenset[str]:
        """The bindings that can be counted."""
        return frozenset(id for table in self.strikes.values() for id in table.values())

    def only_program(self, strikes: tuple[Strike, ...]) -> str | None:
        """Return the one program that has bound these strikes, or begins with them; None where there are none or several."""
        found = [id for id, table in self.strikes.items() if strikes in table or strikes in self.stems[id]]
        return found[0] if len(found) == 1 else None


def watched(folio: Folio, computer: str | None = None) -> Watched:
    """Return what can be counted of a folio on this computer."""
    tables: dict[str, dict[tuple[Strike, ...], str]] = {id: {} for id in folio.programs}
    why: dict[str, str] = {}
    ambiguous: set[tuple[str, tuple[Strike, ...]]] = set()
    for binding in folio.drillable(computer):
        command = folio.command_of(binding)
        assert command is not None
        found = _strikes(folio, binding)
        if isinstance(found, str):
            why[binding.id] = found
            continue
        table = tables[command.program]
        other = folio.bindings.get(table.get(found, ""))
        if other is not None and other.command != binding.command:
            ambiguous.add((command.program, found))
        elif other is None:
            table[found] = binding.id
        else:
            why[binding.id] = f"it sends what {other.id} is struck with; both count there"
    for program, strikes in ambiguous:
        alike = {tables[program].pop(strikes), *_struck_by(folio, computer, program, strikes)}
        why |= dict.fromkeys(alike, "two commands have the same keys, in different parts of the program")
    stems = {
        id: frozenset(strikes[:n] for strikes in table for n in range(1, len(strikes))) for id, table in tables.items()
    }
    undo = frozenset(
        id for table in tables.values() for id in table.values() if _undoes(folio.command_of(folio.bindings[id]))
    )
    windows = {program.id: _classes(program) for program in folio.programs.values() if program.id != EVERYWHERE}
    return Watched(tables, stems, undo, windows, why)


def _struck_by(folio: Folio, computer: str | None, program: str, strikes: tuple[Strike, ...]) -> list[str]:
    """Return the bindings of a program that are struck so."""
    own = [one for one in folio.drillable(computer) if folio.commands[one.command or ""].program == program]
    return [one.id for one in own if _strikes(folio, one) == strikes]


def _strikes(folio: Folio, binding: Binding) -> tuple[Strike, ...] | str:
    """Return the strikes that a binding is recognised by; a sentence where it cannot be."""
    sent = folio.sent_by(binding)
    if not isinstance(sent, Sequence):
        return "what it sends is no chord"
    strikes = strikes_of(sent, folio.legend, folio.bundles)
    if strikes is None:
        return "its keys are not on this keyboard"
    if any(not held - {"Shift"} and code not in BARE for held, code in strikes):
        return "its keys type letters, and what is typed is never looked at"
    return strikes


def _classes(program: Program) -> frozenset[str]:
    named = program.windows or (program.id, program.name)
    return frozenset(one.casefold() for one in named)


def _undoes(command: Command | None) -> bool:
    return command is not None and _UNDO in {one.casefold() for one in (command.id, command.name, *command.was)}
