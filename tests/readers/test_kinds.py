"""Kinds of source as people have them, by the shapes that are found in the world; all of the chart office."""

from __future__ import annotations

import gzip
import io
import tarfile
import time
from collections.abc import Callable

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options
from glimber.readers.registry import choose, kinds, kinds_of, read
from tests.readers.pdfs import placed_pdf
from tests.readers.test_readers import EXPECTED, OFFICE, source
from tests.readers.test_readers import SOURCES as TABLES

SOURCES: dict[str, tuple[str, str, dict[str, list[str]]]] = {
    name: (one["kind"], source(name).decode(), one["rows"])
    for name, one in EXPECTED.items()
    if name not in (*OFFICE, "keys.xlsx", "office.glimber")
}


def found_in(name: str, text: str | bytes) -> tuple[str, Found]:
    chosen = choose(name, text.encode() if isinstance(text, str) else text)
    return chosen.kind, chosen.found


def triggers(found: Found) -> dict[str, list[str]]:
    return {row.command: list(row.triggers) for row in found.rows}


@pytest.mark.parametrize("name", SOURCES)
def test_each_shape_is_told_by_reading_it(name: str) -> None:
    kind, text, expected = SOURCES[name]
    read_as, found = found_in(name, text)
    assert (read_as, triggers(found)) == (kind, expected)
    pasted, found = found_in("pasted", text)
    assert triggers(found) == expected or pasted != kind  # a bare paste has no ending to go by


def test_every_kind_has_a_source_here_or_among_the_tables() -> None:
    assert {kind for kind, _, _ in SOURCES.values()} | set(TABLES) | {"pdf"} == set(kinds())


def test_a_packed_manual_page_is_read() -> None:
    kind, found = found_in("shoal.1.gz", gzip.compress(SOURCES["shoal.1"][1].encode()))
    assert kind == "man" and triggers(found) == SOURCES["shoal.1"][2]
    assert "packed" in read("man", b"\x1f\x8b nothing").problems[0].text
    archive = io.BytesIO()
    with tarfile.open(fileobj=archive, mode="w:gz") as packed:
        packed.addfile(tarfile.TarInfo("shoal.1"), io.BytesIO())
    assert "unpack it" in read("man", archive.getvalue()).problems[0].text


def test_a_pdf_is_read_line_by_line() -> None:
    kind, found = found_in("card.pdf", pdf([("Ctrl+S", "Save chart"), ("F5", "Refresh"), ("Alt+N", "Name island")]))
    assert kind == "pdf"
    assert triggers(found) == {"Save chart": ["Ctrl+S"], "Refresh": ["F5"], "Name island": ["Alt+N"]}
    assert "cannot be read" in read("pdf", b"%PDF-1.4 nothing").problems[0].text or not read("pdf", b"%PDF-1.4 nothing").rows


def pdf(rows: list[tuple[str, str]]) -> bytes:
    """A page with two columns, written by hand."""
    return placed_pdf([piece for n, (keys, what) in enumerate(rows) for piece in ((72, 700 - 20 * n, keys), (220, 700 - 20 * n, what))])


# What is decided for a whole source


def test_a_comma_stands_between_steps_or_alternates_by_all_rows_of_a_source() -> None:
    steps = "Keys,Command\n" + '"Ctrl+K, Ctrl+S",Save\n"Ctrl+K, Ctrl+D",Depth\n"Ctrl+K, L",Lead line\n'
    assert triggers(read("csv", steps.encode()))["Lead line"] == ["Ctrl+K l"]
    others = "Keys,Command\n" + '"h, j, k, l",Scroll\n"^d, PgDn",Page down\n"J, n",Next\n'
    assert triggers(read("csv", others.encode())) == {
        "Scroll": ["h", "j", "k", "l"],
        "Page down": ["Ctrl+D", "PageDown"],
        "Next": ["Shift+J", "n"],
    }
    forced = read("csv", others.encode(), Options(comma="steps"))
    assert triggers(forced)["Page down"] == ["Ctrl+D PageDown"]


