"""Changes set where they belong: in files, in a real line editor, in real desktop settings; and put back."""

from __future__ import annotations

import json
import os
import pty
import select
import shutil
import subprocess
import sys
import time
from contextlib import nullcontext
from datetime import timedelta
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.core.practice.tries import Change
from glimber.core.session.pending import open_changes
from glimber.store.faults import StoreError
from glimber.store.folder import Opened
from glimber.store.inplace import places, records, setting
from glimber.store.inplace.places import inputrc
from glimber.store.practice.log import open_log, read_practice
from glimber.store.toml.reading import open_folio
from tests.helpers import FOLIO, LAYOUT, NOON, PROGRAM, folio_of, text_of, write_folio

NOTES = "Command;Keys\nAdd sounding;Ctrl+Shift+S\nTide table;F9\nName strait;Ctrl+K Ctrl+S\n"
EDITOR = """format = "glimber-program/1"
name = "Line editor"
[commands]
undo = { name = "undo", shortcut = "Ctrl+_" }
backward-kill-line = { name = "backward-kill-line", shortcut = "Ctrl+X Backspace" }
"""
SOURCES = '\n[sources.notes]\npath = "notes.csv"\nprogram = "shoalwright"\n[sources.editor]\nsystem = "line-editor"\nprogram = "editor"\n'


@pytest.fixture
def opened(tmp_path: Path) -> Opened:
    folder = write_folio(
        tmp_path / "small",
        {"folio.toml": FOLIO + '\n[bundles]\nCrown = ["Ctrl", "Alt", "Super"]\n' + SOURCES, "programs/editor.toml": EDITOR},
    )
    (folder / "notes.csv").write_text(NOTES)
    return open_folio(folder)


def run(*arguments: str, status: int = 0) -> Any:
    result = CliRunner().invoke(app, [*arguments, "--json"])
    assert result.exit_code == status, (result.output, result.stderr, result.exception)
    return json.loads(result.stdout) if status == 0 else result.stderr


def changed(folder: Path, binding: str, to: str) -> None:
    run("change", str(folder), binding, "--to", to, "--why", "nearer")


def waiting(folder: Path) -> list[str]:
    return [one.binding for one in open_changes(read_practice(folder, "practice.db").changes)]


def test_shown_then_set_then_ticked_then_put_back(opened: Opened) -> None:
    folder = str(opened.folder)
    changed(opened.folder, "add-sounding", "Ctrl+Alt+S")
    changed(opened.folder, "sounding-s", "split-42:draw:KeyW:tap")
    shown = run("set", folder, "--dry-run")
    assert [one["binding"] for one in shown["set"]] == ["add-sounding"]
    assert "-Add sounding;Ctrl+Shift+S" in shown["diff"] and "+Add sounding;Ctrl+Alt+S" in shown["diff"]
    assert (opened.folder / "notes.csv").read_text() == NOTES and waiting(opened.folder) == ["add-sounding", "sounding-s"]
    done = run("set", folder)
    assert done["set"][0] | {"where": ""} == {
        "binding": "add-sounding", "command": "Add sounding", "program": "shoalwright", "old": "Ctrl+Shift+S",
        "new": "Ctrl+Alt+S", "set_at": None, "writer": "csv", "where": "",
    }  # fmt: skip
    (left,) = done["left"]
    assert left["binding"] == "sounding-s" and "board itself" in left["why"]
    assert (left["old"], left["new"]) == ("split-42:draw:KeyS:tap", "split-42:draw:KeyW:tap")
    assert (opened.folder / "notes.csv").read_text() == NOTES.replace("Ctrl+Shift+S", "Ctrl+Alt+S")
    assert waiting(opened.folder) == ["sounding-s"]
    back = run("set", folder, "--back")
    assert back["back"] == ["add-sounding"] and "+Add sounding;Ctrl+Shift+S" in back["diff"]
    assert (opened.folder / "notes.csv").read_text() == NOTES and waiting(opened.folder) == ["add-sounding", "sounding-s"]
    assert "nothing that was set" in run("set", folder, "--back", status=2)


def test_what_was_changed_since_is_not_put_back_over(opened: Opened) -> None:
    changed(opened.folder, "add-sounding", "Ctrl+Alt+S")
    run("set", str(opened.folder))
    (opened.folder / "notes.csv").write_text("mine\n")
    assert "was changed since" in run("set", str(opened.folder), "--back", status=2)
    assert (opened.folder / "notes.csv").read_text() == "mine\n"
    (record,) = records.record_folders()
    for broken, told in (("{", "cannot be read"), ("[]", "cannot be read as a record of what was set .Expected `object`")):
        (record / records.FILE).write_text(broken)
        with pytest.raises(StoreError, match=f"{records.FILE}: {told}"):
            records.read_record(record)
        assert "nothing that was set" in run("set", str(opened.folder), "--back", status=2)


