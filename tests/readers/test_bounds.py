"""What others send: bounded work, then a sentence; never the end of the program."""

from __future__ import annotations

import io
import time
import zipfile
from collections.abc import Callable

import pytest

from glimber.readers import registry
from glimber.readers.drawing import DrawingError, board_from_svg
from glimber.readers.found import MOST_CANDIDATES, Found, Options, StoppedError
from glimber.readers.reader import Reader
from glimber.readers.registry import MOST_BYTES, MOST_LINES, read
from glimber.readers.safesvg import MOST_ELEMENTS, MOST_TRANSFORM, SvgError, safe_svg

_OFFICE = "http://schemas.openxmlformats.org/"
_SHEET = f"{_OFFICE}spreadsheetml/2006/main"
_REL = f"{_OFFICE}officeDocument/2006/relationships"


def sheet(*cells: tuple[str, int, str], damage: Callable[[bytes], bytes] = lambda data: data) -> bytes:
    """A spreadsheet with these cells: column, row, text."""
    rows = "".join(f'<row r="{r}"><c r="{c}{r}" t="inlineStr"><is><t>{text}</t></is></c></row>' for c, r, text in cells)
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{_OFFICE}package/2006/content-types"><Default Extension="rels" ContentType='
        '"application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/></Types>',
        "_rels/.rels": f'<Relationships xmlns="{_OFFICE}package/2006/relationships"><Relationship Id="a" '
        f'Type="{_REL}/officeDocument" Target="xl/workbook.xml"/></Relationships>',
        "xl/_rels/workbook.xml.rels": f'<Relationships xmlns="{_OFFICE}package/2006/relationships"><Relationship Id="b" '
        f'Type="{_REL}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
        "xl/workbook.xml": f'<workbook xmlns="{_SHEET}" xmlns:r="{_REL}"><sheets><sheet name="Keys" sheetId="1" r:id="b"/></sheets>'
        "</workbook>",
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{_SHEET}"><sheetData>{rows}</sheetData></worksheet>',
    }  # fmt: skip
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, text in parts.items():
            packed.writestr(name, text)
    return damage(out.getvalue())


def test_a_sheet_that_is_one_is_read() -> None:
    found = read("spreadsheet", sheet(("A", 1, "Command"), ("B", 1, "Keys"), ("A", 2, "Save"), ("B", 2, "Ctrl+S")))
    assert [(row.command, row.triggers) for row in found.rows] == [("Save", ("Ctrl+S",))]


@pytest.mark.parametrize("data", [
    sheet(("A", 1, "Save"), ("XFD", 1048576, "Ctrl+S")), sheet(("XFD", 1, "Save"), ("A", 1048576, "x")),
    sheet(("A", 1, "Save"), ("ALL", 900000, "x")), sheet(("A", 1, "Save"), damage=lambda data: data[:-200] + bytes(200)),
    sheet(damage=lambda data: data[:60]), b"PK\x03\x04", b"PK\x03\x04" + bytes(3000), b"",
])  # fmt: skip
def test_a_sheet_made_to_end_the_program_is_a_problem(data: bytes) -> None:
    found = read("spreadsheet", data)
    assert not found.rows and len(found.problems) == 1 and "cannot" not in found.problems[0].text[:3]


def test_reading_a_sheet_can_be_stopped(monkeypatch: pytest.MonkeyPatch) -> None:
    def stop(count: int) -> None:
        raise StoppedError

    with pytest.raises(StoppedError):
        read("spreadsheet", sheet(("A", 1, "Save"), ("B", 1, "Ctrl+S")), Options(watch=stop))


