"""Counts of use: a table of commands with how often each was used, in all or in a number of working days."""

from __future__ import annotations

import csv
import io
import re
from math import isfinite
from typing import Final

from glimber.core.edit.counts import Count
from glimber.readers.found import Problem, decoded

_NAME: Final = re.compile(r"^(?:command|action|name|function|id)s?$", re.I)
_COUNT: Final = re.compile(r"^(?:count|uses?|used|times|number|n|total)s?(?: a day| per day)?$", re.I)
_DAYS: Final = re.compile(r"^(?:working )?days?$", re.I)


def read_counts(data: bytes) -> tuple[list[Count], list[Problem]]:
    """Read delimited counts; columns by their headings, otherwise the first text and the first number of each line.

    A heading "uses a day" makes each count one of a single day. Never raises; what could not be read is a problem.
    """
    text = decoded(data).replace("\r\n", "\n").replace("\r", "\n").replace("\0", "")
    if not text.strip():
        return [], [Problem(0, "the file is empty; expected a command and a count on each line")]
    delimiter = max((",", ";", "\t", "|"), key=lambda sign: sum(sign in line for line in text.splitlines()))
    counts: list[Count] = []
    problems: list[Problem] = []
    head: tuple[int, int, int | None, bool] | None = None
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        for cells in reader:
            cells = [cell.strip() for cell in cells]
            if not any(cells):
                continue
            if head is None and not counts and (columns := _head(cells)) is not None:
                head = columns
                continue
            count = _count(cells, reader.line_num, head)
            if isinstance(count, Count):
                counts.append(count)
            else:
                problems.append(Problem(reader.line_num, count))
    except csv.Error as error:
        problems.append(Problem(reader.line_num, f"not a table: {error}"))
    return counts, problems


def _head(cells: list[str]) -> tuple[int, int, int | None, bool] | None:
    """Columns of the name, the count and the days, and whether the count is one of a single day."""
    name = next((at for at, cell in enumerate(cells) if _NAME.match(cell)), None)
    count = next((at for at, cell in enumerate(cells) if _COUNT.match(cell)), None)
    if name is None or count is None:
        return None
    days = next((at for at, cell in enumerate(cells) if _DAYS.match(cell)), None)
    return name, count, days, "day" in cells[count].lower()


def _count(cells: list[str], line: int, head: tuple[int, int, int | None, bool] | None) -> Count | str:
    if head is not None:
        name_at, count_at, days_at, daily = head
        if max(name_at, count_at, days_at or 0) >= len(cells):
            return f"{len(cells)} cells; expected as many as the heading has"
        name, uses = cells[name_at], _number(cells[count_at])
        days = _number(cells[days_at]) if days_at is not None else 1.0 if daily else None
        if days_at is not None and not days:
            return f"{cells[days_at]!r} is not a number of days above 0"
        shown = cells[count_at]
    else:
        numbers = [(at, number) for at, cell in enumerate(cells) if (number := _number(cell)) is not None]
        words = [cell for cell in cells if cell and _number(cell) is None]
        name, uses, days = (words[0] if words else ""), (numbers[0][1] if numbers else None), None
        shown = cells[-1]
    if not name:
        return "no command beside this count"
    if uses is None:
        return f"{name}: {shown!r} is not a count; expected a number of 0 or more"
    return Count(name, uses, line, days)


def _number(text: str) -> float | None:
    try:
        value = float(text.replace(",", ".").replace(" ", "").replace(" ", ""))
    except ValueError:
        return None
    return value if isfinite(value) and value >= 0 else None
