"""The command line to the letter of its contract: fields, exit status, messages on standard error, nothing else there."""

from __future__ import annotations

import json
import subprocess
import sys
from datetime import timedelta
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.store.cache.icons import icon_names
from glimber.store.practice.jsonl import to_json
from glimber.store.practice.log import open_log
from tests.helpers import LAYOUT, NOON, PROGRAM, tries_of, write_folio

RUNNER = CliRunner()
S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
SLIP = ("neighbour", D, "shoalwright/depth-range")


@pytest.fixture
def folder(tmp_path: Path) -> str:
    path = write_folio(tmp_path / "small", {"cards/draw.toml": 'format = "glimber-card/1"\ntitle = "Draw"\nkind = "board"\n'
                                            'board = "split-42"\nlayers = ["draw"]\n'})  # fmt: skip
    with open_log(path, "practice.db") as log:
        outcomes: list[Any] = ["hit", "hit", SLIP] * 14
        log.add(*tries_of("sounding-s", S, outcomes), *tries_of("range-d", D, ["hit"] * 20, until=NOON - timedelta(hours=3)))
    return str(path)


def run(*arguments: str, stdin: str | None = None, status: int = 0) -> str:
    result = RUNNER.invoke(app, arguments, input=stdin)
    assert result.exit_code == status, (result.exit_code, result.output, result.stderr, result.exception)
    return result.stdout


def run_json(*arguments: str, stdin: str | None = None, status: int = 0) -> Any:
    return json.loads(run(*arguments, "--json", stdin=stdin, status=status))


def refused(*arguments: str, stdin: str | None = None) -> str:
    """Exit status 2, a message on standard error and nothing on standard output."""
    result = RUNNER.invoke(app, arguments, input=stdin)
    assert result.exit_code == 2, (result.exit_code, result.output)
    assert result.stdout == "" and result.stderr and "Traceback" not in result.stderr
    return result.stderr


def test_list(folder: str) -> None:
    found = run_json("list", folder)
    rows = {row["id"]: row for row in found["bindings"]}
    assert set(rows["sounding-s"]) >= {"id", "command", "program", "trigger", "sends", "group", "reason", "uses_per_day"}
    assert rows["sounding-s"]["trigger"] == S and rows["sounding-s"]["sends"] == "Ctrl+Shift+S"
    assert rows["sounding-s"]["group"] == "survey" and rows["sounding-s"]["uses_per_day"] == 60
    assert [row["command"] for row in found["bench"]] == ["shoalwright/quay-list"]
    assert "(bench)" in run("list", folder)


def test_check_and_its_exit_status(folder: str) -> None:
    assert [one["code"] for one in run_json("check", folder)["findings"]] == ["slow-gesture"]
    Path(folder, "layouts/split-42.toml").write_text(LAYOUT.replace("KeyF =", "KeyJ2 =").replace('enters = "draw"', 'enters = "drwa"'))
    Path(folder, "programs/shoalwright.toml").write_text(PROGRAM + '\n[commands.other]\nname = "Other"\nshortcut = "Ctrl+Shift+S"\n')
    Path(folder, "cards/draw.toml").unlink()
    found = [one for one in run_json("check", folder, status=1)["findings"] if one["code"] != "slow-gesture"]
    assert {one["code"] for one in found} == {"key-missing", "unknown-reference", "same-trigger", "no-way-in"}
    assert all(set(one) >= {"code", "severity", "where", "bindings", "text"} for one in found)
    assert all(one["severity"] == "error" for one in found)
    assert "error: same-trigger" in run("check", folder, status=1)


def test_a_board_of_a_drawing(tmp_path: Path) -> None:
    drawing = tmp_path / "lap-pad.svg"
    drawing.write_text('<svg><rect id="KeyA" width="20" height="20"/><rect id="no key" width="9" height="9"/></svg>')
    assert run_json("boards", "--svg", str(drawing))["keys"] == 1
    text = run("boards", "my-pad", "--svg", str(drawing))
    assert 'id = "my-pad"' in text and 'id = "KeyA"' in text
    (tmp_path / "office").mkdir()
    run("new", str(tmp_path / "office"), "--board", "split-42")
    (tmp_path / "office/boards/my-pad.toml").write_text(text)
    assert run_json("check", str(tmp_path / "office")) == {"findings": []}
    assert "gone.svg" in refused("boards", "--svg", str(tmp_path / "gone.svg"))


def test_boards() -> None:
    found = run_json("boards")["boards"]
    assert {"id": "split-42", "name": "Split board, 42 keys", "keys": 42, "knobs": 0} in found
    assert run("boards", "pad-21").startswith('format = "glimber-board/1"')
    assert "did you mean pad-21" in refused("boards", "pad21")