@pytest.mark.parametrize(("rows", "expected"), [("S,Save\nN,New\nF5,Go\n", "s"), ("S,Save\nn,New\nF5,Go\n", "Shift+S")])
def test_a_bare_capital_is_struck_with_shift_where_small_letters_stand_alone_too(rows: str, expected: str) -> None:
    data = f"Keys,Command\n{rows}".encode()
    assert triggers(read("csv", data))["Save"] == [expected]
    assert triggers(read("csv", data, Options(capitals=True)))["Save"] == ["Shift+S"]
    assert triggers(read("csv", data, Options(capitals=False)))["Save"] == ["s"]


def test_a_dash_is_a_key_among_keys_and_none_where_several_cells_have_nothing_else() -> None:
    one = "Keys,Command\n-,Zoom out\n=,Zoom in\nq,Quit\nF5,Go\n"
    assert triggers(read("csv", one.encode()))["Zoom out"] == ["-"]
    many = "Keys,Command\n-,Trim\n-,Lead line\nCtrl+S,Save\nCtrl+N,New\n"
    assert triggers(read("csv", many.encode()))["Trim"] == []


# Evidence


@pytest.mark.parametrize("table", [
    "Option,Value\ntitle,text\nwidth,10\nhelp,yes\n", "Browser,Supported\nKittiwake,✓\nGannet,✓\n",
    "Menu,Entry\nFile,Open\nEdit,Copy\nView,Home\n", "Letter,Meaning\na,year\nb,month\nc,day\n", "Depth,Count\n1,20\n2,31\n3,7\n",
])  # fmt: skip
def test_a_table_without_keys_makes_no_rows(table: str) -> None:
    found = read("csv", table.encode())
    assert not found.rows and not found.problems and len(found.not_bindings) == len(table.splitlines())


@pytest.mark.parametrize(("strong", "rows"), [(0, 0), (1, 5)])
def test_bare_letters_are_keys_where_something_surely_is_one(strong: int, rows: int) -> None:
    cells = ["a", "b", "c", "d", "Ctrl+D" if strong else "e"]
    table = "".join(f"{cell},Chart {n}\n" for n, cell in enumerate(cells))
    assert len(read("csv", table.encode()).rows) == rows


def test_what_is_sound_of_a_spelling_is_kept_with_a_remark() -> None:
    data = b'Keys,Command\n"Ctrl+C (also by hand)",Copy\nF2 or double-click,Rename\nCtrl+S with a sheet open,Save\n'
    rows = {row.command: row for row in read("csv", data).rows}
    assert [list(row.triggers) for row in rows.values()] == [["Ctrl+C"], ["F2"], ["Ctrl+S"]]
    assert "also by hand" in rows["Copy"].remark and "mouse" in rows["Rename"].remark
    assert "with a sheet open" in rows["Save"].remark and rows["Save"].keys == "Ctrl+S with a sheet open"


# Every line is accounted for


ACCOUNTED = ["maps.rc", "wm.conf", "paste.txt", "shoal_man.txt", "three.rc", "default.txt", "names.conf"]


@pytest.mark.parametrize("name", ACCOUNTED)
def test_every_line_is_a_row_no_binding_a_problem_or_a_heading(name: str) -> None:
    kind, text, _ = SOURCES[name]
    found = read(kind, text.encode())
    told = {one.line for group in (found.rows, found.not_bindings, found.problems, found.headings) for one in group}
    lines = text.splitlines()
    # What goes on under its keys belongs to the row above it.
    expected = {n for n, line in enumerate(lines, start=1) if line.strip() and line.strip() != "}"}
    goes_on = {n for n in expected if n - 1 in told and lines[n - 1][:1] in " \t" and n not in told}
    assert expected - goes_on <= told


@given(st.lists(st.sampled_from(["Ctrl+S\tSave", "Survey:", "some prose of the manual that goes on", "F2 - Rename", "map x",
                                 "Crtl+Q\tQuit", "q    Quit", "", "====", "Shift+Click  Select"]), max_size=12))  # fmt: skip
