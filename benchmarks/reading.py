"""Reading lists of shortcuts: 5,000 rows of each kind, and whether ten times as many take ten times as long."""

from __future__ import annotations

import time
from collections.abc import Callable

from benchmarks.figures import Figure

ROWS = 5_000
LIMIT_S, LIMIT_RATIO = 1.0, 12.0


def _markdown(count: int) -> bytes:
    return (
        "| Command | Keys |\n|---|---|\n" + "".join(f"| {name} | {keys} |\n" for name, keys in _rows(count))
    ).encode()


def _html(count: int) -> bytes:
    body = "".join(f"<tr><td>{name}<td><kbd>{keys}</kbd>" for name, keys in _rows(count))
    return f"<table><tr><th>Command<th>Keys{body}</table>".encode()


KINDS: dict[str, Callable[[int], bytes]] = {
    "csv": lambda count: ("Command,Keys\n" + "".join(f"{name},{keys}\n" for name, keys in _rows(count))).encode(),
    "text": lambda count: "".join(f"{name}    {keys}\n" for name, keys in _rows(count)).encode(),
    "markdown": _markdown,
    "html": _html,
}


def _rows(count: int) -> list[tuple[str, str]]:
    keys = [
        f"{held}+{key}" for held in ("Ctrl", "Ctrl+Shift", "Alt", "Ctrl+Alt") for key in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
    ]
    return [(f"Sounding {number}", keys[number % len(keys)]) for number in range(count)]


def figures() -> list[Figure]:
    """Seconds for 5,000 rows, and the ratio of 50,000 to it, for each kind of text."""
    from glimber.readers.registry import read

    def seconds(kind: str, count: int) -> float:
        data = KINDS[kind](count)
        began = time.perf_counter()
        assert len(read(kind, data).rows) == count
        return time.perf_counter() - began

    found = []
    for kind in KINDS:
        # In turns, so that a machine that gets slower or faster meanwhile does so for both.
        pairs = [(seconds(kind, ROWS), seconds(kind, 10 * ROWS)) for _ in range(7)]
        few, many = (min(times) for times in zip(*pairs, strict=True))
        found.append(Figure(f"{ROWS:,} rows of {kind}", few, "s", LIMIT_S))
        found.append(Figure(f"{10 * ROWS:,} rows of {kind} / {ROWS:,}", many / few, "×", LIMIT_RATIO))
    return found
