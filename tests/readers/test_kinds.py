# ruff: noqa: E101 - a manual page as a terminal shows it has tabs
"""Kinds of source as people have them, by the shapes that are found in the world; all of the chart office."""

from __future__ import annotations

import gzip
import time
from collections.abc import Callable

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glimber.readers.found import Found, Options, evidence
from glimber.readers.registry import choose, kinds, kinds_of, read
from tests.readers.test_readers import SOURCES as TABLES

SOURCES: dict[str, tuple[str, str, dict[str, list[str]]]] = {
    "objects.json": ("json", """// the survey's own keys
[
  { "key": "ctrl+shift+s", "command": "sheet.save", "when": "sheet" }, // kept
  { "key": "ctrl+k ctrl+c", "command": "sounding.add" },
  { "key": "f2", "command": "-sheet.rename", },
]""", {"sheet.save": ["Ctrl+Shift+S"], "sounding.add": ["Ctrl+K Ctrl+C"]}),
    "steps.json": ("json", '{"menus": [{"command": "chart:new", "rank": 1}], "shortcuts": [{"command": "chart:drop", '
                   '"keys": ["D", "D"]}, {"command": "chart:run", "keys": ["Accel Enter"]}, {"command": "none", "keys": [""]}]}',
                   {"chart:drop": ["d d"], "chart:run": ["Ctrl+Enter"]}),
    "map.json": ("json", '{"contexts":[{"context":"Sheet","bindings":{"ctrl-n":"new","alt-f4":["quit",{"x":1}]}},'
                 '{"context":"Index","bindings":{"ctrl-z":"undo","ctrl-y":"redo"}}]}',
                 {"new": ["Ctrl+N"], "quit x": ["Alt+F4"], "undo": ["Ctrl+Z"], "redo": ["Ctrl+Y"]}),
    "names.json": ("json", '{"new-sheet": "Ctrl+N", "back": ["Alt+Left", "Backspace"], "refresh": "F5", "unset": ""}',
                   {"new-sheet": ["Ctrl+N"], "back": ["Alt+Left", "Backspace"], "refresh": ["F5"], "unset": []}),
    "keys.yaml": ("yaml", """key_bindings:
  - { key: V, mods: Control|Shift, action: Paste }
  - { key: F11, action: ToggleFullscreen }
""", {"Paste": ["Ctrl+Shift+V"], "ToggleFullscreen": ["F11"]}),
    "names.yml": ("yaml", "keys:\n  quit: q\n  up: [k, Up]\n  save: ctrl+s\n  help: F1\n",
                  {"quit": ["q"], "up": ["k", "Up"], "save": ["Ctrl+S"], "help": ["F1"]}),
    "modes.toml": ("toml", """[keys.normal]
C-s = ":write"
"C-x" = { d = "delete", s = ":save" }
F2 = "rename"
[keys.insert]
esc = "normal_mode"
C-w = "delete_word"
""", {":write": ["Ctrl+S"], "delete": ["Ctrl+X d"], ":save": ["Ctrl+X s"], "rename": ["F2"], "normal_mode": ["Escape"],
      "delete_word": ["Ctrl+W"]}),
    "maps.rc": ("config", """# Sheets
map Q quitall
map <C-r> reset
map gh cd /charts
copymap gh <Home>
unmap x
""", {"quitall": ["Shift+Q"], "reset": ["Ctrl+R"], "cd /charts": ["g h"], "cd /charts (as gh)": ["Home"]}),
    "wm.conf": ("config", """set $mod Mod4
bindsym $mod+Shift+q kill
bindsym --release Print exec shoot
mode "resize" {
    bindsym Left resize shrink width
}
""", {"kill": ["Shift+Super+Q"], "exec shoot": ["PrintScreen"], "resize shrink width": ["Left"]}),
    "commas.conf": ("config", "bind = SUPER, Q, exec, chart\nbind = SUPER SHIFT, E, exit,\nbind = , F5, refresh,\n",
                    {"exec chart": ["Super+Q"], "exit": ["Shift+Super+E"], "refresh": ["F5"]}),
    "three.rc": ("config", "[shoalwright]\nAdd=Meta+S,none,Add a sounding\nNext=Meta+Right\\tCtrl+Tab,none,Next sheet\nOff=none,none,Depth\n",
                 {"Add a sounding": ["Super+S"], "Next sheet": ["Super+Right", "Ctrl+Tab"], "Depth": []}),
    "below.rc": ("config", "# survey\nsuper + s\n\tsurvey --open\n\nsuper + shift + {q,r}\n\toffice {quit,restart}\n",
                 {"survey --open": ["Super+S"], "office quit": ["Shift+Super+Q"], "office restart": ["Shift+Super+R"]}),
    "menus.rc": ("config", 'bind index g group-reply # of all\nbind pager <Enter> noop\nmacro index \\Cb "x" "send on"\n',
                 {"group-reply": ["g"], "noop": ["Enter"], "send on": ["Ctrl+B"]}),
    "names.conf": ("config", "menu_close Escape q\nscroll_up J C-Up\nscroll_down K C-Down\nquit C-q\n",
                   {"menu_close": ["Escape", "q"], "scroll_up": ["Shift+J", "Ctrl+Up"], "scroll_down": ["Shift+K", "Ctrl+Down"],
                    "quit": ["Ctrl+Q"]}),
    "calls.lua": ("script", """local map = keys.set
modkey = "Mod4"
map("n", "<C-k>", "<cmd>Survey<cr>", { desc = "Open survey" })
map("n", "gd", function() go() end, { desc = "Go to depth" })
bind.key({ modkey, "Shift" }, "j", swap, {description = "swap sheets", group = "sheet"})
""", {"Open survey": ["Ctrl+K"], "Go to depth": ["g d"], "swap sheets": ["Shift+Super+J"]}),
    "calls.el": ("script", """(global-set-key (kbd "C-c s") 'add-sounding)
(define-key chart-map (kbd "M-<left>") #'previous-sheet)
""", {"add-sounding": ["Ctrl+C s"], "previous-sheet": ["Alt+Left"]}),
    "lines.vim": ("script", "nnoremap <silent> <C-p> :Sheets<CR>\nnmap <F2> <Plug>(rename)\ninoremap jk <Esc>\n",
                  {":Sheets": ["Ctrl+P"], "<Plug>(rename)": ["F2"], "<Esc>": ["j k"]}),
    "accels": ("script", '; accelerators\n(gtk_accel_path "<Actions>/sheet/save" "<Primary>s")\n'
               '(gtk_accel_path "<Actions>/sounding/add" "<Primary><Shift>d")\n', {"save": ["Ctrl+S"], "add": ["Ctrl+Shift+D"]}),
    "keys.rst": ("rst", """Keys
====

.. list-table::
   :header-rows: 1

   * - Shortcut
     - Action
   * - :kbd:`Ctrl+S`
     - Save chart

======  ==========
Key     Action
======  ==========
Ctrl+N  New sheet
======  ==========

+--------+------------+
| Key    | Action     |
+========+============+
| Ctrl+O | Open sheet |
+--------+------------+
""", {"Save chart": ["Ctrl+S"], "New sheet": ["Ctrl+N"], "Open sheet": ["Ctrl+O"]}),
    "keys.adoc": ("asciidoc", "= Keys\n\n|===\n|Key |Action\n|kbd:[Ctrl+S] |Save chart\n|F5 |Refresh\n|===\n\nkbd:[Ctrl,N]:: New sheet\n",
                  {"Save chart": ["Ctrl+S"], "Refresh": ["F5"], "New sheet": ["Ctrl+N"]}),
    "shoal.1": ("man", """.TH SHOAL 1
.SH NAME
shoal \\- draw charts
.SH KEYS
.TP
.B q
Quit
.TP
.BR Ctrl\\-S ", " F2
Save the chart
.TP
\\fBPage Up\\fR
Previous sheet
.SH OPTIONS
.TP
.B \\-v
Verbose
""", {"Quit": ["q"], "Save the chart": ["Ctrl+S", "F2"], "Previous sheet": ["PageUp"]}),
    "shoal_man.txt": ("text", """KEY BINDINGS
       General

	  J, PgDn
		 Next sheet

	  h, k	 Scroll left, up

	  ^c, Escape
		 Abort

	  q	 Quit

OPTIONS
       -x, --help
		 Say how

       log    Keep a log
""", {"Next sheet": ["Shift+J", "PageDown"], "Scroll left, up": ["h", "k"], "Abort": ["Ctrl+C", "Escape"], "Quit": ["q"]}),
    "paste.txt": ("text", "Ctrl+S Save chart\nCtrl+Shift+S: Save chart as\nF5 - Refresh\nCtrl+Alt+N\tNew sheet\nAdd sounding Ctrl+D\n",
                  {"Save chart": ["Ctrl+S"], "Save chart as": ["Ctrl+Shift+S"], "Refresh": ["F5"], "New sheet": ["Ctrl+Alt+N"],
                   "Add sounding": ["Ctrl+D"]}),
    "tags.txt": ("text", "|i_CTRL-N|\tCTRL-N\t\tfind the next sheet\n|[D|\t\t[D\t\tlist all soundings\n|zt|\t\tzt\t\tline at the top\n",
                 {"find the next sheet": ["Ctrl+N"], "list all soundings": ["[ Shift+D"], "line at the top": ["z t"]}),
    "default.txt": ("text", "Commands:\nopen (default key: ENTER)\nquit (default key: q)\nreload (default 'r' and '<C-r>')\n",
                    {"open": ["Enter"], "quit": ["q"], "reload": ["r", "Ctrl+R"]}),
    "keymap.xml": ("xml", '<keymap><action id="Add"><keyboard-shortcut first-keystroke="control alt S"/></action>'
                   '<action id="Depth"><keyboard-shortcut first-keystroke="control K" second-keystroke="control D"/></action></keymap>',
                   {"Add": ["Ctrl+Alt+S"], "Depth": ["Ctrl+K Ctrl+D"]}),
    "rc.xml": ("xml", '<rc><keyboard><keybind key="C-A-Left"><action name="Turn"><to>left</to><wrap>no</wrap></action></keybind>'
               '<keybind key="C-A-Right"><action name="Turn"><to>right</to><more><by>9</by></more></action></keybind>'
               '<keybind key="W-d"><action name="Clear"/></keybind></keyboard></rc>',
               {"Turn left": ["Ctrl+Alt+Left"], "Turn right": ["Ctrl+Alt+Right"], "Clear": ["Super+D"]}),
    "keys.def": ("config", "[Survey]\nadd-sounding=<Control-Key-l> <Control-Key-L>\ntrim = <Key-F4>\ndepths=<Alt-Key-F3> <Meta-Key-F3>\n"
                 "[Names]\nname-strait=<Control-Key-x><Control-Key-slash>\nswell=<Shift-Key-Left>\n",
                 {"add-sounding": ["Ctrl+L"], "trim": ["F4"], "depths": ["Alt+F3", "Super+F3"], "name-strait": ["Ctrl+X Ctrl+/"],
                  "swell": ["Shift+Left"]}),
    "channel.xml": ("xml", '<channel><property name="commands" type="empty"><property name="&lt;Alt&gt;F1" type="string" value="menu"/>'
                    '<property name="&lt;Primary&gt;KP_4" type="string" value="left"/><property name="notify" type="bool" value="true"/>'
                    '<property name="Escape" type="string" value="cancel"/></property></channel>',
                    {"menu": ["Alt+F1"], "left": ["Ctrl+Num4"], "cancel": ["Escape"]}),
    "help.page": ("xml", '<page xmlns="urn:help"><table><title>Sheets</title><tr><td><p><keyseq><key>Alt</key><key>F1</key></keyseq> '
                  'or the</p><p><key>Super</key> key</p></td><td><p>Show all sheets.</p></td></tr><tr><td><p><keyseq><key>Ctrl</key>'
                  '<key>Z</key></keyseq></p></td><td><p>Undo.</p></td></tr></table></page>',
                  {"Show all sheets.": ["Alt+F1", "Super"], "Undo.": ["Ctrl+Z"]}),
    "undefined.xml": ("xml", '<!DOCTYPE a><menu><item label="Add&nbsp;sounding" accel="Ctrl+D"/><item label="Trim" accel="F4"/></menu>',
                      {"Addsounding": ["Ctrl+D"], "Trim": ["F4"]}),
    "systems.html": ("html", '<table><tr><th>Keys</th><th>Effect</th></tr><tr><td>Shift+<span class="switch"><span class="MAC">Command+Option'
                     '</span><span id="default">Ctrl+Alt</span></span>+A</td><td>Ungroup</td></tr><tr><td>Home/End</td><td>First/last</td></tr>'
                     '<tr><td>Divide (÷) Key (number pad)</td><td>Zoom</td></tr></table>',
                     {"Ungroup": ["Ctrl+Alt+Shift+A"], "First/last": ["Home", "End"], "Zoom": ["NumDivide"]}),
    "matrix.html": ("html", "<table><tr><th>Key</th><th>Alone</th><th>Ctrl</th><th>Ctrl+Shift</th></tr><tr><td>S</td><td></td><td>Save</td>"
                    "<td>Save as</td></tr><tr><td>F5</td><td>Refresh</td><td>Reload</td><td>-</td></tr></table>",
                    {"Save": ["Ctrl+S"], "Save as": ["Ctrl+Shift+S"], "Refresh": ["F5"], "Reload": ["Ctrl+F5"]}),
    "entities.md": ("markdown", "| Key | Action |\n|---|---|\n| `space` | Play |\n| `K` | Play on |\n| &larr; | Back |\n| `M` | Mute |\n",
                    {"Play": ["Space"], "Play on": ["k"], "Back": ["Left"], "Mute": ["m"]}),
}  # fmt: skip


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


