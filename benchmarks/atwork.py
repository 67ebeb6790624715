"""What counting at work costs, and the figures of a team on a real server."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from contextlib import ExitStack
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random

from benchmarks.figures import Figure, office

PEOPLE, BINDINGS, TRIES = 200, 100, 100
STROKES_A_SECOND, SECONDS = 10, 20


def figures() -> list[Figure]:
    return [*_counting(), *_listening(), *_team()]


def _counting() -> list[Figure]:
    """The share of one core that the process takes while ten strokes a second are struck."""
    from glimber.store.work.running import begin, end, process_of

    folder = office()
    begin(folder)
    process = process_of(folder)
    assert process is not None
    stat = Path(f"/proc/{process}/stat")
    time.sleep(3)  # it has begun, and is read in
    before, began = _ticks(stat), time.monotonic()
    keys = ["ctrl+shift+s", "a", "ctrl+k", "ctrl+t", "Right"] * (STROKES_A_SECOND * SECONDS // 5)
    subprocess.run(["xdotool", "key", "--delay", str(500 // STROKES_A_SECOND), *keys], check=True)
    took = time.monotonic() - began
    spent = (_ticks(stat) - before) / os.sysconf("SC_CLK_TCK")
    end(folder)
    rate = f"{len(keys) / took:.0f} strokes a second for {took:.0f} s"
    return [Figure("counting at work, share of one core", 100 * spent / took, "%", 0.5, note=rate)]


def _listening() -> list[Figure]:
    """The share of one core that hearing menus adds while 100 entries a minute get the selection in a program's menus: what the
    process takes less what another takes that counts the same strikes without the bus."""
    from tests.helpers import write_folio
    from tests.ui.buses import LAUNCHER, running_bus

    if LAUNCHER is None or shutil.which("mousepad") is None:
        return []
    with tempfile.TemporaryDirectory() as folder, running_bus(Path(folder) / "home") as environment, ExitStack() as begun:
        (Path(folder) / "note.txt").write_text("one\n")
        without = {**environment, "AT_SPI_BUS_ADDRESS": f"unix:path={folder}/none"}

        def start(command: list[str], env: dict[str, str]) -> Path:
            process = begun.enter_context(subprocess.Popen(command, env=env, stderr=subprocess.DEVNULL))
            begun.callback(process.terminate)
            time.sleep(5)
            return Path(f"/proc/{process.pid}/stat")

        def start_counter(name: str, env: dict[str, str]) -> Path:
            place = write_folio(Path(folder) / name, {"programs/mousepad.toml": _PROGRAM})
            return start([sys.executable, "-m", "glimber.store.work.counter", str(place)], env)

        start(["mousepad", f"{folder}/note.txt"], environment)
        subprocess.run(["xdotool", "search", "--onlyvisible", "--name", "Mousepad", "windowfocus", "--sync"], check=True)
        hearing, counting = start_counter("hearing", environment), start_counter("counting", without)
        time.sleep(6)  # both have begun, and the first has looked which programs there are
        before, began = _ticks(hearing), time.monotonic()
        idle = (_ticks_after(hearing, 20.0) - before) / os.sysconf("SC_CLK_TCK") / (time.monotonic() - began)
        _walk()  # what an entry is called is asked once
        before, alone, began, moved = _ticks(hearing), _ticks(counting), time.monotonic(), 0
        while time.monotonic() - began < SECONDS * 3:
            _walk()
            moved += 4
        took = time.monotonic() - began
        whole, strikes = ((_ticks(stat) - ticks) / os.sysconf("SC_CLK_TCK") / took
                          for stat, ticks in ((hearing, before), (counting, alone)))  # fmt: skip
        _walk("Return")
        begun.close()  # what was counted is written
        chosen = [json.loads(path.read_bytes())["menus"] for path in (Path(folder) / "home").rglob("tally/hearing-*.json")]
        assert any(chosen), "the program's menus were not heard"
    rate = (f"{60 * moved / took:.0f} entries a minute; {100 * whole:.2f} % with the strikes, {100 * strikes:.2f} % those alone; "
            f"{100 * idle:.2f} % while nothing is chosen")  # fmt: skip
    spent = whole - strikes
    return [Figure("hearing menus at work, share of one core", 100 * spent, "%", 0.3, note=rate)]


def _walk(last: str = "Escape") -> None:
    """Open a menu, go down three entries and leave it, or choose the third."""
    for keys in ("alt+e", "Down", "Down", "Down", last):
        subprocess.run(["xdotool", "key", keys], check=True)
        time.sleep(0.48)


_PROGRAM = """format = "glimber-program/1"
name = "Mousepad"
windows = ["mousepad"]

