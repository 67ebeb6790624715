"""Short forms of names, where words break, and groups that never look alike."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.drawing.breaking import pieces
from glimber.core.drawing.short_labels import short_forms_of
from glimber.core.drawing.text import broken, fit
from glimber.core.model.folio import Folio, Group
from glimber.core.model.group_marks import PAIRS, next_pair, with_distinct_groups
from glimber.store.cache.fonts import faces
from tests.helpers import folio_of

FACE = faces()[500]


def folio(*names: str, group: str = "Contour") -> Folio:
    """A folio whose program has commands with these names, all in one group."""
    commands = "".join(f'c{at} = {{ name = "{name}", group = "g" }}\n' for at, name in enumerate(names))
    text = f'format = "glimber-program/1"\nname = "Shoalwright"\n[groups]\ng = {{ name = "{group}" }}\n[commands]\n{commands}'
    empty = 'format = "glimber-layout/1"\nboard = "split-42"\n[[layers]]\nid = "base"\nname = "Base"\n'
    return folio_of({"programs/shoalwright.toml": text, "layouts/split-42.toml": empty})


@pytest.mark.parametrize(("names", "name", "form"), [
    (("Switch to Welcome mode", "Switch to Draw mode", "Switch to Print mode"), "Switch to Welcome mode", "Welcome mode"),
    (("Save chart (all sheets)",), "Save chart (all sheets)", "Save chart"),
    (("Save chart. Writes every sheet to its file",), "Save chart. Writes every sheet to its file", "Save chart"),
    (("Open the chart",), "Open the chart", "Open chart"),
    (("Quit Shoalwright now",), "Quit Shoalwright now", "Quit now"),
    (("Cut contour",), "Cut contour", "Cut"),
    (("Show reference grid",), "Show reference grid", "Show ref. grid"),
])  # fmt: skip
def test_a_name_is_shortened(names: tuple[str, ...], name: str, form: str) -> None:
    assert form in short_forms_of(folio(*names)).ways(name)


def test_two_commands_never_have_the_same_short_form() -> None:
    forms = short_forms_of(folio("Save chart (all)", "Save chart (this)", "Save chart"))
    assert forms.ways("Save chart (all)") == ("Save chart (all)",)
    forms = short_forms_of(folio("Show buoys", "Show wrecks", "Show lights", "Hide buoys", "Hide wrecks", "Hide lights"))
    assert all(forms.ways(f"{verb} buoys") == (f"{verb} buoys",) for verb in ("Show", "Hide"))


words = st.sampled_from(["Show", "the", "contour", "buoy", "(all)", "Shoalwright", "sheet", "to", "reference", "Move"])


@given(st.lists(st.lists(words, min_size=1, max_size=5).map(" ".join), min_size=1, max_size=12, unique=True))
def test_short_forms_are_unique_in_a_program(names: list[str]) -> None:
    forms = short_forms_of(folio(*names))
    made = [form.casefold() for name in names for form in forms.texts.get(name, ())]
    assert len(made) == len(set(made)) and not set(made) & {name.casefold() for name in names}


@pytest.mark.parametrize(("word", "parts"), [
    ("showGridLines", ["show", "Grid", "Lines"]),
    ("buffer_write_as", ["buf", "fer_", "write_", "as"]),
    ("tile2", ["tile", "2"]),
    ("Untiefenbezeichnungä", None),
    ("ab", ["ab"]),
])  # fmt: skip
def test_words_break_at_joints_and_between_syllables(word: str, parts: list[str] | None) -> None:
    found = [piece.text for piece in pieces(word)]
    assert "".join(found) == word and len(found) > 1 if parts is None else found == parts or "".join(found) == word
    assert not pieces(word)[-1].hyphen


@given(st.text("abcdeXY _-./", min_size=1, max_size=30), st.floats(4, 60))
def test_a_broken_text_fits_and_loses_nothing(text: str, width: float) -> None:
    lines = broken(text, FACE, 2.0, width)
    if lines is not None:
        assert all(FACE.width(line, 2.0) <= width + 1e-9 for line in lines)
        assert "".join(lines).replace(" ", "").replace("-", "") == "".join(text.split()).replace("-", "")


def test_a_long_word_is_broken_before_it_is_cut() -> None:
    word = "Recalculation"
    assert fit(word, FACE, FACE.width("Recalcu", 2.0) * 1.1, 20.0, 4.0, 2.0).short is False


@pytest.mark.parametrize("count", [1, 8, 9, 64])
def test_groups_never_look_alike(count: int) -> None:
    groups: dict[str, Group] = {}
    for at in range(count):
        groups[f"g{at}"] = Group(f"g{at}", f"Group {at}", *next_pair(groups))
    assert len({(group.ink, group.mark) for group in groups.values()}) == count
    if count <= 8:
        assert len({group.ink for group in groups.values()}) == len({group.mark for group in groups.values()}) == count


def test_groups_that_look_alike_get_free_pairs_and_others_keep_theirs() -> None:
    same = "".join(f'g{at} = {{ name = "G{at}", ink = "tide", mark = "ring" }}\n' for at in range(12))
    text = f'format = "glimber-program/1"\nname = "Shoalwright"\n[groups]\nown = {{ name = "Own", ink = "moss", mark = "bar" }}\n{same}'
    start = folio_of({"programs/shoalwright.toml": text, "layouts/split-42.toml": 'format = "glimber-layout/1"\nboard = "split-42"\n[[layers]]\nid = "base"\nname = "Base"\n'})
    groups = with_distinct_groups(start).programs["shoalwright"].groups
    pairs = [(group.ink, group.mark) for group in groups.values()]
    assert len(set(pairs)) == 13 and set(pairs) <= set(PAIRS)
    assert pairs[:2] == [("moss", "bar"), ("tide", "ring")]
    assert with_distinct_groups(folio_of()).programs["shoalwright"] is not None
