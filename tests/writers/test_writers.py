"""Writers: what is wanted stands there then, everything else byte for byte as it was."""

from __future__ import annotations

from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.notation.keys import Sequence as Keys
from glimber.core.notation.keys import parse_trigger
from glimber.core.notation.respell import respell
from glimber.readers.registry import read
from glimber.writers.delimited import cells_of
from glimber.writers.lineeditor import BEGIN, END, escaped
from glimber.writers.registry import kinds, write
from glimber.writers.wanted import Wanted


def keys(text: str) -> Keys:
    found = parse_trigger(text)
    assert isinstance(found, Keys)
    return found


def want(name: str, old: str | None, new: str | None, id: str = "", partner: str | None = None) -> Wanted:
    return Wanted(id or name, (name,), keys(old) if old else None, keys(new) if new else None, partner=partner)


def rewritten(kind: str, text: str, *wanted: Wanted) -> str:
    out = write(kind, text.encode(), wanted)
    assert not out.left, out.left
    assert out.set == wanted
    return out.data.decode()


CSV = 'Command,Keys,Menu\r\n"Add sounding, deep",Ctrl+Shift+S,Survey\r\nLead line,"Ctrl+K, Ctrl+L",Survey\r\nTide table,,Tides\r\nQuay list,F6,\r\n'
CONFIG = "# survey\nmap <C-s> add-sounding   # deep ones\nmap <C-A-l> lead-line\n\nmap F6 quay-list\nmap F7 tide-table\n"
JSON = """{
  // the survey
  "bindings": [
    {"command": "add-sounding", "key": "ctrl+shift+s"},   /* deep */
    {"command": "lead-line", "key": "ctrl+k ctrl+l", "when": "canvas"},
    {"command": "quay-list", "key": "f6"},
  ]
}
"""
LISTING = """org.gnome.desktop.interface font-name 'Manrope 11'
org.gnome.desktop.wm.keybindings show-desktop ['<Primary><Alt>d', '<Super>d']
org.gnome.desktop.wm.keybindings close ['<Alt>F4']
org.gnome.desktop.wm.keybindings always-on-top @as []
org.gnome.settings-daemon.plugins.media-keys.custom-keybinding:/org/charts/custom0/ name 'Tide table'
org.gnome.settings-daemon.plugins.media-keys.custom-keybinding:/org/charts/custom0/ binding '<Super>t'
"""


