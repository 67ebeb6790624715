"""The tally: how often each binding was struck on each day it was counted, and what that says of uses a day."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date
from typing import TYPE_CHECKING, Final

from msgspec import Struct, field

if TYPE_CHECKING:
    from glimber.core.model.folio import Folio
    from glimber.core.practice.counting import Count

ENOUGH_DAYS: Final = 3
"""Working days after which what was counted takes the place of a guess."""
_SATURDAY: Final = 5
_JEFFREYS: Final = 0.5
SURE: Final = 0.9


class Tally(Struct, frozen=True):
    """By day (ISO), by binding: times struck, and of those undone at once. A day that was counted is there even where nothing
    was struck."""

    days: Mapping[str, Mapping[str, tuple[int, int]]] = field(default_factory=dict)

    def with_counts(self, counts: Iterable[Count], days: Iterable[str] = ()) -> Tally:
        """The tally with more counts, and with days that are being counted. Undone is never more than struck."""
        found = {day: dict(rows) for day, rows in self.days.items()}
        for day in days:
            found.setdefault(day, {})
        for one in counts:
            rows = found.setdefault(one.day, {})
            struck, undone = rows.get(one.binding, (0, 0))
            struck, undone = struck + (one.what == "struck"), undone + (one.what == "undone")
            rows[one.binding] = struck, min(struck, undone)
        return Tally(found)

    def without(self, binding: str | None = None, day: str | None = None) -> Tally:
        """The tally without a binding, a day, or a binding on a day."""
        if binding is None:
            return Tally({one: rows for one, rows in self.days.items() if one != day})
        kept = {}
        for one, rows in self.days.items():
            kept[one] = {id: row for id, row in rows.items() if id != binding or day not in (None, one)}
        return Tally(kept)

    def with_row(self, binding: str, day: str, struck: int) -> Tally:
        """The tally with a count as somebody knows it better; what was undone at once stays, as far as it can."""
        rows = dict(self.days.get(day, {}))
        rows[binding] = struck, min(struck, rows.get(binding, (0, 0))[1])
        return Tally({**self.days, day: rows})

    def of(self, binding: str) -> tuple[int, int]:
        """Times struck and undone at once, over all days."""
        rows = [rows[binding] for rows in self.days.values() if binding in rows]
        return sum(struck for struck, _ in rows), sum(undone for _, undone in rows)

    @property
    def bindings(self) -> set[str]:
        """The bindings that were struck."""
        return {id for rows in self.days.values() for id in rows}


class Measured(Struct, frozen=True):
    """Uses of a command as they were counted. ``mean``, ``low``, ``high``: on a working day, with the 90 % interval; ``weekend``:
    in the two days of a weekend; ``days``: working days counted; ``undone``: of ``struck`` in all, undone at once."""

    mean: float
    low: float
    high: float
    weekend: float
    days: int
    struck: int
    undone: int

    @property
    def enough(self) -> bool:
        """Return True if it takes the place of a guess."""
        return self.days >= ENOUGH_DAYS

    def a_week(self, working_days: float) -> float:
        """Uses in a week of so many working days, and its weekend."""
        return self.mean * working_days + self.weekend


def measured(folio: Folio, tally: Tally, countable: Iterable[str]) -> dict[str, Measured]:
    """Uses by command (``program/command``), for every command with a binding that can be counted.

    The working days' counts are Poisson with a Gamma prior of Jeffreys, Gamma(½, 0): the posterior is Gamma(½ + n, days), whose
    mean and central 90 % interval are given. Source: Gelman et al., "Bayesian Data Analysis", 2.6 and 2.8. Weekends are apart:
    what was struck on them, over the weeks that the working days make.
    """
    from scipy.special import gammaincinv

    if not tally.days:
        return {}
    of_command: dict[str, set[str]] = {}
    for id in countable:
        binding = folio.bindings.get(id)
        if binding is not None and binding.command is not None:
            of_command.setdefault(binding.command, set()).add(id)
    working = [day for day in tally.days if not _is_weekend(day)]
    weeks = max(1.0, len(working) / max(1.0, folio.settings.working_days))
    found = {}
    for ref, ids in of_command.items():
        counts = {day: sum(rows[id][0] for id in ids if id in rows) for day, rows in tally.days.items()}
        n, days = sum(counts[day] for day in working), len(working)
        weekend = sum(counts.values()) - n
        undone = sum(rows[id][1] for rows in tally.days.values() for id in ids if id in rows)
        if not days:
            found[ref] = Measured(0.0, 0.0, 0.0, weekend / weeks, 0, weekend, undone)
            continue
        shape = n + _JEFFREYS
        low, high = (float(gammaincinv(shape, p)) / days for p in ((1 - SURE) / 2, (1 + SURE) / 2))
        found[ref] = Measured(shape / days, low, high, weekend / weeks, days, n + weekend, undone)
    return found


def _is_weekend(day: str) -> bool:
    return date.fromisoformat(day).weekday() >= _SATURDAY


def uses_words(one: Measured) -> str:
    """Counted uses a day in words, with the interval."""
    days = f"{one.days} day{'s' if one.days != 1 else ''}"
    low, high = (f"{value:.0f}" if value >= 10 else f"{value:.1f}" for value in (one.low, one.high))
    mean = f"{one.mean:.0f}" if one.mean >= 10 else f"{one.mean:.1f}"
    return f"{mean} a day ({low} to {high}, counted on {days})"
