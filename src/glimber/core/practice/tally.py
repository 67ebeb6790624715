"""The tally: how often each binding was struck on each day it was counted, and each command chosen in a menu; and what that says
of uses a day."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date
from types import MappingProxyType
from typing import TYPE_CHECKING, Final

from msgspec import Struct, field
from msgspec.structs import replace

if TYPE_CHECKING:
    from glimber.core.model.folio import Folio
    from glimber.core.practice.counting import Count

ENOUGH_DAYS: Final = 3
"""Working days after which what was counted takes the place of a guess."""
_SATURDAY: Final = 5
_NONE: Final[Mapping[str, str]] = MappingProxyType({})
_JEFFREYS: Final = 0.5
SURE: Final = 0.9
MOST_OTHERS: Final = 500
"""Entries that are no command of the folio whose names are kept."""
MOST_A_DAY: Final = 200
"""Times of choosing a command by menu that are kept of a day."""
ANOTHER_ENTRY: Final = ""
"""The id counted for all menu entries that are no command of the folio."""


Entry = tuple[str, ...]
"""A menu entry that is no command of the folio: the program's id, the menus above it from the top, and its name."""


class MenuChoice(Struct, frozen=True):
    """A command was chosen in a menu on a day, which took so many seconds; ``has_key``: it could have been struck. ``entry``: of
    one that the folio does not have, where its name is to be kept, its program's id, the menus above it and its name."""

    command: str
    took_s: float
    day: str
    has_key: bool = False
    entry: Entry = ()


class Tally(Struct, frozen=True):
    """By day (ISO), by binding: times struck, and of those undone at once. A day that was counted is there even where nothing
    was struck."""

    days: Mapping[str, Mapping[str, tuple[int, int]]] = field(default_factory=dict)
    menus: Mapping[str, Mapping[str, tuple[float, ...]]] = field(default_factory=dict)
    """By day, by command (``program/command``): the seconds that choosing it in a menu took, each time."""
    missed: Mapping[str, str] = field(default_factory=dict)
    """Commands with a key that were chosen by menu since the key was struck last: the day of the last time."""
    others: Mapping[Entry, tuple[float, ...]] = field(default_factory=dict)
    """Entries that the folio does not have, where their names are kept: the seconds that choosing them took, each time."""

    def with_counts(self, counts: Iterable[Count], days: Iterable[str] = (), commands: Mapping[str, str] = _NONE) -> Tally:
        """The tally with more counts, and with days that are being counted. Undone is never more than struck.

        ``commands`` by binding: what was struck is missed no longer.
        """
        counts = list(counts)
        found = {day: dict(rows) for day, rows in self.days.items()}
        for day in days:
            found.setdefault(day, {})
        for one in counts:
            rows = found.setdefault(one.day, {})
            struck, undone = rows.get(one.binding, (0, 0))
            struck, undone = struck + (one.what == "struck"), undone + (one.what == "undone")
            rows[one.binding] = struck, min(struck, undone)
        struck_again = {commands.get(one.binding) for one in counts if one.what == "struck"}
        missed = {ref: day for ref, day in self.missed.items() if ref not in struck_again}
        return replace(self, days=found, missed=missed)

    def with_choices(self, choices: Iterable[MenuChoice]) -> Tally:
        """Return the tally with entries chosen in menus."""
        found = {day: dict(rows) for day, rows in self.menus.items()}
        missed, others = dict(self.missed), dict(self.others)
        for one in choices:
            rows = found.setdefault(one.day, {})
            rows[one.command] = (*rows.get(one.command, ()), round(one.took_s, 1))[-MOST_A_DAY:]
            if one.has_key:
                missed[one.command] = one.day
            if one.entry and (one.entry in others or len(others) < MOST_OTHERS):
                others[one.entry] = (*others.get(one.entry, ()), round(one.took_s, 1))[-MOST_A_DAY:]
        return replace(self, menus=found, missed=missed, others=others)

    def chosen(self, command: str, since: str = "") -> list[float]:
        """Return the seconds that choosing a command by menu took, each time, on the days from one on."""
        return [s for day, rows in sorted(self.menus.items()) if day >= since for s in rows.get(command, ())]

    def without(self, binding: str | None = None, day: str | None = None) -> Tally:
        """Return the tally without a binding, a day, or a binding on a day."""
        if binding is None:
            return Tally({one: rows for one, rows in self.days.items() if one != day},
                         {one: rows for one, rows in self.menus.items() if one != day},
                         {ref: when for ref, when in self.missed.items() if when != day}, self.others)  # fmt: skip
        kept = {}
        for one, rows in self.days.items():
            kept[one] = {id: row for id, row in rows.items() if id != binding or day not in (None, one)}
        return replace(self, days=kept)

    def without_menus(self, command: str) -> Tally:
        """Return the tally without what was chosen of a command in menus."""
        menus = {day: {ref: times for ref, times in rows.items() if ref != command} for day, rows in self.menus.items()}
        return replace(self, menus=menus, missed={ref: day for ref, day in self.missed.items() if ref != command})

    def with_row(self, binding: str, day: str, struck: int) -> Tally:
        """The tally with a count as somebody knows it better; what was undone at once stays, as far as it can."""
        rows = dict(self.days.get(day, {}))
        rows[binding] = struck, min(struck, rows.get(binding, (0, 0))[1])
        return replace(self, days={**self.days, day: rows})

    def of(self, binding: str) -> tuple[int, int]:
        """Return times struck and undone at once, over all days."""
        rows = [rows[binding] for rows in self.days.values() if binding in rows]
        return sum(struck for struck, _ in rows), sum(undone for _, undone in rows)

    @property
    def bindings(self) -> set[str]:
        """The bindings that were struck."""
        return {id for rows in self.days.values() for id in rows}