@pytest.mark.parametrize(
    ("kind", "text", "wanted", "line", "now"),
    [
        ("csv", CSV, want("Add sounding, deep", "Ctrl+Shift+S", "Alt+PageUp"), 1, '"Add sounding, deep",Alt+PageUp,Survey\r'),
        ("csv", CSV, want("Quay list", "F6", "Ctrl+,"), 4, 'Quay list,"Ctrl+,",\r'),
        ("csv", CSV, want("Tide table", None, "Ctrl+Shift+T"), 3, "Tide table,Ctrl+Shift+T,Tides\r"),
        ("csv", CSV, want("Quay list", "F6", None), 4, "Quay list,,\r"),
        ("csv", CSV, want("Lead line", "Ctrl+K Ctrl+L", "Ctrl+K Ctrl+M"), 2, 'Lead line,"Ctrl+K, Ctrl+M",Survey\r'),
        ("config", CONFIG, want("add-sounding", "Ctrl+S", "Ctrl+Alt+D"), 1, "map <C-A-d> add-sounding   # deep ones"),
        ("config", CONFIG, want("quay-list", "F6", "Ctrl+Q"), 4, "map <C-q> quay-list"),
        ("json", JSON, want("add-sounding", "Ctrl+Shift+S", "Alt+PageUp"), 3, '    {"command": "add-sounding", "key": "alt+pageup"},   /* deep */'),
        ("json", JSON, want("lead-line", "Ctrl+K Ctrl+L", "Ctrl+J Ctrl+L"), 4, '    {"command": "lead-line", "key": "ctrl+j ctrl+l", "when": "canvas"},'),
        ("gsettings", LISTING, want("Show desktop", "Super+D", "Super+M"), 1, "org.gnome.desktop.wm.keybindings show-desktop ['<Primary><Alt>d', '<Super>m']"),
        ("gsettings", LISTING, want("Show desktop", "Ctrl+Alt+D", "Ctrl+Alt+PageUp"), 1, "org.gnome.desktop.wm.keybindings show-desktop ['<Primary><Alt>Page_Up', '<Super>d']"),
        ("gsettings", LISTING, want("Always on top", None, "Super+Ctrl+T"), 3, "org.gnome.desktop.wm.keybindings always-on-top ['<Primary><Super>t']"),
        ("gsettings", LISTING, want("Close", "Alt+F4", None), 2, "org.gnome.desktop.wm.keybindings close ['']"),
        ("gsettings", LISTING, want("Tide table", "Super+T", "Super+["), 5, "org.gnome.settings-daemon.plugins.media-keys.custom-keybinding:/org/charts/custom0/ binding '<Super>bracketleft'"),
        ("toml", '[keys]\nsounding = "C-s"   # deep\nlead = "C-l"\n', want("sounding", "Ctrl+S", "Alt+X"), 1, 'sounding = "M-x"   # deep'),
        ("yaml", "- command: sounding\n  key: ctrl+s\n- command: lead\n  key: ctrl+l\n", want("lead", "Ctrl+L", "Ctrl+Shift+L"), 3, "  key: ctrl+shift+l"),
    ],
)  # fmt: skip
def test_one_line_changes_and_no_other_byte(kind: str, text: str, wanted: Wanted, line: int, now: str) -> None:
    after = rewritten(kind, text, wanted).split("\n")
    before = text.split("\n")
    assert after[line] == now
    assert [*after[:line], *after[line + 1 :]] == [*before[:line], *before[line + 1 :]]


def test_two_that_change_places_are_set_together_or_not_at_all() -> None:
    pair = want("quay-list", "F6", "F7", "a", "b"), want("tide-table", "F7", "F6", "b", "a")
    assert rewritten("config", CONFIG, *pair) == CONFIG.replace("F6", "x").replace("F7", "F6").replace("x", "F7")
    keyed = '{"f6": "quay-list", "f7": "tide-table"}'
    assert rewritten("json", keyed, *pair) == '{"f7": "quay-list", "f6": "tide-table"}'
    half = want("quay-list", "F6", "F7", "a", "b"), want("no such thing", "F7", "F6", "b", "a")
    out = write("config", CONFIG.encode(), half)
    assert out.data == CONFIG.encode() and len(out.left) == 2


@pytest.mark.parametrize(("kind", "text", "wanted", "why"), [
    ("csv", CSV, want("Quay list", "F8", "F9"), "line 5 has F6 for it, not F8"),
    ("csv", CSV, want("Raise buoy", "F8", "F9"), "nothing there is called Raise buoy"),
    ("config", CONFIG, want("quay-list", "F6", None), "without keys"),
    ("csv", "Command,Keys\nPan,F2\nPan,F2\nZoom,F3\n", want("Pan", "F2", "F9"), "lines 2 and 3 have F2 for it"),
    ("line-editor", "", want("undo", "Ctrl+_", "Super+J"), "a terminal does not send Super+J"),
    ("line-editor", "", want("undo", "Ctrl+_", "Ctrl+M"), "a terminal does not send Ctrl+M"),
    ("line-editor", "", want("undo", "Ctrl+_", "Ctrl+,"), "a terminal does not send Ctrl+,"),
    ("line-editor", "", want("Add sounding", "Ctrl+_", "Ctrl+B"), "no command of the line editor"),
])  # fmt: skip
def test_what_cannot_be_set_is_left_with_why(kind: str, text: str, wanted: Wanted, why: str) -> None:
    out = write(kind, text.encode(), [wanted])
    assert out.data == text.encode() and not out.set
    assert why in out.left[0][1]