CAPS = b"<kbd>Ctrl</kbd><kbd>S</kbd> "
LARGE: dict[str, tuple[str, bytes]] = {
    "caps in a paragraph": ("html", b"<p>" + CAPS * 5000 + b"</p>"),
    "caps in an item": ("html", b"<ul><li>" + CAPS * 5000 + b" - Save</li></ul>"),
    "caps in a cell": ("html", b"<table><tr><td>Save</td><td>" + CAPS * 5000 + b"</td></tr></table>"),
    "spans": ("html", b"<table>" + b"<tr><td rowspan=60 colspan=60>Save</td><td>Ctrl+S</td></tr>" * 2000 + b"</table>"),
    "a span of many digits": ("html", b"<table><tr><td rowspan=" + b"9" * 5000 + b">Save</td><td>Ctrl+S</td></tr></table>"),
    "keys of many digits": ("text", b"Go: F1 to F" + b"9" * 5000),
    "a key of one line": ("text", b"Save: " + b"Ctrl+" * 200_000),
    "combinations": ("xml", b"<a><row><entry>" + b"<keycombo><keycap>S</keycap></keycombo>" * 5000 + b"</entry></row></a>"),
    "columns": ("csv", b"a," * 500_000),
    "bars": ("markdown", b"|a|b|\n|-|-|\n|" + b"x|" * 200_000),
    "brackets": ("program", b'format = "glimber-program/1"\nname = "x"\na = ' + b"[" * 20_000),
    "elements": ("xml", b"<a>" * 100_000),
    "colons": ("text", b"a:" * 500_000),
    "quotes": ("line-editor", b'"' * 500_000),
    "blank lines": ("page.txt", b"Keys\n" + b"\n" * 20_000 + b"Save  Ctrl+S\n"),
    "blank lines of source code": ("keys.lua", b"x = 1\n" + b"\n" * 20_000 + b'bind("Ctrl+S", "save")\n'),
    "tables without an end": ("page.1", b".TH KEYS 1\n" + b".TS\n" * 100_000),
    "a value of blanks": ("config", b"a = x" + b" " * 200_000 + b"y\n" + b"map F2 save\n" * 3),
    "a cell of key caps": ("xml", b"<table><row><entry>" + b"<key>F2</key>" * 20_000 + b"</entry><entry>Save</entry></row></table>"),
    "a property list of one text": ("plist", b'"a" = "' + b"x" * 400_000),
    "signs before a key": ("config", (b"^" * 200 + b"a::b\n") * 3000),
    "flags": ("config", (b"x -key " + b"-name " * 60 + b"\n") * 3000),
    "keys in columns": ("text", (b"C-a   go   " * 30 + b"\n") * 60),
    "stars": ("text", (b"  " + b"a  " * 100 + b"* Xx\n") * 500),
    "rows that are alike": ("html", b"<div>" + b"<div><span>Ctrl</span><span>S</span></div>" * 2000 + b"</div>"),
    "labels with tabs": ("script", b'f("a\\tCtrl+S");\n' * 2000),
    "formats within formats": ("pod", b"=head1 KEYS\n\n=item " + b"B<" * 5000 + b"F2" + b">" * 5000 + b"\n\nSave\n"),
    "objects without an end": ("script", b"Action {\n" * 2000),
    "cases without an end": ("script", b"case KEY_F(5):\n" * 20_000),
    "strings in strings": ("man", b".TH A 1\n.ds xx " + b"\\*(xx" * 12 + b"\n" + b"\\*(xx" * 40_000),
    "events without a key": ("csv", b"keys,command\n" + b"Shift " * 60 + b"<Key>,save\n"),
    "macros without an end": ("page.1", b".TH KEYS 1\n" + b".de X\n" * 20_000),
}  # fmt: skip


@pytest.mark.parametrize("what", LARGE)
def test_large_and_odd_sources_end_soon_in_rows_or_problems(what: str) -> None:
    kind, data = LARGE[what]
    began = time.process_time()
    found = read(kind, data) if "." not in kind else registry.choose(kind, data).found  # a name: its kind is looked for too
    # The slowest takes 3 s on a quiet machine; a busy one has needed three times as long for the same work.
    assert time.process_time() - began < 30 and len(found.rows) <= 2000
    assert all(len(problem.text) < 2_000_000 for problem in found.problems)


