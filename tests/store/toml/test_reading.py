"""Reading a folio: every field, every fault at its line, all faults at once, and nothing half read."""

from __future__ import annotations

import json
import os
import tomllib
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec import Struct
from msgspec.structs import asdict, replace

from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Sequence, Spot
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import Opened
from glimber.store.toml.locate import Locator
from glimber.store.toml.normal_form import to_plain
from glimber.store.toml.reading import open_folio, read_files
from tests.held import differences, flat, hold
from tests.helpers import EVERYWHERE, FILES, FOLIO, LAYOUT, PROGRAM, folio_of, write_folio

SHOAL, SPLIT = "programs/shoalwright.toml", "layouts/split-42.toml"


def faults_of(changed: dict[str, str | bytes | None]) -> list[str]:
    files = {name: text for name, text in {**FILES, **changed}.items() if text is not None}
    with pytest.raises(FolioError) as caught:
        read_files(Path("small"), {name: t if isinstance(t, bytes) else t.encode() for name, t in files.items()})
    return [str(fault) for fault in caught.value.faults]


def line_of(text: str, part: str) -> int:
    return text[: text.index(part)].count("\n") + 1


def test_the_small_office_reads() -> None:
    folio = folio_of()
    assert folio.commands["shoalwright/add-sounding"].slow_way == ("menu Survey", "menu Soundings", "click Add")
    assert str(folio.bindings["tide-table"].trigger) == "Shift+[Numpad4]"
    assert folio.bindings["draw-KeyS-tap" if "draw-KeyS-tap" in folio.bindings else "sounding-s"].reason == "S as in sounding"
    layer = folio.layouts["split-42"].layer("draw")
    assert layer is not None and dict.fromkeys(("KeyF", "KeyP", "ShiftLeft"), "falls") == layer.unset and layer.unbound == "dead"


def test_default_ids_count_up_in_file_order() -> None:
    text = PROGRAM + '\n[commands.two-ways]\nname = "Two ways"\nbindings = [{ trigger = "F7" }, { trigger = "F8" }]\n'
    folio = folio_of({SHOAL: text})
    assert [b.id for b in folio.bindings_of["shoalwright/two-ways"]] == ["two-ways", "two-ways-2"]
    assert "base-KeyP-hold" in folio.bindings and not folio.bindings["base-KeyP-hold"].given_id


WIDE = """format = "glimber-board/1"
id = "wide"
name = "Wide"
keys = [
{ id = "KeyA", x = 1000.0, y = 0.0 },
{ id = "KeyS", x = 2.0, y = 0.0, mirror = "KeyA" },
]
knobs = [{ id = "knob-1", x = 4.0, y = 0.0 }]
stand_in = { knob-1 = "F9" }
"""
BOARD = "boards/wide.toml"
FACING = 'format = "glimber-card/1"\ntitle = "Two"\nkind = "facing"\nboard = "split-42"\nbeside = "split-42:draw"\n'
TEXTS = {SHOAL: PROGRAM, SPLIT: LAYOUT, BOARD: WIDE, "cards/two.toml": FACING, "folio.toml": FOLIO}
LONG = [(SHOAL, "uses_per_day = 60", f'uses_per_day = "{"x" * n}"', f"uses_per_day is {told}; expected")
        for n, told in ((78, f"'{'x' * 78}'"), (79, f"'{'x' * 79}… (81 characters)"))]  # fmt: skip
BROKEN = [*map(tuple, json.loads(Path(__file__).with_name("broken.json").read_text())), *LONG]
"""File, what stands there, what is put in its place, and what must be told of it."""


@pytest.mark.parametrize(("file", "good", "bad", "told"), BROKEN)
def test_each_fault_is_told_at_its_line(file: str, good: str, bad: str, told: str) -> None:
    text = TEXTS[file]
    assert good in text
    changed = text.replace(good, bad, 1)
    faults = faults_of({file: changed})
    ours = [fault for fault in faults if told in fault]
    assert ours, faults
    at = line_of(text, good)
    allowed = {at, at - 1, at + 1} if "missing" in told or "surway" in bad else {at}
    assert any(ours[0].startswith(f"{file}:{line}: ") for line in allowed), (ours, at)


