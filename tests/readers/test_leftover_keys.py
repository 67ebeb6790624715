"""No chord of a source is lost in silence: it is in a row, or on a line that says why it is in none."""

from __future__ import annotations

import re
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glimber.readers.found import Found
from glimber.readers.leftover_keys import WHY, leftover_keys
from glimber.readers.registry import kinds_of, read
from tests.readers.test_variations import CASES

CHORD = re.compile(r"(?<![\w+-])(?:Ctrl|Control|Alt|Shift|Super)[+-](?:F\d{1,2}|[A-Za-z0-9])(?![\w+-])")


def squashed(text: str) -> str:
    return re.sub(r"[^a-z0-9]", "", text.lower())


@given(data=st.data())
@settings(max_examples=600)
def test_every_chord_of_a_source_is_in_some_list_however_it_is_mutated(data: Any) -> None:
    name, whole, _ = CASES[data.draw(st.sampled_from(sorted(CASES)))]
    lines = whole.split("\n")
    for _ in range(data.draw(st.integers(0, 3))):
        place = data.draw(st.integers(0, len(lines) - 1))
        what = data.draw(st.sampled_from(["without", "twice", "exchanged", "bitten", "cut"]))
        if what == "without" and len(lines) > 1:
            del lines[place]
        elif what == "twice":
            lines.insert(place, lines[place])
        elif what == "exchanged":
            lines[0], lines[place] = lines[place], lines[0]
        elif what == "bitten":
            at = data.draw(st.integers(0, len(lines[place])))
            lines[place] = lines[place][:at] + lines[place][at + 1 :]
        elif what == "cut":
            del lines[place + 1 :]
    text = "\n".join(lines).encode()
    found = read(kinds_of(name, text)[0], text)
    if found.problems and not found.rows:
        return  # nothing of it could be read, and it says why
    told = {one.line for group in (found.rows, found.not_bindings, found.problems, found.headings) for one in group}
    told |= found.joined | {line for line, _ in found.elsewhere}
    said = squashed(" ".join(f"{row.keys} {row.command} {row.note} {row.remark}" for row in found.rows))
    shown = re.sub(r"(?is)<(head|script|style)\b.*?</\1>|<!--.*?-->", lambda one: "\n" * one[0].count("\n"), text.decode())
    for number, line in enumerate(shown.split("\n"), start=1):
        for chord in CHORD.finditer(line):
            assert number in told or squashed(chord[0]) in said, (number, line)


def left_of(kind: str, text: str) -> list[tuple[int, str]]:
    return [(one.line, one.text) for one in read(kind, text.encode()).not_bindings if one.why == WHY]


ROWS = "<table><tr><td>Add sounding</td><td>Ctrl+S</td></tr>\n<tr><td>Lead line</td>\n<td>Ctrl + L</td></tr></table>\n"


@pytest.mark.parametrize(("kind", "text", "left"), [
    ("html", ROWS, []),  # the keys of a row may stand lines below its command
    ("html", f"{ROWS}<p>As in every chart, Ctrl+S adds one and <b>Ctrl</b>+<b>Q</b> leaves.</p>",
     [(4, "As in every chart, Ctrl+S adds one and Ctrl+Q leaves.")]),
    ("html", f"{ROWS}<p>Ctrl+S adds one.</p>", []),  # it is in a row
    ("html", f"<head><title>Ctrl+T</title></head><script>\nkeys('Ctrl+E')</script><!-- Ctrl+R -->\n{ROWS}", []),
    ("html", f"{ROWS}<p>Chart-Alt-3 and Ctrl- are none</p>", []),
    ("json", '{"broken": ["Ctrl+Q",', []),  # its problem says all
])  # fmt: skip
def test_what_is_left_over_of_a_source(kind: str, text: str, left: list[tuple[int, str]]) -> None:
    assert left_of(kind, text) == left


@pytest.mark.parametrize(("most", "lines"), [(1, [1]), (2, [1, 2]), (3, [1, 2])])
def test_no_more_is_listed_than_asked_for(most: int, lines: list[int]) -> None:
    assert [one.line for one in leftover_keys(Found(), "Ctrl+A one\nAlt-B two\n", False, most)] == lines
