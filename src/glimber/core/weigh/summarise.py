"""From a ledger and its verdicts to what is shown of them."""

from __future__ import annotations

from collections.abc import Mapping

from glimber.core.drill.tries import SETTLING_DAYS
from glimber.core.folio.words import place_words
from glimber.core.weigh.measures import Ledger
from glimber.core.weigh.plan import due_now
from glimber.core.weigh.summary import Row, Summary
from glimber.core.weigh.verdict import Verdict


def summarise(ledger: Ledger, found: Mapping[str, Verdict]) -> Summary:
    """The summary of a ledger and its verdicts."""
    rows = []
    for row in ledger.by_cost():
        verdict, group = found[row.binding.id], ledger.folio.group_of(row.command)
        rows.append(
            Row(
                row.binding.id, row.command.name, place_words(ledger.folio, row.binding.trigger),
                group.ink if group else "slate", group.mark if group else "square", row.grip, row.parts_s(),
                row.weekly_s, None if row.slow_s is None else row.uses_week * row.slow_s, verdict.choice,
                verdict.reason.replace("-", " "), verdict.words, _settling(ledger, row.binding.id), len(row.tries),
            )
        )  # fmt: skip
    waiting = sum(verdict.choice in ("move", "rebind", "retire") for verdict in found.values())
    return Summary(tuple(rows), due_now(ledger), waiting)


def _settling(ledger: Ledger, id: str) -> str | None:
    day = ledger.settling.get(id)
    return None if day is None else f"day {day} of {SETTLING_DAYS}"