@pytest.mark.parametrize(("line", "good"), [
    ("sure = 0.49", False), ("sure = 0.5", True), ("sure = 0.99", True), ("sure = 1.0", False), ("working_days = 0", False),
    ("working_days = 0.5", True), ("working_days = 7", True), ("working_days = 7.1", False), ("least_gain_s = 0", True),
    ("least_gain_s = -0.1", False), ("target_ms = 0", False), ("horizon_weeks = 0.1", True), ("recovery_s = 0", False),
])  # fmt: skip
def test_figures_of_a_folio_have_their_bounds(line: str, good: bool) -> None:
    files = {"folio.toml": FILES["folio.toml"].replace("\n[bundles]", f"{line}\n[bundles]")}
    if good:
        assert getattr(folio_of(files).settings, line.split()[0]) == float(line.split()[-1])
    else:
        assert f"{line.replace(' = ', ' is ')}" in faults_of(files)[0]


@pytest.mark.parametrize(("written", "read", "told"), [
    ('"Escape"', (("Escape", ""),), "Escape"),
    ('["Enter", "Escape"]', (("Enter", ""), ("Escape", "")), "Enter or Escape"),
    ('{ Enter = "finish", Escape = "cancel" }', (("Enter", "finish"), ("Escape", "cancel")), "Enter (finish) or Escape (cancel)"),
])  # fmt: skip
def test_a_set_is_closed_by_one_key_or_several_with_what_they_do(written: str, read: tuple[tuple[str, str], ...], told: str) -> None:
    text = f'{PROGRAM}\n[stems."g"]\nname = "Go to"\nstays_open = true\ncloses = {written}\n'
    folio = read_files(Path("small"), {name: t.encode() for name, t in {**FILES, SHOAL: text}.items()}).folio
    (stem,) = folio.programs["shoalwright"].stems
    assert (stem.closes, stem.ends) == (read, told)
    assert to_plain(folio)[SHOAL]["stems"]["g"]["closes"] == tomllib.loads(f"a = {written}")["a"]


@pytest.mark.parametrize(("written", "told"), [
    ("3", "closes is 3; expected a text in quotes or a list in brackets or a table"),
    ('["Enter", "Ctrl+"]', "expected a key after the modifiers"),
])  # fmt: skip
def test_what_cannot_close_a_set(written: str, told: str) -> None:
    text = f'{PROGRAM}\n[stems."g"]\nname = "Go to"\nstays_open = true\ncloses = {written}\n'
    (fault,) = faults_of({SHOAL: text})
    assert f"{SHOAL}:{line_of(text, 'closes = ')}" in fault and told in fault


def test_all_faults_of_all_files_are_told_at_once() -> None:
    faults = faults_of({
        SHOAL: PROGRAM.replace("uses_per_day = 60", "uses_per_day = true"),
        SPLIT: LAYOUT.replace("KeyF =", "KeyJ2 =").replace("KeyD =", "KeyD3 ="),
        "folio.toml": FOLIO + "horizon_weeks = 0\n",
    })  # fmt: skip
    assert len(faults) >= 4 and {fault.partition(":")[0] for fault in faults} == {SHOAL, SPLIT, "folio.toml"}


def test_a_broken_program_does_not_make_its_commands_unknown() -> None:
    assert all(fault.startswith(SHOAL) for fault in faults_of({SHOAL: PROGRAM + "\n[commands.x\n"}))


@pytest.mark.parametrize(("data", "told"), [
    (b"", "the file is empty; expected format ="),
    (b"   \n\n", "the file is empty"),
    (b'format = "glimber-program/1"\nname = \n', "programs/shoalwright.toml:2: not TOML: 'name =' has no value; expected"),
    (b'format = "glimber-program/1"\nname = Tide wright # mine\n', "toml:2: not TOML: name is Tide wright; expected a text in quotes"),
    (b'format = "glimber-program/1"\nname = "A"\n[commands]\na = { name = "A", shortcut = Ctrl+E }\n', "toml:4: not TOML: shortcut is Ctrl+E;"),
    (b'format = "glimber-program/1"\nname = "A\n', "toml:2: not TOML: illegal character"),
    (b'format = "glimber-program/1"\n\nname = "B\xe4r"\n', "programs/shoalwright.toml:3: not UTF-8"),
    (b'format = "glimber-program/1"\nname = "A"\nname = "B"\n', "not TOML"),
])  # fmt: skip
def test_files_that_are_no_documents(data: bytes, told: str) -> None:
    assert any(told in fault for fault in faults_of({SHOAL: data}))


