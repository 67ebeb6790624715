"""Uses a day from counts: how often each command was used, as some log or some days of ticking off have it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec import Struct

from glimber.core.edit.commands import edit_command
from glimber.core.model.folio import Command, Folio
from glimber.core.notation.nearest import did_you_mean


class Count(Struct, frozen=True):
    """A command by its name or its id, and how often it was used in all; ``days``: in how many working days, where it says so."""

    name: str
    uses: float
    line: int
    days: float | None = None


class Counted(Struct, frozen=True):
    """Uses a day by ``program/command`` taken from counts, and the counts that match no command."""

    uses: dict[str, float]
    unknown: list[tuple[Count, str]]


def match_counts(folio: Folio, counts: Sequence[Count], days: float, program: str | None = None) -> Counted:
    """Return uses a day for every command that is counted, by exact name, former name, label or id; counts of one add up.

    ``days``: working days that were counted, for rows that do not say it. Raises ValueError for days that are not above 0.
    """
    if days <= 0 or any(count.days is not None and count.days <= 0 for count in counts):
        raise ValueError("counts need the working days they cover; expected more than 0")
    names = _names(folio, program)
    uses: dict[str, float] = {}
    unknown = []
    for count in counts:
        ref = names.get(count.name.casefold())
        if ref is None:
            hint = did_you_mean(count.name, [command.name for command in _commands(folio, program)])
            unknown.append((count, f"line {count.line}: no command is called {count.name}{hint}"))
            continue
        uses[ref] = uses.get(ref, 0.0) + count.uses / (count.days or days)
    return Counted(uses, unknown)


def with_uses(folio: Folio, uses: dict[str, float]) -> Folio:
    """Return the folio with these uses a day, to a tenth."""
    for ref, a_day in uses.items():
        folio = edit_command(folio, ref, uses_per_day=round(a_day, 1))
    return folio


def _commands(folio: Folio, program: str | None) -> Iterable[Command]:
    return (command for command in folio.commands.values() if program in (None, command.program))


def _names(folio: Folio, program: str | None) -> dict[str, str]:
    """Return every way a command may be called in counts; exact names win over labels and former names."""
    found: dict[str, str] = {}
    for ways in (
        lambda c: (c.name, c.ref),
        lambda c: (c.id,),
        lambda c: (c.label,) if c.label else (),
        lambda c: c.was,
    ):
        for command in _commands(folio, program):
            for name in ways(command):
                found.setdefault(name.casefold(), command.ref)
    return found