def test_what_is_set_already_is_told_apart() -> None:
    out = write("config", CONFIG.encode(), [want("quay-list", "F5", "F6")])
    assert [one.names[0] for one in out.already] == ["quay-list"] and not out.set and not out.left


@pytest.mark.parametrize(
    "before", ["", "set bell-style none", "set bell-style none\n", '"\\C-a": undo\n$if Bash\nset x y\n', "\xff broken \n:::\n"]
)
def test_the_block_of_the_line_editor_leaves_every_other_byte(before: str) -> None:
    data = before.encode("latin-1")
    out = write("line-editor", data, [want("undo", "Ctrl+_", "Ctrl+X Ctrl+U")])
    assert out.data.startswith(data) and b'\n"\\C-x\\C-u": undo\n' in out.data and b'\n"\\C-_": ""\n' in out.data
    assert (b"$endif" in out.data) == ("$if" in before)  # ours must hold for every program
    more = out.data + b"# mine, below\n"
    again = write("line-editor", more, [want("redo-line", None, "Ctrl+B"), want("undo", "Ctrl+X Ctrl+U", "Alt+U")])
    assert again.data.startswith(out.data[: out.data.index(BEGIN)]) and again.data.endswith(END + b"\n# mine, below\n")
    assert again.data.count(BEGIN) == 1 and b'"\\C-b": redo-line' in again.data and b'"\\eu": undo' in again.data
    assert b'"\\C-x\\C-u": ""' in again.data


def test_keys_that_something_else_was_given_are_not_taken_from_it() -> None:
    first = write("line-editor", b"", [want("undo", "Ctrl+B", "Ctrl+T"), want("yank", "Ctrl+Y", "Ctrl+B", "y")]).data
    assert b'"\\C-b": yank' in first
    then = write("line-editor", first, [want("kill-word", "Ctrl+B", "Alt+D")]).data
    assert b'"\\C-b": yank' in then


@given(
    st.sets(st.sampled_from(["Ctrl", "Alt", "Shift"])),
    st.sampled_from(
        [*"abcdefghijklmnopqrstuvwxyz019[];/,", "Left", "Up", "Home", "End", "F1", "F5", "F12", "Delete", "PageUp", "Tab", "Space"]
    ),
)
def test_what_an_inputrc_says_is_read_back_as_it_was_meant(held: set[str], key: str) -> None:
    trigger = parse_trigger("+".join([*(one for one in ("Ctrl", "Alt", "Shift") if one in held), key]))
    assert isinstance(trigger, Keys)
    text = escaped(trigger)
    if text is not None:
        out = read("line-editor", f'"{text}": undo\n'.encode())
        assert [row.triggers for row in out.rows] == [(str(trigger),)]


@pytest.mark.parametrize(("like", "means", "new", "spelt"), [
    ("Ctrl+Shift+S", "Ctrl+Shift+S", "Ctrl+Alt+K", "Ctrl+Alt+K"), ("ctrl-shift-s", "Ctrl+Shift+S", "Ctrl+Alt+PageUp", "ctrl-alt-pageup"),
    ("Control + S", "Ctrl+S", "Ctrl+Alt+K", "Control + Alt + K"), ("<Primary><Shift>s", "Ctrl+Shift+S", "Ctrl+PageUp", "<Primary>Page_Up"),
    ("<Super>d", "Super+D", "Super+[", "<Super>bracketleft"), ("<C-S-s>", "Ctrl+Shift+S", "Ctrl+Alt+K", "<C-A-k>"),
    ("C-x C-s", "Ctrl+X Ctrl+S", "Ctrl+X Alt+F", "C-x M-f"), ("Ctrl+K, Ctrl+S", "Ctrl+K Ctrl+S", "Ctrl+K Ctrl+T", "Ctrl+K, Ctrl+T"),
    ("⇧⌘S", "Shift+Super+S", "Alt+Super+K", "⌥⌘K"),
])  # fmt: skip
def test_keys_are_written_as_they_stand_there(like: str, means: str, new: str, spelt: str) -> None:
    assert respell(keys(new), [(like, keys(means))])[0] == spelt


