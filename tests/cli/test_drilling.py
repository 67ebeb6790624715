"""Commands about when and how to drill: calendar, timing; and reading that must be insisted on."""

from __future__ import annotations

import json
from datetime import timedelta
from pathlib import Path
from typing import Any

import icalendar
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.core.practice.tries import KeyEvents, Try
from glimber.store.practice.log import open_log
from glimber.store.practice.uuid7 import uuid7
from glimber.store.toml.reading import open_folio
from tests.helpers import NOON, tries_of, write_folio

TAP, HOLD = "split-42:draw:KeyS:tap", "split-42:draw:KeyS:hold"


def run(*arguments: str, status: int = 0) -> Any:
    result = CliRunner().invoke(app, list(arguments))
    assert result.exit_code == status, (result.output, result.exception)
    return json.loads(result.stdout) if "--json" in arguments and not status else result.output


def test_calendar_lists_draws_and_writes_dates(folder: Path, tmp_path: Path) -> None:
    with open_log(folder, "practice.db") as log:
        log.add(*tries_of("sounding-s", TAP, ["hit"] * 10, until=NOON - timedelta(days=1)))
    at = NOON.isoformat()
    found = run("calendar", str(folder), "--at", at, "--json")
    assert sum(day["tries"] for day in found["days"]) == 10 and all(day["clean"] == 1 for day in found["days"])
    for name in ("dates.ics", "dates.svg"):
        assert run("calendar", str(folder), "--at", at, "--to", str(tmp_path / name), "--json")["wrote"] == [str(tmp_path / name)]
    icalendar.Calendar.from_ical((tmp_path / "dates.ics").read_bytes())
    assert "% clean" in (tmp_path / "dates.svg").read_text()
    assert "ends in .ics, .pdf" in run("calendar", str(folder), "--to", str(tmp_path / "dates.doc"), status=2)


def test_timing_says_and_sets_what_fits(folder: Path) -> None:
    assert run("timing", str(folder), "--json") == {"presses": 0, "keys": []} if (folder / "practice.db").exists() else True
    records: list[Try | KeyEvents] = []
    for n in range(40):
        hold, at = n % 2 == 1, NOON + timedelta(seconds=n)
        ms = 330.0 + n if hold else 190.0 + n
        trigger = HOLD if hold else TAP
        records.append(Try(uuid7(at), "round", n, at, "bench", "b", trigger, "press", "hit", recall_ms=500.0, motor_ms=ms))
        records.append(KeyEvents(uuid7(at), "round", at, "split-42", ((0.0, "down", "KeyS"), (ms, "up", "KeyS"))))
    with open_log(folder, "practice.db") as log:
        log.add(*records)
    found = run("timing", str(folder), "--json")
    assert found["presses"] == 40 and found["misread_now"] > 0.3 and found["misread"] == 0 and 228 < found["limit_ms"] <= 331
    assert [one["key"] for one in found["keys"]] == ["KeyS"]
    assert "(set)" in run("timing", str(folder), "--apply")
    assert open_folio(folder).folio.settings.timing.hold_ms == found["limit_ms"]
    assert run("timing", str(folder), "--json")["misread_now"] == 0


def test_a_source_that_is_mostly_no_bindings_must_be_insisted_on(folder: Path, tmp_path: Path) -> None:
    prose = "".join(f"Sheet {n} of the survey shows the bay and what lies before it at low water\n" for n in range(9))
    (tmp_path / "notes.txt").write_text(prose + "Ctrl+Alt+N    New sheet\n")
    before = (folder / "programs" / "shoalwright.toml").read_bytes()
    said = run("read", str(tmp_path / "notes.txt"), "--into", str(folder), "--program", "Shoalwright", status=2)
    assert "only 1 of 10 lines are bindings" in said and "--anyway" in said
    assert (folder / "programs" / "shoalwright.toml").read_bytes() == before
    run("read", str(tmp_path / "notes.txt"), "--into", str(folder), "--program", "Shoalwright", "--anyway")
    assert "Ctrl+Alt+N" in (folder / "programs" / "shoalwright.toml").read_text()


def test_doubtful_rows_are_left_and_counted_unless_taken_anyway(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "small")
    page = tmp_path / "page.csv"
    page.write_text("Command,Keys\nTrace coast,Ctrl+T\nSound strait,Crtl+N\nName island,Alt+N\n")
    read = ("read", str(page), "--into", str(folder), "--program", "Shoalwright")
    assert "1 doubtful row was left; --anyway imports doubtful rows as well" in run(*read)
    assert {"trace-coast", "name-island"} <= set(open_folio(folder).folio.bindings)
    assert "sound-strait" not in open_folio(folder).folio.bindings
    run(*read, "--anyway")
    assert str(open_folio(folder).folio.bindings["sound-strait"].trigger) == "Ctrl+N"


def test_how_a_source_is_read_is_said_and_can_be_decided(tmp_path: Path) -> None:
    (tmp_path / "keys.csv").write_text("Keys,Command\nS,Save\nn,Next\n^d,Down\n")
    found = run("read", str(tmp_path / "keys.csv"), "--json")
    assert (found["kind"], found["capitals"]) == ("csv", True)
    assert "a bare capital is struck with Shift" in run("read", str(tmp_path / "keys.csv"))
    plain = run("read", str(tmp_path / "keys.csv"), "--no-capitals", "--json")
    assert plain["rows"][0]["triggers"] == ["s"]
    assert "expected steps or alternates" in run("read", str(tmp_path / "keys.csv"), "--comma", "both", status=2)
