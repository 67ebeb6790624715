"""Measures of every binding: accuracy, times, slips, reach, memory, grip and what it costs in a week.

The formulas are those of docs/measures.md. Where there are no tries the answer is None, "not known yet", never a number.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property
from typing import Final

import numpy as np

from glimber.core.drill.tries import HAND_KINDS, SETTLING_DAYS, Practice, Try, utc
from glimber.core.folio.folio import Binding, Command, Folio
from glimber.core.gather.stake import share_of, weekly_uses
from glimber.core.weigh import accuracy as acc
from glimber.core.weigh import forgetting as memory
from glimber.core.weigh.reach import Reach, slow_way_s

COLD_TRIES: Final = 8
RECOVERY_S: Final = 2.5
CAREFUL_RECOVERY_S: Final = 10.0
FLAT: Final = (0.2, 0.8)
SCALE_FROM_HITS: Final = 60


@dataclass(frozen=True)
class Slips:
    """What went wrong: counts and weighted shares by kind, counts by what was struck and by what it would have done."""

    kinds: Mapping[str, int]
    shares: Mapping[str, float]
    struck: Mapping[str, int]
    would_do: Mapping[str, int]
    offset_u: tuple[float, float] | None
    blanks: int

    @property
    def total(self) -> int:
        return sum(self.kinds.values())


@dataclass(frozen=True)
class Weighed:
    """One binding's measures under its present trigger. Times in ms, costs in seconds a week."""

    binding: Binding
    command: Command
    tries: tuple[Try, ...]
    cold: int
    effective: float
    days: int
    posterior: acc.Beta | None
    recall_ms: float | None
    over_deadline: bool
    motor_ms: float | None
    reach_ms: float | None
    trend: float | None
    p_know: float
    hand_error: float
    knowing_error: float
    grip: float
    slips: Slips
    uses_week: float
    uses_guessed: bool
    slow_s: float | None
    recovery_s: float
    p_slip: float | None
    p_blank: float | None
    weekly_s: float | None
    lost_s: float | None
    earned_s: float | None

    @property
    def p_clean(self) -> float:
        """The one probability shown and used: knowing it, and no error of the hand."""
        return self.p_know * (1 - self.hand_error)

    @property
    def flat(self) -> bool:
        return self.trend is not None and FLAT[0] <= self.trend <= FLAT[1]

    @property
    def time_ms(self) -> float | None:
        if self.recall_ms is None:
            return None
        return self.recall_ms + (self.motor_ms or 0.0)

    def parts_s(self) -> tuple[float, float, float, float]:
        """The weekly cost divided: knowing time, hand time, slips, blanks. Zeros where not known yet."""
        if self.weekly_s is None or self.recall_ms is None:
            return 0.0, 0.0, 0.0, 0.0
        blank_s = self.slow_s if self.slow_s is not None else self.recovery_s
        return (
            self.uses_week * self.recall_ms / 1000,
            self.uses_week * (self.motor_ms or 0.0) / 1000,
            self.uses_week * (self.p_slip or 0.0) * self.recovery_s,
            self.uses_week * (self.p_blank or 0.0) * blank_s,
        )


@dataclass(frozen=True)
class Ledger:
    """The measures of all drillable bindings of a folio at one moment."""

    folio: Folio
    at: datetime
    rows: Mapping[str, Weighed]
    prior: acc.Beta
    model: memory.Recall
    reach: Reach
    practice: Practice = field(repr=False)

    @cached_property
    def settling(self) -> Mapping[str, int]:
        """Days since the change of every binding that was moved less than two weeks ago: it is not judged again yet."""
        found = {}
        for change in self.practice.changes:
            days = (self.at - utc(change.applied or change.at)).days
            if (
                change.to_trigger
                and change.reverted is None
                and 0 <= days < SETTLING_DAYS
                and change.binding in self.rows
            ):
                found[change.binding] = days
        return found

    def by_cost(self) -> list[Weighed]:
        """Most seconds a week first; those not known yet last, in folio order."""
        return sorted(self.rows.values(), key=lambda row: -(row.weekly_s if row.weekly_s is not None else -1.0))

    @cached_property
    def usual_reach_ms(self) -> float | None:
        """Mean reach of the bindings that were tried."""
        reaches = [row.reach_ms for row in self.rows.values() if row.reach_ms is not None and row.tries]
        return sum(reaches) / len(reaches) if reaches else None

    @cached_property
    def mean_hand_error(self) -> float:
        """Share of hand slips in all counted tries of the folio, with 20 tries at 0.05 for what is not known yet."""
        counts = [(len(row.tries), row.hand_error) for row in self.rows.values()]
        return (sum(count * error for count, error in counts) + 1.0) / (sum(count for count, _ in counts) + 20)