def test_nothing_is_ticked_where_somebody_else_saves_meanwhile(opened: Opened) -> None:
    changed(opened.folder, "add-sounding", "Ctrl+Alt+S")
    now = open_folio(opened.folder)
    with open_log(opened.folder, "practice.db") as log:
        plan = setting.plan_setting(now, log.records(Change), "bridge")
        (opened.folder / "notes.csv").write_text(NOTES + "Quay list;F3\n")
        with pytest.raises(setting.StoreError, match="changed by somebody else"):
            setting.carry_out(now, plan, log, NOON)
    assert waiting(opened.folder) == ["add-sounding"] and "F3" in (opened.folder / "notes.csv").read_text()


@pytest.mark.parametrize(("arguments", "said"), [
    (("--into", "telex"), "not a writer"),
    (("--program", "nobody"), "not a program"),
    (("--program", "everywhere"), "no linked source of Everywhere can be written"),
])  # fmt: skip
def test_what_is_asked_for_wrongly_is_told(opened: Opened, arguments: tuple[str, str], said: str) -> None:
    assert said in run("set", str(opened.folder), *arguments, status=2)


def test_all_bindings_of_a_program_are_set_where_they_differ(opened: Opened) -> None:
    (opened.folder / "notes.csv").write_text(NOTES.replace("Ctrl+Shift+S", "F2").replace("Ctrl+K Ctrl+S", "Ctrl+K Ctrl+N"))
    found = run("set", str(opened.folder), "--program", "shoalwright")
    assert {(one["binding"], one["old"], one["new"]) for one in found["set"]} == {
        ("add-sounding", "F2", "Ctrl+Shift+S"), ("name-strait", "Ctrl+K Ctrl+N", "Ctrl+K Ctrl+S")}  # fmt: skip
    assert {one["binding"] for one in found["left"]} == {"lead-line", "tide-table"}  # not in the list; a key by its place
    assert (opened.folder / "notes.csv").read_text() == NOTES


def test_what_has_no_source_is_left_with_its_reason(opened: Opened) -> None:
    changed(opened.folder, "show-desktop", "Super+M")
    changed(opened.folder, "add-sounding", "Ctrl+Alt+S")
    done = run("set", str(opened.folder), "--dry-run")
    assert [(one["binding"], one["why"]) for one in done["left"]] == [("show-desktop", "no linked source of Everywhere can be written")]
    assert [one["binding"] for one in done["set"]] == ["add-sounding"]


def test_each_of_two_keys_of_a_command_takes_the_place_of_another(opened: Opened) -> None:
    file = opened.folder / "programs/shoalwright.toml"
    file.write_text(
        file.read_text().replace(
            'shortcut = "Ctrl+K Ctrl+L"', 'bindings = [{ trigger = "F6" }, { trigger = "F8" }, { trigger = "F9", computers = ["another"] }]'
        )
    )
    (opened.folder / "notes.csv").write_text(NOTES + "lead LINE;F11 or F12\n")
    found = run("set", str(opened.folder), "--program", "shoalwright", "--dry-run")
    assert {(one["old"], one["new"]) for one in found["set"]} == {("F11", "F6"), ("F12", "F8")}


class Killed(BaseException):
    """The process ends here."""


@pytest.mark.parametrize("step", range(10))
def test_a_kill_between_any_two_steps_sets_all_places_or_none(opened: Opened, step: int, monkeypatch: pytest.MonkeyPatch) -> None:
    changed(opened.folder, "add-sounding", "Ctrl+Alt+S")
    changed(opened.folder, "undo", "Ctrl+T")
    inputrc().write_text("# mine\n")
    left = [step]

    def dying(real: Any) -> Any:
        def call(*arguments: Any, **named: Any) -> Any:
            if not left[0]:
                raise Killed
            left[0] -= 1
            return real(*arguments, **named)

        return call

    now = open_folio(opened.folder)
    with monkeypatch.context() as patched:
        patched.setattr(setting, "write_atomically", dying(setting.write_atomically))
        patched.setattr(records, "write_atomically", dying(records.write_atomically))
        patched.setattr("glimber.store.inplace.places.replace_if_unchanged", dying(places.replace_if_unchanged))
        patched.setattr(setting, "tick", dying(setting.tick))
        with open_log(opened.folder, "practice.db") as log:
            plan = setting.plan_setting(now, log.records(Change), "bridge")
            try:
                setting.carry_out(now, plan, log, NOON)
                finished = True
            except Killed:
                finished = False
    assert finished == (step == 9)
    left_behind = opened.folder / f".saving-{os.uname().nodename}.999999999-x"  # what a process that is no more was writing
    left_behind.write_text("half")
    new = (NOTES.replace("Ctrl+Shift+S", "Ctrl+Alt+S").encode(), plan.steps[1].out.data)
    whole = new if step >= 8 else (NOTES.encode(), b"# mine\n")
    said = setting.recover()
    assert ((opened.folder / "notes.csv").read_bytes(), inputrc().read_bytes()) == whole
    assert len(said) == (5 <= step < 8) and setting.recover() == []
    assert left_behind.exists() != bool(said)
    run("set", str(opened.folder))  # and goes on from there
    assert waiting(opened.folder) == []
    assert ((opened.folder / "notes.csv").read_bytes(), inputrc().read_bytes()) == new


