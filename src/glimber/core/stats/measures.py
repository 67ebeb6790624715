"""Measures of every binding: accuracy, times, slips, reach, memory, causes, grip and what it costs in a week.

The formulas are those of docs/measures.md, worked out for all bindings together. Where there are no tries the answer is
None, "not known yet", never a number."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from typing import Final

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.folio import Binding, Folio
from glimber.core.model.open_sets import slow_way_steps
from glimber.core.notation.keys import Spot, strikes_of
from glimber.core.practice.columns import BLANK, HIT, Bools, Floats, TryColumns
from glimber.core.practice.log import Practice
from glimber.core.practice.slip_kinds import HAND_KINDS
from glimber.core.practice.tally import Measured, Tally, measured
from glimber.core.practice.tries import Try, utc
from glimber.core.practice.watched import watched
from glimber.core.stats import accuracy as acc
from glimber.core.stats.belief import believe, day_of, everybody_knows
from glimber.core.stats.causes import CAUSES, CELLS, Causes, Place, causes, cells_of
from glimber.core.stats.days import own_days
from glimber.core.stats.grouping import Selected, select
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.persistence import MOSTLY, Lasting, lasting
from glimber.core.stats.reach import Reach
from glimber.core.stats.scaling import FROM_HITS, LEAST_HITS, NEWEST, Scales, fitted_scales, median_and_error
from glimber.core.stats.slow_way import slow_way_of
from glimber.core.stats.usage import share_of, weekly_uses

NAMED_FROM: Final = 0.8
LASTING_TRIES: Final = 24
USUAL_ERROR: Final = 0.05
USUAL_TRIES: Final = 20.0
"""The rate a calm binding's errors are taken for before there are tries."""
SLOPE: Final = 0.5
SLOPES: Final = (0.2, 0.9)
_CLASS_TRIES: Final = 30.0


def measure(folio: Folio, practice: Practice, at: datetime, computer: str | None = None,
            checkpoint: Callable[[], None] = lambda: None) -> Ledger:  # fmt: skip
    """Weigh every drillable binding of a folio from the tries before ``at``.

    ``checkpoint`` is called now and then: a place to wait, or to give up by raising.
    """
    at = utc(at)
    bindings = folio.drillable(computer)
    logged = select(practice.columns, bindings, at)
    counted = logged.where(practice.columns.counts[logged.place])
    checkpoint()
    found = acc.accuracies(counted)
    checkpoint()
    scales = _scales(folio, bindings, counted)
    reach = Reach(folio, scales.finger, scales.distance)
    what = causes(counted, [_beside(folio, binding) for binding in bindings])
    checkpoint()
    last = _lasting(counted, what)
    found = acc.following(found, counted.counts, last[0].now, 1 - last[0].chance)
    calm = what.chance[:, 0]
    shares = [share_of(folio, binding, computer) for binding in bindings]
    at_work = measured(folio, practice.tally, watched(folio, computer).countable) if practice.tally.days else {}
    uses = [weekly_uses(folio, folio.commands[binding.command or ""], at_work) for binding in bindings]
    week = np.array([whole * share for (whole, _), share in zip(uses, shares, strict=True)])
    stated = [folio.commands[one.command or ""].learn == "known" or everybody_knows(one.trigger) for one in bindings]
    working = folio.settings.working_days
    belief = believe(logged, week / max(working, 1e-6), working, np.array(stated, dtype=bool))
    checkpoint()
    knowing = belief.known(day_of(at)), belief.kept(day_of(at))
    parts = _Parts(folio, bindings, counted, found, knowing, reach, what, last, week, [guess for _, guess in uses], at_work,
                   practice.tally)  # fmt: skip
    rows = _rows(parts, checkpoint)
    return Ledger(
        folio, at, rows, found, belief, reach, scales, _rate(counted, calm, counted.columns.by_hand),
        _rate(counted, calm, counted.columns.not_known), _slope(counted, calm), practice, logged,
    )  # fmt: skip


def grip_now(ledger: Ledger, binding: str, more: Sequence[Try], at: datetime) -> float:
    """Return the grip of one binding with tries that came after the ledger: priors, memory and scales stay the ledger's.

    Raises KeyError for a binding the ledger does not have.
    """
    row = ledger.rows[binding]
    trigger = str(row.binding.trigger)
    known = [ledger.logged.columns.row(int(place)) for place in ledger.logged.rows(row.number)]
    new = [one for one in more if one.binding == binding and one.trigger == trigger]
    logged = select(TryColumns.of([*known, *new]), [row.binding], utc(at))
    counted = logged.where(logged.columns.counts[logged.place])
    earlier = ledger.accuracies
    found = acc.accuracies(counted, (earlier.hand_prior, earlier.knowing_prior, earlier.theta))
    recall, over, motor = times_of(counted, 0)
    rate, day = knowing_lasting(counted), day_of(utc(at))
    belief = ledger.belief.copy(np.array([row.number]))
    for one in new:
        if one.counts:
            belief.strike(0, day_of(utc(one.at)), one.outcome == "hit" or one.slip in HAND_KINDS)
    hand = acc.Beta(float(found.hand_a[0]), float(found.hand_b[0]))
    now = replace(row, hand=hand, p_know=float(belief.known(day)[0]), recall_ms=recall, over_deadline=over, motor_ms=motor,
                  counted=counted, number=0, knowing_now=float(rate.now[0]), faded=float(belief.kept(day)[0]))  # fmt: skip
    return now.grip


