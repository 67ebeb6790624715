"""Plants single faults in the code and counts how many the tests see: ``script/mutants core/engine --most 40``.

Not part of the tests. Each fault is one change of one expression (a comparison, a sum, a number, a condition, an argument of a
boolean), made in a copy of the checkout; the tests that run the changed line are run against it, shortest first, until one fails.
Which tests run which lines is recorded once, by ``script/mutants --record``.
"""

from __future__ import annotations

import argparse
import ast
import copy
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from queue import Queue

from tests_by_line import FOLDER, ROOT, TestsByLine

PARTS = ("core/audit", "core/cards", "core/decide", "core/edit", "core/engine", "core/model", "core/notation", "core/practice",
         "core/session", "core/stats", "cli", "readers", "store", "ui", "writers")  # fmt: skip
PROCESSES = {"cli": ["tests/cli/test_robust.py", "tests/cli/test_desktop.py"], "store": ["-m", "slow", "tests/store"]}
"""Tests that start processes, whose lines are not recorded; asked where the others see nothing."""
RUNS = {
    "core": ["-p", "no:pytest-qt", "-k", "not wheel", *(f"tests/{one}" for one in "core store readers writers cli demo".split())],
    "windows": ["--reruns", "1", "tests/ui"],
}
"""What is run to record: the tests without a window, then those with one."""
MOST_SECONDS = 60.0
"""So long are tests asked for one fault, by what they took when they were recorded."""
SWAPS: dict[type, type] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Add: ast.Sub, ast.Sub: ast.Add,
    ast.Mult: ast.Div, ast.Div: ast.Mult, ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip


@dataclass(frozen=True)
class Mutant:
    """One fault: where it is, what it does, and the module with it."""

    path: Path
    line: int
    lines: tuple[range, range]
    """The lines of what is changed, and of its statement."""
    what: str
    source: str


def mutants_of(path: Path) -> Iterator[Mutant]:
    """Every fault that can be planted in a module; docstrings, annotations and texts are left alone."""
    tree = ast.parse(path.read_text())
    # Whether a class is frozen changes nothing for who does not try to change it, nor "strict" for rows of one length.
    marks = [mark for node in ast.walk(tree) if isinstance(node, ast.ClassDef)
             for mark in (*node.decorator_list, *node.keywords)]  # fmt: skip
    marks += [node for node in ast.walk(tree) if isinstance(node, ast.keyword) and node.arg == "strict"]
    statements = [node for node in ast.walk(tree) if isinstance(node, ast.stmt)]
    alone = {id(one) for mark in marks for one in ast.walk(mark)}
    for node in ast.walk(tree):
        if id(node) in alone:
            continue
        for change, what in _changes(node):
            before = copy.copy(node.__dict__)
            change()
            yield Mutant(path, getattr(node, "lineno", 0), _lines(node, statements), what, ast.unparse(tree))
            node.__dict__.clear()
            node.__dict__.update(before)


def _lines(node: ast.AST, statements: list[ast.stmt]) -> tuple[range, range]:
    """The lines of an expression, and of the smallest statement around it."""
    if isinstance(node, ast.If | ast.While):
        own = range(node.lineno, (node.test.end_lineno or node.lineno) + 1)
        return own, own
    own = range(getattr(node, "lineno", 0), getattr(node, "end_lineno", 0) + 1)
    around = [one for one in statements if one.lineno <= own.start and (one.end_lineno or 0) >= own.stop - 1]
    return own, range(max((one.lineno for one in around), default=own.start), own.stop)


def _changes(node: ast.AST):  # type: ignore[no-untyped-def]
    if isinstance(node, ast.Compare) and type(node.ops[0]) in SWAPS:
        other = SWAPS[type(node.ops[0])]
        yield (lambda: setattr(node, "ops", [other(), *node.ops[1:]]), f"{type(node.ops[0]).__name__} to {other.__name__}")
    elif isinstance(node, ast.BinOp | ast.BoolOp) and type(node.op) in SWAPS:
        other = SWAPS[type(node.op)]
        yield lambda: setattr(node, "op", other()), f"{type(node.op).__name__} to {other.__name__}"
    elif isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
        value = node.value + 1 if isinstance(node.value, int) else node.value * 1.25 + 0.01
        if node.value == 0 or abs(node.value) >= 1e-6:  # less only keeps from dividing by nothing and from ties
            yield lambda: setattr(node, "value", value), f"{node.value} to {value:g}"
    elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
        yield lambda: setattr(node, "value", not node.value), f"{node.value} to {not node.value}"
    elif isinstance(node, ast.If | ast.IfExp | ast.While):
        test = node.test
        yield lambda: setattr(node, "test", ast.UnaryOp(ast.Not(), test)), "the condition turned round"
    elif isinstance(node, ast.Expr) and isinstance(node.value, ast.Call) and ast.unparse(node.value.func) != "time.sleep":
        # To look again without resting takes more of the processor, and comes to the same.
        yield lambda: setattr(node, "value", ast.Constant(None)), f"without {ast.unparse(node.value)[:50]}"


