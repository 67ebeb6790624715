"""One measured figure beside its limit, and the demo folio that figures are taken on."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import Final


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


def alone(ms: float, times: int = 400) -> str:
    """What the machine makes of a bare loop of that many ms: where its own 99th percentile is over a limit, ours says little."""

    def took(rounds: int) -> float:
        began = time.perf_counter()
        for _ in range(rounds):
            pass
        return (time.perf_counter() - began) * 1000

    rounds = round(100_000 * ms / sorted(took(100_000) for _ in range(50))[25])
    found = []
    for _ in range(times):
        time.sleep(0.01)
        found.append(took(rounds))
    found.sort()
    return f"a bare loop of {found[times // 2]:.1f} ms here: 99th percentile {found[times * 99 // 100]:.1f} ms"


@cache
def office() -> Path:
    """The chart office with its sixteen days of practice, made once for the run."""
    from glimber.demo.build import make_demo

    folder = Path(tempfile.mkdtemp()) / "chart-office"
    make_demo(folder, datetime.now(UTC), "bench")
    return folder


_COMMAND: Final = """
import sys, time
from glimber.cli.main import main
try:
    main()
except SystemExit as end:
    status = end.code
peak = next(line.split()[1] for line in open("/proc/self/status") if line.startswith("VmHWM"))
print(time.process_time(), peak, file=sys.stderr)
sys.exit(status)
"""


def run_command(*arguments: str) -> tuple[float, float]:
    """Run a command of Glimber in a process of its own; return its processor time in s and the most memory it had in MB."""
    done = subprocess.run([sys.executable, "-c", _COMMAND, *arguments], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE,
                          text=True, check=False)  # fmt: skip
    assert done.returncode in (0, 1), done.stderr[-500:]
    seconds, kilobytes = done.stderr.split()[-2:]
    return float(seconds), int(kilobytes) / 1024
