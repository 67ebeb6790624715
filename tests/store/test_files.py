"""How a file gets into its place: written, forced to the disk, renamed, and the folder forced too, in that order; backups."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import pytest

from glimber.core.edit.commands import edit_command
from glimber.store import files, saving
from glimber.store.backups import back_up
from glimber.store.faults import StoreError
from glimber.store.files import write_atomically
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import restore, save_folio
from tests.helpers import NOON, write_folio


@pytest.fixture
def steps(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What was done to the disk, in order."""
    found: list[str] = []
    fsync, replace = os.fsync, Path.replace

    def synced(descriptor: int) -> None:
        target = Path(f"/proc/self/fd/{descriptor}").readlink()
        found.append(f"fsync folder {target.name}" if target.is_dir() else f"fsync {target.read_text()}")
        fsync(descriptor)

    def renamed(path: Path, to: Any) -> Path:
        found.append(f"rename to {Path(to).name}")
        return replace(path, to)

    monkeypatch.setattr(os, "fsync", synced)
    monkeypatch.setattr(Path, "replace", renamed)
    swap = saving.exchange

    def exchanged(one: Path, other: Path) -> bool:
        found.append(f"exchange with {other.name}")
        return swap(one, other)

    monkeypatch.setattr(saving, "exchange", exchanged)
    return found


def test_written_forced_renamed_and_the_folder_forced(tmp_path: Path, steps: list[str]) -> None:
    write_atomically(tmp_path / "draw.toml", b"new")
    assert steps == ["fsync new", "rename to draw.toml", f"fsync folder {tmp_path.name}"]
    assert not list(tmp_path.glob(".saving-*"))


def test_a_save_makes_its_copy_first_and_forces_both(tmp_path: Path, steps: list[str]) -> None:
    opened = open_folio(write_folio(tmp_path / "small"))
    steps.clear()
    save_folio(opened, edit_command(opened.folio, "shoalwright/lead-line", label="Lead"), NOON)
    assert [step.partition(" ")[0] for step in steps] == ["fsync", "rename", "fsync", "fsync", "exchange", "fsync"]
    assert steps[1] == "rename to 2026-11-20-120000-programs-shoalwright.toml" and steps[2] == "fsync folder backups"
    assert steps[4] == "exchange with shoalwright.toml" and steps[5] == "fsync folder programs"


@pytest.mark.parametrize("mode", [0o600, 0o644, 0o640])
def test_the_mode_of_a_file_stays(tmp_path: Path, mode: int) -> None:
    path = tmp_path / "draw.toml"
    path.write_text("old")
    path.chmod(mode)
    write_atomically(path, b"new")
    assert path.stat().st_mode & 0o777 == mode and path.read_text() == "new"


def test_two_copies_of_one_moment_are_both_kept(tmp_path: Path) -> None:
    for text in ("one", "two", "three"):
        (tmp_path / "a.toml").write_text(text)
        back_up(tmp_path, "a.toml", NOON)
    back_up(tmp_path, "gone.toml", NOON)
    assert sorted(path.read_text() for path in (tmp_path / "backups").iterdir()) == ["one", "three", "two"]


def test_restoring_gives_the_bytes_back_new_files_go_and_what_was_there_is_copied(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "small")
    before = open_folio(folder)
    (folder / "cards").mkdir()
    (folder / "cards/extra.toml").write_text(
        'format = "glimber-card/1"\ntitle = "Extra"\nkind = "board"\nboard = "split-42"\nlayers = ["draw"]\n'
    )
    program = folder / "programs/shoalwright.toml"
    program.write_text(program.read_text() + "\n# mine\n")
    after = open_folio(folder)
    assert restore(after, before, NOON) is before
    assert open_folio(folder).texts == before.texts and not (folder / "cards/extra.toml").exists()
    copies = {path.name: path.read_bytes() for path in (folder / "backups").iterdir()}
    assert copies == {
        "2026-11-20-120000-cards-extra.toml": after.texts["cards/extra.toml"],
        "2026-11-20-120000-programs-shoalwright.toml": after.texts["programs/shoalwright.toml"],
    }
    with pytest.raises(Exception, match="changed"):  # what was read is not what is there now
        program.write_text("other")
        restore(after, before, NOON)
    assert program.read_text() == "other"


def test_a_save_made_while_the_bytes_are_written_stays(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """An editor saves while a slow disk takes the new bytes: the editor's are kept, and nothing is left beside them."""
    path, real_new = tmp_path / "keys.conf", files.new_beside
    path.write_bytes(b"old")

    def slowly(target: Path, data: bytes, mode: int | None = None) -> Path:
        made = real_new(target, data, mode)
        path.write_bytes(b"the editor's")
        return made

    monkeypatch.setattr(files, "new_beside", slowly)
    with pytest.raises(StoreError, match="changed by somebody else meanwhile"):
        files.replace_if_unchanged(path, b"old", b"new")
    assert path.read_bytes() == b"the editor's" and not [one for one in tmp_path.iterdir() if one.name.startswith(files.SAVING)]


def test_links_and_second_names_are_kept(tmp_path: Path) -> None:
    path, second, link = tmp_path / "keys.conf", tmp_path / "second.conf", tmp_path / "link.conf"
    path.write_bytes(b"old")
    second.hardlink_to(path)
    link.symlink_to(path)
    files.replace_if_unchanged(link, b"old", b"newer")
    assert link.is_symlink() and path.read_bytes() == second.read_bytes() == b"newer" and path.samefile(second)
    nowhere = tmp_path / "later.conf"
    nowhere.symlink_to(tmp_path / "target.conf")
    files.replace_if_unchanged(nowhere, b"", b"made")
    assert nowhere.is_symlink() and (tmp_path / "target.conf").read_bytes() == b"made"
    with pytest.raises(StoreError):
        files.replace_if_unchanged(path, b"old", b"x")