def test_lines_of_text_add_up(lines: list[str]) -> None:
    found = read("text", "\n".join(lines).encode())
    told = [one.line for group in (found.rows, found.not_bindings, found.problems, found.headings) for one in group if one.line]
    wanted = [n for n, line in enumerate(lines, start=1) if line.strip() and line != "===="]
    assert sorted(told) == wanted


# Nothing hangs


PIECES = st.sampled_from(["⌘", "⇧", "Ctrl", "+", ",", ";", "-", "<", ">", "[", "]", "(", ")", " ", "F1", "to", "or", "/", "A-Z", "`", '"',
                          "{", "}", "|", "\\", "9" * 40, "C-", "^", "…", "then", "a", "Page", "Up", "number pad"])  # fmt: skip


@pytest.mark.parametrize("kind", sorted({kind for kind, _, _ in SOURCES.values()} | {"csv"}))
@given(cells=st.lists(st.lists(PIECES, max_size=14).map("".join), min_size=1, max_size=4))
@settings(max_examples=60, deadline=2000)
def test_any_spelling_in_any_kind_ends_soon(kind: str, cells: list[str]) -> None:
    wrap: dict[str, Callable[[str], str]] = {
        "json": lambda cell: f'{{"key": {cell!r}, "command": "x"}}', "xml": lambda cell: f'<a accel="{cell}" label="x"/>',
        "html": lambda cell: f"<table><tr><td>{cell}<td>Save</table>", "markdown": lambda cell: f"|{cell}|Save|\n|---|---|\n|{cell}|New|",
        "csv": lambda cell: f"{cell},Save", "config": lambda cell: f"map {cell} save", "script": lambda cell: f'map("n", "{cell}", "save")',
    }  # fmt: skip
    text = "\n".join(wrap.get(kind, lambda cell: f"{cell}  Save")(cell) for cell in cells)
    began = time.monotonic()
    assert isinstance(read(kind, text.encode()), Found)
    assert time.monotonic() - began < 1.5


def test_the_second_choice_is_named_and_can_be_asked_for() -> None:
    chosen = choose("pasted", b"F5;Refresh\nCtrl+S;Save\nCtrl+N;New\n")
    assert chosen.kind == "csv" and chosen.found.sound == 3
    assert "text" in kinds_of("pasted", b"F5;Refresh\nCtrl+S;Save\n")
    both = choose("pasted", SOURCES["keys.rst"][1].encode())
    assert both.second is not None and read(both.second, SOURCES["keys.rst"][1].encode()).sound


def test_endings_decide_nothing_by_themselves() -> None:
    for ending in ("csv", "json", "xml", "conf", "md", "txt"):
        _, found = found_in(f"keys.{ending}", "Ctrl+S\tSave chart\nF5\tRefresh\n")
        assert triggers(found) == {"Save chart": ["Ctrl+S"], "Refresh": ["F5"]}, ending


@pytest.mark.parametrize("note", ["(C)", "(also by hand)", "(on macOS)", "(hold)", "(*)"])
@pytest.mark.parametrize("gap", ["    ", "\t", ": ", " - ", " "])
def test_a_note_after_the_keys_of_a_line_is_left_out_and_said_however_they_are_parted(note: str, gap: str) -> None:
    lines = [f"Enter berth{gap}Ctrl+B {note}", f"Leave berth{gap}Ctrl+Shift+B", f"Lead line{gap}F3"]
    found = choose("list.txt", "\n".join(lines).encode(), Options()).found
    assert [(row.command, row.triggers) for row in found.rows] == [
        ("Enter berth", ("Ctrl+B",)), ("Leave berth", ("Ctrl+Shift+B",)), ("Lead line", ("F3",)),
    ]  # fmt: skip
    assert found.rows[0].remark == f"left out: {note[1:-1]}"


@pytest.mark.parametrize("beside", ["(also F9 on macOS)", "(F9 on macOS)", "(or F9 on Mac)", "(also F9 and F10 on OS X)"])
@pytest.mark.parametrize("gap", ["    ", "\t", ": "])
def test_the_keys_of_another_system_beside_those_of_this_one_are_its_own_row(beside: str, gap: str) -> None:
    lines = [f"Enter berth{gap}Ctrl+B {beside}", f"Leave berth{gap}Ctrl+Shift+B"]
    rows = choose("list.txt", "\n".join(lines).encode(), Options()).found.rows
    others = ("F9", "F10") if "F10" in beside else ("F9",)
    assert {(row.command, row.triggers, row.system) for row in rows} == {
        ("Enter berth", ("Ctrl+B",), None), ("Enter berth", others, "mac"), ("Leave berth", ("Ctrl+Shift+B",), None)
    }  # fmt: skip
    assert not any(row.remark for row in rows)


