"""The ways in which lists of shortcuts are written, combined: every bullet with every separator, every element of a page with every
mark of keys. What reads one of them reads all."""

from __future__ import annotations

import html
import re
from collections.abc import Sequence

import pytest

from glimber.readers.found import for_this_system
from glimber.readers.registry import choose

COMMANDS = ("Save the sheet", "Plot the soundings", "Open a chart", "Leave the program", "Go to the next buoy", "Mark a wreck")
SPELLINGS = {
    "plus": ("Ctrl+S", "F5", "Ctrl+Shift+O", "q", "Page Down", "Alt+Enter"),
    "spaced": ("Ctrl + S", "F5", "Ctrl + Shift + O", "q", "Page Down", "Alt + Enter"),
    "dash": ("Ctrl-S", "F5", "Ctrl-Shift-O", "q", "PgDn", "Alt-Enter"),
    "emacs": ("C-s", "<f5>", "C-S-o", "q", "<next>", "M-RET"),
    "brackets": ("<Ctrl>s", "<F5>", "<Ctrl><Shift>o", "q", "<Page_Down>", "<Alt>Return"),
}
WANTED = ("Ctrl+S", "F5", "Ctrl+Shift+O", "q", "PageDown", "Alt+Enter")
HEADS = ("KEYS\n\n", "Keyboard shortcuts:\n\n", "Keys\n----\n\n", "")
BULLETS = ("", "  ", "* ", "- ", "• ", "1. ", "    o ", "+ ")
SEPARATORS = ("COLUMN", "\t", " - ", " -- ", " --- ", " : ", ": ", " = ", " => ", " -> ", " ... ", " ..... ", " — ", " – ", " :: ", " ~ ")
MARKS = ("", "b", "code", "strong", "kbd", "caps")
ELEMENTS = {
    "keys first": "<table><tr><th>Key</th><th>Action</th></tr>|<tr><td>{k}</td><td>{c}</td></tr>|</table>",
    "command first": "<table><tr><th>Command</th><th>Shortcut</th></tr>|<tr><td>{c}</td><td>{k}</td></tr>|</table>",
    "no head": "<table>|<tr><td>{k}</td><td>{c}</td></tr>|</table>",
    "terms": "<dl>|<dt>{k}</dt>\n<dd>{c}</dd>|</dl>",
    "paragraphs in terms": "<dl>|<dt><p>{k}</p></dt><dd><p>{c}.</p></dd>|</dl>",
    "items with a dash": "<ul>|<li>{k} - {c}</li>|</ul>",
    "items with a colon": "<ul>|<li>{c}: {k}</li>|</ul>",
    "items with brackets": "<ul>|<li>{c} ({k})</li>|</ul>",
    "items in parts": "<ul>|<li><span>{k}</span><span>{c}</span></li>|</ul>",
    "paragraphs": "|<p>{k} - {c}</p>|",
    "lines": "<p>|{k}: {c}<br/>|</p>",
    "blocks": "<div>|<div><div>{k}</div><div>{c}</div></div>|</div>",
    "as it is": "<pre>\n|  {k}\t\t{c}|\n</pre>",
}

IN_MARKDOWN = ("{}", "`{}`", "**{}**", "<kbd>{}</kbd>", "_{}_", "**`{}`**")
BLOCKS = {
    "a table": ("| Key | Action |\n|---|---|\n", "| {k} | {c} |", "\n"),
    "a bare table": ("Command | Shortcut\n--- | ---\n", "{c} | {k}", "\n"),
    "paragraphs": ("", "{k}: {c}", "\n\n"),
    "lines": ("", "{k} - {c}", "  \n"),
    "brackets": ("", "- {c} ({k})", "\n"),
    "colons": ("", "* {c}: {k}", "\n"),
    "arrows": ("", "1. {k} -> {c}", "\n"),
}
"""What stands before the rows, a row, and what parts two of them."""
TAGS = {
    "TP B": ".TP\n.B {k}\n{c}.", "TP fB": ".TP\n\\fB{k}\\fR\n{c}.", "IP": '.IP "\\fB{k}\\fP" 4\n{c}.', "BR": '.TP\n.BR "{k}"\n{c}.',
    "RS": ".PP\n\\fB{k}\\fR\n.RS 4\n{c}.\n.RE", "HP": ".HP\n\\fB{k}\\fR\n{c}.", "PD": ".PP\n\\f[B]{k}\\f[R]\n.PD 0\n.P\n.PD\n{c}.",
    "quotes": ".TP\n`{k}'\n{c}.", "dash": ".br\n\\fB{k}\\fR \\- {c}", "tab": "\\fB{k}\\fP\t{c}",
}  # fmt: skip


