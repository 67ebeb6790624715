"""Packing groups into columns and sheets: in order, nothing twice, nothing left out, no column too full."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.cards.packing import Block, balanced, pack
from glimber.core.cards.sheet_rows import SheetRow, Way, families
from glimber.core.notation.keys import Sequence, parse_trigger

rows = st.lists(st.floats(1.0, 3.0), min_size=1, max_size=40).map(tuple)
blocks = st.lists(rows.map(lambda rows: Block(2.0, rows, 1.0)), min_size=1, max_size=12)


@given(blocks, st.floats(6.0, 60.0), st.integers(1, 5), st.booleans())
def test_every_row_is_packed_once_in_order_and_fits(blocks: list[Block], room: float, across: int, split: bool) -> None:
    for way in (pack(blocks, room, across, split), balanced(blocks, room, across, split)):
        assert way is not None
        parts = [part for sheet in way for column in sheet for part in column.parts]
        found = [(part.block, at) for part in parts for at in range(part.first, part.last)]
        assert found == [(index, at) for index, block in enumerate(blocks) for at in range(len(block.rows))]
        assert all(len(sheet) <= across for sheet in way)
        for sheet in way:
            for column in sheet:
                heights = [blocks[part.block].head + sum(blocks[part.block].rows[part.first : part.last]) for part in column.parts]
                assert sum(heights) + len(heights) - 1 <= room + 1e-4


@given(blocks, st.floats(6.0, 60.0), st.integers(1, 5), st.booleans(), st.integers(1, 6))
def test_more_sheets_than_are_of_use_are_none(blocks: list[Block], room: float, across: int, split: bool, most: int) -> None:
    way = pack(blocks, room, across, split)
    assert way is not None
    assert pack(blocks, room, across, split, most) == (way if len(way) <= most else None)


def test_a_row_too_tall_cannot_be_packed() -> None:
    assert pack([Block(2.0, (5.0,), 1.0)], 6.9, 2, True) is None
    assert pack([Block(2.0, (5.0,), 1.0)], 7.0, 2, True) is not None


def test_groups_stay_whole_where_they_can() -> None:
    three = [Block(2.0, (1.0,) * 8, 1.0)] * 3
    (sheet,) = pack(three, 10.0, 3, False) or ()
    assert [len(column.parts) for column in sheet] == [1, 1, 1]


@pytest.mark.parametrize(("names", "triggers", "rows"), [
    ([f"Go to sheet {n}" for n in range(1, 10)], [f"Ctrl+{n}" for n in range(1, 10)], ["Go to sheet 1 … 9"]),
    (["Sheet 1", "Sheet 2"], ["Ctrl+1", "Ctrl+2"], ["Sheet 1", "Sheet 2"]),
    (["Sheet 1", "Sheet 2", "Sheet 4"], ["Ctrl+1", "Ctrl+2", "Ctrl+4"], ["Sheet 1", "Sheet 2", "Sheet 4"]),
    (["Pan left", "Pan right", "Pan up"], ["Shift+Left", "Shift+Right", "Shift+Up"], ["Pan left, right, up"]),
    (["Pan left", "Pan right"], ["Shift+Left", "Ctrl+Right"], ["Pan left", "Pan right"]),
])  # fmt: skip
def test_families_are_one_row(names: list[str], triggers: list[str], rows: list[str]) -> None:
    made = []
    for at, (name, text) in enumerate(zip(names, triggers, strict=True)):
        trigger = parse_trigger(text)
        assert isinstance(trigger, Sequence)
        made.append(SheetRow(name, name, (Way(f"b{at}", ((text,),), text, trigger.chords[0]),), bindings=(f"b{at}",)))
    found = families(made)
    assert [row.name for row in found] == rows
    assert sorted(id for row in found for id in row.bindings) == [f"b{at}" for at in range(len(names))]
