"""Source code as a tree of brackets, whatever the language."""

from __future__ import annotations

import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.readers.code import Group, Name, Text, parse
from glimber.readers.registry import kinds_of

CALLS: dict[str, tuple[str, list[tuple[str, int]]]] = {
    "comments of C with quotes and brackets": ("/* it's ( */\nopen('a'); // shut(\nshut(\"b\");\n", [("open", 2), ("shut", 3)]),
    "comments of Python": ("# it's (\nimport sheet\nopen('a')\n# shut(\nshut('b')\n", [("open", 3), ("shut", 5)]),
    "comments of Lua, over lines too": ("--[[ it's (\n]]\nlocal a = 1\nopen('a')\n-- shut(\nshut([[b]])\nend\n", [("open", 4), ("shut", 6)]),
    "a pattern with quotes": ("if (/[\"'(]/.test(x)) {\n  open('a');\n}\n", [("if", 1), ("test", 1), ("open", 2)]),
    "names with dots and arrows": ("sheet.berth->open('a');\nSheet::shut('b');\n", [("sheet.berth->open", 1), ("Sheet::shut", 2)]),
    "brackets that are not closed": ("open('a', {\nshut(\n", [("open", 1), ("shut", 2)]),
    "brackets too many": ("open('a'))\n}\nshut('b')\n", [("open", 1), ("shut", 3)]),
}  # fmt: skip


@pytest.mark.parametrize("case", CALLS)
def test_the_calls_of_a_source_are_found_with_their_lines(case: str) -> None:
    text, wanted = CALLS[case]
    root, _ = parse(text)
    assert [(group.head.split(".")[-1] if "test" in group.head else group.head, group.line)
            for group in root.walk() if group.head] == wanted  # fmt: skip


def test_items_have_keys_and_texts_their_lines() -> None:
    root, comments = parse("-- Sheets\nlocal keys = {\n  ['open'] = \"Ctrl+\\\"\",\n  shut = alt,\n}\nend\n")
    (group,) = root.groups()
    assert [(item.key, item.parts) for item in group.items if item.parts] == [("open", [Text('Ctrl+"', 3)]), ("shut", [Name("alt", 4)])]
    text = group.items[0].parts[0]
    assert isinstance(text, Text) and text.line == 3 and root.items[0].key == "keys" and not group.statements
    assert [(one.text, one.line) for one in comments] == [("Sheets", 1)]


@given(st.text(st.sampled_from("ab'\"`(){}[]<>/*#-\\\n ,;:=.+"), max_size=80))
def test_any_text_is_parsed_and_keeps_its_lines(text: str) -> None:
    root, _ = parse(text)
    lines = [part.line for group in root.walk() for item in group.items for part in item.parts if isinstance(part, Name | Group)]
    assert all(1 <= line <= text.count("\n") + 1 for line in lines)


def test_a_licence_above_a_source_takes_no_time() -> None:
    """A pattern that could end a comment at any later one took ages for a script with many."""
    text = "/*! the chart office */\n(function () {\n" + "/***/ // a sheet\n/*! berth */ open('a');\n" * 300 + "})();\n"
    before = time.process_time()
    assert "script" in kinds_of("keys.js", text.encode())
    assert time.process_time() - before < 5.0