@pytest.mark.parametrize(
    ("text", "line"),
    [("format =\n", 1), ("format = 1\n\ntitle = \"a", 3), ("a = 1\nb = [1,\n", 3), ("a = 1\na = 2\n", 2), ("a = [1\n\n\n2]\n", 4)],
)  # fmt: skip
def test_what_is_no_toml_is_told_at_its_line(text: str, line: int) -> None:
    with pytest.raises(FolioError) as caught:
        folio_of({"folio.toml": text})
    assert (caught.value.faults[0].file, caught.value.faults[0].line) == ("folio.toml", line)


def test_folders_that_are_no_folio(tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="there is no such folder; make one with: glimber new"):
        open_folio(tmp_path / "gone")
    with pytest.raises(StoreError, match=r"it has no folio\.toml"):
        open_folio(tmp_path)
    (tmp_path / "file").write_text("x")
    with pytest.raises(StoreError, match="expected the folder of a folio, found a file"):
        open_folio(tmp_path / "file")


@pytest.mark.skipif(os.geteuid() == 0, reason="root may read everything")
def test_a_file_that_may_not_be_read(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "f")
    (folder / SHOAL).chmod(0)
    with pytest.raises(StoreError, match="check its permissions"):
        open_folio(folder)


def test_lenient_reading_keeps_the_rest_and_returns_the_faults() -> None:
    files = {name: text.encode() for name, text in {**FILES, SPLIT: LAYOUT.replace("KeyF =", "KeyJ2 =")}.items()}
    opened = read_files(Path("small"), files, lenient=True)
    assert [fault.code for fault in opened.faults] == ["key-missing"]
    assert "sounding-s" in opened.folio.bindings


ALL = Path(__file__).with_name("full")
FULL = {str(path.relative_to(ALL)): path.read_text() for path in sorted(ALL.rglob("*.toml"))}


def full() -> Folio:
    files = {**FILES, **FULL}
    return read_files(Path("full"), {name: text.encode() for name, text in files.items()}).folio


def fields_of(value: Any) -> Any:
    """A value by its fields, as JSON has it."""
    if isinstance(value, Spot | Sequence):
        return str(value)
    if isinstance(value, Struct):
        return {name: fields_of(one) for name, one in asdict(value).items() if name != "legend"}
    if isinstance(value, Mapping):
        return {str(key): fields_of(one) for key, one in value.items()}
    return [fields_of(one) for one in value] if isinstance(value, tuple | list | frozenset) else value


def everything(_: Folio | None = None) -> Any:
    return fields_of(replace(full(), boards={"own-pad": full().boards["own-pad"]}))


def test_every_field_of_the_model_is_read() -> None:
    assert not differences(ALL.with_name("full.json"), dict(flat(json.loads(json.dumps(everything())))))
    folio = full()
    flip = folio.bindings["flip"]
    assert (flip.computers, flip.pinned, flip.share, flip.label) == (("bridge",), True, 0.7, "Flip it")
    assert folio.boards["own-pad"].homes == {"right": (2.5, 3.5), "left": (0.5, 0.5)}


def test_every_field_survives_being_written_anew(tmp_path: Path) -> None:
    """The plain documents of a value, read as files, give the same value again."""
    import tomlkit

    folio = full()
    files = {name: tomlkit.dumps(plain).encode() for name, plain in to_plain(folio).items()}
    again = read_files(tmp_path, files).folio
    assert to_plain(again) == to_plain(folio)
    assert again.by_trigger == folio.by_trigger and again.bindings.keys() == folio.bindings.keys()


def test_reading_is_not_disturbed_by_line_ends_or_a_byte_order_mark(tmp_path: Path) -> None:
    changed = {SHOAL: b"\xef\xbb\xbf" + PROGRAM.replace("\n", "\r\n").encode()}
    opened: Opened = open_folio(write_folio(tmp_path / "f", changed))
    assert opened.folio == folio_of({SHOAL: PROGRAM}) or opened.folio.commands.keys() == folio_of().commands.keys()