def test_a_pdf_is_read_line_by_line() -> None:
    kind, found = found_in("card.pdf", pdf([("Ctrl+S", "Save chart"), ("F5", "Refresh"), ("Alt+N", "Name island")]))
    assert kind == "pdf"
    assert triggers(found) == {"Save chart": ["Ctrl+S"], "Refresh": ["F5"], "Name island": ["Alt+N"]}
    assert "cannot be read" in read("pdf", b"%PDF-1.4 nothing").problems[0].text or not read("pdf", b"%PDF-1.4 nothing").rows


def pdf(rows: list[tuple[str, str]]) -> bytes:
    """A page with two columns, written by hand."""
    drawn = "".join(
        f"BT /F1 12 Tf 72 {700 - 20 * n} Td ({keys}) Tj ET BT /F1 12 Tf 220 {700 - 20 * n} Td ({what}) Tj ET\n"
        for n, (keys, what) in enumerate(rows)
    )
    objects = [
        "<< /Type /Catalog /Pages 2 0 R >>",
        "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 612 792] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>",
        f"<< /Length {len(drawn)} >>\nstream\n{drawn}endstream",
        "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
    ]
    out, places = b"%PDF-1.4\n", []
    for number, body in enumerate(objects, start=1):
        places.append(len(out))
        out += f"{number} 0 obj\n{body}\nendobj\n".encode()
    table = "".join(f"{place:010} 00000 n \n" for place in places)
    head = f"xref\n0 {len(objects) + 1}\n0000000000 65535 f \n{table}"
    return out + f"{head}trailer << /Size {len(objects) + 1} /Root 1 0 R >>\nstartxref\n{len(out)}\n%%EOF".encode()


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
    "Option,Value\ntitle,text\nwidth,10\nhelp,yes\n",
    "Browser,Supported\nKittiwake,✓\nGannet,✓\n",
    "Menu,Entry\nFile,Open\nEdit,Copy\nView,Home\n",
    "Letter,Meaning\na,year\nb,month\nc,day\n",
    "Depth,Count\n1,20\n2,31\n3,7\n",
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
    data = 'Keys,Command\n"Ctrl+C (also ⌘C on macOS)",Copy\nF2 or double-click,Rename\nCtrl+S with a sheet open,Save\n'.encode()
    rows = {row.command: row for row in read("csv", data).rows}
    assert [list(row.triggers) for row in rows.values()] == [["Ctrl+C"], ["F2"], ["Ctrl+S"]]
    assert "also ⌘C on macOS" in rows["Copy"].remark and "mouse" in rows["Rename"].remark
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


@pytest.mark.parametrize("note", ["(C)", "(also F9 on macOS)", "(on macOS)", "(hold)", "(*)"])
@pytest.mark.parametrize("gap", ["    ", "\t", ": ", " - ", " "])
def test_a_note_after_the_keys_of_a_line_is_left_out_and_said_however_they_are_parted(note: str, gap: str) -> None:
    lines = [f"Enter berth{gap}Ctrl+B {note}", f"Leave berth{gap}Ctrl+Shift+B", f"Lead line{gap}F3"]
    found = choose("list.txt", "\n".join(lines).encode(), Options()).found
    assert [(row.command, row.triggers) for row in found.rows] == [
        ("Enter berth", ("Ctrl+B",)), ("Leave berth", ("Ctrl+Shift+B",)), ("Lead line", ("F3",)),
    ]  # fmt: skip
    assert found.rows[0].remark == f"left out: {note[1:-1]}"


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
