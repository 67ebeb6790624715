"""A layout carried over keeps what every keyboard must have, or is refused with what would lack."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from glimber.core.audit.checks import audit
from glimber.core.decide.carry import carry_over, plan_carrying, with_board
from glimber.core.edit.edit import EditError
from glimber.core.model.essentials import ESSENTIAL, is_keyboard, key_sent, keys_lacking
from glimber.core.model.folio import Folio
from glimber.store.toml.reading import shipped_board, shipped_board_ids
from tests.helpers import folio_of, layout_text

BASE = 'id = "base"\nname = "Base"\nunbound = "falls"\n[layers.keys]\n'
THUMBS = BASE + """thumb-left-1 = { tap = "Space", hold = { enters = "draw", mode = "while" } }
thumb-right-1 = { tap = "Enter", hold = { enters = "nav", mode = "while" } }
thumb-right-2 = "Backspace"
Tab = "Tab"
KeyQ = { hold = "Ctrl+Q" }
"""
DRAW = 'id = "draw"\nname = "Draw"\nunbound = "falls"\n[layers.keys]\nKeyS = { tap = { does = "shoalwright/add-sounding" } }\n'
NAV = 'id = "nav"\nname = "Nav"\nunbound = "falls"\n[layers.keys]\nKeyJ = "Left"\n'


def start(base: str = THUMBS) -> Folio:
    return folio_of({"layouts/split-42.toml": layout_text(base, DRAW, NAV)})


def at(folio: Folio, board: str, key: str) -> str | None:
    found = folio.layouts[board].base.by_key.get(key, {}).get("tap")
    return key_sent(found) if found is not None else None


@pytest.mark.parametrize("board", [id for id in shipped_board_ids() if id != "split-42"])
def test_nothing_that_everybody_needs_is_lost(board: str) -> None:
    folio = with_board(start(), shipped_board(board))
    plan = plan_carrying(folio, "split-42", board)
    if plan.lacks:
        with pytest.raises(EditError, match="nothing was carried over"):
            carry_over(folio, plan)
        assert not is_keyboard(folio.boards[board]) or len(folio.boards[board].keys) < 40
        return
    after = carry_over(folio, plan)
    layout = after.layouts[board]
    assert keys_lacking(after, layout) == []
    ways = {binding.enters for layer in layout.layers for binding in layer.bindings}
    assert {"draw", "nav"} <= ways
    assert not [one for one in audit(after) if one.code in ("no-way-in", "key-missing")]


def test_space_goes_to_the_space_bar_and_enter_to_enter() -> None:
    folio = with_board(start(), shipped_board("compact-61"))
    after = carry_over(folio, plan_carrying(folio, "split-42", "compact-61"))
    assert (at(after, "compact-61", "Space"), at(after, "compact-61", "Enter")) == ("Space", "Enter")
    assert at(after, "compact-61", "Backspace") == "Backspace"


def test_a_plan_without_a_way_in_is_refused_by_name() -> None:
    folio = with_board(start(), shipped_board("compact-61"))
    plan = replace(plan_carrying(folio, "split-42", "compact-61"), lacks=("Backspace", "way into Draw"))
    with pytest.raises(EditError, match="compact-61 would have no Backspace, no way into Draw"):
        carry_over(folio, plan)


@pytest.mark.parametrize(("base", "lacking"), [
    (THUMBS, []),
    (THUMBS.replace('thumb-right-2 = "Backspace"\n', 'thumb-right-2 = "F5"\n'), ["Backspace"]),
    (THUMBS.replace('"Space", hold', '"F6", hold'), ["Space"]),
])  # fmt: skip
def test_what_a_keyboard_cannot_type_is_a_finding(base: str, lacking: list[str]) -> None:
    folio = start(base)
    expected = [name for name in lacking if name not in folio.boards["split-42"].by_id]
    assert [name for name in keys_lacking(folio, folio.layouts["split-42"]) if name in lacking] == expected
    found = [one for one in audit(folio) if one.code == "key-missing"]
    assert bool(found) == bool(keys_lacking(folio, folio.layouts["split-42"]))
    assert all(one.severity == "error" and "types " in one.text for one in found)
    assert set(keys_lacking(folio, folio.layouts["split-42"])) <= set(ESSENTIAL)