@given(st.binary(max_size=200))
def test_no_bytes_bring_down_the_reader(data: bytes) -> None:
    for name in FILES:
        files = {**{n: t.encode() for n, t in FILES.items()}, name: data}
        with pytest.raises(FolioError) as caught:
            read_files(Path("x"), files)
        assert caught.value.faults


@given(st.data())
def test_no_mutation_of_a_real_file_brings_down_the_reader(data: st.DataObject) -> None:
    name = data.draw(st.sampled_from(sorted(FILES)))
    text = FILES[name]
    at, length = data.draw(st.integers(0, len(text))), data.draw(st.integers(0, 40))
    middle = data.draw(st.text(max_size=8))
    changed = (text[:at] + middle + text[at + length :]).encode("utf-8", "replace")
    try:
        read_files(Path("x"), {**{n: t.encode() for n, t in FILES.items()}, name: changed})
    except FolioError as error:
        assert all(0 <= fault.line <= changed.count(b"\n") + 2 for fault in error.faults if fault.file == name)


def test_lines_are_found_for_every_way_to_write_a_table() -> None:
    text = 'a = 1\n[ t ]\nb . c = 2\n"quoted.key" = 3\n[[rows]]\nx = [\n  1,\n  { y = 2,\n z = 3 },\n]\n[[rows]]\nx = """\n\n"""\nq = 1\n'
    lines = Locator(text)
    for path, line in {("a",): 1, ("t", "b", "c"): 3, ("t", "quoted.key"): 4, ("rows", 0, "x", 0): 7,
                       ("rows", 0, "x", 1, "z"): 9, ("rows", 1): 11, ("rows", 1, "q"): 15}.items():  # fmt: skip
        assert lines.line(path) == line, path
    assert lines.line(("rows", 0, "gone")) == 5


@pytest.mark.parametrize(
    "value",
    ["{}", "{ }", "[]", "[ ]", "{ a = 1 }", "{ a = { b = [] }, c = {} }", "[{}, { a = 1 }]", "[\n  1, # one\n  2,\n]", "[[], [1, 2]]",
     '"]}# \\" ["', "'\\'", '"""\n[no]\nb = 1"" \\""""', "'''\n# it's\n'''", "'''a \\'''", '"""odd"""', '"""even"""', "1 # [no]", "-0.5", "1979-05-27 07:32:00", "true"],
)  # fmt: skip
def test_what_follows_a_value_is_found_on_its_line(value: str) -> None:
    """The scanner has read each value to its end, and no further."""
    text = f"[t]\nx = {value}\nnext = 1\nrow = [{value}\n, 1]\n[u.v]\nlast = 1\n"
    tomllib.loads(text)
    lines = Locator(text)
    for path, part in {
        ("t", "x"): "x =",
        ("t", "next"): "next",
        ("t", "row"): "row",
        ("u", "v"): "[u.v]",
        ("u", "v", "last"): "last",
    }.items():
        assert lines.lines[path] == line_of(text, part), path
    assert set(lines.lines) <= {path[:length] for path in _paths(tomllib.loads(text)) for length in range(len(path) + 1)}


def _paths(value: object, path: tuple[str | int, ...] = ()) -> Iterator[tuple[str | int, ...]]:
    yield path
    inside = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, one in inside:
        yield from _paths(one, (*path, key))


def test_everywhere_is_a_program_like_any_other() -> None:
    assert "everywhere/show-desktop" in folio_of({"programs/everywhere.toml": EVERYWHERE}).commands


def test_a_key_that_is_a_text_types_it_when_tapped() -> None:
    folio = folio_of({SPLIT: LAYOUT.replace('KeyF = "falls"', 'KeyF = "Ctrl+F9"')})
    spots = [one for one in folio.bindings.values() if str(one.trigger) == "split-42:draw:KeyF:tap"]
    assert [str(folio.sent_by(one)) for one in spots] == ["Ctrl+F9"]


if __name__ == "__main__":
    hold(ALL.with_name("full.json"), everything)
