"""New files: documents as text that reads back as they are, laid out as somebody would write them."""

from __future__ import annotations

import math
import tomllib

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.store.toml.emit import document_text, inline_text, key_text

TEXT = st.text(st.characters(exclude_categories=["Cs"]), max_size=12)
PLAIN = st.recursive(
    TEXT | st.booleans() | st.integers(-(2**63), 2**63 - 1) | st.floats(allow_nan=False),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(TEXT, inner, max_size=3),
    max_leaves=8,
)
ROWS = st.lists(st.dictionaries(TEXT, PLAIN, max_size=3), min_size=1, max_size=3)
DOCUMENTS = st.dictionaries(TEXT | st.sampled_from(["commands", "groups", "layers", "keys"]), PLAIN | ROWS, max_size=6)


@given(DOCUMENTS)
def test_what_is_written_reads_back_as_it_is(document: dict[str, object]) -> None:
    assert tomllib.loads(document_text(document)) == document


def test_tables_come_after_plain_entries_and_rows_keep_their_order() -> None:
    text = document_text(
        {
            "commands": {"zoom-in": {"name": "Zoom in", "keys": ["Ctrl+="]}},
            "format": 2,
            "layers": [{"name": "base", "keys": {"KeyA": "falls"}}, {"name": "signs", "keys": {}}],
        }
    )
    assert text == (
        "format = 2\n\n"
        '[commands]\nzoom-in = { name = "Zoom in", keys = ["Ctrl+="] }\n\n'
        '[[layers]]\nname = "base"\n\n[layers.keys]\nKeyA = "falls"\n\n'
        '[[layers]]\nname = "signs"\n\n[layers.keys]\n'
    )


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (True, "true"),
        (1, "1"),
        (1.0, "1.0"),
        (1e30, "1e+30"),
        (math.inf, "inf"),
        (-math.inf, "-inf"),
        (math.nan, "nan"),
        ("a\x7f\n\"", r'"a\u007F\n\""'),
        ([], "[]"),
        ({}, "{}"),
    ],
)  # fmt: skip
def test_each_kind_of_value(value: object, text: str) -> None:
    assert inline_text(value) == text


@pytest.mark.parametrize(("name", "text"), [("a-b_1", "a-b_1"), ("", '""'), ("a b", '"a b"'), ("é", '"é"'), ("a\n", r'"a\n"')])
def test_a_key_is_bare_where_it_may_be(name: str, text: str) -> None:
    assert key_text(name) == text


def test_what_toml_does_not_have_is_refused() -> None:
    with pytest.raises(ValueError, match="None is no value of TOML"):
        document_text({"format": None})