def are_read(name: str, text: str) -> bool:
    rows = {(row.command.rstrip("."), *row.triggers) for row in for_this_system(choose(name, text.encode()).found)}
    return set(zip(COMMANDS, WANTED, strict=True)) <= rows


def listed(bullet: str, separator: str, keys_first: bool, keys: Sequence[str]) -> str:
    lines = []
    for number, (one, command) in enumerate(zip(keys, COMMANDS, strict=True), start=1):
        first, last = (one, command) if keys_first else (command, one)
        mark = f"{number}. " if bullet == "1. " else bullet
        lines.append(mark + (f"{first:<24}  {last}" if separator == "COLUMN" else f"{first}{separator}{last}"))
    return "\n".join(lines) + "\n"


@pytest.mark.parametrize("keys_first", [True, False])
@pytest.mark.parametrize("spelling", SPELLINGS)
def test_every_bullet_with_every_separator(spelling: str, keys_first: bool) -> None:
    lost = [
        (bullet, separator)
        for place, bullet in enumerate(BULLETS) for at, separator in enumerate(SEPARATORS)
        if not are_read("page.txt", HEADS[(place + at) % 4] + listed(bullet, separator, keys_first, SPELLINGS[spelling]))
    ]  # fmt: skip
    assert not lost


def marked(mark: str, keys: str) -> str:
    if mark == "caps":
        return "+".join(f"<kbd>{part}</kbd>" for part in re.split(r"\s*\+\s*|(?<=[a-z])-(?=\w)", keys))
    return f"<{mark}>{html.escape(keys)}</{mark}>" if mark else html.escape(keys)


@pytest.mark.parametrize("spelling", [name for name in SPELLINGS if name != "brackets"])
def test_every_element_of_a_page_with_every_mark(spelling: str) -> None:
    lost = []
    for name, element in ELEMENTS.items():
        before, row, after = element.split("|")
        for mark in MARKS if spelling != "emacs" else MARKS[:-1]:
            rows = [row.format(k=marked(mark, keys), c=command) for keys, command in zip(SPELLINGS[spelling], COMMANDS, strict=True)]
            page = f"<html><body><h1>Keyboard shortcuts</h1>\n{before}" + "\n".join(rows) + f"{after}</body></html>"
            if not are_read("page.html", page):
                lost.append((name, mark))
    assert not lost


@pytest.mark.parametrize("spelling", ["plus", "dash", "emacs"])
def test_every_block_of_markdown_with_every_mark(spelling: str) -> None:
    lost = []
    for name, (before, row, between) in BLOCKS.items():
        for mark in IN_MARKDOWN:
            rows = [row.format(k=mark.format(keys), c=command) for keys, command in zip(SPELLINGS[spelling], COMMANDS, strict=True)]
            if not are_read("keys.md", f"# Keyboard shortcuts\n\nThese are the keys.\n\n{before}{between.join(rows)}\n"):
                lost.append((name, mark))
    assert not lost


@pytest.mark.parametrize("spelling", ["plus", "dash", "emacs"])
def test_every_tag_of_a_manual_page(spelling: str) -> None:
    lost = []
    for name, tag in TAGS.items():
        rows = [tag.format(k=keys.replace("-", "\\-"), c=command) for keys, command in zip(SPELLINGS[spelling], COMMANDS, strict=True)]
        page = ".TH X 1\n.SH NAME\nx \\- charts\n.SH KEYS\nThese keys work in the window.\n" + "\n".join(rows) + "\n"
        if not are_read("x.1", page):
            lost.append(name)
    assert not lost
