"""A source as it is shown: its blocks in order, what is marked in them, and that no row is lost from it."""

from __future__ import annotations

from pathlib import Path

import pytest

from glimber.readers.found import Options
from glimber.readers.marking import Marked, marks_of
from glimber.readers.process import read_apart
from glimber.readers.registry import choose, read
from glimber.readers.source_page import MOST_BLOCKS, lines_of, rows_of

SOURCES = Path(__file__).parent / "sources"
PAGE = """<html><body><nav><li>Home</li></nav><h1>Keys</h1><p>All of <b>them</b>.</p><h2>Survey</h2>
<table>
<caption>On the chart</caption>
<tr><th>Action</th><th>Keys</th></tr>
<tr><td rowspan=2>Add sounding</td><td><kbd>Ctrl</kbd><kbd>S</kbd></td></tr>
<tr><td>F2</td></tr>
<tr><td>Lead line</td><td>Ctrl+L (Cmd+L on macOS)</td></tr>
</table>
<dl><dt>F3</dt><dd>Trace coast</dd></dl>
<ul><li>F4 - Name strait</li></ul>
<pre>one
  two</pre></body></html>"""


def marked(kind: str, text: str) -> list[tuple[str, tuple[str, ...], list[str]]]:
    """Kind and cells of each block, and the texts marked in it."""
    found = read(kind, text.encode(), Options(page=True))
    return [(block.kind, block.cells, [block.cells[span.cell][span.start : span.end] for span in mark.spans])
            for block, mark in zip(found.page, marks_of(found), strict=True)]  # fmt: skip


def test_a_page_has_its_headings_tables_lists_and_lines_in_order() -> None:
    blocks = marked("html", PAGE)
    assert [(kind, cells) for kind, cells, _ in blocks] == [
        ("heading", ("Keys",)), ("text", ("All of them.",)), ("heading", ("Survey",)), ("heading", ("On the chart",)),
        ("head", ("Action", "Keys")), ("row", ("Add sounding", "Ctrl+S")), ("row", ("", "F2")),
        ("row", ("Lead line", "Ctrl+L (Cmd+L on macOS)")), ("row", ("F3", "Trace coast")), ("item", ("F4 - Name strait",)),
        ("line", ("one",)), ("line", ("  two",)),
    ]  # fmt: skip
    assert blocks[5][2] == ["Add sounding", "Ctrl+S"]
    assert blocks[7][2] == ["Lead line", "(Cmd+L on macOS)", "Lead line", "Ctrl+L"]
    assert blocks[8][2] == ["Trace coast", "F3"] and blocks[9][2] == ["Name strait", "F4"]


def test_what_a_page_itself_has_for_another_system_is_struck() -> None:
    page = '<table><tr><th>Do</th><th>Keys</th></tr><tr><td>Lead line</td><td><span class="mac">Command+L</span>'
    page += '<span class="pc">Ctrl+L</span></td></tr></table>'
    found = read("html", page.encode(), Options(page=True))
    row = found.page[1]
    assert [row.cells[cell][start:end] for cell, start, end in row.struck] == ["Command+L"]
    assert [(one.command, one.triggers) for one in found.rows] == [("Lead line", ("Ctrl+L",))]
    assert row.cells[1] == "Command+LCtrl+L"


@pytest.mark.parametrize(
    ("kind", "text", "blocks"),
    [
        ("text", "Lead line    Ctrl+L\n\n\tprose\n",
         [("line", ("Lead line    Ctrl+L",), ["Lead line", "Ctrl+L"]), ("line", ("",), []), ("line", ("        prose",), [])]),
        ("csv", "Command,Keys,\nLead line,Ctrl+L,\n", [("row", ("Command", "Keys"), []), ("row", ("Lead line", "Ctrl+L"), ["Lead line", "Ctrl+L"])]),
        ("markdown", "# Keys\n\n| Do | Key |\n|--|--|\n| Lead line | `Ctrl+L` |\n\n- F2: Wreck\n",
         [("heading", ("Keys",), []), ("head", ("Do", "Key"), []), ("row", ("Lead line", "Ctrl+L"), ["Lead line", "Ctrl+L"]),
          ("item", ("F2: Wreck",), ["Wreck", "F2"])]),
        ("man", '.TH SHOAL 1\n.SH KEYS\n.TP\n.B F2\nName a wreck\n',
         [("line", ("KEYS",), []), ("line", ("",), []), ("line", ("    F2",), ["F2"]), ("line", ("        Name a wreck",), [])]),
    ],
)  # fmt: skip
def test_kinds_of_sources_as_pages(kind: str, text: str, blocks: list[tuple[str, tuple[str, ...], list[str]]]) -> None:
    assert marked(kind, text) == blocks


def test_keys_are_no_part_of_a_word_and_a_whole_cell_comes_first() -> None:
    assert marked("text", "n    next sounding\nF2    name a wreck\n")[0][2] == ["next sounding", "n"]
    assert marked("csv", "Command,Keys\nHome,Home\nEnd it,e\n")[1:] == [
        ("row", ("Home", "Home"), ["Home", "Home"]), ("row", ("End it", "e"), ["End it", "e"])
    ]  # fmt: skip


