"""Weighing: the office as after every round, and 500 bindings with 200,000 tries, from their log to the case on screen."""

from __future__ import annotations

import json
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING, Final, TypeVar

from msgspec.structs import replace

from benchmarks.figures import Figure, office, run_command

if TYPE_CHECKING:
    from glimber.core.practice.tries import Try

T = TypeVar("T")
BINDINGS: Final = 500
TRIES: Final = 200_000
NOW: Final = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)
_HELD: Final = ("Ctrl+Alt+", "Ctrl+Shift+", "Alt+Shift+", "Ctrl+Alt+Shift+", "Super+Alt+", "Super+Ctrl+", "Super+Shift+",
                "Super+Ctrl+Alt+", "Super+Alt+Shift+", "Super+Ctrl+Shift+")  # fmt: skip
_KEYS: Final = "ABCDEFGHIJKLMNOPQRSTUVWXYZ1234567890"


def figures() -> list[Figure]:
    """Seconds for the office, and for a large folio each step beside its limit."""
    return [_of_the_office(), *_of_a_large_folio()]


def _timed(do: Callable[[], T], times: int = 3, clock: Callable[[], float] = time.perf_counter) -> tuple[float, T]:
    """The shortest of some runs, and what the last gave."""
    took = []
    for _ in range(times):
        began = clock()
        result = do()
        took.append(clock() - began)
    return min(took), result


def _plain_read_s(log: Path) -> float:
    """Return the processor time of reading all rows of tries and nothing else, in s."""
    with closing(sqlite3.connect(log)) as connection:
        return _timed(lambda: connection.execute("select * from tries").fetchall(), clock=time.process_time)[0]


def _of_the_office() -> Figure:
    from glimber.core.decide.verdict import verdicts
    from glimber.core.stats.measures import measure
    from glimber.store.practice.log import read_practice
    from glimber.store.toml.reading import open_folio

    opened = open_folio(office())
    practice = read_practice(opened.folder, opened.folio.settings.log)
    took, found = _timed(lambda: verdicts(measure(opened.folio, practice, datetime.now(UTC), "bench")), 4)
    return Figure("weighing the office anew", took, "s", note=f"{len(found)} bindings, {len(practice.tries)} tries")


def _of_a_large_folio() -> list[Figure]:
    from glimber.core.decide.plan import budget_of, plan_round, replanned
    from glimber.core.decide.reuse import of_folio, still_good
    from glimber.core.decide.verdict import verdicts
    from glimber.core.edit.commands import edit_binding
    from glimber.core.stats.measures import measure
    from glimber.store.practice import incremental as latest
    from glimber.store.practice.jsonl import all_lines
    from glimber.store.practice.log import open_log, read_practice
    from glimber.store.practice.uuid7 import uuid7
    from glimber.store.toml.reading import open_folio

    folder = _large_folio()
    opened, name = open_folio(folder), "practice.db"
    bindings = opened.folio.drillable("bench")[:BINDINGS]
    with open_log(folder, name) as log:
        rows = _tries([(one.id, str(one.trigger)) for one in bindings])
        log.add(*rows)

    def read_all() -> object:
        latest._KEPT.clear()
        return read_practice(folder, name)

    first, _ = _timed(read_all)
    with open_log(folder, name) as log:
        log.add(*[replace(one, id=uuid7(NOON_AFTER), at=NOON_AFTER) for one in rows[-40:]])
    again, practice = _timed(lambda: read_practice(folder, name), 1)
    measured, ledger = _timed(lambda: measure(opened.folio, practice, NOW, "bench"))
    planned, due = _timed(lambda: plan_round(replace(ledger)), 5)  # a copy has nothing worked out yet
    budget, untried = budget_of(ledger), frozenset[str]()
    asked = [one.binding for one in due]
    made = [replace(rows[0], id=f"try-{n}", binding=asked[n % len(asked)], round="now") for n in range(60)]
    anew, _ = _timed(lambda: replanned(budget, 3, untried, made, 90.0), 5)
    judged, found = _timed(lambda: verdicts(ledger, computer="bench"), 2)
    id = bindings[0].id
    one, _ = _timed(lambda: verdicts(ledger, computer="bench", only=[id]), 5)
    said = edit_binding(opened.folio, id, reason="said anew")
    words, _ = _timed(lambda: still_good(ledger, said, practice, NOW) and of_folio(ledger, found, said), 5)
    memory = _memory_mb(folder)
    lines = folder / "tries.jsonl"
    with open_log(folder, name) as log:
        lines.write_text("".join(f"{line}\n" for line in all_lines(log)))

    plain = _plain_read_s(folder / name)
    read_s, _ = _timed(read_all, clock=time.process_time)
    weighing_s, weighing_mb = run_command("weigh", str(folder), "--json")
    merging_s, merging_mb = run_command("tries", "merge", str(_large_folio()), str(lines))
    note = f"{len(found)} bindings, {TRIES} tries"
    return [
        Figure("reading a log of 200,000 tries", first, "s", 1.0),
        Figure("  again after one more round", again * 1000, "ms", 100),
        Figure("all measures", measured, "s", 2.0, note=note),
        Figure(f"planning a round of {len(ledger.rows)} bindings", planned * 1000, "ms", 60, note=f"{len(due)} in it"),
        Figure("  made anew after a try", anew * 1000, "ms", 5),
        Figure("all verdicts", judged, "s", 6.0),
        Figure("  the case on screen", one * 1000, "ms", 150),
        Figure("  after a save of what is not weighed", words * 1000, "ms", 100, note="measures and verdicts"),
        Figure("memory of the application with it", memory, "MB", 350, note="the window, its ledger and all verdicts"),
        Figure("reading the log over reading its rows plainly", read_s / plain, "x", 1.5, note=f"{plain:.2f} s"),
        Figure("weigh over reading the rows plainly", weighing_s / plain, "x", 8.0, note=f"{weighing_s:.1f} s"),
        Figure("  its memory", weighing_mb, "MB", 250),
        Figure("merging a file of as many over it", merging_s / plain, "x", 8.0, note=f"{merging_s:.1f} s"),
        Figure("  its memory", merging_mb, "MB", 300),
    ]