def measure(folio: Folio, practice: Practice, at: datetime, computer: str | None = None,
            between: Callable[[], None] = lambda: None) -> Ledger:  # fmt: skip
    """Weigh every drillable binding of a folio from the tries before ``at``.

    ``between`` is called between bindings: a place to wait, or to give up by raising.
    """
    at = utc(at)
    bindings = folio.drillable(computer)
    logged = {b.id: _present_tries(b, practice, at) for b in bindings}
    counted = {id: [one for one in tries if one.counts] for id, tries in logged.items()}
    prior = acc.fitted_prior(np.array([_weighted_accuracy(_relevant(tries)) for tries in counted.values() if tries]))
    model = _memory_model(logged)
    reach = Reach(folio, *_scales(folio, counted))
    rows = {}
    for b in bindings:
        between()
        rows[b.id] = _weigh(
            folio, b, logged[b.id], counted[b.id], prior, model, reach, share_of(folio, b, computer), at
        )
    return Ledger(folio, at, rows, prior, model, reach, practice)


def reweigh(ledger: Ledger, binding: str, more: Sequence[Try], at: datetime) -> Weighed:
    """One binding weighed again with tries that came after the ledger: prior, memory and reach stay the ledger's.

    Raises KeyError for a binding the ledger does not have.
    """
    row = ledger.rows[binding]
    trigger = str(row.binding.trigger)
    logged = _present_tries(row.binding, ledger.practice, at)
    logged += [one for one in more if one.binding == binding and one.trigger == trigger]
    week, _ = weekly_uses(ledger.folio, row.command)
    share = row.uses_week / week if week else 1.0
    counted = [one for one in logged if one.counts]
    return _weigh(ledger.folio, row.binding, logged, counted, ledger.prior, ledger.model, ledger.reach, share, utc(at))


def _present_tries(binding: Binding, practice: Practice, at: datetime) -> list[Try]:
    trigger = str(binding.trigger)
    return [one for one in practice.of(binding.id) if one.trigger == trigger and utc(one.at) <= at]


def _relevant(tries: Sequence[Try]) -> list[Try]:
    """Cold tries alone where there are enough of them: hits seconds after the last one flatter."""
    cold = [one for one in tries if one.cold]
    return cold if len(cold) >= COLD_TRIES else list(tries)


def _hits(tries: Sequence[Try]) -> acc.Bools:
    return np.array([one.outcome == "hit" for one in tries], dtype=bool)


def _weighted_accuracy(tries: Sequence[Try]) -> float:
    w = acc.weights(len(tries))
    return float(w[_hits(tries)].sum() / w.sum())


def _weigh(folio: Folio, binding: Binding, logged: Sequence[Try], counted: Sequence[Try], prior: acc.Beta,
           model: memory.Recall, reach: Reach, share: float, at: datetime) -> Weighed:  # fmt: skip
    command = folio.commands[binding.command or ""]
    relevant = _relevant(counted)
    posterior = acc.posterior(_hits(relevant), prior) if relevant else None
    recall, over, motor = _times(relevant)
    slips = _slips(counted)
    hand, knowing = _error_shares(counted)
    p_know = _knowing(logged, model, at)
    whole, guessed = weekly_uses(folio, command)
    uses_week = whole * share
    slow = slow_way_s(command.slow_way)
    recovery = CAREFUL_RECOVERY_S if command.careful else RECOVERY_S
    p_slip = p_blank = weekly = lost = earned = None
    if posterior is not None and recall is not None:
        error = 1 - posterior.mean
        wrong = slips.total + slips.blanks
        slip_share = slips.total / wrong if wrong else 0.5
        p_slip, p_blank = error * slip_share, error * (1 - slip_share)
        # A command without a slow way on record: finding it takes at least as long as mending a slip.
        blank_s = slow if slow is not None else recovery
        weekly = uses_week * ((recall + (motor or 0.0)) / 1000 + p_slip * recovery + p_blank * blank_s)
        lost = max(0.0, weekly - uses_week * folio.settings.target_ms / 1000)
        earned = None if slow is None else uses_week * slow - weekly
    grip = 0.0
    if recall is not None:
        grip = p_know * (1 - hand) * min(1.0, folio.settings.target_ms / max(1.0, recall + (motor or 0.0)))
    return Weighed(
        binding=binding, command=command, tries=tuple(counted), cold=sum(one.cold for one in counted),
        effective=acc.effective(len(counted)), days=len({utc(one.at).date() for one in counted}), posterior=posterior,
        recall_ms=recall, over_deadline=over, motor_ms=motor, reach_ms=reach.ms(binding.trigger),
        trend=acc.trend(_hits(counted), prior), p_know=p_know, hand_error=hand, knowing_error=knowing, grip=grip, slips=slips,
        uses_week=uses_week, uses_guessed=guessed, slow_s=slow, recovery_s=recovery, p_slip=p_slip, p_blank=p_blank,
        weekly_s=weekly, lost_s=lost, earned_s=earned,
    )  # fmt: skip