def test_a_line_left_out_has_its_reason_and_a_problem_its_place() -> None:
    found = read("csv", b"Command,Keys\nPan,Drag\nOdd one,Ctrl+Frob\nLead line,F2\n", Options(page=True))
    marks = marks_of(found)
    assert marks[1].why == "it is done with the mouse" and marks[1].rows == ()
    assert marks[2].problem is not None and found.problems[marks[2].problem].keys == "Ctrl+Frob"
    assert marks[3] == Marked((0,), marks[3].spans)


@pytest.mark.parametrize("rows", [59, 60, 61])
def test_a_page_in_one_line_is_marked_by_its_cells(rows: int) -> None:
    """Below and above the number of rows in a line from which they are found by whole cells."""
    names = [f"Sheet {chr(65 + n % 26)}{chr(65 + n // 26)}" for n in range(rows)]
    page = "<table>" + "".join(f"<tr><td>{name}</td><td>Ctrl+Shift+F{n % 12 + 1}</td></tr>" for n, name in enumerate(names))
    found = read("html", f"{page}</table>".encode(), Options(page=True))
    own = [mark.rows for mark in marks_of(found)]
    assert [[found.rows[row].command for row in its] for its in own] == [[name] for name in names]


def test_tables_lose_empty_columns_at_their_end_and_long_texts_their_rest() -> None:
    assert [block.cells for block in rows_of([(1, ["a", "b", " "], True), (2, ["c"], False), (3, ["", ""], False)])] == [
        ("a", "b"), ("c", "")
    ]  # fmt: skip
    assert len(lines_of("x\n" * (MOST_BLOCKS + 1))) == MOST_BLOCKS and len(lines_of("x\n" * MOST_BLOCKS)) == MOST_BLOCKS
    assert len(lines_of("y" * 5000)[0].cells[0]) == 2000


@pytest.mark.parametrize("path", sorted(SOURCES.iterdir()), ids=lambda path: path.name)
def test_every_row_stands_on_the_page_of_its_source(path: Path) -> None:
    found = choose(path.name, path.read_bytes(), Options(page=True)).found
    if not found.page:
        return
    shown = {row for mark in marks_of(found) for row in mark.rows}
    assert shown == {place for place, row in enumerate(found.rows) if row.line}


def test_a_page_is_only_made_where_it_is_asked_for() -> None:
    assert read("csv", b"Command,Keys\nLead line,F2\n").page == []


def test_of_two_columns_with_the_same_text_the_one_that_was_read_is_marked() -> None:
    listed = "Action,Windows,Linux\nRaise anchor,Alt+A,Super+A\nLower anchor,n,n\nSwing ship,Alt+W,Super+W\n"
    found = read("csv", listed.encode(), Options(page=True))
    cells = {found.rows[span.row].command: [one.cell for one in mark.spans] for mark in marks_of(found) for span in mark.spans}
    assert cells == {"Raise anchor": [0, 2], "Lower anchor": [0, 2], "Swing ship": [0, 2]}


@pytest.mark.parametrize(("own", "struck"), [("linux", [1, 2]), ("windows", [2, 3]), ("mac", [1, 3])])
def test_cells_with_the_keys_of_other_systems_are_told(own: str, struck: list[int]) -> None:
    text = "Command,Windows,macOS,Linux\nSave sheet,Ctrl+S,Cmd+S,Alt+S\nLeave,Alt+F4,Cmd+Q,Ctrl+Q\nPlot,F5,F5,F6\nStamp,,Cmd+T,\n"
    found = read_apart("a.csv", text.encode(), Options(page=True, system=own)).found
    marks = {block.cells[0]: mark.elsewhere for block, mark in zip(found.page, marks_of(found), strict=True)}
    assert marks["Command"] == () and {marks["Save sheet"], marks["Leave"], marks["Plot"]} == {tuple(struck)}
    assert marks["Stamp"] == ((2,) if 2 in struck else ())


def test_a_manual_page_that_draws_nothing_has_an_empty_desk() -> None:
    found = read("man", b".sp", Options(page=True))
    assert found.page == [] and not any("could not be read" in problem.text for problem in found.problems)


def test_the_rows_of_a_manuals_tables_stand_at_their_lines() -> None:
    source = b".SH KEYS\nStruck after C-a.\n.TS\ntab(;);\nl l.\nC-a b;Drop a buoy\n.TE\nThat is all.\n"
    blocks = read("man", source, Options(page=True)).page
    assert [(one.line, one.cells[0].split()) for one in blocks if one.cells[0].strip()] == [
        (1, ["KEYS"]), (2, ["Struck", "after", "C-a."]), (6, ["C-a", "b", "Drop", "a", "buoy"]), (8, ["That", "is", "all."]),
    ]  # fmt: skip
