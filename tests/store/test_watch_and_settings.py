"""Saved changes are noticed at once, by whatever way an editor saves; settings that cannot be read are as if not set."""

from __future__ import annotations

import threading
from pathlib import Path

from glimber.core.decide.summary import Row, Summary
from glimber.store.cache.snapshot import load_snapshot, save_snapshot
from glimber.store.settings import load_settings, remember, settings_file
from glimber.store.system.watch import FolioWatch
from tests.helpers import LAYOUT, write_folio


def test_saves_in_place_and_by_rename_are_noticed_and_others_are_not(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "f")
    noticed = threading.Event()
    watch = FolioWatch(folder, noticed.set)
    watch.start()
    try:
        layout = folder / "layouts" / "split-42.toml"
        noticed.wait(0.4)
        noticed.clear()
        layout.write_text(LAYOUT + "# in place\n")
        assert noticed.wait(1.0)
        noticed.clear()
        (folder / "layouts" / ".new").write_text(LAYOUT + "# by rename\n")
        (folder / "layouts" / ".new").replace(layout)
        assert noticed.wait(1.0)
        noticed.clear()
        (folder / "practice.db").write_text("x")
        (folder / "layouts" / "notes.txt").write_text("x")
        assert not noticed.wait(0.6)
    finally:
        watch.stop()


def test_settings_are_kept_and_nonsense_is_ignored() -> None:
    remember(last_room="weigh", theme="day")
    assert (load_settings().last_room, load_settings().theme, load_settings().computer_name) == ("weigh", "day", "bridge")
    settings_file().write_text('{"theme": 7, "last_room": "drill", "unknown": true}')
    assert (load_settings().last_room, load_settings().theme) == ("drill", "dark")
    settings_file().write_text("[1]")
    assert load_settings().theme == "dark"
    settings_file().write_bytes(b"\xff\xfe")
    assert load_settings().last_room == "cards"


def test_the_last_ledger_is_kept_for_the_next_start(tmp_path: Path) -> None:
    row = Row("s", "Add sounding", "S on Draw", "tide", "ring", 0.5, (1.0, 2.0, 3.0, 4.0), 10.0, None, "move", "solid", "w", None, 9)
    assert load_snapshot(tmp_path) is None
    save_snapshot(tmp_path, Summary((row,), 4, 1))
    assert load_snapshot(tmp_path) == Summary((row,), 4, 1)
    assert load_snapshot(tmp_path / "other") is None
