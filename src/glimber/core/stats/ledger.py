"""The figures of every binding, and the ledger of all of them at a moment.

Where there are no tries the answer is None, "not known yet", never a number."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from functools import cached_property
from math import inf

import numpy as np
from msgspec import Struct

from glimber.core.model.folio import Binding, Command, Folio
from glimber.core.practice.columns import HIT, Floats
from glimber.core.practice.log import Practice
from glimber.core.practice.slip_kinds import HAND_KINDS
from glimber.core.practice.tally import Measured
from glimber.core.practice.tries import SETTLING_DAYS, Try, utc
from glimber.core.stats import accuracy as acc
from glimber.core.stats.belief import Belief, day_of
from glimber.core.stats.gain import Hits, hit_seconds, hit_worths
from glimber.core.stats.grouping import Selected
from glimber.core.stats.reach import Reach
from glimber.core.stats.scaling import Scales
from glimber.core.stats.slips import Slips, slips_of


class Weighed(Struct, frozen=True, dict=True):
    """One binding's measures under its present trigger. Times in ms, costs in seconds a week."""

    binding: Binding
    command: Command
    number: int
    counted: Selected
    effective: float
    days: int
    posterior: acc.Beta | None
    hand: acc.Beta
    knowing: acc.Beta
    recall_ms: float | None
    over_deadline: bool
    motor_ms: float | None
    reach_ms: float | None
    p_know: float
    faded: float
    """The share of what was seen to be known that has not faded since, by the memory model."""
    causes: Mapping[str, float]
    cause: str
    place: str | None
    place_count: int
    place_beside: bool
    lasting: float
    knowing_now: float
    uses_week: float
    uses_guessed: bool
    slow_s: float | None
    slow_times: int
    """Number of times the slow way was timed at work; 0: its seconds are the model's."""
    recovery_s: float
    target_ms: float
    wrong: tuple[int, int]
    """Slips and blanks among the counted tries."""
    at_work: Measured | None = None
    """The uses of its command in the real day, where that was counted."""

    def __eq__(self, other: object) -> bool:
        """Compare all figures; the tries behind them are not compared: arrays have no single truth value."""
        if not isinstance(other, Weighed):
            return NotImplemented
        names = (name for name in self.__struct_fields__ if name != "counted")
        return all(getattr(self, name) == getattr(other, name) for name in names)

    @property
    def uses_day(self) -> float | None:
        """Uses of its command on a working day: as they are set, else as they were counted on days enough; None: a guess."""
        if self.command.uses_per_day is not None:
            return self.command.uses_per_day
        return self.at_work.mean if self.at_work is not None and self.at_work.enough else None

    @cached_property
    def tries(self) -> tuple[Try, ...]:
        """The counted tries behind every figure, in order of time."""
        return tuple(self.counted.columns.row(int(place)) for place in self.counted.rows(self.number))

    @property
    def count(self) -> int:
        """Return how many counted tries there are."""
        return int(self.counted.starts[self.number + 1] - self.counted.starts[self.number])

    @property
    def cold(self) -> int:
        """Return how many of them were cold."""
        return int(self.counted.columns.cold[self.counted.rows(self.number)].sum())

    @cached_property
    def slips(self) -> Slips:
        """Return what went wrong, by kind and by what was struck."""
        return slips_of(self.counted.columns, self.counted.rows(self.number))

    @cached_property
    def trend(self) -> float | None:
        """P(the last 12 tries were better than the 12 before), for the eye alone."""
        return acc.trend(self.counted.columns.outcome[self.counted.rows(self.number)] == HIT)

    @property
    def p_clean(self) -> float:
        """The one probability shown and used: knowing it, at the rate of the newest tries less what has faded since, and no error
        of the hand. Before any try it is what the memory model expects.
        """
        return self.known * (1 - self.hand.mean)

    @property
    def known(self) -> float:
        """Chance of knowing it now."""
        return (1 - self.knowing_now) * self.faded if self.count else self.p_know

    @property
    def p_clean_beta(self) -> acc.Beta:
        """``p_clean`` with its uncertainty: that of the error of knowing about its newest rate, and that of the hand's."""
        spread = self.knowing.variance if self.count else 0.25 * self.p_know * (1 - self.p_know)
        h = self.hand.mean
        var = (self.hand.variance + (1 - h) ** 2) * (spread + self.known**2) - self.p_clean**2
        return acc.Beta.of(self.p_clean, max(var, 1e-9))

    @property
    def grip(self) -> float:
        """Return how firmly it is held: p_clean × min(1, target / time); 0 before any try."""
        time = self.time_ms
        return 0.0 if time is None else self.p_clean * min(1.0, self.target_ms / max(1.0, time))

    @property
    def time_ms(self) -> float | None:
        return None if self.recall_ms is None else self.recall_ms + (self.motor_ms or 0.0)

    @property
    def slip_share(self) -> float:
        """Return which part of the errors are slips, as seen; one half before any."""
        whole = sum(self.wrong)
        return self.wrong[0] / whole if whole else 0.5

    @property
    def blank_s(self) -> float:
        """Seconds a blank costs: the slow way, or where none is on record what mending a slip takes at least."""
        return self.slow_s if self.slow_s is not None else self.recovery_s

    @property
    def knowing_s(self) -> float:
        """Seconds that one knowing error costs: slips are mended, blanks go the slow way."""
        hand = sum(self.slips.kinds.get(kind, 0) for kind in HAND_KINDS)
        slips, blanks = max(0, self.slips.total - hand), self.slips.blanks
        blank_share = blanks / (slips + blanks) if slips + blanks else 0.5
        return (1 - blank_share) * self.recovery_s + blank_share * self.blank_s

    @property
    def p_slip(self) -> float | None:
        return None if self.posterior is None else (1 - self.posterior.mean) * self.slip_share

    @property
    def p_blank(self) -> float | None:
        return None if self.posterior is None else (1 - self.posterior.mean) * (1 - self.slip_share)

    def parts_s(self) -> tuple[float, float, float, float]:
        """Return the weekly cost divided: knowing time, hand time, slips, blanks. Zeros where not known yet."""
        if self.recall_ms is None:
            return 0.0, 0.0, 0.0, 0.0
        return (
            self.uses_week * self.recall_ms / 1000,
            self.uses_week * (self.motor_ms or 0.0) / 1000,
            self.uses_week * (self.p_slip or 0.0) * self.recovery_s,
            self.uses_week * (self.p_blank or 0.0) * self.blank_s,
        )

    @property
    def weekly_s(self) -> float | None:
        """uses × (recall + motor + P(slip) · recovery + P(blank) · slow way)."""
        return None if self.recall_ms is None else sum(self.parts_s())

    @property
    def lost_s(self) -> float | None:
        """Return what a firm grip would give back in a week."""
        weekly = self.weekly_s
        return None if weekly is None else max(0.0, weekly - self.uses_week * self.target_ms / 1000)

    @property
    def earned_s(self) -> float | None:
        """Return what it saves in a week over the slow way."""
        weekly = self.weekly_s
        return None if weekly is None or self.slow_s is None else self.uses_week * self.slow_s - weekly


