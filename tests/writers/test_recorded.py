"""What each writer makes of many edits of small sources, and keys as a line editor has them, as when somebody read it."""

from __future__ import annotations

from itertools import combinations, product

from glimber.writers.lineeditor import BEGIN, END, escaped
from glimber.writers.registry import write
from tests.recorded import assert_recorded
from tests.writers.test_writers import CONFIG, CSV, JSON, LISTING, keys, want

ONE_LINE = "map <C-s> add-sounding | map <C-l> lead-line\nmap <C-s><C-d> tide-table\nmap qq quay-list\n"
SEVERAL = "add-sounding = Ctrl+S, F6\nlead-line = Ctrl+L or Alt+L\nquay-list = F8\nquay-list = Shift+F8\n"
INPUTRC = '# mine\n"\\C-l": lead-line\n$if Shoal\n"\\ea": add-sounding\n'
SOURCES = [
    ("csv", CSV), ("csv", CSV.replace("\r\n", "\n").replace(",", ";")), ("csv", "Name\tKeys\nlead-line\tCtrl+L\ntide-table\t\n"),
    ("config", CONFIG),
    ("config", ONE_LINE), ("config", SEVERAL), ("json", JSON), ("json", '{"ctrl+s": "add-sounding", "f8": "quay-list"}'),
    ("gsettings", LISTING), ("toml", '[keys]\nadd-sounding = "C-s"\nlead-line = ["C-l", "M-l"]\n'),
    ("yaml", "- command: add-sounding\n  key: ctrl+s\n- command: lead-line\n  key: [ctrl+l, alt+l]\n"),
    ("line-editor", INPUTRC), ("line-editor", f'{INPUTRC}{BEGIN.decode()}\n$endif\n"\\C-t": tide-table\n{END.decode()}\n# after\n'),
]  # fmt: skip
COMMANDS = ("add-sounding", "Add sounding, deep", "lead-line", "quay-list", "tide-table", "Tide table", "Show desktop", "nothing")
OLD = (None, "Ctrl+S", "Ctrl+L", "F8", "F6", "Super+D", "Ctrl+Shift+S", "Ctrl+T")
NEW = (None, "Alt+PageUp", "Ctrl+K Ctrl+M", "Ctrl+,", "Shift+F9", "j")


def test_what_writers_make_of_edits() -> None:
    lines: list[str] = []
    for kind, text in SOURCES:
        lines.append(f"# {kind} {text[:30]!r}")
        for name, old, new in product(COMMANDS, OLD, NEW):
            if old is new is None:
                continue
            out = write(kind, text.encode(), [want(name, old, new)])
            after, before = out.data.decode().splitlines(), text.splitlines()
            changed = [f"- {one}" for one in before if one not in after] + [f"+ {one}" for one in after if one not in before]
            why = "set" if out.set else "already" if out.already else out.left[0][1]
            lines.append(" ".join((f"{name}: {old} to {new}: {why}", *changed)))
    kept = [line for place, line in enumerate(lines) if line not in lines[:place]]  # the same reason is read once
    assert_recorded("writers", kept)


def test_chords_as_a_line_editor_has_them() -> None:
    named = "Escape Tab Enter Backspace Space Up Down Left Right Home End PageUp PageDown Insert Delete Menu".split()
    named += [f"F{number}" for number in range(1, 14)]
    lines = []
    for held in (one for size in range(4) for one in combinations(("Ctrl", "Alt", "Shift", "Super"), size)):
        for key in (*named, *"abijmz0[]\\^_@,.'\""):
            text = "+".join((*held, key))
            lines.append(f"{text}: {escaped(keys(text))}")
    assert_recorded("line-editor", lines)