CHORDS = st.builds(
    lambda held, key: "+".join([*(one for one in ("Ctrl", "Alt", "Shift", "Super") if one in held), key]),
    st.sets(st.sampled_from(["Ctrl", "Alt", "Shift", "Super"]), min_size=1),
    st.sampled_from([*"ABCXYZ19", "F2", "F11", "Left", "PageDown", "Home"]),
)


@pytest.mark.slow
@given(st.lists(CHORDS, min_size=3, max_size=7, unique=True), st.data())
def test_any_keys_in_any_row_of_a_table(chords: Sequence[str], data: st.DataObject) -> None:
    *there, new = map(str, map(parse_trigger, chords))
    join = data.draw(st.sampled_from(["+", "-", " + "]))
    lines = [f"Command {n};{one.replace('+', join)}" for n, one in enumerate(there)]
    text = "\n".join(["Command;Keys", *lines, ""])
    row = data.draw(st.integers(0, len(there) - 1))
    name = f"Command {row}"
    out = write("csv", text.encode(), [want(name, there[row], new)])
    assert out.set, (text, new, out.left)
    rows = {one.command: one.triggers for one in read("csv", out.data).rows}
    assert rows == {f"Command {n}": (new if n == row else one,) for n, one in enumerate(there)}
    kept = out.data.decode().split("\n")
    assert [line for n, line in enumerate(kept) if n != row + 1] == [line for n, line in enumerate(text.split("\n")) if n != row + 1]


@given(st.sampled_from(kinds()), st.binary(max_size=300))
def test_a_writer_never_raises_and_never_harms(kind: str, data: bytes) -> None:
    out = write(kind, data, [want("Add sounding", "Ctrl+S", "Ctrl+T")])
    assert out.data == data or out.set


@given(st.lists(st.lists(st.text('ab,"\n', max_size=4), min_size=2, max_size=4), min_size=1, max_size=4))
def test_cells_are_found_where_they_stand(rows: list[list[str]]) -> None:
    import csv
    import io

    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\n").writerows(rows)
    text = out.getvalue()
    told = [[text[a:b] for a, b in cells] for cells in cells_of(text, ",")]
    bare = [[cell[1:-1].replace('""', '"') if cell.startswith('"') else cell for cell in cells] for cells in told]
    assert bare == rows


LONG = ["Command;Keys;Note", *(f"Sheet {n};Ctrl+K F{n % 24 + 1};of the survey" for n in range(5_400))]


@pytest.mark.slow
@pytest.mark.parametrize("extra", ["", 'Quay "list";F3;quoted'])
@pytest.mark.parametrize("edits", [
    [("Sheet 5390", "Ctrl+K F15", "Ctrl+Alt+S"), ("Sheet 3", "Ctrl+K F4", "F9"), ("Sheet 4400", "Ctrl+K F9", None)],
    [("Sheet 700", "Ctrl+K F5", "F7"), ("nobody", "F1", "F2"), ("Sheet 44", "Ctrl+K F21", "Ctrl+K F21")],
])  # fmt: skip
def test_a_long_table_is_set_as_a_short_one(
    monkeypatch: pytest.MonkeyPatch, edits: list[tuple[str, str, str | None]], extra: str
) -> None:
    data = ("\n".join([*LONG, extra]) + "\n").encode()
    wanted = [want(name, old, new) for name, old, new in edits]
    found = write("csv", data, wanted)
    monkeypatch.setattr("glimber.writers.delimited._LONG", 10**9)
    assert found == write("csv", data, wanted) and len(found.set) + len(found.left) + len(found.already) == len(edits)


def test_of_a_long_table_little_is_read(monkeypatch: pytest.MonkeyPatch) -> None:
    sizes: list[int] = []
    monkeypatch.setattr("glimber.writers.lines.read", lambda kind, data: sizes.append(data.count(b"\n")) or read(kind, data))
    write("csv", ("\n".join(LONG) + "\n").encode(), [want("Sheet 5390", "Ctrl+K F15", "Ctrl+Alt+S")])
    assert sizes and max(sizes) == 501