class Ledger(Struct, frozen=True, dict=True):
    """The measures of all drillable bindings of a folio at one moment. ``calm_hand`` and ``calm_knowing``: error rates of the
    bindings with which nothing is the matter; ``slope``: how fast not knowing falls with practice, β."""

    folio: Folio
    at: datetime
    rows: Mapping[str, Weighed]
    accuracies: acc.Accuracies
    belief: Belief
    reach: Reach
    scales: Scales
    calm_hand: float
    calm_knowing: float
    slope: float
    practice: Practice
    logged: Selected

    @cached_property
    def settling(self) -> Mapping[str, int]:
        """Days since the change of every binding that was moved less than two weeks ago: it is not judged again yet."""
        found = {}
        for change in self.practice.changes:
            days = (self.at - utc(change.applied or change.at)).days
            stands = change.to_trigger is not None and change.reverted is None
            if stands and 0 <= days < SETTLING_DAYS and change.binding in self.rows:
                found[change.binding] = days
        return found

    @cached_property
    def hits(self) -> Hits:
        """Return what further clean hits of every binding are worth and take, in the order of the rows."""
        rows = list(self.rows.values())
        stakes = np.array([row.uses_week * (1 - row.hand.mean) * row.knowing_s for row in rows])
        seconds = np.array([hit_seconds(row.time_ms, row.reach_ms, row.p_clean) for row in rows])
        day = day_of(self.at)
        return Hits(hit_worths(self.belief, stakes, day), seconds, self.belief.known(day))

    def clean_at(self, moment: datetime) -> Floats:
        """Return the chance of a clean hit of every binding at a moment to come, (b,), if nothing is practised before."""
        rows, day = self.rows.values(), day_of(moment)
        seen = np.array([1 - row.knowing_now for row in rows]) * self.belief.kept(day)
        tried = np.array([row.count > 0 for row in rows], dtype=bool)
        hand = np.array([row.hand.mean for row in rows])
        return np.asarray(np.where(tried, seen, self.belief.known(day)) * (1 - hand))

    def errors_at_s(self, moment: datetime) -> dict[str, float]:
        """Return the seconds a week that errors of every binding cost at a moment to come, if nothing is practised before."""
        rows = self.rows.values()
        return {row.binding.id: float(row.uses_week * (1 - clean) * row.knowing_s)
                for row, clean in zip(rows, self.clean_at(moment), strict=True)}  # fmt: skip

    def by_cost(self) -> list[Weighed]:
        """Most seconds a week first; those not known yet last, in folio order."""
        return sorted(self.rows.values(), key=lambda row: inf if (cost := row.weekly_s) is None else -cost)

    @cached_property
    def usual_reach_ms(self) -> float | None:
        """Mean reach of the bindings that were tried."""
        reaches = [row.reach_ms for row in self.rows.values() if row.reach_ms is not None and row.count]
        return sum(reaches) / len(reaches) if reaches else None

    def back_from(self, command: str, to: str) -> tuple[int, int]:
        """Return how many slips the bindings of a command have that would have done another, and how many they have at all."""
        rows = self._by_command.get(command, ())
        return sum(row.slips.would_do.get(to, 0) for row in rows), sum(row.slips.total for row in rows)

    def at_work(self, command: str) -> Measured | None:
        """Return how often a command was struck in the real day, where that was counted."""
        rows = self._by_command.get(command, ())
        return rows[0].at_work if rows else None

    @cached_property
    def _by_command(self) -> Mapping[str, list[Weighed]]:
        found: dict[str, list[Weighed]] = {}
        for row in self.rows.values():
            found.setdefault(row.command.ref, []).append(row)
        return found