def record() -> int:
    """Run all tests once with the lines that each runs recorded, those of the windows last; 0 when all of them passed."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    failed = 0
    for name, chosen in RUNS.items():
        environment = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT / 'script'}", "COVERAGE_CORE": "ctrace",
                       "TESTS_BY_LINE_SECONDS": str(FOLDER / f"{name}.json"),
                       "COVERAGE_FILE": str(FOLDER / f"{name}.coverage")}  # fmt: skip
        command = [sys.executable, "-m", "coverage", "run", "-m", "pytest", "-p", "tests_by_line", "--timeout", "900", *chosen]
        failed |= subprocess.run(command, cwd=ROOT, env=environment).returncode
    return int(failed != 0)


def main() -> int:
    read = argparse.ArgumentParser(description=__doc__)
    read.add_argument("parts", nargs="*", default=list(PARTS))
    read.add_argument("--record", action="store_true", help="record which tests run which lines, which takes half an hour")
    read.add_argument("--most", type=int, default=60, help="so many of each part, chosen by --seed")
    read.add_argument("--seed", type=int, default=1)
    read.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    asked = read.parse_args()
    if asked.record:
        return record()
    try:
        by_line = TestsByLine.read()
    except FileNotFoundError:
        print("nothing is recorded yet: script/mutants --record first")
        return 2
    copies: Queue[Path] = Queue()
    home = Path(tempfile.mkdtemp(prefix="mutants-"))
    for number in range(asked.jobs):
        to = home / str(number)
        for name in ("src", "tests", "docs", "benchmarks"):
            shutil.copytree(ROOT / name, to / name, ignore=shutil.ignore_patterns("__pycache__"))
        for name in ("pyproject.toml", "README.md", "LICENSE"):
            shutil.copy(ROOT / name, to)
        copies.put(to)

    def killed(mutant: Mutant, part: str) -> bool:
        tests = by_line.tests_for(mutant.path, mutant.lines, MOST_SECONDS)
        place = copies.get()
        target = place / mutant.path.relative_to(ROOT)
        good = target.read_text()
        try:
            target.write_text(mutant.source)
            return (bool(tests) and fails(place, *tests)) or (part in PROCESSES and fails(place, *PROCESSES[part]))
        finally:
            target.write_text(good)
            copies.put(place)

    def fails(place: Path, *tests: str) -> bool:
        windows = any(test.startswith("tests/ui") for test in tests)
        options = ["--reruns", "1"] if windows else ["-p", "no:pytest-qt"]
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-k", "not wheel", *options, *tests]
        environment = {**os.environ, "PYTHONPATH": str(place / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
        try:
            # 5: none of them is left to run
            return subprocess.run(command, cwd=place, env=environment, capture_output=True, timeout=600).returncode not in (0, 5)
        except subprocess.TimeoutExpired:
            return True  # it never ends: that is seen

    dead = whole = 0
    for part in asked.parts:
        found = [one for path in sorted((ROOT / "src/glimber" / part).rglob("*.py")) for one in mutants_of(path)]
        chosen = random.Random(asked.seed).sample(found, min(asked.most, len(found)))
        if killed(replace(chosen[0], source=chosen[0].path.read_text()), part):
            print(f"{part}: its tests fail without any fault; there is nothing to learn from it")
            return 2
        with ThreadPoolExecutor(asked.jobs) as pool:
            seen = list(pool.map(lambda one, part=part: killed(one, part), chosen))
        for one, gone in zip(chosen, seen, strict=True):
            if not gone:
                print(f"lives: {one.path.relative_to(ROOT)}:{one.line} {one.what}")
        print(f"{part}: {sum(seen)} of {len(seen)} die, of {len(found)} that can be planted", flush=True)
        dead, whole = dead + sum(seen), whole + len(seen)
    shutil.rmtree(home, ignore_errors=True)
    print(f"{dead} of {whole} die: {100 * dead / max(1, whole):.0f} %")
    return 0


if __name__ == "__main__":
    sys.exit(main())
