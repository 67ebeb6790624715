"""Rows as comma-separated values, in memory."""

from __future__ import annotations

import csv
from collections.abc import Iterable


class _Lines(list[str]):
    """The target that ``csv`` writes to."""

    def write(self, text: str) -> None:
        self.append(text)


def csv_text(rows: Iterable[Iterable[object]]) -> str:
    """Return a line for each row, quoted where it must be (RFC 4180, with plain line ends)."""
    lines = _Lines()
    csv.writer(lines, lineterminator="\n").writerows(rows)
    return "".join(lines)
