"""Every kind of source, written for the chart office; hostile samples; and no input that brings a reader down."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.readers.counts import read_counts
from glimber.readers.found import Found, Options, StoppedError
from glimber.readers.registry import kind_of, kinds, read
from glimber.readers.sureness import SURE
from glimber.store.toml.reading import open_folio
from tests.helpers import write_folio

PLACE = Path(__file__).with_name("sources")
"""Sources of the chart office as files, with what is in each of them."""
EXPECTED: dict[str, dict[str, Any]] = json.loads((PLACE / "expected.json").read_text())


def source(name: str) -> bytes:
    return (PLACE / name).read_bytes()


def workbook(rows: list[list[str]]) -> bytes:
    """A small XLSX of these rows, made by hand."""
    cells = "".join(
        f'<row r="{r}">' + "".join(f'<c r="{chr(65 + c)}{r}" t="inlineStr"><is><t>{cell}</t></is></c>' for c, cell in enumerate(row))
        + "</row>" for r, row in enumerate(rows, start=1)
    )  # fmt: skip
    main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    office = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    packages = "http://schemas.openxmlformats.org/package/2006"
    files = {
        "[Content_Types].xml": f'<Types xmlns="{packages}/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>',
        "_rels/.rels": f'<Relationships xmlns="{packages}/relationships"><Relationship Id="r1" Type="{office}/officeDocument" Target="xl/workbook.xml"/></Relationships>',
        "xl/workbook.xml": f'<workbook xmlns="{main}" xmlns:r="{office}"><sheets><sheet name="Keys" sheetId="1" r:id="r1"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": f'<Relationships xmlns="{packages}/relationships"><Relationship Id="r1" Type="{office}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{main}"><sheetData>{cells}</sheetData></worksheet>',
    }
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, text in files.items():
            packed.writestr(name, '<?xml version="1.0" encoding="UTF-8"?>' + text)
    return data.getvalue()


XLSX = workbook([["Command", "Keys"], ["Add sounding", "Ctrl+Shift+S"], ["Survey", ""], ["Depth range", "Ctrl+D"], ["Pan", "Drag"]])
PACK = io.BytesIO()
with zipfile.ZipFile(PACK, "w") as packed_folio:
    for part, body in (
        ("folio.toml", 'title = "Office"'),
        ("programs/shoalwright.toml", source("shoalwright.toml").decode()),
        ("layouts/pad-21.toml", ""),
    ):
        packed_folio.writestr(part, body)
OFFICE = ("page.html", "keys.md", "keys.csv", "keys.txt", "keys.xml", "inputrc", "listing", "shoalwright.toml")
SOURCES = {EXPECTED[name]["kind"]: (name, source(name)) for name in OFFICE}
SOURCES |= {"spreadsheet": ("keys.xlsx", XLSX), "pack": ("office.glimber", PACK.getvalue())}


def triggers(found: Found) -> dict[str, list[str]]:
    return {row.command: list(row.triggers) for row in found.rows}


@pytest.mark.parametrize("kind", SOURCES)
def test_each_kind_is_found_out_and_read(kind: str) -> None:
    name, data = SOURCES[kind]
    assert kind_of(name, data) == kind
    if kind not in ("csv", "text"):
        assert kind_of("pasted", data) == kind
    assert triggers(read(kind, data)) == EXPECTED[name]["rows"]


def test_columns_groups_and_lines_of_a_page() -> None:
    found = read("html", source("page.html"))
    assert {row.command: row.group for row in found.rows}["Add sounding"] == "Survey"
    assert {row.command: row.group for row in found.rows}["Depth range"] == "Depths"
    assert next(row for row in found.rows if row.command == "Add sounding").line == 5
    assert [(one.text, one.why) for one in found.not_bindings] == [
        ("Shoalwright Ctrl+Q: not in the list", "keys without a command"),
        ("Move sounding: Ctrl+drag", "it is done with the mouse"),
        ("Prose of the page: nothing to see", "prose of the page"),
    ]
    mistyped = next(row for row in found.rows if row.command == "Lead line")
    assert (mistyped.remark, mistyped.sure < SURE, found.problems) == ("read as Ctrl+L", True, [])
    mac = read("html", source("page.html"), Options(column="macos"))
    assert triggers(mac)["Add sounding"] == ["Shift+Super+S"]
    wrong = read("html", source("page.html"), Options(column="Amiga"))
    assert "no column is called Amiga; the table has Command, Windows, Linux, macOS" in wrong.problems[0].text


def test_spans_fill_the_rows_below() -> None:
    page = """<table><tr><th>Category</th><th>Command</th><th>Keys</th></tr><tr><td rowspan=2>Survey</td><td>Add</td><td>F1</td></tr>
    <tr><td>Trim</td><td>F2</td></tr><tr><td>Names</td><td>Name</td><td>F3</td></tr></table>"""
    assert [(row.group, row.command) for row in read("html", page.encode()).rows] == [
        ("Survey", "Add"),
        ("Survey", "Trim"),
        ("Names", "Name"),
    ]


def test_every_candidate_is_in_one_of_the_three() -> None:
    found = read("csv", source("keys.csv"))
    assert (len(found.rows), len(found.not_bindings), len(found.problems)) == (2, 1, 1)
    assert [row.line for row in found.rows] == [2, 4] and found.problems[0].line == 6


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_encodings_are_found(encoding: str) -> None:
    found = read("csv", "Befehl,Tasten\nLotung hinzufügen,Strg+Ü\n".encode(encoding))
    assert triggers(found) == {"Lotung hinzufügen": ["Ctrl+Ü"]}


def test_a_document_of_the_desktops_schemas_and_an_interface() -> None:
    assert triggers(read("xml", source("schema.xml"))) == {"Add a sounding": ["Ctrl+Shift+S"]}
    assert triggers(read("xml", source("interface.ui"))) == {"Add sounding": ["Ctrl+Shift+S"], "Depth range": ["Ctrl+D"]}


def test_entities_are_not_expanded_and_nothing_is_fetched(tmp_path: Path) -> None:
    secret = tmp_path / "secret"
    secret.write_text("Ctrl+S")
    outside = f'<!DOCTYPE a [<!ENTITY x SYSTEM "file://{secret}">]><a><item label="Leak" accel="&x;"/></a>'
    assert "Ctrl+S" not in json.dumps(triggers(read("xml", outside.encode())))
    laughs = '<!DOCTYPE a [<!ENTITY a "ha"><!ENTITY b "' + "&a;" * 50 + '"><!ENTITY c "' + "&b;" * 50 + '">]><a><p>&c;</p></a>'
    assert read("xml", laughs.encode()).problems


@pytest.mark.slow
def test_a_spreadsheet_that_would_unpack_too_far_is_refused() -> None:
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"\0" * 80_000_000)
    assert "would unpack to 80 MB" in read("spreadsheet", data.getvalue()).problems[0].text


def test_a_spreadsheet_packed_in_a_way_nobody_knows_is_a_problem() -> None:
    at = XLSX.index(b"PK\x01\x02") + 6  # the version needed to unpack, in the first entry of the directory
    found = read("spreadsheet", XLSX[:at] + b"\xca" + XLSX[at + 1 :])
    assert not found.rows and "zip file version 20.2" in found.problems[0].text


@pytest.mark.slow
@pytest.mark.parametrize("kind", SOURCES)
@given(data=st.binary(max_size=400))
@settings(max_examples=300)
def test_no_bytes_bring_down_a_reader(kind: str, data: bytes) -> None:
    found = read(kind, data)
    assert isinstance(found, Found)
    assert kind_of("pasted", data) in kinds()


@pytest.mark.slow
@pytest.mark.parametrize("kind", SOURCES)
@given(data=st.data())
@settings(max_examples=150)
def test_no_mutation_of_a_real_source_brings_down_its_reader(kind: str, data: Any) -> None:
    body = SOURCES[kind][1]
    at, length = data.draw(st.integers(0, len(body))), data.draw(st.integers(0, 60))
    found = read(kind, body[:at] + data.draw(st.binary(max_size=12)) + body[at + length :])
    assert all(row.command.strip() for row in found.rows)


def test_a_pack_names_its_layouts_as_no_shortcuts_and_can_be_read_a_program_at_a_time() -> None:
    found = read("pack", PACK.getvalue())
    assert found.columns == ["Shoalwright"] and [one.text for one in found.not_bindings] == ["layouts/pad-21.toml"]
    assert read("pack", PACK.getvalue(), Options(column="Namewell")).rows == []
    assert "no folio.toml" in read("pack", XLSX).problems[0].text


def zipped(**parts: bytes) -> bytes:
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, part in parts.items():
            packed.writestr(name, part)
    return data.getvalue()


@pytest.mark.parametrize(("data", "said"), [
    (b"nothing", "not a zip file"),
    (zipped(**{"folio.toml": b"\0" * 61_000_000}), "would unpack to 61 MB"),
    (zipped(**{f"programs/{n}.toml": b"" for n in range(5_001)}), "5001 parts"),
    (zipped(**{"../folio.toml": b""}), "outside its folder"),
    (PACK.getvalue().replace(b"folio.toml", b"\0" * 10), "not a pack that can be read"),  # a name of nothing
    (zipped(**{"/etc/folio.toml": b""}), "outside its folder"),
])  # fmt: skip
def test_hostile_packs_are_refused(data: bytes, said: str) -> None:
    found = read("pack", data)
    assert not found.rows and said in found.problems[0].text


def test_a_long_reading_is_watched_and_can_be_stopped() -> None:
    seen: list[int] = []

    def watch(count: int) -> None:
        seen.append(count)
        if count >= 600:
            raise StoppedError

    rows = "Command,Keys\n" + "".join(f"Chart {n},Ctrl+F{n % 12 + 1}\n" for n in range(5_000))
    with pytest.raises(StoppedError):
        read("csv", rows.encode(), Options(watch=watch))
    assert seen == [200, 400, 600]


@pytest.mark.parametrize(("text", "expected", "problems"), [
    ("Command,Count\nAdd sounding,120\n", [("Add sounding", 120, None)], 0),
    ("command;uses a day\nAdd sounding;12,5\n", [("Add sounding", 12.5, 1)], 0),
    ("Command\tCount\tDays\nAdd sounding\t40\t10\nTrim\t4\t0\n", [("Add sounding", 40, 10)], 1),
    ("Add sounding,3\nTrim,many\n,4\n", [("Add sounding", 3, None)], 2),
    ("", [], 1),
])  # fmt: skip
def test_counts_of_use(text: str, expected: list[Any], problems: int) -> None:
    counts, wrong = read_counts(text.encode())
    assert [(one.name, one.uses, one.days) for one in counts] == expected and len(wrong) == problems


@given(data=st.binary(max_size=300))
def test_no_bytes_bring_down_the_counts(data: bytes) -> None:
    read_counts(data)


def run(*arguments: str, status: int = 0) -> Any:
    result = CliRunner().invoke(app, ["read", *arguments])
    assert result.exit_code == status, (result.output, result.exception)
    return json.loads(result.stdout) if "--json" in arguments and not status else result.output


def test_read_on_the_command_line(tmp_path: Path) -> None:
    (tmp_path / "page.html").write_bytes(source("page.html"))
    found = run(str(tmp_path / "page.html"), "--json")
    assert set(found) >= {"kind", "rows", "not_bindings", "problems"} and found["kind"] == "html"
    told = {"command": "Add sounding", "triggers": ["Ctrl+Shift+S"], "group": "Survey", "line": 5}
    assert {name: found["rows"][0][name] for name in told} == told
    assert "did you mean html" in run(str(tmp_path / "page.html"), "--as", "htm", status=2)
    assert "cannot be read" in run(str(tmp_path / "gone.html"), status=2)
    (tmp_path / "empty.csv").write_text("")
    assert "the file is empty; expected a table" in run(str(tmp_path / "empty.csv"), status=2)


@pytest.mark.slow
def test_taking_into_a_folio_adds_what_is_new_and_keeps_the_rest(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "small")
    (tmp_path / "keys.md").write_bytes(source("keys.md"))
    assert "Give --program NAME" in run(str(tmp_path / "keys.md"), "--into", str(folder), status=2)
    taken = run(str(tmp_path / "keys.md"), "--into", str(folder), "--program", "shoalwright", "--json")["taken"]
    assert (taken["program"], taken["new"], taken["same"]) == ("shoalwright", 1, 1)
    assert taken["changed"] == [
        {"command": "shoalwright/depth-range", "here": [], "there": ["Ctrl+D", "F2"], "taken_by": None},
        {"command": "shoalwright/name-strait", "here": ["Ctrl+K Ctrl+S"], "there": ["Ctrl+N"], "taken_by": None},
    ]
    folio = open_folio(folder).folio
    assert str(folio.bindings["name-island"].trigger) == "Alt+N"
    assert folio.programs["shoalwright"].groups["names"].name == "Names"
    assert "# the one that is used most" in (folder / "programs" / "shoalwright.toml").read_text()
    assert folio.programs["shoalwright"].defaults["add-sounding"] == ("Ctrl+Shift+S",)
    again = run(str(tmp_path / "keys.md"), "--into", str(folder), "--program", "Shoalwright", "--json")["taken"]
    assert again["new"] == 0
    fresh = run(str(tmp_path / "keys.md"), "--into", str(folder), "--program", "Harbour Log", "--json")["taken"]
    assert (fresh["program"], fresh["new"]) == ("harbour-log", 4)
    made = open_folio(folder).folio
    assert made.programs["harbour-log"].name == "Harbour Log" and "add-sounding-2" in made.bindings


@pytest.mark.parametrize("keys", ["Ctrl+Nonsuch", "Ctrl+", "Strg+Zz", "Alt + Wheelhouse"])
def test_keys_in_a_list_that_cannot_be_read_are_a_problem_with_their_line_and_no_heading(keys: str) -> None:
    found = read("text", f"Enter berth    Ctrl+B\nLead line    F3\nShow swell    {keys}\nQuay list    F4\n".encode())
    assert [row.command for row in found.rows] == ["Enter berth", "Lead line", "Quay list"] and not found.headings
    assert [(one.line, one.command) for one in found.problems] == [(3, "Show swell")]
