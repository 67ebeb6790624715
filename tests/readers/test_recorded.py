"""All that is said of the made-up sources, as it was when somebody read it: rows with groups, notes and doubts, and the rest."""

from __future__ import annotations

from pathlib import Path

from glimber.readers.found import Row
from glimber.readers.registry import choose
from tests.readers.test_variations import CASES
from tests.recorded import assert_recorded

SOURCES = sorted(path for path in Path(__file__).with_name("sources").iterdir() if path.is_file())


def _row(row: Row) -> str:
    more = [f"[{row.group}]" if row.group else "", f"({row.note})" if row.note else "", row.remark or "", row.doubt or ""]
    shown = " ".join(part for part in more if part)
    return f"  {row.line} {row.command} = {' | '.join(row.triggers)} {row.sure:.2f} {shown}".rstrip()


def _lines(name: str, data: bytes) -> list[str]:
    chosen = choose(name, data)
    kind, found, second = chosen.kind, chosen.found, chosen.second
    lines = [f"# {name}: {kind}, then {second} {found.title}".rstrip(), *map(_row, found.rows)]
    lines += [f"  heading: {one.line} {one.text}" for one in found.headings]
    lines += [f"  no binding: {one.line} {one.text} [{one.command}] {one.why}" for one in found.not_bindings]
    return [*lines, *(f"  problem: {one.line} {one.text} [{one.command} = {one.keys}]" for one in found.problems)]


def test_sources_are_read_as_they_were() -> None:
    lines = [line for path in SOURCES for line in _lines(path.name, path.read_bytes())]
    assert_recorded("readers-sources", lines)


def test_variations_are_read_as_they_were() -> None:
    lines: list[str] = []
    for case, (name, text, _) in CASES.items():
        lines += [f"## {case}", *_lines(name, text.encode())]
    assert_recorded("readers-variations", lines)
