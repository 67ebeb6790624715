"""Linked sources and where things can be set: files, the running system, and a desktop's settings played by a script."""

from __future__ import annotations

from pathlib import Path

import pytest

from glimber.core.model.folio import Source
from glimber.readers.registry import kind_of, read
from glimber.store.changed_sources import changed_outside
from glimber.store.faults import StoreError
from glimber.store.inplace.places import Place, inputrc, places_of
from glimber.store.system.sources import asked, path_of, read_source
from glimber.store.toml.reading import open_folio
from tests.helpers import FOLIO, write_folio

NOTES = "Command;Keys\nAdd sounding;Ctrl+Shift+S\n"
SETTINGS = r"""#!/bin/sh
cd "$(dirname "$0")/keys" || exit 1
name=$(printf '%s %s' "$2" "$3" | tr / _)
case "$1 $3" in
list-recursively*) for file in *; do printf '%s %s\n' "$file" "$(cat "$file")"; done ;;
get*) cat "$name" 2> /dev/null || { echo "No such key" >&2; exit 1; } ;;
set\ fixed*) echo "The key is not writable" >&2; exit 1 ;;
set*) printf '%s\n' "$4" > "$name" ;;
esac
"""


@pytest.fixture
def desktop(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The keys of a desktop, one a file."""
    (tmp_path / "bin/keys").mkdir(parents=True)
    (tmp_path / "bin/gsettings").write_text(SETTINGS)
    (tmp_path / "bin/gsettings").chmod(0o755)
    monkeypatch.setenv("PATH", f"{tmp_path / 'bin'}:/usr/bin:/bin")
    return tmp_path / "bin/keys"


def folio_with(folder: Path, sources: str) -> Path:
    write_folio(folder, {"folio.toml": f'{FOLIO}\n[bundles]\nCrown = ["Ctrl", "Alt", "Super"]\n{sources}'})
    (folder / "notes.csv").write_text(NOTES)
    (folder / "notes.bin").write_bytes(bytes(range(256)))
    return folder


@pytest.mark.parametrize(("source", "into", "kinds"), [
    ('path = "notes.csv"', None, [("csv", None)]), ('path = "notes.csv"\nprogram = "shoalwright"', "csv", [("csv", "shoalwright")]),
    ('path = "notes.csv"', "yaml", []), ('path = "notes.bin"', None, []), ('path = "gone.csv"', None, []),
    ('system = "gsettings"', None, [("gsettings", "everywhere")]),
    ('system = "gsettings"\nprogram = "shoalwright"', "gsettings", [("gsettings", "shoalwright")]),
    ('path = "notes.csv"', "gsettings", [("gsettings", "everywhere")]),
    ('system = "line-editor"\nprogram = "shoalwright"', None, [("line-editor", "shoalwright")]),
    ('path = "notes.csv"', "line-editor", [("line-editor", None)]),
])  # fmt: skip
def test_places_are_the_sources_that_can_be_written(tmp_path: Path, source: str, into: str | None, kinds: list[object]) -> None:
    opened = open_folio(folio_with(tmp_path / "small", f"[sources.notes]\n{source}\n[sources.again]\n{source}"))
    found = places_of(opened, into)
    assert [(one.kind, one.program) for one in found] == kinds
    assert all(one.path == {"csv": opened.folder / "notes.csv", "line-editor": inputrc()}.get(one.kind) for one in found)


def test_a_place_is_said_from_the_folio_or_from_home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HOME", str(tmp_path / "home"))
    said = {"small/notes.csv": "notes.csv", "home/keys/pad.csv": "~/keys/pad.csv", "other/pad.csv": f"{tmp_path}/other/pad.csv"}
    assert {path: Place("csv", None, tmp_path / path).brief(tmp_path / "small") for path in said} == said
    assert Place("gsettings", None, None).brief(tmp_path) == "the desktop's settings"


def test_a_file_goes_back_to_what_it_was_or_was_not(tmp_path: Path) -> None:
    place = Place("csv", None, tmp_path / "pad.csv")
    assert place.read() == b""
    place.write(b"", b"new")
    place.put_back(b"new", b"", was_there=False)
    place.put_back(b"new", b"", was_there=False)  # it is gone already
    assert not (tmp_path / "pad.csv").exists()
    place.write(b"", b"new")
    place.put_back(b"new", b"old", was_there=True)
    assert place.read() == b"old"
    with pytest.raises(StoreError, match="changed by somebody else meanwhile"):
        place.write(b"new", b"newer")
    assert place.read() == b"old"


def test_keys_of_the_desktop_are_set_all_or_none(desktop: Path) -> None:
    before = b"org.charts one 'a b'\norg.charts two 'b'\norg.charts fixed 'c'\n"
    for name, value in (("one", "'a b'"), ("two", "'b'"), ("fixed", "'c'")):
        (desktop / f"org.charts {name}").write_text(f"{value}\n")
    place = Place("gsettings", None, None)
    assert sorted(place.read().splitlines()) == sorted(before.splitlines())
    place.write(before, before.replace(b"'a b'", b"'A B'"))
    with pytest.raises(StoreError, match="one was changed by somebody else meanwhile; nothing was set there"):
        place.write(before, before.replace(b"'a b'", b"'B'"))
    now = before.replace(b"'a b'", b"'A B'")
    with pytest.raises(StoreError, match=r"the desktop's settings: .*not writable; nothing was set there"):
        place.write(now, now.replace(b"'A B'", b"'x'").replace(b"two 'b'", b"two 'y'").replace(b"'c'", b"'z'"))
    assert [(desktop / f"org.charts {name}").read_text() for name in ("one", "two", "fixed")] == ["'A B'\n", "'b'\n", "'c'\n"]
    place.put_back(now, before, was_there=True)
    assert (desktop / "org.charts one").read_text() == "'a b'\n"


def test_shortcuts_of_ones_own_are_read_where_the_listing_points(desktop: Path, tmp_path: Path) -> None:
    (desktop / "org.media custom-keybindings").write_text("['/own/a/', '/own/gone/']")
    for name, value in (("name", "'Tide table'"), ("binding", "'<Super>t'")):
        (desktop / f"org.media.custom-keybinding:_own_a_ {name}").write_text(value)
    (place,) = places_of(open_folio(folio_with(tmp_path / "small", '[sources.here]\nsystem = "gsettings"')))
    own = "org.media.custom-keybinding:/own/a/ "
    assert place.read().decode().splitlines()[-2:] == [f"{own}name 'Tide table'", f"{own}binding '<Super>t'"]


@pytest.mark.parametrize(("command", "said"), [
    (("nosuch", "x"), "nosuch is not installed on this computer"),
    (("sh", "-c", "exit 0"), "sh -c exit 0: printed nothing"),
    (("sh", "-c", "echo it will not >&2; exit 3"), ": it will not"),
    (("sh", "set"), "sh set: "),
])  # fmt: skip
def test_a_program_that_says_nothing_has_failed(command: tuple[str, ...], said: str) -> None:
    with pytest.raises(StoreError) as told:
        asked(command)
    assert said in str(told.value)
    assert asked(("sh", "-c", "echo half; exit 1")) == b"half\n"  # unless it has printed something


@pytest.mark.parametrize(("source", "rows", "said"), [
    ('path = "notes.csv"', "", []),
    ('path = "notes.csv"', "Swell chart;F7\n", ["notes: one row to import"]),
    ('path = "notes.csv"\nprogram = "shoalwright"', "Swell chart;F7\nBerth list;F8\n", ["notes: two rows to import"]),
    ('path = "gone.csv"', "", ["notes: gone.csv: cannot be read"]),
])  # fmt: skip
def test_what_changed_outside_is_counted(tmp_path: Path, source: str, rows: str, said: list[str]) -> None:
    folder, asked_for = folio_with(tmp_path / "small", f"[sources.notes]\n{source}"), []
    (folder / "notes.csv").write_text(NOTES + rows)
    folio = open_folio(folder).folio
    found = changed_outside(folio, folder, lambda: asked_for.append(1))
    assert asked_for and len(found) == len(said)
    assert all(text.replace(f"{folder}/", "").startswith(one) for text, one in zip(found, said, strict=True))


def test_paths_are_the_persons_own_or_within_the_folio(tmp_path: Path) -> None:
    assert path_of(Source("a", path="notes/pad.csv"), tmp_path) == tmp_path / "notes" / "pad.csv"
    assert path_of(Source("a", path="~/pad.csv"), tmp_path) == Path("~/pad.csv").expanduser()
    assert path_of(Source("a", system="gsettings"), tmp_path) is None


def test_a_file_that_is_not_there_and_a_source_that_is_nothing(tmp_path: Path) -> None:
    with pytest.raises(StoreError, match=r"pad\.csv: cannot be read"):
        read_source(Source("a", path="pad.csv"), tmp_path)
    with pytest.raises(StoreError, match="none of path, system and running"):
        read_source(Source("a"), tmp_path)


def test_the_running_shells_line_editor(tmp_path: Path) -> None:
    name, data = read_source(Source("a", system="line-editor"), tmp_path)
    assert kind_of(name, data) == "line-editor"
    rows = {row.command: row.triggers for row in read("line-editor", data).rows}
    assert "Ctrl+A" in rows["beginning-of-line"] and rows["abort"]