def killed_before_comparing(opened: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    """Set one change, and be killed once everything is written and nothing compared."""
    changed(opened.folder, "add-sounding", "Ctrl+Alt+S")
    with monkeypatch.context() as patched, open_log(opened.folder, "practice.db") as log:
        patched.setattr(setting, "_compare", lambda step: (_ for _ in ()).throw(Killed()))
        now = open_folio(opened.folder)
        with pytest.raises(Killed):
            setting.carry_out(now, setting.plan_setting(now, log.records(Change), "bridge"), log, NOON)


def test_what_an_editor_saved_after_the_kill_stays(opened: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    killed_before_comparing(opened, monkeypatch)
    (opened.folder / "notes.csv").write_text("mine\n")
    (sentence,) = setting.recover()
    assert "was cut short" in sentence and "stays as it is" in sentence and str(records.record_folders()[0]) in sentence
    assert (opened.folder / "notes.csv").read_text() == "mine\n"
    assert (records.record_folders()[0] / "0-before").read_text() == NOTES


def test_what_cannot_be_undone_is_told_once_and_stops_nothing(opened: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    killed_before_comparing(opened, monkeypatch)
    (records.record_folders()[0] / "0-before").unlink()
    (sentence,) = setting.recover()
    assert "cannot be undone" in sentence and setting.recover() == []
    run("set", str(opened.folder))


def test_a_place_that_fails_puts_the_others_back(opened: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    changed(opened.folder, "add-sounding", "Ctrl+Alt+S")
    changed(opened.folder, "undo", "Ctrl+T")
    inputrc().write_text("# mine\n")
    now = open_folio(opened.folder)
    with open_log(opened.folder, "practice.db") as log:
        plan = setting.plan_setting(now, log.records(Change), "bridge")
        inputrc().write_text("# mine, and later\n")
        with pytest.raises(StoreError, match="changed by somebody else"):
            setting.carry_out(now, plan, log, NOON)
    assert (opened.folder / "notes.csv").read_text() == NOTES and inputrc().read_text() == "# mine, and later\n"
    assert [record.state for _, record in records.in_state("begun", "done", "back")] == ["back"]


def test_two_processes_do_not_set_at_once(opened: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    changed(opened.folder, "add-sounding", "Ctrl+Alt+S")
    monkeypatch.setattr(records, "_WAIT_S", 0.0)
    with records.locked(0) as mine, records.locked(0) as other:
        assert (mine, other) == (True, False)
        monkeypatch.setattr(setting, "locked", lambda wait_s=0.0: records.locked(wait_s))
        assert "another Glimber is setting" in run("set", str(opened.folder), status=2)
    assert (opened.folder / "notes.csv").read_text() == NOTES
    run("set", str(opened.folder))
    assert "Ctrl+Alt+S" in (opened.folder / "notes.csv").read_text()


def typed_into_bash(text: bytes, until: bytes) -> bytes:
    """What a real bash, reading the person's inputrc, shows after these bytes of a terminal."""
    pid, terminal = pty.fork()
    if pid == 0:
        os.environ["PS1"] = "ready> "
        os.environ["TERM"] = "xterm"
        os.execvp("bash", ["bash", "--norc", "--noprofile", "-i"])
    try:
        _until(terminal, b"ready> ")
        os.write(terminal, text)
        return _until(terminal, until)
    finally:
        os.close(terminal)
        os.kill(pid, 9)
        os.waitpid(pid, 0)


def _until(terminal: int, what: bytes) -> bytes:
    found, end = b"", time.monotonic() + 20
    while what not in found and time.monotonic() < end:
        if select.select([terminal], [], [], 0.2)[0]:
            found += os.read(terminal, 4096)
    assert what in found, found
    return found


def test_a_real_line_editor_does_what_was_set(opened: Opened) -> None:
    inputrc().write_text("set bell-style none\n$if nosuchapp\n")
    changed(opened.folder, "backward-kill-line", "Alt+K")
    run("set", str(opened.folder), "--into", "line-editor")
    assert inputrc().read_text().startswith("set bell-style none\n$if nosuchapp\n# >>> set by Glimber")
    shown = typed_into_bash(b"echo shoal\x1bkecho buoy$((6*7))\r", b"buoy42")
    assert b"shoal" not in shown.split(b"buoy42")[-1]
    # What the old keys did, they do no more: Ctrl+X Backspace leaves the line as it stands.
    assert b"kept9" in typed_into_bash(b"echo kept\x18\x7f$((3*3))\r", b"kept9")


SCHEMA = text_of("keybindings-schema.xml")
DESKTOP = """format = "glimber-program/1"
name = "Everywhere"
[commands]
show-desktop = { name = "Show desktop", shortcut = "Super+D" }
tides = { name = "Tide table", shortcut = "Super+T" }
"""


@pytest.mark.skipif(shutil.which("glib-compile-schemas") is None or shutil.which("dbus-run-session") is None, reason="no gsettings here")
def test_real_settings_of_the_desktop(opened: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    schemas = tmp_path / "schemas"
    schemas.mkdir()
    (schemas / "charts.gschema.xml").write_text(SCHEMA)
    subprocess.run(["glib-compile-schemas", str(schemas)], check=True)
    monkeypatch.setenv("GSETTINGS_SCHEMA_DIR", str(schemas))
    (tmp_path / "run").mkdir(mode=0o700)
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path / "run"))
    (opened.folder / "programs/everywhere.toml").write_text(DESKTOP)
    changed(opened.folder, "show-desktop", "Super+M")
    changed(opened.folder, "tides", "Ctrl+Super+PageUp")
    glimber = f"{sys.executable} -m glimber set {opened.folder} --into gsettings --json"
    own = "gsettings get org.charts.media-keys.custom-keybinding:/org/charts/own0/ binding"
    script = f"{glimber} && gsettings get org.charts.keybindings show-desktop && {own} && {glimber} --back && gsettings get org.charts.keybindings show-desktop && {own}"
    done = subprocess.run(["dbus-run-session", "--", "bash", "-c", script], capture_output=True, text=True, timeout=120, check=False)
    assert done.returncode == 0, done.stderr
    first, desktop, tides, _, desktop_back, tides_back = done.stdout.splitlines()
    assert {one["binding"] for one in json.loads(first)["set"]} == {"show-desktop", "tides"}
    assert (desktop, tides) == ("['<Super>m']", "'<Control><Super>Page_Up'")
    assert (desktop_back, tides_back) == ("['<Super>d']", "'<Super>t'")
    assert waiting(opened.folder) == ["show-desktop", "tides"]


def test_records_are_numbered_and_not_kept_for_ever(opened: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(records, "RECORDS_KEPT", 2)
    old = records.records_folder() / "2026-11-27-101112"  # as they were named before they had numbers
    old.mkdir(parents=True)
    (old / records.FILE).write_text(json.dumps({"folio": str(opened.folder.resolve()), "at": "", "state": "done", "places": [], "changes": []}))
    for hour, key in enumerate(("F2", "F3", "F4", "F5")):
        monkeypatch.setattr("glimber.cli.setting.moment", lambda text, hour=hour: NOON - timedelta(hours=hour))  # a clock put back
        changed(opened.folder, "add-sounding", key)
        run("set", str(opened.folder))
    assert [one.name[:7] for one in records.record_folders()] == ["000004-", "000003-"]
    assert "F5" in (opened.folder / "notes.csv").read_text() and PROGRAM
    run("set", str(opened.folder), "--back")
    assert "F4" in (opened.folder / "notes.csv").read_text()


@pytest.mark.parametrize(("path", "now", "good"), [
    (Path("keys"), b"a\nb\n", True), (Path("keys"), b"a\nb\nc\n", False), (None, b"c\nb\na\n", True), (None, b"a\nc\n", False),
])  # fmt: skip
def test_what_was_written_is_read_again_and_compared(path: Path | None, now: bytes, good: bool) -> None:
    step: Any = SimpleNamespace(place=SimpleNamespace(read=lambda: now, path=path, shown="keys"), out=SimpleNamespace(data=b"a\nb\n"))
    with nullcontext() if good else pytest.raises(StoreError, match="reads differently"):
        setting._compare(step)


@pytest.mark.parametrize(("binding", "computer", "told"), [
    ("sounding-s", "bench", True), ("sounding-s", "bridge", False), ("range-d", "bridge", True), ("gone", "bridge", True),
])  # fmt: skip
def test_what_lives_on_another_computer_is_not_set_on_this_one(binding: str, computer: str, told: bool) -> None:
    folio = folio_of({"layouts/split-42.toml": LAYOUT.replace('id = "sounding-s"', 'id = "sounding-s", computers = ["bench"]')})
    change = Change("c", NOON, computer, binding, "move", "shoalwright/add-sounding", "F3", "F4", "nearer")
    found = setting.of_sheet(folio, [change], computer)
    assert [(program, one.was, one.to) for program, one in found] == [("shoalwright", "F3", "F4")] * told