@pytest.mark.slow
@pytest.mark.parametrize("more", [0, 1])
def test_the_limits_of_a_list(more: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(registry, "readers", lambda: {"text": Reader("text", lambda data, options: Found(candidates=7))})
    for data in (b"x" * (MOST_BYTES + more), b"\n" * (MOST_LINES + more)):
        assert read("text", data).candidates == (7 if not more else 1)


@pytest.mark.parametrize("more", [0, 1])
def test_the_most_candidates(more: int, monkeypatch: pytest.MonkeyPatch) -> None:
    def reader(data: bytes, options: Options) -> Found:
        found = Found()
        for line in range(MOST_CANDIDATES + more):
            found.fail("no keys", line)
        return found

    monkeypatch.setattr(registry, "readers", lambda: {"text": Reader("text", reader)})
    found = read("text", b"")
    assert len(found.problems) == (1 if more else MOST_CANDIDATES)
    assert ("more than 200,000 rows" in found.problems[-1].text) == bool(more)


@pytest.mark.parametrize("error", [ValueError("odd"), RecursionError("deep"), AttributeError("None"), MemoryError()])
def test_a_fault_of_a_reader_is_a_problem_of_its_source(error: BaseException, monkeypatch: pytest.MonkeyPatch) -> None:
    def reader(data: bytes, options: Options) -> Found:
        raise error

    monkeypatch.setattr(registry, "readers", lambda: {"text": Reader("text", reader)})
    (problem,) = read("text", b"x").problems
    assert problem.text.startswith(f"could not be read as text ({type(error).__name__}")


# Drawings

SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">{}</svg>'
NESTED = "".join(f'<g id="u{n}">' + f'<use href="#u{n - 1}"/>' * 10 + "</g>" for n in range(1, 12)) + '<rect id="u0"/>'
UNSAFE = {
    "a script": "<script>x</script>", "a handler": '<rect onclick="x"/>', "a page": "<foreignObject/>",
    "a picture elsewhere": '<image href="https://charts.example/x.png"/>', "a file": '<image xlink:href="file:///etc/passwd"/>',
    "a use elsewhere": '<use href="other.svg#a"/>', "a fill elsewhere": '<rect fill="url(https://charts.example/x)"/>',
    "a style elsewhere": "<style>@import 'x.css';</style>", "a font elsewhere": "<style>a{src:url(x.ttf)}</style>",
    "uses in uses": NESTED, "a use of itself": '<g id="a"><use href="#a"/></g>', "moving": "<animate/>",
    "an svg in data": '<image href="data:image/svg+xml;base64,AA"/>', "a script address": '<a href="javascript:x"/>',
}  # fmt: skip


@pytest.mark.parametrize("what", UNSAFE)
def test_a_drawing_that_reaches_out_or_never_ends_is_refused(what: str) -> None:
    with pytest.raises(SvgError):
        safe_svg(SVG.format(UNSAFE[what]).encode())


@pytest.mark.parametrize("inside", [
    '<rect width="1" height="1"/>', '<use href="#a"/><g id="a"/>', '<image href="data:image/png;base64,AA"/>',
    '<rect fill="url(#g)"/>', "<style>rect{fill:url(#g)}</style>", "<!-- script -->",
])  # fmt: skip
def test_a_drawing_of_shapes_is_taken(inside: str) -> None:
    assert safe_svg(SVG.format(inside).encode())


@pytest.mark.parametrize("data", [b"", b"<svg", b"<html/>", b"\xff\xfe", b'<!DOCTYPE svg [<!ENTITY a "b">]><svg>&a;</svg>'])
def test_what_is_no_drawing(data: bytes) -> None:
    with pytest.raises(SvgError):
        safe_svg(data)


@pytest.mark.parametrize("more", [0, 1])
def test_the_limits_of_a_drawing(more: int) -> None:
    many = SVG.format("<g/>" * (MOST_ELEMENTS - 1 + more))
    long = SVG.format(f'<g transform="{"x" * (MOST_TRANSFORM + more)}"/>')
    for text in (many, long):
        if more:
            with pytest.raises(SvgError, match="more than"):
                safe_svg(text.encode())
        else:
            assert safe_svg(text.encode())


@pytest.mark.parametrize("shape", [
    '<rect id="KeyA" width="1e308" height="1e308" x="1e308"/>',
    '<rect id="KeyA" width="1e999" height="1"/>', '<rect id="KeyA" width="1" height="1" x="501"/>',
    '<rect id="KeyA" width="1" height="1" transform="scale(1e200) scale(1e200)"/>', '<rect id="KeyA" width="0" height="1"/>',
])  # fmt: skip
def test_a_board_of_shapes_without_measure_is_refused(shape: str) -> None:
    with pytest.raises(DrawingError):
        board_from_svg(SVG.format(shape).encode(), "pad", "Pad")


def test_a_shape_that_is_no_more_than_a_speck_is_told() -> None:
    sizes = [("KeyA", 10, 10), ("KeyB", 0.49, 10), ("KeyC", 10, 0.5), ("KeyD", 10, 10), ("KeyE", 10, 10)]
    shapes = "".join(f'<rect id="{id}" width="{w}" height="{h}"/>' for id, w, h in sizes)
    board, told = board_from_svg(SVG.format(shapes).encode(), "pad", "Pad")
    assert [key.id for key in board.keys] == ["KeyA", "KeyC", "KeyD", "KeyE"] and told == ["KeyB is too small to be a key"]