@pytest.mark.parametrize("text", ["print (the chart)", "Home (page)", "Save (as)", "a (note)", "Insert (text)", "End (of line)"])
def test_words_of_a_sentence_with_a_note_are_no_keys(text: str) -> None:
    assert evidence(text) == 0


@pytest.mark.parametrize("piece", ["+", "+ ", " + ", "a+", "(", ")", "(a", "a(b)", "Ctrl+", "⌘+", "-", " - "])
def test_nothing_repeated_takes_long_to_be_told_from_keys(piece: str) -> None:
    began = time.perf_counter()
    for count in (20, 40, 80, 118):
        for end in ("", " x", " (x)"):
            evidence((piece * count)[: 118 - len(end)] + end)
            read("text", f"Enter berth    {piece * count}{end}\n".encode())
    assert time.perf_counter() - began < 2


@pytest.mark.parametrize(
    ("line", "group"),
    [("mode is on, each sheet is listed with the depth that it has", None), ('mode "survey"', "survey"), ("mode survey {", "survey"),
     ("section Sheets and files", "Sheets and files")],
)  # fmt: skip
def test_a_sentence_that_begins_with_mode_is_no_heading(line: str, group: str | None) -> None:
    found = read("config", f"{line}\nbind Ctrl+S save-chart\nbind Ctrl+E export\n".encode())
    assert {row.group for row in found.rows} == {group}


def test_comments_are_no_keys() -> None:
    lines = [f"#: Explains at length what sheet {n} is for\n\nmap sheet_mod+{chr(97 + n)} show_sheet_{n}\n" for n in range(20)]
    kind, found = found_in("survey.conf", "sheet_mod ctrl+shift\n" + "\n".join(lines))
    assert kind == "config" and triggers(found) == {f"show_sheet_{n}": [f"Ctrl+Shift+{chr(65 + n)}"] for n in range(20)}


@pytest.mark.parametrize(("count", "read_as_keys"), [(7, False), (8, True), (12, True)])
def test_names_with_a_letter_each_are_commands_with_their_keys(count: int, read_as_keys: bool) -> None:
    lines = [f"     act_sheet{chr(97 + n) * 3} = {chr(97 + n)}\n         Show sheet {chr(97 + n)}.\n" for n in range(count)]
    found = triggers(read("text", "\n".join(["Settings of the survey", "", *lines]).encode()))
    assert len(found) == count * read_as_keys


def test_headings_with_a_hash_stay_headings_however_many() -> None:
    parts = [f"# Sheet {n}\n\nOpen sheet {n}    Ctrl+F{n % 12 + 1}\nClose sheet {n}    Alt+F{n % 12 + 1}\n" for n in range(14)]
    found = read("text", "\n".join(parts).encode())
    assert {row.group for row in found.rows} == {f"Sheet {n}" for n in range(14)} and len(found.rows) == 28


def test_keys_that_cannot_be_read_are_told_where_nothing_else_is_there() -> None:
    chosen = choose("a.csv", b"Command,Keys\nOpen,Ctrl+\n")
    assert (chosen.kind, [(one.line, one.command) for one in chosen.found.problems]) == ("csv", [(2, "Open")])
    assert "expected a key after the plus" in chosen.found.problems[0].text


def test_a_column_that_is_not_there_is_told_and_nothing_else_is_tried() -> None:
    chosen = choose("a.csv", b"Command,Keys\nOpen,Ctrl+O\nSave,Ctrl+S\n", Options(column="Shortcut"))
    assert [one.text for one in chosen.found.problems] == ["no column is called Shortcut; the table has Command, Keys"]
    assert chosen.kind == "csv" and chosen.found.rows == []