class _Parts(Struct, frozen=True):
    """What the figures of the bindings are made of; arrays have a place for each binding."""

    folio: Folio
    bindings: Sequence[Binding]
    counted: Selected
    found: acc.Accuracies
    known: tuple[Floats, Floats]
    """Chance of being known now, and what is left of it since the last strike."""
    reach: Reach
    causes: Causes
    lasting: tuple[Lasting, Floats]
    """Of the errors of knowing; and of the likeliest cause's own slips."""
    uses_week: Floats
    guessed: Sequence[bool]
    at_work: Mapping[str, Measured]
    tally: Tally


def _rows(parts: _Parts, checkpoint: Callable[[], None]) -> dict[str, Weighed]:
    folio, counted, found, causes, known = parts.folio, parts.counted, parts.found, parts.causes, parts.known
    columns, (knowing_last, cause_last) = counted.columns, parts.lasting
    effective, days = acc.effective(counted.counts), _days(counted)
    outcome = columns.outcome[counted.place]
    blanks = counted.sum(outcome == BLANK)
    slips = counted.sum(outcome != HIT) - blanks
    settings, rows = folio.settings, {}
    for i, binding in enumerate(parts.bindings):
        if i % 64 == 0:
            checkpoint()
        command = folio.commands[binding.command or ""]
        any_tries = counted.starts[i + 1] > counted.starts[i]
        recall, over, motor = times_of(counted, i)
        place = causes.places[i]
        slow = slow_way_of(slow_way_steps(folio, command), parts.tally.chosen(command.ref))
        rows[binding.id] = Weighed(
            binding=binding, command=command, number=i, counted=counted, effective=float(effective[i]), days=int(days[i]),
            posterior=found.posterior(i) if any_tries else None, hand=acc.Beta(float(found.hand_a[i]),
            float(found.hand_b[i])), knowing=acc.Beta.of(float(found.knowing[i]), float(found.knowing_var[i])),
            recall_ms=recall, over_deadline=over, motor_ms=motor, reach_ms=parts.reach.ms(binding.trigger),
            p_know=float(known[0][i]), faded=float(known[1][i]), causes=causes.of(i), cause=causes.likeliest(i),
            place=_struck(columns, place),
            place_count=place.count if place else 0, place_beside=place is not None and CELLS[place.cell] == "neighbour",
            lasting=_one_lasting(causes, i, int(counted.counts[i]), float(knowing_last.chance[i]), float(cause_last[i])),
            knowing_now=float(knowing_last.now[i]), uses_week=float(parts.uses_week[i]), uses_guessed=parts.guessed[i],
            at_work=parts.at_work.get(command.ref),
            slow_s=slow.seconds, slow_times=slow.times, recovery_s=settings.careful_recovery_s if command.careful else
            settings.recovery_s, target_ms=settings.target_ms, wrong=(int(slips[i]), int(blanks[i])),
        )  # fmt: skip
    return rows


def _one_lasting(what: Causes, i: int, tries: int, knowing: float, cause: float) -> float:
    """Return the chance that a binding's trouble lasts, the one that is shown and reckoned with.

    It is that of the errors of knowing; where a place, a layer or an old habit is named with 24 tries or more, the larger of that
    and of the named cause's own slips. Source: docs/measures.md, "Causes", *Lasting*.
    """
    named = what.any(i) >= NAMED_FROM and tries >= LASTING_TRIES
    place = what.places[i]
    beside = place is not None and CELLS[place.cell] == "neighbour"
    own = what.likeliest(i) in ("layer", "old habit") or (what.likeliest(i) == "place" and not beside)
    return max(knowing, cause) if named and own else knowing


def _struck(columns: TryColumns, place: Place | None) -> str | None:
    return None if place is None else columns.pressed.names[place.pressed]


def _days(counted: Selected) -> Floats:
    """On how many days each binding was tried, (b,)."""
    day = own_days(counted.columns.at_us[counted.place])
    fresh = np.ones(len(day), dtype=bool)
    fresh[1:] = (day[1:] != day[:-1]) | (counted.of[1:] != counted.of[:-1])
    return counted.sum(fresh)