[commands.select-all]
name = "Select All"
shortcut = "Ctrl+A"
"""


def _ticks_after(stat: Path, seconds: float) -> int:
    time.sleep(seconds)
    return _ticks(stat)


def _ticks(stat: Path) -> int:
    user, system = stat.read_text().rpartition(")")[2].split()[11:13]
    return int(user) + int(system)


def _team() -> list[Figure]:
    """200 people × 100 bindings × 100 tries, and a tenth of the people; the tries are drawn from what a simulated person does."""
    from tests.server import Server

    from glimber.store.practice.location import confirm_server
    from glimber.store.practice.log import open_log
    from glimber.store.practice.team import team_figures

    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        server = Server(Path(folder) / "s")
        try:
            confirm_server(server.url)
            triggers = {f"b{n}": f"Ctrl+Alt+{n}" for n in range(BINDINGS)}
            took = {}
            with open_log(Path(folder), server.url) as log:
                begun = 0
                for people in (PEOPLE // 10, PEOPLE):
                    _fill(log, range(begun, people), triggers)
                    begun = people
                    times = []
                    for _ in range(3):
                        began = time.perf_counter()
                        rows = team_figures(log, triggers)
                        times.append(time.perf_counter() - began)
                    assert len(rows) == BINDINGS and rows[0].people == people
                    took[people] = min(times)
        finally:
            server.stop()
    return [
        Figure(f"the team's figures, {PEOPLE * BINDINGS * TRIES:,} tries", took[PEOPLE], "s", 8.0),
        Figure("against a tenth of the people", took[PEOPLE] / took[PEOPLE // 10], "x", 11.0),
    ]


def _fill(log: object, people: range, triggers: dict[str, str]) -> None:
    """Tries as the simulated person makes them, copied into the server's table."""
    from glimber.store.practice.log import Log

    assert isinstance(log, Log)
    pool, random = _pool(), Random(people.start)
    at = (datetime.now(UTC) - timedelta(days=30)).isoformat(timespec="milliseconds").replace("+00:00", "Z")
    driver = log.connection.connection.driver_connection
    assert driver is not None
    columns = ('id, round, nth, at, computer, binding, "trigger", mode, outcome, strict, recall_ms, motor_ms, deadline_ms, '
               "first, cold, aids, person")  # fmt: skip
    driver.execute("SET statement_timeout = 0")  # a person's tries are never so many at once
    with driver.cursor() as cursor, cursor.copy(f"COPY tries ({columns}) FROM STDIN") as copy:
        for person in people:
            better = random.random()
            for id, trigger in triggers.items():
                for nth in range(TRIES):
                    outcome, recall = pool[
                        int(len(pool) * min(random.random(), random.random() + better / 2)) % len(pool)
                    ]
                    copy.write_row((f"{person:06d}-{id}-{nth}", f"r{person}", nth, at, "bench", id, trigger, "press", outcome,
                                    False, recall, 120.0, 4000.0, True, nth % 5 == 0, 0, f"p{person}"))  # fmt: skip
    driver.commit()
    with driver.cursor() as cursor:
        cursor.execute("ANALYZE tries")
    driver.commit()


def _pool() -> list[tuple[str, float | None]]:
    """Outcomes and recall times of the chart office's simulated person, the blanks first."""
    from glimber.store.practice.log import read_practice

    tries = read_practice(office(), "practice.db").tries
    found = [(one.outcome, one.recall_ms) for one in tries if one.counts]
    return sorted(found, key=lambda one: (one[0] != "blank", one[1] or 0.0))
