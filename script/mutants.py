"""Plants single faults in the code and counts how many the tests see: ``script/mutants core/engine --most 40``.

Not part of the tests. Each fault is one change of one expression (a comparison, a sum, a number, a condition, an argument of a
boolean), made in a copy of the checkout; the tests of the part are run against it until the first of them fails.
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
from dataclasses import dataclass
from pathlib import Path
from queue import Queue
from threading import Lock

ROOT = Path(__file__).parents[1]
TESTS = {
    "core/engine": ["tests/core/engine", "tests/core/practice"],
    "core/practice": ["tests/core/practice", "tests/core/decide", "tests/store/practice/test_columns.py"],
    "core/stats": ["tests/core/stats", "tests/core/decide", "tests/core/practice"],
    "core/decide": ["tests/core/decide", "tests/core/stats"],
    "core/session": ["tests/core/session"],
    "core/audit": ["tests/core/audit", "tests/core/engine/test_drift.py", "tests/core/edit/test_spots.py"],
    "core/notation": ["tests/core/notation", "tests/readers/test_variations.py", "tests/readers/test_recorded.py",
                      "tests/writers/test_recorded.py", "tests/core/model", "tests/core/edit"],
    "core/edit": ["tests/core/edit", "tests/core/session"],
    "core/model": ["tests/core/model", "tests/core/cards/test_recorded.py", "tests/core/cards/test_shelf.py"],
    "core/cards": ["tests/core/cards/test_recorded.py", "tests/core/cards"],
    "readers": ["tests/readers/test_recorded.py", "tests/readers"],
    "writers": ["tests/writers/test_recorded.py", "tests/writers", "tests/store/test_inplace.py"],
    "cli": ["tests/cli/test_recorded.py", "tests/cli"],
    "store": ["tests/store", "tests/core/session", "tests/core/cards", "tests/core/decide", "tests/writers", "tests/cli"],
}
WINDOWS = {"store": ["at_work", "edits", "trust", "server_round", "pictures_on_cards"]}
"""The tests in real windows that drive a part; they are slow, and asked only where the others see nothing."""
WHOLE_CORE = ["-m", "not slow", "tests/core"]
"""The tests of the whole core, asked of what its own tests do not see in a part of it."""
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
    what: str
    source: str


def mutants_of(path: Path) -> Iterator[Mutant]:
    """Every fault that can be planted in a module; docstrings, annotations and texts are left alone."""
    tree = ast.parse(path.read_text())
    # Whether a class is frozen changes nothing for who does not try to change it, nor "strict" for rows of one length.
    marks = [mark for node in ast.walk(tree) if isinstance(node, ast.ClassDef)
             for mark in (*node.decorator_list, *node.keywords)]  # fmt: skip
    marks += [node for node in ast.walk(tree) if isinstance(node, ast.keyword) and node.arg == "strict"]
    alone = {id(one) for mark in marks for one in ast.walk(mark)}
    for node in ast.walk(tree):
        if id(node) in alone:
            continue
        for change, what in _changes(node):
            before = copy.copy(node.__dict__)
            change()
            yield Mutant(path, getattr(node, "lineno", 0), what, ast.unparse(tree))
            node.__dict__.clear()
            node.__dict__.update(before)


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


def main() -> int:
    read = argparse.ArgumentParser(description=__doc__)
    read.add_argument("parts", nargs="*", default=list(TESTS))
    read.add_argument("--most", type=int, default=60, help="so many of each part, chosen by --seed")
    read.add_argument("--seed", type=int, default=1)
    read.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    asked = read.parse_args()
    copies: Queue[Path] = Queue()
    one_at_a_time = Lock()
    home = Path(tempfile.mkdtemp(prefix="mutants-"))
    for number in range(asked.jobs):
        to = home / str(number)
        for name in ("src", "tests", "docs", "benchmarks"):
            shutil.copytree(ROOT / name, to / name, ignore=shutil.ignore_patterns("__pycache__"))
        for name in ("pyproject.toml", "README.md", "LICENSE"):
            shutil.copy(ROOT / name, to)
        copies.put(to)

    def killed(mutant: Mutant, part: str) -> bool:
        place = copies.get()
        target = place / mutant.path.relative_to(ROOT)
        good = target.read_text()
        try:
            target.write_text(mutant.source)
            windows = [f"tests/ui/test_{name}.py" for name in WINDOWS.get(part, ())]
            if fails(place, "-p", "no:pytest-qt", *TESTS[part]):
                return True
            if part.startswith("core/") and fails(place, "-p", "no:pytest-qt", *WHOLE_CORE):
                return True
            with one_at_a_time:  # strokes of a hand are timed
                return bool(windows) and fails(place, *windows)
        finally:
            target.write_text(good)
            copies.put(place)

    def fails(place: Path, *tests: str) -> bool:
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-k", "not wheel", *tests]
        environment = {**os.environ, "PYTHONPATH": str(place / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
        try:
            return subprocess.run(command, cwd=place, env=environment, capture_output=True, timeout=600).returncode != 0
        except subprocess.TimeoutExpired:
            return True  # it never ends: that is seen

    dead = whole = 0
    for part in asked.parts:
        sound = Mutant(ROOT / "src/glimber/__init__.py", 0, "nothing", (ROOT / "src/glimber/__init__.py").read_text())
        if killed(sound, part):
            print(f"{part}: its tests fail without any fault; there is nothing to learn from it")
            return 2
        found = [one for path in sorted((ROOT / "src/glimber" / part).rglob("*.py")) for one in mutants_of(path)]
        chosen = random.Random(asked.seed).sample(found, min(asked.most, len(found)))
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
