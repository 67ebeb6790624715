"""What is said of files that somebody else changed while the folio was open."""

from __future__ import annotations

import pytest

from glimber.core.session.read_again import read_again_words
from tests.helpers import LAYOUT, PROGRAM, folio_of, layout_text

SHORTCUT = 'shortcut = "Ctrl+Shift+S"'


@pytest.mark.parametrize(("names", "program", "layout", "words"), [
    (["folio.toml"], PROGRAM, LAYOUT, "Read folio.toml again."),
    (["a", "b"], PROGRAM.replace(SHORTCUT, 'shortcut = "Ctrl+Alt+S"'), LAYOUT, "Read 2 files again: Add sounding is Ctrl+Alt+S now."),
    (["p"], PROGRAM.replace(SHORTCUT, ""), LAYOUT, "Read p again: Add sounding is no longer on Ctrl+Shift+S."),
    (["p"], PROGRAM.replace(SHORTCUT, 'shortcut = "Ctrl+Shift+S"\nbindings = [{ trigger = "F9" }]'), LAYOUT,
     "Read p again: Add sounding is also F9."),
    (["l"], PROGRAM, LAYOUT.replace("KeyS = {", "KeyA = {"), "Add sounding is A on Draw now; "),
])  # fmt: skip
def test_the_files_and_up_to_two_bindings_are_named(names: list[str], program: str, layout: str, words: str) -> None:
    after = folio_of({"programs/shoalwright.toml": program, "layouts/split-42.toml": layout})
    assert words in read_again_words(names, folio_of(), after)


def test_further_bindings_are_counted() -> None:
    empty = folio_of({"layouts/split-42.toml": layout_text('id = "base"\nname = "Base"')})
    words = read_again_words(["l"], folio_of(), empty)
    left = sum(one.command is not None for layer in folio_of().layouts["split-42"].layers for one in layer.bindings)
    assert left > 2 and words.count(" is no longer on ") == 2 and words.endswith(f"; {left - 2} more.")
