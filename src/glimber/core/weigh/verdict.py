"""Binding by binding: keep it, move it, rebind it, practise on, or retire it; with the reason in a sentence."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np

from glimber.core.folio.words import count_words, key_words, place_words
from glimber.core.notation.keys import NotationError, Spot, Trigger, parse_trigger
from glimber.core.weigh.candidates import Candidate, Forecasts, best_candidates
from glimber.core.weigh.choices import CHOICES, Choice
from glimber.core.weigh.forecast import fitted_tau
from glimber.core.weigh.measures import Ledger, Weighed

THIN_TRIES: Final = 8
THIN_DAYS: Final = 2
RETIRE_USES: Final = 1.0
RETIRE_DAYS: Final = 5
RETIRE_EARNS_S: Final = 5.0
SURE: Final = 0.8
LEAST_GAIN_SHARE: Final = 0.10
LEAST_GAIN_S: Final = 30.0
KNOWING_ERROR: Final = 0.15
BLAMED_SHARE: Final = 0.40
BLAMED_SLIPS: Final = 4
GOOD_ACCURACY: Final = 0.92
MIX_UP_BACK: Final = 0.25
MIX_UP_LEAST_BACK: Final = 2
"""One slip back is chance, even where it is the only one."""
REACH_SHARE: Final = 0.30
_BLAMES: Final = {
    "layer": "wrong-layer",
    "gesture": "gesture-slips",
    "modifiers": "modifier-slips",
    "neighbour": "neighbour-slips",
}


@dataclass(frozen=True)
class Verdict:
    """What to do with one binding. ``best`` is the place to go; ``others`` the next best, drawn the same way."""

    row: Weighed
    choice: Choice
    reason: str
    words: str
    best: Candidate | None = None
    others: tuple[Candidate, ...] = ()


def verdicts(ledger: Ledger, between: Callable[[], None] = lambda: None) -> dict[str, Verdict]:
    """A verdict for every binding of the ledger; ``between`` as in ``measure``."""
    forecasts = Forecasts(ledger, fitted_tau(ledger))
    reaches = [row.reach_ms for row in ledger.rows.values() if row.reach_ms is not None]
    long_reach = float(np.percentile(reaches, 75)) if reaches else float("inf")
    found = {}
    for id, row in ledger.rows.items():
        between()
        found[id] = _verdict(forecasts, row, long_reach)
    return found


def _verdict(forecasts: Forecasts, row: Weighed, long_reach: float) -> Verdict:
    ledger = forecasts.ledger
    candidates = [] if _thin(row) else best_candidates(forecasts, row)
    worth = [c for c in candidates if _worth_it(c)]
    choice = _choice(row, worth, row.binding.id in ledger.settling)
    best = worth[0] if choice == "move" else None
    reason = _reason(ledger, row, choice, long_reach)
    words = " ".join(part for part in (_because(ledger, row, reason), _outcome(ledger, row, choice, best)) if part)
    return Verdict(row, choice, reason, words, best, tuple(c for c in candidates if c is not best)[:4])


def _thin(row: Weighed) -> bool:
    return row.posterior is None or row.effective < THIN_TRIES or row.days < THIN_DAYS


def _worth_it(candidate: Candidate) -> bool:
    found = candidate.gain
    return found.p_better >= SURE and found.share >= LEAST_GAIN_SHARE and found.per_week_s >= LEAST_GAIN_S


def _choice(row: Weighed, worth: list[Candidate], settling: bool) -> Choice:
    if _thin(row):
        return "practise"
    if settling:  # a change is given its time before it is changed again
        return "practise" if row.knowing_error > KNOWING_ERROR else "keep"
    uses = (row.command.uses_per_day or 0.0) * RETIRE_DAYS
    if not row.uses_guessed and uses < RETIRE_USES and (row.earned_s or 0.0) < RETIRE_EARNS_S:
        return "retire"
    if worth:
        return "move"
    if row.knowing_error > KNOWING_ERROR:
        return "rebind" if row.flat else "practise"
    return "keep"


def _reason(ledger: Ledger, row: Weighed, choice: Choice, long_reach: float) -> str:
    if _thin(row):
        return "thin-evidence"
    if choice == "retire":
        return "unused"
    blamed = _blamed_slip(ledger, row)
    if blamed is not None:
        return blamed
    if row.knowing_error > KNOWING_ERROR:
        return "stuck" if row.flat else "still-learning"
    reach, time = row.reach_ms, row.time_ms
    if reach is not None and time is not None and reach >= REACH_SHARE * time and reach > long_reach:
        return "long-reach"
    return "still-learning" if choice == "practise" else "solid"


def _blamed_slip(ledger: Ledger, row: Weighed) -> str | None:
    slips = row.slips
    good = row.posterior is not None and row.posterior.mean > GOOD_ACCURACY
    if not slips.total or (good and slips.total < BLAMED_SLIPS):
        return None
    if slips.kinds.get("old habit", 0) >= BLAMED_SHARE * slips.total:
        return "old-habit"
    if mixed_with(ledger, row) is not None:
        return "mix-up"
    if hand_goes(row) is not None:
        return "hand-goes-elsewhere"
    kinds = {kind: slips.kinds.get(kind, 0) for kind in _BLAMES}
    worst = max(kinds, key=lambda kind: kinds[kind])
    if kinds[worst] >= BLAMED_SLIPS and kinds[worst] >= BLAMED_SHARE * slips.total:
        return _BLAMES[worst]
    return None


def mixed_with(ledger: Ledger, row: Weighed) -> str | None:
    """The command that drew 40 % of the slips and gives a quarter or more of its own back."""
    for ref, count in row.slips.would_do.items():
        if ref == row.command.ref or count < BLAMED_SHARE * row.slips.total:
            continue
        theirs = [other.slips for other in ledger.rows.values() if other.command.ref == ref]
        total = sum(slips.total for slips in theirs)
        back = sum(slips.would_do.get(row.command.ref, 0) for slips in theirs)
        if back >= max(MIX_UP_LEAST_BACK, MIX_UP_BACK * total):
            return ref
    return None


def hand_goes(row: Weighed) -> str | None:
    """The one wrong trigger that drew at least 4 slips and 40 % of them, wherever it is."""
    for struck, count in row.slips.struck.items():
        if count >= BLAMED_SLIPS and count >= BLAMED_SHARE * row.slips.total:
            return struck
    return None


# Sentences


def _struck_words(ledger: Ledger, row: Weighed, struck: str) -> str:
    try:
        trigger: Trigger = parse_trigger(struck, ledger.folio.bundles)
    except NotationError:
        return struck
    wanted = row.binding.trigger
    if isinstance(trigger, Spot) and isinstance(wanted, Spot) and (trigger.layer, trigger.gesture) == (
        wanted.layer, wanted.gesture):  # fmt: skip
        return key_words(ledger.folio, trigger.board, trigger.keys)
    return place_words(ledger.folio, trigger)


def _short_words(ledger: Ledger, row: Weighed) -> str:
    trigger = row.binding.trigger
    if isinstance(trigger, Spot):
        return key_words(ledger.folio, trigger.board, trigger.keys)
    return str(trigger)


def _because(ledger: Ledger, row: Weighed, reason: str) -> str:
    slips, name = row.slips, _short_words(ledger, row)
    of = f"of {slips.total} {'slip' if slips.total == 1 else 'slips'}"
    if reason == "thin-evidence":
        tried, days = count_words(len(row.tries), "try", "tries"), count_words(row.days, "day")
        return f"Only {tried} on {days} so far: too few to judge." if row.tries else "Not tried yet."
    if reason == "unused":
        weekly = (row.command.uses_per_day or 0.0) * ledger.folio.settings.working_days
        return f"Used {weekly:.1f} times a week; it earns {row.earned_s or 0.0:.0f} s a week."
    if reason == "old-habit":
        return f"The hand went to a former place in {slips.kinds.get('old habit', 0)} {of}."
    if reason == "mix-up":
        other = ledger.folio.commands[mixed_with(ledger, row) or ""]
        return f"Taken for {other.name} in {slips.would_do[other.ref]} {of}, and the other way round."
    if reason == "hand-goes-elsewhere":
        struck = hand_goes(row) or ""
        there = _struck_words(ledger, row, struck)
        if there.startswith(f"{name} "):  # the same key: what differs must be said of both
            name = place_words(ledger.folio, row.binding.trigger)
        return f"Struck {there} for {name} in {slips.struck[struck]} {of}."
    for kind, code in _BLAMES.items():
        if reason == code:
            what = {"layer": "On the wrong layer", "gesture": "With another gesture", "modifiers": "With other modifiers",
                    "neighbour": "A key beside it"}[kind]  # fmt: skip
            return f"{what} in {slips.kinds[kind]} {of}."
    if reason in ("stuck", "still-learning") and row.knowing_error > 0:
        turn = "and not getting better" if reason == "stuck" else "and still changing"
        return f"Not known in {100 * row.knowing_error:.0f} % of tries, {turn}."
    if reason == "long-reach":
        return f"{name} is a long way: {row.reach_ms or 0:.0f} of {row.time_ms or 0:.0f} ms are reach."
    mean = row.posterior.mean if row.posterior else 0.0
    return f"{100 * mean:.0f} % clean, {row.time_ms or 0:.0f} ms."


def _outcome(ledger: Ledger, row: Weighed, choice: Choice, best: Candidate | None) -> str:
    if choice == "move" and best is not None:
        name = _short_words(ledger, row)
        there = key_words(ledger.folio, best.to.board, best.to.keys)
        how = f"Swapping {name} and {there}" if best.swap_with else f"Moving to {there}"
        day = f" breaks even on day {best.gain.break_even_day} and" if best.gain.break_even_day else ""
        return f"{how}{day} saves {best.gain.per_week_s:.0f} s a week."
    if choice == "rebind":
        return "Nothing free is better; a better reason for the key may be."
    if choice == "retire":
        return "The slow way will do."
    if choice == "practise" and not _thin(row):
        return "Practice will mend it."
    return ""


def verdict_counts(found: Mapping[str, Verdict]) -> dict[str, int]:
    """How many bindings have each verdict."""
    return {choice: sum(one.choice == choice for one in found.values()) for choice in CHOICES}