_WINDOW: Final = """
import sys, time
from pathlib import Path
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio
from glimber.ui.shell.app import application, open_window
app = application("dark")
window = open_window(open_folio(Path(sys.argv[1])), load_settings())
end = time.monotonic() + 60
while window.session.ledger is None and time.monotonic() < end:
    app.processEvents()
    time.sleep(0.01)
peak = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
print(int(peak.split()[1]) / 1024 if window.session.ledger is not None else 1e9)
window.close()
"""


def _memory_mb(folder: Path) -> float:
    """The most memory that the application has had when all of a folio is weighed, in MB."""
    done = subprocess.run([sys.executable, "-c", _WINDOW, str(folder)], capture_output=True, text=True, check=True)
    return float(done.stdout.split()[-1])


NOON_AFTER: Final = NOW - timedelta(minutes=5)


def _large_folio() -> Path:
    """The office with a program of 320 more shortcuts."""
    import shutil

    folder = Path(tempfile.mkdtemp()) / "large"
    shutil.copytree(office(), folder)
    (folder / "practice.db").unlink()
    lines = ['format = "glimber-program/1"', 'name = "Plotter"']
    for number, keys in enumerate(f"{held}{key}" for held in _HELD for key in _KEYS):
        if number < 320:
            lines.append(f'[commands.c{number}]\nname = "Command {number}"\nshortcut = {json.dumps(keys)}\n'
                         f'uses_per_day = {1 + number % 40}\nslow_way = ["menu Plot", "click Do"]')  # fmt: skip
    (folder / "programs" / "plotter.toml").write_text("\n".join(lines))
    return folder


def _tries(bindings: list[tuple[str, str]]) -> list[Try]:
    """Rounds of ten bindings, five prompts each: 85 of 100 hit, the rest slips of all sorts and blanks."""
    from glimber.core.practice.tries import Try
    from glimber.store.practice.uuid7 import uuid7

    random, made, at = Random(1), list[Try](), NOW - timedelta(days=60)
    while len(made) < TRIES:
        for first in range(0, len(bindings), 10):
            at += timedelta(seconds=8)
            round = f"round-{len(made):08}"
            for place in range(50):
                id, trigger = bindings[first + place % min(10, len(bindings) - first)]
                at += timedelta(milliseconds=400)
                one = Try(
                    uuid7(at, random.getrandbits(74)),
                    round,
                    place,
                    at,
                    "bench",
                    id,
                    trigger,
                    "press",
                    "hit",
                    cold=place < 10,
                )
                chance = random.random()
                if chance < 0.85:
                    one = replace(
                        one, recall_ms=random.lognormvariate(6.3, 0.3), motor_ms=random.lognormvariate(5, 0.2)
                    )
                elif chance < 0.93:
                    kind = random.choice(("neighbour", "mix-up", "stray", "modifiers"))
                    one = replace(one, outcome="slip", slip=kind, pressed=random.choice(bindings)[1], offset_u=(1.0, 0.0),  # type: ignore[arg-type]
                                  recall_ms=900.0, motor_ms=100.0)  # fmt: skip
                else:
                    one = replace(one, outcome="blank")
                made.append(one)
    return made[:TRIES]