def test_resolve(folder: str) -> None:
    text = json.dumps([[0, "down", "thumb-left-1"], [300, "down", "KeyS"], [350, "up", "KeyS"], [400, "up", "thumb-left-1"]])
    acts = run_json("resolve", folder, "--board", "split-42", "-", stdin=text)["acts"]
    assert [(act["t"], act["do"], act["layer"], act["sends"]) for act in acts] == [
        (200, "enter", "draw", None), (350, "press", None, "Ctrl+Shift+S"), (350, "release", None, "Ctrl+Shift+S"),
        (400, "leave", "draw", None),
    ]  # fmt: skip
    assert acts[0]["spot"] == "split-42:base:thumb-left-1:hold"
    many = run("resolve", folder, "--board", "split-42", "-", "--json", stdin=f'{text}\n[]\n[[0,"front",null]]\n')
    assert [len(json.loads(line)["acts"]) for line in many.splitlines()] == [4, 0, 0]


JUDGED = {
    "outcome", "slip", "pressed", "offset_u", "neighbour", "layer", "gesture", "missing", "extra", "would_do",
    "finger_wanted", "finger_struck", "recall_ms", "motor_ms", "words",
}  # fmt: skip


def test_judge(folder: str, tmp_path: Path) -> None:
    rows = [[500, "down", "ControlLeft"], [560, "down", "KeyS"], [620, "up", "KeyS"], [640, "up", "ControlLeft"]]
    file = tmp_path / "events.json"
    file.write_text(json.dumps(rows))
    found = run_json("judge", folder, "--binding", "add-sounding", str(file))
    assert set(found) >= JUDGED
    assert (found["outcome"], found["slip"], found["missing"], found["extra"]) == ("slip", "modifiers", ["Shift"], [])
    assert (found["recall_ms"], found["motor_ms"]) == (500, 60)
    lines = "\n".join(json.dumps({"binding": id, "events": rows}) for id in ("add-sounding", "lead-line"))
    many = [json.loads(line) for line in run("judge", folder, "-", stdin=lines).splitlines()]
    assert [one["outcome"] for one in many] == ["slip", "slip"]
    spot = json.dumps([[300, "down", "thumb-left-1"], [600, "down", "KeyD"], [650, "up", "KeyD"], [700, "up", "thumb-left-1"]])
    near = run_json("judge", folder, "--binding", "sounding-s", "--board", "split-42", "-", stdin=spot)
    assert near["words"] == "D on Draw. Wanted S: one key left, ring finger." and near["neighbour"]
    late = run_json("judge", folder, "--binding", "add-sounding", "--deadline", "400", str(file))
    assert late["outcome"] == "blank"


def test_plan(folder: str) -> None:
    plan = run_json("plan", folder, "--minutes", "2", "--size", "3", "--at", "2026-11-20T12:00:00Z")
    found = plan["bindings"]
    assert len(found) == 3 and found[0]["id"] == "sounding-s" and found[0]["why"] == "slipped last time"
    assert all(set(one) == {"id", "why", "p_now", "new", "hits", "worth_s_week", "seconds"} for one in found)
    assert all(1 <= one["hits"] <= 8 for one in found) and 0 < plan["seconds"] <= 120
    assert plan["seconds"] == pytest.approx(sum(one["seconds"] for one in found), abs=0.1)


def test_what_was_missed_at_work_is_in_the_next_round(folder: str) -> None:
    assert run_json("missed", folder, "tide")["binding"] == "tide-table"
    due = {one["id"]: one["why"] for one in run_json("plan", folder, "--minutes", "1")["bindings"]}
    assert due["tide-table"] == "missed at work"
    assert "did you mean" in refused("missed", folder, "tide tabel")
    assert "say which" in refused("missed", folder, "a")


WEIGHED = {
    "id", "trigger", "tries", "accuracy", "recall_ms", "motor_ms", "reach_ms", "grip", "slips", "weekly_s", "verdict", "reason",
    "words", "to", "saves_s_week", "p_better", "break_even_day", "lost_s_week", "earned_s_week", "swap_with", "p_clean",
}  # fmt: skip


