"""Foreign data is read in a process of its own, which ends whatever is in the data."""

from __future__ import annotations

import resource
import subprocess
import sys
import time
from pathlib import Path

import pytest

from glimber.readers.found import Options, StoppedError
from glimber.readers.process import read_apart
from glimber.readers.registry import choose

pytestmark = pytest.mark.slow

TABLE = b"| Command | Keys |\n|---|---|\n| Add sounding | Ctrl+Shift+S |\n| Zoom out | Alt+F7 |\n"
ALIASES = "a: &a [x, x, x, x, x, x, x, x, x]\n" + "".join(
    f"{name}: &{name} [{', '.join([f'*{before}'] * 9)}]\n" for before, name in zip("abcdefghi", "bcdefghij", strict=True)
)
HOSTILE = {
    "aliases.yaml": ALIASES, "itself.yaml": "a: &a\n  - *a\n", "parts.toml": ".".join(["a"] * 20_000) + ' = "x"\n',
    "attributes.xml": "<a " + " ".join(f'a{n}="Ctrl+{n}"' for n in range(20_000)) + "/>", "digits.json": '[{"key":' + "1" * 3_000_000 + "}]",
    "braces.json": "{" * 4_000_000, "spaces.json": "[ {\n" * 200_000, "deep.xml": "<a>" * 300_000, "braces.conf": "bind " + "{a,b}" * 60 + " x\n",
    "caps.md": f"# Keys\n\n- Press {'/'.join(['<kbd>a</kbd>'] * 200)} .\n\nPress {'/'.join(['<kbd>a</kbd>'] * 200)} .\n",
    "tables.py": "show(1)\n" + "| key | what |\n|--|--|\n" * 5_000,
}  # fmt: skip


def test_it_finds_what_is_found_here() -> None:
    apart, here = read_apart("keys.md", TABLE), choose("keys.md", TABLE)
    assert (apart.kind, apart.second) == (here.kind, here.second)
    assert apart.found.rows == here.found.rows and apart.found.ways == here.found.ways and apart.found.title == here.found.title
    assert [row.command for row in read_apart("x", TABLE, kind="markdown").found.rows] == ["Add sounding", "Zoom out"]


@pytest.mark.parametrize("name", HOSTILE)
def test_every_reading_ends_with_a_sentence(name: str) -> None:
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    found = read_apart(name, HOSTILE[name].encode()).found
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    spent = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    assert spent < 10 + 8 * 4 + 2
    assert found.problems or found.not_bindings
    for one in found.problems:
        assert "Exceeds the limit" not in one.text and "maximum recursion" not in one.text and "line 1 column" not in one.text


def test_a_reading_can_be_stopped_at_any_moment() -> None:
    begun = time.monotonic()

    def watch(count: int) -> None:
        if time.monotonic() - begun > 0.3:
            raise StoppedError

    with pytest.raises(StoppedError):
        read_apart("attributes.xml", HOSTILE["attributes.xml"].encode(), Options(watch=watch))


def test_a_group_whose_name_is_no_text_comes_back_without_one() -> None:
    text = 'format = "glimber-program/1"\nname = "Charts"\n[groups]\ng = { name = 5 }\n[commands]\na = { name = "Add", group = "g", shortcut = "F2" }\n'
    (row,) = read_apart("charts.toml", text.encode()).found.rows
    assert (row.command, row.group, row.triggers) == ("Add", None, ("F2",))


@pytest.mark.parametrize("answer", [b"", b"\xc1", b"\x93\x01\x02\x03"])
def test_an_answer_that_is_none_is_a_problem_of_the_source(answer: bytes, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    program = tmp_path / "python"
    program.write_text(f"#!/bin/sh\ncat > /dev/null\nprintf '{''.join(f'{chr(92)}{byte:03o}' for byte in answer)}'\n")
    program.chmod(0o755)
    monkeypatch.setattr("glimber.readers.process.sys.executable", str(program))
    (problem,) = read_apart("keys.csv", b"Command,Keys\nSave,F2\n").found.problems
    assert "gave an answer that is none" in problem.text


def test_a_lower_limit_of_whoever_reads_is_kept(tmp_path: Path) -> None:
    """A source that is large enough to be given more time is read in the time there is."""
    page = b"<table>" + b"".join(b"<tr><td>Sheet %d</td><td>Ctrl+F%d</td></tr>" % (n, n % 12 + 1) for n in range(200)) + b"</table>"
    path = tmp_path / "a.html"
    path.write_bytes(page + b"<!-- " + b"x" * 2_100_000 + b" -->")
    text = ("import resource, sys; resource.setrlimit(resource.RLIMIT_CPU, (11, 12)); from pathlib import Path; "
            "from glimber.readers.found import Options; from glimber.readers.process import read_apart; "
            "p = Path(sys.argv[1]); print(len(read_apart(p.name, p.read_bytes(), Options()).found.rows))")  # fmt: skip
    done = subprocess.run([sys.executable, "-c", text, str(path)], capture_output=True, text=True, check=False)
    assert done.stdout.strip() == "200", done.stderr
