"""Two sides of a change from one base: all of both is kept, and what both changed in different ways is a clash."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec import Struct

from glimber.core.session.merge import ClashError, merged


class Row(Struct, frozen=True):
    id: str
    words: str = ""


def rows(text: str) -> tuple[Row, ...]:
    """Rows of one letter each; a capital one has other words."""
    return tuple(Row(letter.lower(), "changed" if letter.isupper() else "") for letter in text)


@pytest.mark.parametrize(("base", "mine", "theirs", "found"), [
    ("abc", "abc", "abc", "abc"), ("abc", "aBc", "abc", "aBc"), ("abc", "abc", "aBc", "aBc"), ("abc", "Abc", "abC", "AbC"),
    ("abc", "aBc", "aBc", "aBc"), ("abc", "ac", "abc", "ac"), ("abc", "ac", "abC", "aC"), ("abc", "ac", "ab", "a"),
    ("abc", "abcx", "abcy", "abcyx"), ("abc", "axbc", "abcy", "axbcy"), ("abc", "xabc", "abyc", "xabyc"), ("", "x", "", "x"), ("", "x", "y", "yx"),
    # The order of the side that changed it:
    ("abc", "cba", "abc", "cba"), ("abc", "abc", "cba", "cba"), ("abc", "cba", "abcx", "cxba"), ("abc", "cbax", "abcy", "cybax"),
    ("abc", "abxc", "cba", "cbxa"),
])  # fmt: skip
def test_rows_by_their_ids(base: str, mine: str, theirs: str, found: str) -> None:
    one, two, three = ({row.id: row for row in rows(text)} for text in (base, mine, theirs))
    assert merged(rows(base), rows(mine), rows(theirs)) == rows(found)
    assert merged(one, two, three) == {row.id: row for row in rows(found)}


@pytest.mark.parametrize(("base", "mine", "theirs", "clash"), [
    (rows("abc"), rows("aBc"), rows("ac"), "b was changed meanwhile"),
    (rows("abc"), (Row("a"), Row("b", "one"), Row("c")), (Row("a"), Row("b", "two"), Row("c")), "b words was changed meanwhile"),
    ("a", "b", "c", "it was changed meanwhile"), ((1, 2), (1, 3), (2, 2), "it was changed meanwhile"),
    ({"k": 1}, {"k": 2}, {}, "k was changed meanwhile"), ({}, {"k": 2}, {"k": 3}, "k was changed meanwhile"),
])  # fmt: skip
def test_what_both_changed_is_a_clash(base: Any, mine: Any, theirs: Any, clash: str) -> None:
    with pytest.raises(ClashError, match=f"^{clash}$"):
        merged(base, mine, theirs)


SETS = st.frozensets(st.integers(0, 5))
MAPS = st.dictionaries(st.sampled_from("abcde"), st.integers(0, 2), max_size=5)


@given(SETS, SETS, SETS)
def test_sets_take_what_each_side_put_in_and_took_out(base: frozenset[int], mine: frozenset[int], theirs: frozenset[int]) -> None:
    found = merged(base, mine, theirs)
    for one in range(6):
        sides = (one in mine, one in theirs)
        assert (one in found) is (sides[0] if sides[0] is not (one in base) else sides[1])


@given(MAPS, MAPS)
def test_a_side_that_changed_nothing_gives_way_whole(base: dict[str, int], other: dict[str, int]) -> None:
    assert merged(base, base, other) is other and merged(base, other, base) is other
    assert merged(base, dict(base), other) == other and merged(base, other, dict(base)) == other
    assert merged(base, other, dict(other)) == other


@given(MAPS, MAPS, MAPS)
def test_each_key_is_merged_by_itself(base: dict[str, int], mine: dict[str, int], theirs: dict[str, int]) -> None:
    wanted: dict[str, int | None] = {}
    for key in "abcde":
        one, two, three = base.get(key), mine.get(key), theirs.get(key)
        if two != one and three != one and two != three:
            with pytest.raises(ClashError):
                merged(base, mine, theirs)
            return
        wanted[key] = two if two != one else three
    assert merged(base, mine, theirs) == {key: value for key, value in wanted.items() if value is not None}