def test_weigh(folder: str) -> None:
    found = {one["id"]: one for one in run_json("weigh", folder, "--at", "2026-11-20T12:00:00Z")["bindings"]}
    one = found["sounding-s"]
    assert set(one) >= WEIGHED and set(one["accuracy"]) == {"mean", "low", "high"}
    assert (one["tries"], one["slips"], one["verdict"], one["reason"]) == (42, {"neighbour": 14}, "move", "hand-goes-elsewhere")
    assert (one["to"], one["swap_with"]) == (D, "range-d")
    assert found["lead-line"]["accuracy"] is None and found["lead-line"]["weekly_s"] is None
    only = run_json("weigh", folder, "--binding", "range-d", "--at", "2026-11-20T12:00:00Z")["bindings"]
    assert [row["id"] for row in only] == ["range-d"]
    assert "did you mean range-d" in refused("weigh", folder, "--binding", "range-q")
    assert "Move" in run("weigh", folder) or "Swapping" in run("weigh", folder)


def test_change_edits_the_file_and_the_history(folder: str) -> None:
    found = run_json("change", folder, "sounding-s", "--to", D, "--swap", "--why", "the hand goes there")
    assert (found["binding"], found["from_trigger"], found["to_trigger"], found["swap_with"]) == ("sounding-s", S, D, "range-d")
    rows = {row["id"]: row["trigger"] for row in run_json("list", folder)["bindings"]}
    assert (rows["sounding-s"], rows["range-d"]) == (D, S)
    due = run_json("plan", folder, "--size", "9")["bindings"]
    assert ("sounding-s", "moved") in [(one["id"], one["why"]) for one in due]
    struck = json.dumps([[300, "down", "thumb-left-1"], [600, "down", "KeyS"], [650, "up", "KeyS"], [700, "up", "thumb-left-1"]])
    judged = run_json("judge", folder, "--binding", "sounding-s", "--board", "split-42", "--strict", "-", stdin=struck)
    assert judged["slip"] == "old habit"
    assert "use --swap" in refused("change", folder, "sounding-s", "--to", S, "--why", "back")
    assert "say why" in refused("change", folder, "sounding-s", "--to", S, "--swap", "--why", " ")
    assert "expected" in refused("change", folder, "sounding-s", "--to", "Crtl+S", "--why", "x")


def test_a_change_taken_back_by_a_swap_is_told(folder: str) -> None:
    run("change", folder, "sounding-s", "--to", D, "--swap", "--why", "nearer")
    told = run("change", folder, "sounding-s", "--to", S, "--swap", "--why", "not nearer after all").splitlines()
    assert sorted(line.split(", the change of ")[0] for line in told) == [f"range-d: {S} → {D}", f"sounding-s: {D} → {S}"]
    assert all(line.endswith("is taken back") for line in told)
    run("change", folder, "range-d", "--to", S, "--swap", "--why", "once more")
    found = run_json("change", folder, "range-d", "--to", D, "--swap", "--why", "no")
    assert (found["binding"], found["from_trigger"], found["to_trigger"]) == ("range-d", D, S) and found["reverted"]


def test_icons_and_pictures_that_are_not_there_are_found(folder: str) -> None:
    before = run_json("check", folder)["findings"]
    path = Path(folder) / "programs" / "shoalwright.toml"
    text = path.read_text()
    line = text.count("\n") + 2
    path.write_text(
        f'{text}[commands.tide-gauge]\nname = "Tide gauge"\nicon = "anchr"\nshortcut = "Ctrl+Alt+Shift+T"\n'
        '[commands.tide-plot]\nname = "Tide plot"\nicon = "anchor"\nshortcut = "Ctrl+Alt+Shift+P"\n'
        'picture = "icons/no such.png"\n'
    )
    found = [one for one in run_json("check", folder)["findings"] if one not in before and one["code"] == "picture-missing"]
    *icons, picture = [(one["severity"], one["where"], len(one["bindings"]), one["text"]) for one in found]
    assert picture[:3] == ("warning", f"programs/shoalwright.toml:{line + 7}", 1)
    assert picture[3].startswith("icons/no such.png cannot be shown; expected a PNG, JPEG or SVG file")
    # Where the icon package is not installed nothing is known of icons, and nothing is said.
    told = ("warning", f"programs/shoalwright.toml:{line + 1}", 1, "anchr is not an icon of the set; did you mean anchor?")
    assert icons == ([told] if icon_names() else [])


def test_card(folder: str, tmp_path: Path) -> None:
    svg = tmp_path / "draw.svg"
    assert run_json("card", folder, "draw", "--to", str(svg)) == {"wrote": [str(svg)]}
    assert ElementTree.parse(svg).getroot().get("width") == "210mm"
    assert "did you mean draw" in refused("card", folder, "drwa", "--to", str(svg))
    assert "ends in .svg, .pdf or .png" in refused("card", folder, "draw", "--to", str(tmp_path / "draw.gif"))
    assert "cannot be written" in refused("card", folder, "draw", "--to", "/proc/gone/draw.svg")


