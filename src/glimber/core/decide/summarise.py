"""From a ledger and its verdicts to what is shown of them."""

from __future__ import annotations

from collections.abc import Mapping

from glimber.core.decide.plan import due_now
from glimber.core.decide.summary import Row, Summary
from glimber.core.decide.verdict import Verdict
from glimber.core.model.describe import layer_words, place_words
from glimber.core.notation.keys import Spot
from glimber.core.practice.tries import SETTLING_DAYS, utc
from glimber.core.stats.days import own_day
from glimber.core.stats.ledger import Ledger, Weighed


def summarise(ledger: Ledger, found: Mapping[str, Verdict]) -> Summary:
    """Return the summary of a ledger and its verdicts. What is never to be learnt is no case."""
    rows, aside = [], set_aside(ledger)
    never = {id for id, row in ledger.rows.items() if row.command.learn == "never"}
    for row in ledger.by_cost():
        if row.binding.id in never:
            continue
        verdict, group = found[row.binding.id], ledger.folio.group_of(row.command)
        rows.append(
            Row(
                row.binding.id, row.command.name, place_words(ledger.folio, row.binding.trigger),
                group.ink if group else "slate", group.mark if group else "square", row.grip, row.parts_s(),
                row.weekly_s, None if row.slow_s is None else row.uses_week * row.slow_s, verdict.choice,
                verdict.reason.replace("-", " "), verdict.words, _settling(ledger, row.binding.id), row.count,
                ledger.folio.programs[row.command.program].name, _layer(ledger, row), group.name if group else "",
                None if row.posterior is None else row.posterior.mean, row.lost_s, aside.get(row.binding.id),
            )
        )  # fmt: skip
    waiting = sum(one.choice in ("move", "rebind", "retire") and id not in aside and id not in never for id, one in found.items())
    return Summary(tuple(rows), due_now(ledger), waiting)


def set_aside(ledger: Ledger) -> dict[str, str]:
    """Return bindings whose verdict was set aside, with the day until which it is."""
    found: dict[str, str] = {}
    for change in ledger.practice.changes:
        if change.verdict == "aside" and change.until is not None:
            if utc(change.until) > ledger.at:
                found[change.binding] = f"{own_day(change.until):%Y-%m-%d}"
            else:
                found.pop(change.binding, None)
    return found


def _layer(ledger: Ledger, row: Weighed) -> str:
    trigger = row.binding.trigger
    return layer_words(ledger.folio, trigger) if isinstance(trigger, Spot) else ""


def _settling(ledger: Ledger, id: str) -> str | None:
    day = ledger.settling.get(id)
    return None if day is None else f"day {day} of {SETTLING_DAYS}"
