"""Several files and the history, or none: failures at every step, kills at every step, editors that save in between."""

from __future__ import annotations

import codecs
import errno
import json
import os
import signal
import subprocess
import sys
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.edit.commands import edit_command
from glimber.core.edit.edit import move_binding
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.tries import Change
from glimber.store import files, saving
from glimber.store.backups import back_up
from glimber.store.change_log import noting
from glimber.store.faults import StoreError
from glimber.store.files import read_file, sweep, write_atomically
from glimber.store.folder import JOURNAL
from glimber.store.practice.journal_records import note_lines
from glimber.store.practice.jsonl import to_json
from glimber.store.practice.log import open_log
from glimber.store.saving import ChangedOnDisk, Note, Part, recover, tidy, write_together
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import keep_aside, save_folio
from tests.helpers import NOON, text_of

A, B, NEW, GONE = "layouts/split-42.toml", "programs/shoalwright.toml", "cards/new.toml", "programs/everywhere.toml"


@pytest.fixture(params=[True, False], ids=["exchanging", "by links"])
def system(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """A file system that exchanges two files in one moment, and one that knows neither that nor a rename that spares what is there."""
    if not request.param:
        monkeypatch.setattr(files, "_rename", lambda *_: False)


def held(folder: Path) -> dict[str, bytes]:
    """Every file of the folio outside backups/, and nothing that a save leaves beside them."""
    return {
        str(path.relative_to(folder)): path.read_bytes()
        for path in sorted(folder.rglob("*"))
        if path.is_file() and "backups" not in path.parts and not path.name.startswith("practice.db")
    }


def parts(folder: Path) -> list[Part]:
    old = held(folder)
    return [Part(A, old[A], b"a"), Part(B, old[B], b"b"), Part(NEW, None, b"new"), Part(GONE, old[GONE], None)]


def after(folder: Path) -> dict[str, bytes]:
    found = {**held(folder), A: b"a", B: b"b", NEW: b"new"}
    del found[GONE]
    return found


@pytest.mark.usefixtures("system")
def test_all_parts_are_written_with_a_copy_of_each(folder: Path) -> None:
    before, wanted = held(folder), after(folder)
    write_together(folder, parts(folder), NOON)
    assert held(folder) == wanted
    copies = {path.name.removeprefix("2026-11-20-120000-"): path.read_bytes() for path in (folder / "backups").iterdir()}
    assert copies == {name.replace("/", "-"): before[name] for name in (A, B, GONE)}


@pytest.mark.parametrize("failing", range(4))
@pytest.mark.usefixtures("system")
def test_a_part_that_cannot_be_written_leaves_nothing_changed(folder: Path, monkeypatch: pytest.MonkeyPatch, failing: int) -> None:
    before, go, done, synced, sync = held(folder), saving._Item.go, list[str](), list[Path](), saving.sync_folder

    def fails(item: Any) -> None:
        if len(done) == failing:
            raise OSError(errno.ENOSPC, "No space left on device", *(["a file"] if failing else []))
        done.append(item.name)
        go(item)

    def syncs(folder: Path) -> None:
        synced.append(folder)
        sync(folder)

    monkeypatch.setattr(saving._Item, "go", fails)
    monkeypatch.setattr(saving, "sync_folder", syncs)
    with pytest.raises(StoreError, match=f"^{'a file' if failing else folder}: cannot be written .No space left on device.; nothing was"):
        write_together(folder, parts(folder), NOON)
    gone_and_back = [folder / Path(name).parent for name in done]
    assert held(folder) == before and all(synced.count(one) >= 2 * gone_and_back.count(one) for one in gone_and_back)


@pytest.mark.parametrize("error", [StoreError("the log is full"), RuntimeError("odd"), KeyboardInterrupt()])
@pytest.mark.usefixtures("system")
def test_a_history_that_cannot_be_written_leaves_nothing_changed(folder: Path, error: BaseException) -> None:
    before = held(folder)

    def commit() -> None:
        assert held(folder)[A] == b"a"
        raise error

    with pytest.raises(type(error)):
        write_together(folder, parts(folder), NOON, Note("practice.db", (), commit))
    assert held(folder) == before


@pytest.mark.parametrize("name", [A, B, GONE])
@pytest.mark.usefixtures("system")
def test_a_file_that_was_saved_since_it_was_read_is_not_written_over(folder: Path, name: str) -> None:
    mine = parts(folder)
    (folder / name).write_bytes(b"an editor's")
    before = held(folder)
    with pytest.raises(ChangedOnDisk, match=name):
        write_together(folder, mine, NOON)
    assert held(folder) == before


@pytest.mark.parametrize("way", ["in place", "by a rename"])
@pytest.mark.parametrize("name", [A, NEW])
@pytest.mark.usefixtures("system")
def test_a_save_in_the_very_last_moment_is_kept(folder: Path, monkeypatch: pytest.MonkeyPatch, name: str, way: str) -> None:
    """Between the last look at the file and its exchange: the editor's is in place, ours is not told to be saved."""
    target, before = folder / name, held(folder)
    (folder / "cards").mkdir(exist_ok=True)
    real = saving._digest_at
    looks: list[Path] = []

    def looked(path: Path) -> str | None:
        found = real(path)
        if path == target.resolve() or path == target:
            looks.append(path)
            if len(looks) == 1:
                save(target, b"an editor's", way)
        return found

    monkeypatch.setattr(saving, "_digest_at", looked)
    if name == NEW:  # of a new file there is no look before: it is there when ours is to be put
        save(target, b"an editor's", way)
        monkeypatch.setattr(saving, "read_if_there", lambda path: None if path == target else files.read_if_there(path))
    with pytest.raises(ChangedOnDisk):
        write_together(folder, [Part(name, before.get(name), b"ours"), Part(B, before[B], b"b")], NOON)
    assert target.read_bytes() == b"an editor's" and held(folder)[B] == before[B]
    assert set(held(folder)) == {*before, name}


def save(path: Path, data: bytes, way: str) -> None:
    if way == "in place":
        path.write_bytes(data)
    else:
        other = path.with_name("editor.tmp")
        other.write_bytes(data)
        other.replace(path)


KILLED = text_of("dies-while-saving.txt")
STEPS = 4 + 4 + 1 + 4 + 1
CHANGE = Change("c1", NOON, "bridge", "sounding-s", "move", "shoalwright/add-sounding", "a", "b", "why")


def killed(folder: Path, at: int, files: int = 4, noted: bool = True) -> int:
    """What a save comes to that is killed at a step of it, counted from 1; two a step: before it and after it."""
    command = [sys.executable, "-c", KILLED, str(folder), str(at), str(files), "noted" if noted else "bare"]
    return subprocess.run(command, check=False).returncode


def change_note(folder: Path) -> Note:
    def commit() -> None:
        with open_log(folder, "practice.db") as log:
            log.add(CHANGE)

    return Note("practice.db", (to_json(CHANGE),), commit)


def noted_in(folder: Path) -> list[Change]:
    with open_log(folder, "practice.db") as log:
        return log.records(Change)


def test_a_note_takes_the_place_of_what_is_known_by_its_id(folder: Path) -> None:
    with open_log(folder, "practice.db") as log:
        log.add(replace(CHANGE, why="no longer so"))
    note_lines(folder, "practice.db", [to_json(CHANGE)])
    assert noted_in(folder) == [CHANGE]


@pytest.mark.parametrize("at", range(1, 2 * STEPS + 1))
def test_a_kill_at_any_step_ends_in_all_or_nothing(folder: Path, at: int) -> None:
    """Files and history agree after the next start, and nothing is left lying about."""
    before, wanted = held(folder), after(folder)
    assert killed(folder, at) == 9
    tidy(folder)
    assert (held(folder), noted_in(folder)) in ((before, []), (wanted, [CHANGE]))
    begun = at > 2 * (4 + 4 + 1) - 1  # the journal was there
    assert (held(folder) == wanted) == begun


@pytest.mark.parametrize(("files", "noted"), [(2, False), (1, True)])
def test_two_files_or_one_and_a_note_are_finished_after_a_kill(folder: Path, files: int, noted: bool) -> None:
    """Killed when the first file is in place: what is more than one file has a journal."""
    old = held(folder)
    assert killed(folder, 2 * (files + files + 1 + 1), files, noted) == 9
    found = held(folder)
    assert {name: found[name] for name in old} == {**old, A: b"a"} and noted_in(folder) == []
    tidy(folder)
    assert held(folder) == {**old, A: b"a", B: b"b" if files == 2 else old[B]} and noted_in(folder) == [CHANGE] * noted


def test_the_table_of_kills_reaches_the_very_end(folder: Path) -> None:
    wanted = after(folder)
    assert killed(folder, 2 * STEPS + 1) == 0 and held(folder) == wanted


def test_what_was_cut_short_is_undone_where_somebody_saved_since(folder: Path) -> None:
    before = held(folder)
    assert killed(folder, 2 * 10 + 1) == 9 and held(folder)[A] == b"a"  # the first is exchanged, the second is not
    (folder / B).write_bytes(b"an editor's")
    recover(folder)
    assert held(folder) == {**before, B: b"an editor's"}
    kept = {path.name.partition("-unsaved-")[2]: path.read_bytes() for path in (folder / "backups").glob("*-unsaved-*")}
    assert kept == {A.replace("/", "-"): b"a", B.replace("/", "-"): b"b", NEW.replace("/", "-"): b"new"}


@pytest.mark.parametrize(
    "journal",
    [
        b"", b"{", b"[]", b'{"format": "glimber-saving/1"}', b'{"format": "other/1", "items": [], "note": null}',
        b'{"format": "glimber-saving/1", "items": [["../outside.toml", ".saving-x", null, "a"]], "note": null}',
        b'{"format": "glimber-saving/1", "items": [["layouts/../../outside.toml", ".saving-x", null, "a"]], "note": null}',
        b'{"format": "glimber-saving/1", "items": [["folio.toml", "../outside", null, "a"]], "note": null}',
        b'{"format": "glimber-saving/1", "items": [["folio.toml", "other", null, "a"]], "note": null}',
        b'{"format": "glimber-saving/1", "items": [[1, 2, 3, 4]], "note": null}',
    ],
)  # fmt: skip
def test_a_journal_from_elsewhere_moves_nothing(folder: Path, journal: bytes) -> None:
    """A folder may be somebody else's: its journal must not lead out of it."""
    (folder.parent / "outside.toml").write_bytes(b"not theirs")
    before = held(folder)
    (folder / JOURNAL).write_bytes(journal)
    recover(folder)
    assert held(folder) == before and (folder.parent / "outside.toml").read_bytes() == b"not theirs"


@pytest.mark.parametrize(("name", "goes"), [
    ("cards/gone.toml", True), ("cards/notes.txt", False), ("cards/.notes.toml", False), ("notes.toml", False), ("icons/notes.toml", False),
])  # fmt: skip
def test_a_journal_takes_only_a_folio_s_own_files_away(folder: Path, name: str, goes: bool) -> None:
    (folder / name).parent.mkdir(exist_ok=True)
    (folder / name).write_bytes(b"theirs")
    items = [[name, ".saving-x", sha256(b"theirs").hexdigest(), None]]
    (folder / JOURNAL).write_text(json.dumps({"format": "glimber-saving/1", "items": items, "note": None}))
    recover(folder)
    assert (folder / name).exists() != goes and not (folder / JOURNAL).exists()


def test_a_folio_that_is_being_written_is_read_when_that_has_ended(folder: Path) -> None:
    import threading

    began, end, seen = threading.Event(), threading.Event(), list[bytes]()

    def commit() -> None:
        began.set()
        assert end.wait(5)

    writer = threading.Thread(target=write_together, args=(folder, parts(folder), NOON, Note("practice.db", (), commit)))
    writer.start()
    assert began.wait(5)
    reader = threading.Thread(target=lambda: (recover(folder), seen.append((folder / A).read_bytes())))
    reader.start()
    reader.join(0.2)
    assert reader.is_alive() and not seen
    end.set()
    writer.join(5)
    reader.join(5)
    assert seen == [b"a"] and not (folder / JOURNAL).exists()


# What stays as it was


def test_a_link_stays_a_link_and_its_file_is_written(folder: Path, tmp_path: Path) -> None:
    elsewhere = tmp_path / "dotfiles" / "shoalwright.toml"
    elsewhere.parent.mkdir()
    (folder / B).rename(elsewhere)
    (folder / B).symlink_to(elsewhere)
    opened = open_folio(folder)
    save_folio(opened, edit_command(opened.folio, "shoalwright/lead-line", label="Lead"), NOON)
    assert (folder / B).is_symlink() and 'label = "Lead"' in elsewhere.read_text()
    write_atomically(folder / B, b"whole")
    assert (folder / B).is_symlink() and elsewhere.read_bytes() == b"whole"


@pytest.mark.parametrize("mode", [0o600, 0o640, 0o444, 0o755])
def test_modes_stay_in_the_file_and_in_its_copy(folder: Path, mode: int) -> None:
    opened = open_folio(folder)
    (folder / B).chmod(mode)
    save_folio(opened, edit_command(opened.folio, "shoalwright/lead-line", label="Lead"), NOON)
    (copy,) = (folder / "backups").iterdir()
    assert [(path.stat().st_mode & 0o7777) for path in (folder / B, copy)] == [mode, mode]


@pytest.mark.parametrize("mark", [b"", codecs.BOM_UTF8])
@pytest.mark.parametrize("ending", [b"\n", b"\r\n"])
def test_the_mark_of_utf8_and_the_line_ends_stay(folder: Path, mark: bytes, ending: bytes) -> None:
    text = mark + (folder / B).read_bytes().replace(b"\n", ending)
    (folder / B).write_bytes(text)
    opened = open_folio(folder)
    again = save_folio(opened, edit_command(opened.folio, "shoalwright/lead-line", label="Lead"), NOON)
    written = (folder / B).read_bytes()
    assert written.startswith(mark) and written.count(b"\n") == written.count(ending) and b'label = "Lead"' in written
    (aside,) = keep_aside(opened, again.folio, NOON)  # where it cannot be saved, the same bytes lie beside the copies
    assert aside.read_bytes() == written and aside.parent == folder / "backups" and "unsaved-programs-shoalwright" in aside.name
    back = save_folio(again, opened.folio, NOON)
    assert (folder / B).read_bytes() == text and back.folio == opened.folio


@given(st.text(st.sampled_from("ab\r\n#ü"), max_size=30))
def test_line_ends_that_are_mixed_are_left_alone(text: str) -> None:
    """Only the lines of an edit differ; TOML itself allows a carriage return nowhere but before a line feed."""
    from glimber.store.toml.writing import _edited_bytes

    comment = "".join(f"# {line}\n" for line in text.replace("\r", "").split("\n"))
    for whole in (comment, comment.replace("\n", "\r\n"), comment.replace("\n", "\r\n", 1)):
        data = f'{whole}name = "a"\n'.encode()
        changed = _edited_bytes(data, {"name": "a"}, {"name": "b"})
        assert changed == data.replace(b'"a"', b'"b"')


# Copies


def test_only_our_own_copies_are_counted_and_pruned(folder: Path) -> None:
    backups = folder / "backups"
    backups.mkdir(exist_ok=True)
    theirs = [backups / name for name in ("a notes.txt", "0000-first", "2026-01-01-000000", "zz", "2026-1-1-000000-x.toml")]
    for path in theirs:
        path.write_text("theirs")
    (backups / "2020-01-01-000000-folder.toml").mkdir()
    ours = [backups / f"2026-01-{day:02}-{hour:02}0000-a.toml" for day in range(1, 12) for hour in range(20)]
    for path in ours:
        path.write_text("ours")
    back_up(folder, A, NOON)
    assert all(path.exists() for path in theirs) and (backups / "2020-01-01-000000-folder.toml").is_dir()
    assert [path for path in ours if path.exists()] == ours[-1:]  # one of the month


@pytest.mark.parametrize(("name", "goes"), [
    (".saving-abc", True), (f".saving-{os.uname().nodename}.999999999-x", True), (f".saving-{os.uname().nodename}.{os.getpid()}-x", False),
    (".saving-another-computer.1-x", False), ("saving-abc", False), (".savings", False),
    (f".saving-{os.uname().nodename}.x-x", True), (".saving-.1-x", True),
])  # fmt: skip
def test_leftovers_of_dead_saves_go(folder: Path, name: str, goes: bool) -> None:
    left = folder / "layouts" / name
    left.write_text("half")
    open_folio(folder)
    assert left.exists() != goes


def test_sweeping_a_folder_that_is_not_there(tmp_path: Path) -> None:
    sweep(tmp_path / "gone")
    tidy(tmp_path / "gone")
    assert not (tmp_path / "gone").exists()


# Reading


def make_pipe(path: Path) -> None:
    os.mkfifo(path)


def make_socket(path: Path) -> None:
    import socket

    with socket.socket(socket.AF_UNIX) as end:
        end.bind(str(path))


@pytest.mark.parametrize("make", [
    make_pipe, make_socket, Path.mkdir, lambda path: path.symlink_to("/dev/zero"), lambda path: path.symlink_to("/dev/tty"),
    lambda path: path.symlink_to(path.name),
])  # fmt: skip
def test_only_regular_files_are_read_and_nothing_is_waited_for(tmp_path: Path, make: Callable[[Path], None]) -> None:
    path = tmp_path / "folio.toml"
    make(path)
    signal.alarm(10)
    with pytest.raises(StoreError, match=r"expected a regular file|cannot be read"):
        read_file(path)
    signal.alarm(0)


@pytest.mark.parametrize("more", [-1, 0, 1])
def test_the_largest_file(tmp_path: Path, more: int) -> None:
    path = tmp_path / "large.toml"
    path.write_bytes(b"x" * (1000 + more))
    if more > 0:
        with pytest.raises(StoreError, match="larger than"):
            read_file(path, 1000)
    else:
        assert len(read_file(path, 1000)) == 1000 + more


def test_a_move_writes_its_history_with_its_file(folder: Path) -> None:
    opened = open_folio(folder)
    moved = move_binding(opened.folio, "sounding-s", parse_trigger("split-42:draw:KeyA:tap")).folio
    with noting(folder, opened.folio, moved, {}, NOON, "bridge") as note:
        assert note is not None
        save_folio(opened, moved, NOON, note=note)
    with open_log(folder, "practice.db") as log:
        assert [one.binding for one in log.records(Change)] == ["sounding-s"]
    with noting(folder, moved, moved, {}, NOON, "bridge") as note:
        assert note is None