def test_tries_export_and_merge(folder: str, tmp_path: Path) -> None:
    file = tmp_path / "tries.jsonl"
    assert run_json("tries", "export", folder, str(file))["read"] == 62
    assert run_json("tries", "merge", folder, str(file)) == {"read": 62, "new": 0, "known": 62, "bad": []}
    other = write_folio(tmp_path / "other")
    more = file.read_text() + "nonsense\n" + to_json(tries_of("range-d", "F2", ["hit"])[0]) + "\n"
    file.write_text(more)
    found = run_json("tries", "merge", str(other), str(file))
    assert (found["read"], found["new"], found["known"]) == (64, 63, 0) and found["bad"][0]["line"] == 63
    assert run_json("tries", "merge", str(other), str(file))["new"] == 0
    file.write_text("nonsense\n")
    assert "nothing was merged" in refused("tries", "merge", str(other), str(file))
    assert "cannot be read" in refused("tries", "merge", str(other), str(tmp_path / "gone.jsonl"))


def test_new(tmp_path: Path) -> None:
    assert run_json("new", str(tmp_path / "mine"), "--board", "pad-21")["board"] == "pad-21"
    assert run_json("list", str(tmp_path / "mine")) == {"bindings": [], "bench": []}
    assert run_json("weigh", str(tmp_path / "mine")) == {"bindings": []}
    assert run_json("plan", str(tmp_path / "mine")) == {"bindings": [], "seconds": 0, "worth_s_week": 0}
    assert "not empty" in refused("new", str(tmp_path / "mine"))
    assert "did you mean" in refused("new", str(tmp_path / "next"), "--board", "pad-22")


BAD_EVENTS = [
    ("{", "not JSON"),
    ("", "no events"),
    ('[[0,"down","KeyJ2"]]', "event 1: KeyJ2 is not a key of split-42; did you mean"),
    ('[[0,"down","KeyS"],[-5,"up","KeyS"]]', "event 2: time -5 is before"),
    ('[["now","down","KeyS"]]', "expected milliseconds"),
    ('[[0,"press","KeyS"]]', "expected down, up, turn or front"),
    ('[[0,"turn","knob-1"]]', "expected knob:left or knob:right"),
    ('[[0,"down"]]', "expected [t_ms, kind, key]"),
    ('[[0,"down","KeyS"]]\n{"events": 7}', ":2: expected a list of events"),
]


@pytest.mark.parametrize(("text", "told"), BAD_EVENTS)
def test_events_that_cannot_be_used(folder: str, text: str, told: str) -> None:
    assert told in refused("resolve", folder, "--board", "split-42", "-", stdin=text)


def test_folios_that_cannot_be_used(folder: str, tmp_path: Path) -> None:
    assert "there is no such folder" in refused("list", str(tmp_path / "gone"))
    assert "not a folio" in refused("list", str(tmp_path))
    Path(folder, "programs/shoalwright.toml").write_bytes(b"\xff\xfe")
    Path(folder, "layouts/split-42.toml").write_text("")
    told = refused("list", folder)
    assert "programs/shoalwright.toml:1: not UTF-8" in told and "layouts/split-42.toml:1: the file is empty" in told
    assert "not UTF-8" in refused("check", folder)


def test_a_log_that_cannot_be_used(folder: str) -> None:
    Path(folder, "practice.db").write_text("a note, no log\n" * 100)
    for command in (["weigh"], ["plan"], ["tries", "export"]):
        more = ["x.jsonl"] if command[0] == "tries" else []
        assert "damaged or not a log" in refused(*command, folder, *more)


def test_wrong_options_are_usage_errors(folder: str) -> None:
    assert "binding" in refused("judge", folder, "-", stdin="[]")
    assert "is not a moment" in refused("plan", folder, "--at", "yesterday")
    assert "is not a board of this folio" in refused("resolve", folder, "--board", "split-43", "-", stdin="[]")
    refused("weigh")


def test_every_command_shows_an_example() -> None:
    names = [command.name for command in app.registered_commands] + ["tries export", "tries merge"]
    assert {"demo", "new", "list", "check", "boards", "resolve", "judge", "plan", "weigh", "change", "card"} <= set(names)
    for name in names:
        assert "Example: " in run(*str(name).split(), "--help"), name
    assert "Example: glimber demo" in run("--help")


