"""The page of all fields: as the declarations are, and with examples that load."""

from __future__ import annotations

import re
import tomllib
from importlib.resources import files
from pathlib import Path

from glimber.core.model.card_options import CARD_OPTIONS
from glimber.store.toml.documents import KINDS
from glimber.store.toml.fields_page import fields_page
from glimber.store.toml.reading import read_files

PAGE = Path(__file__).resolve().parents[3] / "docs/fields.md"
NAMES = {"folio": "folio.toml", "program": "programs/shoalwright.toml", "layout": "layouts/split-42.toml",
         "board": "boards/side-4.toml", "card": "cards/by-heart.toml", "run": "runs/line.toml"}  # fmt: skip


def test_the_page_is_as_the_declarations_are() -> None:
    page = fields_page()
    assert PAGE.read_text() == page, "renew it: python -m glimber.store.toml.fields_page > docs/fields.md"
    for line in ("| `title` | text | **required** |", "| `working_days` | a number, over 0 and at most 7 | `5` |",
                 "| `repeat_ms` | a whole number, over 0 and at most 60,000 |  |", "| `shows` | list of: text | `[labels, holds, legend]` |",
                 "| `sure` | a number, at least 0.5 and under 1 | `0.8` |", "| `careful` | `true` or `false` | `false` |"):  # fmt: skip
        assert line in page
    assert all(f"`{option.id}`" in page for option in CARD_OPTIONS if option.offered)


def test_no_meaning_is_left_over() -> None:
    meanings = tomllib.loads(files("glimber.store.toml").joinpath("fields.toml").read_text())
    page = fields_page()
    assert all(text.split("\n")[0] in page for table in meanings.values() for text in table.values())


def test_the_examples_together_are_a_folio_that_loads() -> None:
    blocks = re.findall(r"```toml\n(.*?)```", PAGE.read_text(), re.S)
    opened = read_files(Path("example"), {name: text.encode() for name, text in zip(map(NAMES.get, KINDS), blocks, strict=True) if name})
    folio = opened.folio
    assert not opened.faults and set(folio.boards) >= {"side-4"} and set(folio.cards) == {"by-heart"} and set(folio.runs) == {"line"}
    assert len(folio.bindings_of) == 2 and folio.layouts["split-42"].layers[1].bindings