def _times(tries: Sequence[Try]) -> tuple[float | None, bool, float | None]:
    """Recall and motor time in ms, and whether recall is over the deadline (then the deadline is given)."""
    newest = tries[-acc.RECALL_TRIES :]
    hits = [one for one in newest if one.outcome == "hit" and one.recall_ms is not None]
    blanks = [one for one in newest if one.outcome == "blank"]
    if not hits and not blanks:
        return (max(one.deadline_ms for one in newest), True, None) if newest else (None, False, None)
    times = np.array([one.recall_ms or 0.0 for one in hits] + [one.deadline_ms for one in blanks])
    seen = np.array([True] * len(hits) + [False] * len(blanks))
    median = acc.kaplan_meier_median(times, seen)
    motors = [one.motor_ms for one in hits if one.motor_ms is not None]
    motor = float(np.median(motors)) if motors else None
    if median is None:
        return max(one.deadline_ms for one in newest), True, motor
    return median, False, motor


def _slips(tries: Sequence[Try]) -> Slips:
    wrong = [(w, one) for w, one in zip(acc.weights(len(tries)), tries, strict=True) if one.outcome == "slip"]
    kinds: Counter[str] = Counter(one.slip or "stray" for _, one in wrong)
    total = sum(w for w, _ in wrong)
    shares = {kind: float(sum(w for w, one in wrong if (one.slip or "stray") == kind) / total) for kind in kinds}
    offsets = np.array([one.offset_u for _, one in wrong if one.offset_u is not None])
    mean = (float(offsets[:, 0].mean()), float(offsets[:, 1].mean())) if len(offsets) else None
    return Slips(
        dict(kinds.most_common()),
        shares,
        dict(Counter(one.pressed for _, one in wrong if one.pressed).most_common()),
        dict(Counter(one.would_do for _, one in wrong if one.would_do).most_common()),
        mean,
        sum(one.outcome == "blank" for one in tries),
    )


def _error_shares(tries: Sequence[Try]) -> tuple[float, float]:
    """Weighted share of tries that were errors of the hand, and of those that were errors of knowing."""
    if not tries:
        return 0.0, 0.0
    w = acc.weights(len(tries))
    hand = np.array([one.outcome == "slip" and one.slip in HAND_KINDS for one in tries])
    wrong = np.array([one.outcome in ("slip", "blank") for one in tries])
    return float(w[hand].sum() / w.sum()), float(w[wrong & ~hand].sum() / w.sum())


def _knowing(logged: Sequence[Try], model: memory.Recall, at: datetime) -> float:
    strikes = [one for one in logged if one.outcome == "hit"]
    kept = memory.trace([one.at.timestamp() for one in strikes], [one.round for one in strikes], model)
    return model.p(kept.activation(at.timestamp()))


def _memory_model(logged: Mapping[str, Sequence[Try]]) -> memory.Recall:
    """The model refitted to the person from 200 tries on."""
    if sum(one.counts for tries in logged.values() for one in tries) < memory.REFIT_FROM_TRIES:
        return memory.DEFAULT
    activations, known = [], []
    for tries in logged.values():
        strikes = [one for one in tries if one.outcome == "hit"][-memory.STRIKES_USED :]
        kept = memory.trace([one.at.timestamp() for one in strikes], [one.round for one in strikes])
        count = 0
        for one in tries:
            struck = count < len(strikes) and one.id == strikes[count].id
            if one.counts:
                same = count > 0 and strikes[count - 1].round == one.round
                activations.append(float(kept.before[count]) if struck else
                                   kept.activation_after(count, one.at.timestamp(), same))  # fmt: skip
                known.append(one.outcome == "hit" or one.slip in HAND_KINDS)
            count += struck
    return memory.refit(np.array(activations), np.array(known, dtype=bool))


def _scales(folio: Folio, counted: Mapping[str, Sequence[Try]]) -> tuple[float, float]:
    """Finger and distance scales of the person from clean hits: see ``docs/measures.md``, Reach.

    One intercept for each binding plus the two terms, non-negative least squares, ridge-regularised towards 1 with the
    weight of a prior deviation of 0.25. Rows are means by binding and trigger, weighted by how many hits they stand for.
    """
    from scipy.optimize import nnls

    hits = [one for tries in counted.values() for one in tries if one.outcome == "hit" and one.recall_ms is not None]
    if len(hits) < SCALE_FROM_HITS:
        return 1.0, 1.0
    plain = Reach(folio)
    groups: dict[str, list[float]] = {}
    for one in hits:
        groups.setdefault(one.binding, []).append((one.recall_ms or 0.0) + (one.motor_ms or 0.0))
    rows = [(id, cost, times) for id, times in groups.items() if (cost := plain.cost(folio.bindings[id].trigger))]
    if not rows:
        return 1.0, 1.0
    spread = float(np.sqrt(np.mean([np.var(times) for _, _, times in rows]))) or 1.0
    matrix, target = np.zeros((len(rows) + 2, len(rows) + 2)), np.zeros(len(rows) + 2)
    for i, (_, cost, times) in enumerate(rows):
        weight = np.sqrt(len(times)) / spread
        matrix[i, [i, -2, -1]] = weight, weight * cost.finger_ms, weight * cost.distance_ms
        target[i] = weight * (float(np.mean(times)) - cost.other_ms)
    for i in (-2, -1):
        matrix[i, i] = target[i] = 1 / 0.25
    solution, _ = nnls(matrix, target)
    return float(solution[-2]), float(solution[-1])
