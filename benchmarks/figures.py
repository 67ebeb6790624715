"""One measured figure beside its limit, and the demo folio that figures are taken on."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from pathlib import Path


@dataclass(frozen=True)
class Figure:
    """``limit`` None: told for information. ``least``: the limit is one from below."""

    name: str
    value: float
    unit: str
    limit: float | None = None
    least: bool = False
    note: str = ""

    @property
    def over(self) -> bool:
        if self.limit is None:
            return False
        return self.value < self.limit if self.least else self.value > self.limit

    def __str__(self) -> str:
        bound = "" if self.limit is None else f"   {'at least' if self.least else 'at most'} {self.limit:g} {self.unit}"
        mark = "  OVER" if self.over else ""
        note = f"   ({self.note})" if self.note else ""
        return f"{self.name:58} {self.value:10.4g} {self.unit}{bound}{mark}{note}"


@cache
def office() -> Path:
    """The chart office with its sixteen days of practice, made once for the run."""
    from glimber.demo.build import make_demo

    folder = Path(tempfile.mkdtemp()) / "chart-office"
    make_demo(folder, datetime.now(UTC), "bench")
    return folder
