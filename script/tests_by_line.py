"""Record which tests run which lines of the code, and look it up: used by ``script/mutants``.

As a pytest plugin (``-p tests_by_line``) under ``coverage run`` it names the context of each line after the test that runs it,
and writes how long each test took.
"""

from __future__ import annotations

import json
import os
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest

ROOT = Path(__file__).parents[1]
FOLDER = ROOT / "build" / "tests-by-line"
RECORDINGS = ("tests/ui/test_recorded.py", "tests/ui/test_walks.py")
_seconds: dict[str, float] = defaultdict(float)


def _function(node_id: str) -> str:
    """Return the function of a test without its parameters: one is recorded and asked with all of them."""
    return node_id.partition("[")[0]


@pytest.hookimpl(tryfirst=True)
def pytest_runtest_setup(item: Any) -> None:
    """Let the lines that run from here on be this test's."""
    import coverage

    running = coverage.Coverage.current()
    if running is not None:
        running.switch_context(_function(item.nodeid))


def pytest_runtest_logreport(report: Any) -> None:
    """Add up how long a test takes with what it sets up and clears away."""
    _seconds[_function(report.nodeid)] += report.duration


def pytest_sessionfinish() -> None:
    """Write the times of the tests beside what coverage writes."""
    to = os.environ.get("TESTS_BY_LINE_SECONDS")
    if to:
        Path(to).write_text(json.dumps(_seconds))


@dataclass
class TestsByLine:
    """Which tests run a line, shortest first."""

    seconds: dict[str, float] = field(default_factory=dict)
    contexts: dict[str, dict[int, list[str]]] = field(default_factory=dict)
    """By the path of a module under ``src``: its lines, and the tests that run each."""

    @classmethod
    def read(cls) -> TestsByLine:
        """Read what ``script/mutants --record`` wrote.

        Raises:
            FileNotFoundError: nothing is recorded yet.
        """
        import coverage

        read = cls()
        for times in sorted(FOLDER.glob("*.json")):
            read.seconds.update(json.loads(times.read_text()))
        if not read.seconds:
            raise FileNotFoundError(FOLDER)
        for recorded in sorted(FOLDER.glob("*.coverage")):
            data = coverage.CoverageData(str(recorded))
            data.read()
            for path in data.measured_files():
                lines = read.contexts.setdefault(path.rpartition("/src/")[2], {})
                for line, tests in data.contexts_by_lineno(path).items():
                    lines.setdefault(line, []).extend(test for test in tests if test)
        return read

    def tests_for(self, module: Path, lines: Sequence[Iterable[int]], most_seconds: float) -> list[str]:
        """Return the tests that run the first of the ranges of lines that any test runs, shortest first.

        As many as run in the seconds given, and then all that compare with what was recorded, which take long and see most.
        What runs only when its module is imported is asked of the tests that run anything of the module.
        """
        known = self.contexts.get(module.relative_to(ROOT / "src").as_posix(), {})
        by_range = [{test for line in some for test in known.get(line, ())} for some in lines]
        tests = next((found for found in by_range if found), None) or {test for found in known.values() for test in found}
        chosen, spent = [], 0.0
        shortest = sorted(tests, key=lambda test: (self.seconds.get(test, 0.0), test))
        recordings = [test for test in shortest if test.startswith(RECORDINGS)]
        for test in shortest:
            spent += self.seconds.get(test, 0.0)
            if chosen and spent > most_seconds:
                break
            chosen.append(test)
        return chosen + [test for test in recordings if test not in chosen]
