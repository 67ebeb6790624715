"""File systems that cannot do everything: a real FAT volume, one without exchanges and links, a system whose watches are used up."""

from __future__ import annotations

import errno
import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.core.edit.commands import edit_command
from glimber.core.practice.tries import Try
from glimber.store import files
from glimber.store.faults import StoreError
from glimber.store.files import exchange_in_steps, move_into_free_place, write_atomically
from glimber.store.practice.log import open_log, read_practice
from glimber.store.saving import ChangedOnDisk
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import save_folio
from tests.helpers import NOON, tries_of, write_folio


@pytest.fixture
def volume(tmp_path: Path) -> Iterator[Path]:
    """A FAT volume of 40 MB, in an image that a process of its own serves."""
    if shutil.which("mkfs.fat") is None or shutil.which("fusefat") is None or not Path("/dev/fuse").exists():
        pytest.skip("dosfstools, fusefat or /dev/fuse is missing")
    image, place = tmp_path / "fat.img", tmp_path / "stick"
    place.mkdir()
    with image.open("wb") as file:
        file.truncate(40_000_000)
    subprocess.run(["mkfs.fat", str(image)], check=True, capture_output=True)
    done = subprocess.run(["fusefat", "-o", "rw+", str(image), str(place)], capture_output=True, text=True, check=False)
    if done.returncode or not place.is_mount():
        pytest.skip(f"a FAT volume cannot be mounted here: {done.stderr[-200:]}")
    try:
        yield place
    finally:
        subprocess.run(["fusermount", "-u", str(place)], check=True, capture_output=True)


def glimber(*arguments: str) -> Any:
    done = CliRunner().invoke(app, [*arguments, "--json"])
    assert done.exit_code == 0, (arguments, done.output, done.stderr)
    return json.loads(done.stdout)


def test_a_folio_lives_on_a_fat_volume(volume: Path, tmp_path: Path) -> None:
    """The driver loses what is in a folder that is renamed, so that no pack can be laid out there."""
    folder = write_folio(volume / "small", tried=tries_of("range-d", "split-42:draw:KeyD:tap", ["hit", "slip"] * 4))
    for key in ("KeyH", "KeyJ"):
        glimber("change", str(folder), "range-d", "--to", f"split-42:draw:{key}:tap", "--why", "nearer")
    assert str(open_folio(folder).folio.bindings["range-d"].trigger) == "split-42:draw:KeyJ:tap"
    assert len(read_practice(folder, "practice.db").changes) == 2 and len(list((folder / "backups").iterdir())) >= 2
    with open_log(folder, "practice.db") as log:
        log.add(*tries_of("undo", "Ctrl+Z", ["hit"] * 3))
        assert log.count(Try) == 11
    assert glimber("weigh", str(folder))["bindings"]
    glimber("pack", str(folder), str(volume / "p.glimber"))
    glimber("unpack", str(volume / "p.glimber"), str(tmp_path / "theirs"))
    assert str(open_folio(tmp_path / "theirs").folio.bindings["range-d"].trigger) == "split-42:draw:KeyJ:tap"
    left = [path.name for path in volume.rglob("*") if path.name.startswith((".saving", ".glimber"))]
    assert left == []


@pytest.fixture
def poor(monkeypatch: pytest.MonkeyPatch) -> None:
    """A file system without exchanges, links and modes."""

    def refused(*_: Any, **__: Any) -> None:
        raise OSError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr(files, "_rename", lambda *_: False)
    monkeypatch.setattr(os, "link", refused)
    monkeypatch.setattr(os, "fchmod", refused)


@pytest.mark.usefixtures("poor")
def test_without_exchanges_links_and_modes_it_is_saved_all_the_same(tmp_path: Path) -> None:
    opened = open_folio(write_folio(tmp_path / "small"))
    after = save_folio(opened, edit_command(opened.folio, "shoalwright/lead-line", label="Lead"), NOON)
    file = tmp_path / "small/programs/shoalwright.toml"
    assert "Lead" in file.read_text()
    file.write_text(file.read_text() + "# an editor\n")
    with pytest.raises(ChangedOnDisk):
        save_folio(after, edit_command(after.folio, "shoalwright/lead-line", label="Line"), NOON)
    assert file.read_text().endswith("# an editor\n") and not list(tmp_path.rglob(".saving*"))
    write_atomically(tmp_path / "new", b"x")
    assert (tmp_path / "new").read_bytes() == b"x"
    with pytest.raises(FileExistsError):
        move_into_free_place(tmp_path / "new", file)
    move_into_free_place(tmp_path / "new", tmp_path / "moved")
    assert (tmp_path / "moved").read_bytes() == b"x" and not (tmp_path / "new").exists()


@pytest.mark.parametrize("links", [True, False])
def test_files_are_exchanged_in_steps(tmp_path: Path, links: bool, request: pytest.FixtureRequest) -> None:
    if not links:
        request.getfixturevalue("poor")
    folder = tmp_path / "here"
    folder.mkdir()
    one, other = folder / "one", folder / "other"
    one.write_text("1")
    other.write_text("2")
    exchange_in_steps(one, other)
    assert (one.read_text(), other.read_text(), sorted(path.name for path in folder.iterdir())) == ("2", "1", ["one", "other"])


WATCHED = """
import sys, threading
from pathlib import Path
from glimber.store.system.watch import FolioWatch
folder = Path(sys.argv[1])
noticed = threading.Event()
watch = FolioWatch(folder, noticed.set)
watch.start()
file = folder / "folio.toml"
for number in range(60):
    file.write_text(file.read_text() + "# saved\\n")
    if noticed.wait(0.5):
        break
watch.stop()
print("noticed" if noticed.is_set() else "missed")
"""


@pytest.mark.parametrize("limit", ["max_inotify_instances", "max_inotify_watches"])
def test_where_no_watch_is_left_files_are_looked_at(tmp_path: Path, limit: str) -> None:
    folder = write_folio(tmp_path / "small")
    script = f"echo 0 > /proc/sys/user/{limit} || exit 77; exec {sys.executable} -c '{WATCHED}' {folder}"
    done = subprocess.run(["unshare", "-Ur", "sh", "-c", script], capture_output=True, text=True, check=False, timeout=120)
    if done.returncode == 77 or "unshare" in done.stderr:
        pytest.skip("no user namespace can be made here")
    assert (done.stdout.strip(), done.stderr) == ("noticed", "")


def test_a_folio_that_is_taken_away_while_it_is_read_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = write_folio(tmp_path / "small")

    def gone(path: Path) -> bytes:
        raise FileNotFoundError(path)

    monkeypatch.setattr("glimber.store.folder.read_file", gone)
    with pytest.raises(StoreError, match="was taken away just now"):
        open_folio(folder)