def times_of(counted: Selected, binding: int) -> tuple[float | None, bool, float | None]:
    """Recall and motor time in ms, and whether recall is over the deadline (then the deadline is given).

    The cold tries alone serve where there are 8 or more.
    """
    c, rows = counted.columns, counted.rows(binding)
    cold = rows[c.cold[rows]]
    newest = (cold if len(cold) >= acc.COLD_TRIES else rows)[-acc.RECALL_TRIES :]
    if not len(newest):
        return None, False, None
    hits = newest[(c.outcome[newest] == HIT) & ~np.isnan(c.recall_ms[newest])]
    blanks = newest[c.outcome[newest] == BLANK]
    motors = c.motor_ms[hits][~np.isnan(c.motor_ms[hits])]
    motor = float(np.median(motors)) if len(motors) else None
    median = acc.kaplan_meier_median(
        np.concatenate([c.recall_ms[hits], c.deadline_ms[blanks]]),
        np.concatenate([np.ones(len(hits), dtype=bool), np.zeros(len(blanks), dtype=bool)]),
    )
    if median is None:
        return float(c.deadline_ms[newest].max()), True, motor
    return median, False, motor


def _scales(folio: Folio, bindings: Sequence[Binding], counted: Selected) -> Scales:
    c = counted.columns
    hits = counted.where((c.outcome[counted.place] == HIT) & ~np.isnan(c.recall_ms[counted.place]))
    if len(hits.place) < FROM_HITS:
        return Scales()
    plain, found = Reach(folio), []
    newest = hits.newest(NEWEST)
    for i, binding in enumerate(bindings):
        rows = newest.rows(i)
        cost = plain.cost(binding.trigger) if len(rows) >= LEAST_HITS else None
        if cost is not None:
            median, error = median_and_error(c.recall_ms[rows] + np.nan_to_num(c.motor_ms[rows]))
            found.append((median - cost.other_ms, error, cost.finger_ms, cost.distance_ms))
    return fitted_scales(*np.array(found).T) if found else Scales()


def _beside(folio: Folio, binding: Binding) -> int:
    """Return how many keys are beside the one that is struck last."""
    trigger = binding.trigger
    if isinstance(trigger, Spot):
        board = folio.boards.get(trigger.board)
        return len(board.neighbours.get(trigger.keys[-1], frozenset())) if board is not None else 0
    strikes = strikes_of(trigger, folio.legend, folio.bundles)
    return len(folio.keyboard.neighbours.get(strikes[-1][1], frozenset())) if strikes else 0


def knowing_lasting(counted: Selected) -> Lasting:
    """Return whether not knowing lasts, and its rate at the next try, of every binding."""
    judged = ~counted.columns.by_hand[counted.place]
    unknown = counted.columns.not_known[counted.place]
    return lasting(unknown[judged], counted.nth[judged], counted.of[judged], counted.bindings)


def _lasting(counted: Selected, what: Causes) -> tuple[Lasting, Floats]:
    """Return True if not knowing lasts, for every binding; and whether its likeliest cause does, (b,)."""
    c = counted.columns
    # The newest tries tell: what was hard in the first days is no longer so.
    nth, of = counted.nth, counted.of
    knowing = knowing_lasting(counted)
    cell_of: dict[str, int] = {cause: CELLS.index(cause) for cause in CAUSES if cause in CELLS}
    likeliest = [what.likeliest(i) for i in range(counted.bindings)]
    own = np.array([cell_of.get(cause, -1) for cause in likeliest], dtype=np.int64)
    places = np.array([place.pressed if place is not None and cause == "place" else -2
                       for place, cause in zip(what.places, likeliest, strict=True)], dtype=np.int64)  # fmt: skip
    wrong = (cells_of(counted) == own[of]) | (c.pressed.codes[counted.place] == places[of])
    other = lasting(wrong, nth, of, counted.bindings, MOSTLY)
    is_knowing = np.array([cause == "knowing" for cause in likeliest], dtype=bool)
    return knowing, np.where(is_knowing, knowing.chance, other.chance)


def _rate(counted: Selected, calm: Floats, wrong: Bools) -> float:
    """Return how often calm bindings go wrong in this way, each weighted by the chance that nothing is the matter with it."""
    weight = calm[counted.of]
    return float((USUAL_ERROR * USUAL_TRIES + (weight * wrong[counted.place]).sum()) / (USUAL_TRIES + weight.sum()))


def _slope(counted: Selected, calm: Floats) -> float:
    """β of the calm bindings' pooled curves: not knowing falls as n^−β over classes of n that double; kept in 0.2 to 0.9."""
    c = counted.columns
    judged = ~c.by_hand[counted.place]
    nth, unknown, weight = counted.nth[judged] + 1, c.not_known[counted.place][judged], calm[counted.of[judged]]
    which = np.floor(np.log2(nth)).astype(np.int64)
    tried = np.bincount(which, weights=weight)
    wrong = np.bincount(which, weights=weight * unknown)
    usable = tried >= _CLASS_TRIES
    if usable.sum() < 3:
        return SLOPE
    middle = np.bincount(which, weights=weight * np.log(nth))[usable] / tried[usable]
    rate = (wrong[usable] + 0.5) / (tried[usable] + 1)
    slope = float(np.polyfit(middle, np.log(rate), 1, w=np.sqrt(wrong[usable] + 0.5))[0])
    return float(np.clip(-slope, *SLOPES))
