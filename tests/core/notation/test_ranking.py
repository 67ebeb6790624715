"""The order of what is found by a text."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.notation.ranking import ANYWHERE, EXACT, IN_ORDER, PREFIX, WORD, best_first, rank

NAMES = ["Save chart as", "Autosave", "Save chart", "Chart: save", "Save", "Sort a vertex", "Undo"]


@pytest.mark.parametrize(("text", "name", "words", "how"), [
    ("save", "Save", "", EXACT), ("SAVE  chart", "Save chart", "", EXACT), ("sav", "Save chart", "", PREFIX), ("cha", "Save chart", "", WORD),
    ("sa ch", "Save the chart", "", IN_ORDER), ("ch sa", "Save chart", "", ANYWHERE), ("utos", "Autosave", "", ANYWHERE),
    ("depth", "Add sounding", "spot depth", ANYWHERE), ("ctrl", "Save", "Ctrl+S", ANYWHERE), ("xyz", "Save", "", None), ("", "Save", "", EXACT),
])  # fmt: skip
def test_how_well_a_name_fits(text: str, name: str, words: str, how: int | None) -> None:
    assert rank(text, name, words) == how


def test_the_exact_name_is_first_then_beginnings_then_words_and_then_what_is_alike() -> None:
    assert best_first("save", NAMES, str) == ["Save", "Save chart as", "Save chart", "Chart: save", "Autosave"]
    assert best_first("save chart", NAMES, str)[0] == "Save chart"
    assert best_first("sve chart", NAMES, str)[0] in ("Save chart", "Save chart as")  # mistyped
    assert best_first("zzz", NAMES, str) == []


def test_of_equals_what_is_used_more_comes_first() -> None:
    uses = {"Save chart as": 1.0, "Save chart": 9.0}
    assert best_first("sav", NAMES, str, uses=lambda name: uses.get(name, 0.0))[:2] == ["Save chart", "Save chart as"]


@given(st.lists(st.text("abc ", min_size=1, max_size=8), max_size=12), st.text("abc ", max_size=4))
def test_nothing_is_found_twice_and_an_exact_name_is_in_front(names: list[str], text: str) -> None:
    found = best_first(text, names, str)
    assert len(found) <= len(names)
    exact = [name for name in names if " ".join(name.split()) == " ".join(text.split())]
    if text.strip() and exact:
        assert " ".join(found[0].split()) == " ".join(text.split())
