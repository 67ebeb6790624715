"""The next round: which bindings, and why."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import TYPE_CHECKING, Final

from glimber.core.drill.tries import utc

if TYPE_CHECKING:
    from glimber.core.weigh.measures import Ledger, Weighed

ROUND_SIZE: Final = 5
NEW_IN_A_ROUND: Final = 2
PRESSING_BELOW: Final = 0.85
MOVED_DAYS: Final = 14


@dataclass(frozen=True)
class Due:
    """One binding of the next round. ``p_now``: chance of a clean hit now; ``new``: never tried at this trigger."""

    binding: str
    why: str
    p_now: float
    new: bool


def plan_round(ledger: Ledger, size: int = ROUND_SIZE) -> list[Due]:
    """What to drill next: what slipped last time, what was moved, what is weak and costly, then at most two new ones."""
    chosen: dict[str, Due] = {}

    def take(rows: list[Weighed], why: str, most: int | None = None) -> None:
        taken = 0
        for row in rows:
            if len(chosen) >= size or (most is not None and taken >= most):
                return
            if row.binding.id not in chosen:
                new = not row.tries and why == "new"
                chosen[row.binding.id] = Due(row.binding.id, why, row.p_clean, new)
                taken += 1

    tried = sorted((row for row in ledger.rows.values() if row.tries), key=lambda row: -_stake(row))
    take(_slipped_last(ledger, tried), "slipped last time")
    take(_moved(ledger), "moved")
    take([row for row in tried if row.p_clean < PRESSING_BELOW], "weak")
    take(sorted((row for row in ledger.rows.values() if not row.tries), key=_new_order), "new", NEW_IN_A_ROUND)
    take(tried, "to keep")
    return list(chosen.values())


def due_now(ledger: Ledger) -> int:
    """How many bindings press: those that slipped last, were moved, or whose chance of a clean hit is low."""
    tried = [row for row in ledger.rows.values() if row.tries]
    pressing = {row.binding.id for row in (*_slipped_last(ledger, tried), *_moved(ledger))}
    return len(pressing | {row.binding.id for row in tried if row.p_clean < PRESSING_BELOW})


def _stake(row: Weighed) -> float:
    """Low chance weighted by what the binding costs in a week."""
    return (1 - row.p_clean) * (row.weekly_s if row.weekly_s is not None else 1.0)


def _new_order(row: Weighed) -> float:
    """Most to gain first: uses a week times the slow way."""
    return -row.uses_week * (row.slow_s or 1.0)


def _slipped_last(ledger: Ledger, rows: list[Weighed]) -> list[Weighed]:
    tries = [one for one in ledger.practice.tries if utc(one.at) <= ledger.at and one.outcome != "void"]
    if not tries:
        return []
    last = max(tries, key=lambda one: one.at).round
    wrong = {one.binding for one in tries if one.round == last and one.first and one.outcome in ("slip", "blank")}
    return [row for row in rows if row.binding.id in wrong]


def _moved(ledger: Ledger) -> list[Weighed]:
    """Bindings moved within two weeks that were not yet tried at their new place."""
    since = ledger.at - timedelta(days=MOVED_DAYS)
    moved = [change.binding for change in ledger.practice.changes
             if since <= utc(change.applied or change.at) <= ledger.at and change.to_trigger]  # fmt: skip
    rows = [ledger.rows[id] for id in dict.fromkeys(reversed(moved)) if id in ledger.rows]
    return [row for row in rows if not row.tries]
