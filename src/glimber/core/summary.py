"""The ledger as it is shown: one row for each weighed binding, with nothing left to compute."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from glimber.core.measures import SETTLING_DAYS, Ledger
from glimber.core.plan import due_now
from glimber.core.verdict import Verdict
from glimber.core.words import place_words


@dataclass(frozen=True)
class Row:
    """One strip. ``parts_s``: knowing time, hand time, slips, blanks, in seconds a week; ``slow_s`` the slow way's."""

    id: str
    name: str
    place: str
    ink: str
    mark: str
    grip: float
    parts_s: tuple[float, float, float, float]
    weekly_s: float | None
    slow_s: float | None
    choice: str
    reason: str
    settling_day: int | None
    tries: int


@dataclass(frozen=True)
class Summary:
    """Rows, most seconds a week first, and the numbers of the top line."""

    rows: tuple[Row, ...] = ()
    due: int = 0
    open_verdicts: int = 0

    @classmethod
    def from_json(cls, value: Mapping[str, Any]) -> Summary:
        """What ``dataclasses.asdict`` made. Raises KeyError or TypeError for anything else."""
        rows = tuple(Row(**{**row, "parts_s": tuple(row["parts_s"])}) for row in value["rows"])
        return cls(rows, value["due"], value["open_verdicts"])


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
                verdict.reason.replace("-", " "), ledger.settling.get(row.binding.id), len(row.tries),
            )
        )  # fmt: skip
    waiting = sum(verdict.choice in ("move", "rebind", "retire") for verdict in found.values())
    return Summary(tuple(rows), due_now(ledger), waiting)


def settling_words(day: int) -> str:
    return f"day {day} of {SETTLING_DAYS}"