class Measured(Struct, frozen=True):
    """Uses of a command as they were counted. ``mean``, ``low``, ``high``: on a working day, with the 90 % interval; ``weekend``:
    in the two days of a weekend; ``days``: working days counted; ``undone``: of ``struck`` in all, undone at once; ``by_menu``:
    times it was chosen in a menu, which are uses as well."""

    mean: float
    low: float
    high: float
    weekend: float
    days: int
    struck: int
    undone: int
    by_menu: int = 0

    @property
    def enough(self) -> bool:
        """Return True if it takes the place of a guess."""
        return self.days >= ENOUGH_DAYS

    def a_week(self, working_days: float) -> float:
        """Return uses in a week of so many working days, and its weekend."""
        return self.mean * working_days + self.weekend


def unknown_entries(folio: Folio, tally: Tally) -> dict[str, list[Entry]]:
    """Return the menu entries that were chosen and are not in the folio, by program, those that took longest in all first."""
    found: dict[str, list[Entry]] = {}
    programs = {entry[0]: folio.programs[entry[0]] for entry in tally.others if entry[0] in folio.programs}
    names = {id: {one.name.casefold() for one in program.commands.values()} for id, program in programs.items()}
    for entry in sorted(tally.others, key=lambda one: (-sum(tally.others[one]), one)):
        if entry[0] in names and entry[-1].casefold() not in names[entry[0]]:
            found.setdefault(entry[0], []).append(entry)
    return found


def measured(folio: Folio, tally: Tally, countable: Iterable[str]) -> dict[str, Measured]:
    """Return uses by command (``program/command``), for every command with a binding that can be counted.

    The working days' counts are Poisson with a Gamma prior of Jeffreys, Gamma(½, 0): the posterior is Gamma(½ + n, days), whose
    mean and central 90 % interval are given. Source: Gelman et al., "Bayesian Data Analysis", 2.6 and 2.8. Weekends are apart:
    what was struck on them, over the weeks that the working days make.
    """
    from scipy.special import gammaincinv

    if not tally.days:
        return {}
    working = [day for day in tally.days if not _is_weekend(day)]
    weeks = max(1.0, len(working) / max(1.0, folio.settings.working_days))
    found = {}
    for ref, ids in _counted_by_command(folio, tally, countable).items():
        menus = {day: len(tally.menus.get(day, {}).get(ref, ())) for day in tally.days}
        by_menu = sum(menus.values())
        counts = {day: sum(rows[id][0] for id in ids if id in rows) + menus[day] for day, rows in tally.days.items()}
        n, days = sum(counts[day] for day in working), len(working)
        weekend = sum(counts.values()) - n
        undone = sum(rows[id][1] for rows in tally.days.values() for id in ids if id in rows)
        if not days:
            found[ref] = Measured(0.0, 0.0, 0.0, weekend / weeks, 0, weekend - by_menu, undone, by_menu)
            continue
        shape = n + _JEFFREYS
        low, high = (float(gammaincinv(shape, p)) / days for p in ((1 - SURE) / 2, (1 + SURE) / 2))
        struck = n + weekend - by_menu
        found[ref] = Measured(shape / days, low, high, weekend / weeks, days, struck, undone, by_menu)
    return found


def _counted_by_command(folio: Folio, tally: Tally, countable: Iterable[str]) -> dict[str, set[str]]:
    """Return the bindings that are counted, by command; and commands without any that were chosen in menus."""
    found: dict[str, set[str]] = {}
    for id in countable:
        binding = folio.bindings.get(id)
        if binding is not None and binding.command is not None:
            found.setdefault(binding.command, set()).add(id)
    chosen = {ref for rows in tally.menus.values() for ref in rows if ref in folio.commands}
    # Of one whose keys cannot be counted nobody knows how often they are struck: its menu alone would say too little.
    return found | {ref: set() for ref in chosen if not folio.bindings_of.get(ref)}


def _is_weekend(day: str) -> bool:
    return date.fromisoformat(day).weekday() >= _SATURDAY


def uses_words(one: Measured) -> str:
    """Counted uses a day in words, with the interval."""
    days = f"{one.days} day{'s' if one.days != 1 else ''}"
    low, high = (f"{value:.0f}" if value >= 10 else f"{value:.1f}" for value in (one.low, one.high))
    mean = f"{one.mean:.0f}" if one.mean >= 10 else f"{one.mean:.1f}"
    return f"{mean} a day ({low} to {high}, counted on {days})"
