"""Reference cards in columns: what is beside each other is a table or two columns."""

from __future__ import annotations

import pytest

from glimber.readers.pdf_columns import Piece, columns_of
from glimber.readers.registry import choose
from tests.readers.pdfs import placed_pdf

LEFT = [("C-c C-s", "Save chart"), ("C-c C-d", "Depth here"), ("M-q", "Fill the contour"), ("TAB", "Next buoy"),
        ("C-g", "Let go"), ("M-<", "First sheet"), ("M->", "Last sheet"), ("C-x k", "Close sheet"), ("C-l", "Draw again")]  # fmt: skip
RIGHT = [("n", "Next sounding"), ("p", "Sounding before"), ("C-t", "Turn about"), ("C-k", "Cut the line"), ("C-y", "Put it back"),
         ("M-f", "Word forward"), ("M-b", "Word back"), ("C-e", "End of line"), ("C-a", "Start of line")]  # fmt: skip


def card(shift: float, *more: tuple[float, float, str]) -> bytes:
    """A card in two columns, the lines of the right one lower by ``shift`` points."""
    left = [(x, 700 - 14 * n, text) for n, (keys, what) in enumerate(LEFT) for x, text in ((40, keys), (110, what))]
    right = [(x, 700 - shift - 14 * n, text) for n, (keys, what) in enumerate(RIGHT) for x, text in ((320, keys), (400, what))]
    return placed_pdf([*more, *left, *right])


@pytest.mark.parametrize("shift", [0, 5])
def test_each_column_of_a_card_is_read_by_itself(shift: float) -> None:
    title = (200, 760, "Shoalwright: a card of the keys that are used on every day of the week, in two columns")
    found = choose("card.pdf", card(shift, title)).found
    assert [row.command for row in found.rows] == [what for _, what in LEFT + RIGHT]
    assert {row.command: row.triggers for row in found.rows}["Turn about"] == ("Ctrl+T",)


def test_a_column_without_keys_does_not_end_up_in_the_commands_of_the_other() -> None:
    prose = [(320, 695 - 11 * n, "words about the survey and its boats") for n in range(12)]
    pieces = [(x, 700 - 14 * n, text) for n, (keys, what) in enumerate(LEFT) for x, text in ((40, keys), (110, what))]
    found = choose("card.pdf", placed_pdf([*pieces, *prose])).found
    assert [row.command for row in found.rows] == [what for _, what in LEFT]


def pieces_of(*columns: tuple[float, float, int, str]) -> list[Piece]:
    """Columns as (left, first line, lines, text), a line every 14 points, each text 60 points wide."""
    return [Piece(first + 14 * n, left, left + 60, text) for left, first, lines, text in columns for n in range(lines)]


@pytest.mark.parametrize(("beside", "count"), [(0.0, 1), (1.5, 1), (1.6, 2)])
def test_what_stands_on_the_same_lines_is_a_table(beside: float, count: int) -> None:
    assert len(columns_of(pieces_of((40, 0, 10, "C-s"), (140, beside, 10, "save the chart")))) == count


@pytest.mark.parametrize(("gap", "count"), [(4.9, 1), (5.0, 2)])
def test_a_gutter_is_five_points_wide(gap: float, count: int) -> None:
    assert len(columns_of(pieces_of((40, 0, 10, "words of a boat"), (100 + gap, 7, 10, "words of a quay")))) == count


@pytest.mark.parametrize(("lines", "count"), [(7, 1), (8, 2)])
def test_a_column_has_at_least_eight_pieces(lines: int, count: int) -> None:
    assert len(columns_of(pieces_of((40, 0, 10, "words of a boat"), (140, 7, lines, "words of a quay")))) == count


@pytest.mark.parametrize(("across", "count"), [(4, 2), (5, 1)])
def test_titles_may_lie_across_a_gutter(across: int, count: int) -> None:
    titles = [Piece(-14.0 * n, 50, 190, "a title over both columns") for n in range(1, across + 1)]
    assert len(columns_of([*titles, *pieces_of((40, 0, 10, "words of a boat"), (140, 7, 10, "words of a quay"))])) == count


def test_three_columns_are_parted_from_left_to_right() -> None:
    found = columns_of(pieces_of((40, 0, 10, "one"), (240, 5, 10, "two"), (440, 10, 10, "three")))
    assert [{piece.text for piece in column} for column in found] == [{"one"}, {"two"}, {"three"}]


def test_ligatures_are_letters() -> None:
    found = choose("card.pdf", placed_pdf([(40, 700, "C-c C-f"), (110, 700, r"\256nd the \257ood"), (40, 680, "F5"), (110, 680, "Draw")])).found
    assert found.rows[0].command == "find the flood"