def test_the_demo_runs_the_whole_loop_without_a_window(tmp_path: Path) -> None:
    folder = tmp_path / "office"
    found = run_json("demo", "--folio", str(folder), "--no-window")
    assert set(found) >= {"folio", "wrote", "tries", "verdicts"} and found["folio"] == str(folder)
    assert found["tries"] > 2000 and sum(found["verdicts"].values()) > 110 and found["verdicts"]["move"] >= 1
    assert all((folder / name).exists() for name in found["wrote"])
    assert any(name.endswith(".svg") for name in found["wrote"]) and any(name.startswith("backups/") for name in found["wrote"])
    moved = {row["id"]: row["trigger"] for row in run_json("list", str(folder))["bindings"]}
    assert moved["sounding-s"] == D
    assert "not empty" in refused("demo", "--folio", str(folder), "--no-window")


def test_as_a_process_it_never_shows_a_traceback(tmp_path: Path) -> None:
    glimber = Path(sys.executable).with_name("glimber")
    result = subprocess.run([glimber, "list", str(tmp_path / "gone")], capture_output=True, text=True, check=False)
    assert result.returncode == 2 and result.stdout == "" and result.stderr.count("\n") == 1


def test_a_layer_is_rearranged_with_few_moves(folder: str) -> None:
    (best,) = run_json("replan", folder, "--board", "split-42", "--layer", "draw", "--moves", "2")["frontier"]
    assert best["moves"] <= 2 and len(best["steps"]) == best["moves"] and best["saves_s_week"] > 0
    assert set(best["steps"][0]) == {"binding", "from", "to"}
    whole = run_json("replan", folder, "--board", "split-42", "--layer", "draw")["frontier"]
    assert whole[0] == {**whole[0], "moves": 0, "saves_s_week": 0, "steps": []}
    stays = run_json("replan", folder, "--board", "split-42", "--layer", "draw", "--stay", "sounding-s")["frontier"]
    assert all(step["binding"] != "sounding-s" for one in stays for step in one["steps"])
    assert "did you mean draw" in refused("replan", folder, "--board", "split-42", "--layer", "drow")
    assert "not a binding" in refused("replan", folder, "--board", "split-42", "--layer", "draw", "--stay", "sounding")


def test_a_change_waits_on_the_sheet_until_it_is_ticked_off(folder: str, tmp_path: Path) -> None:
    assert "Nothing waits to be set." in run("sheet", folder)
    change = run_json("change", folder, "sounding-s", "--to", D, "--swap", "--why", "the hand goes there", "--old", "works")
    assert change["applied"] is None and change["old_trigger"] == "works" and change["verdict"] == "move"
    assert "expected works, dead, reminds" in refused("change", folder, "sounding-s", "--to", S, "--why", "back", "--old", "gone")
    rows = run_json("sheet", folder)["edits"]
    assert {row["binding"] for row in rows} == {"sounding-s", "range-d"} and not any(row["done"] for row in rows)
    assert "- [ ] **Add sounding**: S on Draw → D on Draw" in run("sheet", folder)
    for ending in ("md", "csv"):
        run("sheet", folder, "--to", str(tmp_path / f"sheet.{ending}"))
        assert "Depth range" in (tmp_path / f"sheet.{ending}").read_text()
    assert "ends in .md, .csv or .pdf" in refused("sheet", folder, "--to", str(tmp_path / "sheet.doc"))
    assert "no change of nothing waits" in refused("sheet", folder, "--done", "nothing")
    assert run_json("sheet", folder, "--done", "sounding-s")["edits"] == []  # both halves of the swap
    assert len(run_json("sheet", folder, "--all")["edits"]) == 2


def test_weigh_says_what_is_the_matter(folder: str) -> None:
    (one,) = run_json("weigh", folder, "--binding", "sounding-s", "--at", NOON.isoformat())["bindings"]
    assert max(one["causes"], key=one["causes"].get) == "place" and sum(one["causes"].values()) == pytest.approx(1, abs=1e-3)
    assert 0 <= one["lasting"] <= 1 and 0 <= one["knowing_now"] <= 1 and one["reason"] == "hand-goes-elsewhere"


@pytest.mark.parametrize(("length", "shown"), [(60, '"aaa'), (61, "… (61 characters)")])
def test_what_is_no_event_is_quoted_up_to_sixty_characters(folder: str, length: int, shown: str) -> None:
    kind = "a" * (length - 2)  # two quotes
    done = CliRunner().invoke(app, ["resolve", folder, "--board", "split-42", "-"], input=json.dumps([[0, kind, "KeyD"]]))
    assert done.exit_code == 2 and shown in done.stderr
    assert (kind in done.stderr) == (length == 60)


def test_a_source_must_be_given() -> None:
    done = CliRunner().invoke(app, ["read"])
    assert done.exit_code == 2 and "which file? Give FILE, or --running" in done.stderr
