"""The chart office: what it promises to hold, and that every planted trouble is found for what it is."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from glimber.core.audit.checks import audit
from glimber.core.decide.verdict import Verdict, verdicts
from glimber.core.model.folio import EVERYWHERE, Folio
from glimber.core.notation.keys import GESTURES, Spot
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Try
from glimber.core.stats.measures import measure
from glimber.demo.build import make_demo
from glimber.demo.days import DAYS, practise
from glimber.demo.troubles import TROUBLES
from glimber.store.practice.log import open_log
from glimber.store.toml.reading import open_folio
from tests.helpers import NOON

NOW = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)


def test_the_office_is_as_large_as_it_should_be(office: Folio) -> None:
    shoalwright = office.programs["shoalwright"]
    assert len(shoalwright.commands) >= 90 and len(shoalwright.groups) == 8
    assert len(office.programs["namewell"].commands) >= 25
    assert len(office.programs[EVERYWHERE].commands) >= 20
    assert len(office.layouts["split-42"].layers) == 5
    assert sum(b.command is not None for b in office.all_bindings()) >= 110
    assert len(office.bench()) >= 12
    assert set(office.boards) >= {"split-42", "pad-21", "full-105"}


def test_it_uses_every_kind_of_trigger_gesture_and_way_in(office: Folio) -> None:
    bindings = list(office.all_bindings())
    assert {b.trigger.kind for b in bindings} == {"chord", "sequence", "spot", "text"}
    spots = [b.trigger for b in bindings if isinstance(b.trigger, Spot)]
    assert {spot.gesture for spot in spots} == set(GESTURES)
    assert any(len(spot.keys) == 2 for spot in spots)
    assert {b.mode for b in bindings if b.mode} == {"while", "switch", "once", "stay"}
    assert any(b.bundle for b in bindings) and any(b.leaves for b in bindings) and any(b.steps for b in bindings)
    assert any(b.repeat_ms for b in bindings) and any(layer.front for lay in office.layouts.values() for layer in lay.layers)
    commands = office.commands.values()
    assert any(c.careful for c in commands) and any(c.slow_way for c in commands)
    assert sum(bool(b.reason) for b in bindings) >= 30 and sum(c.uses_per_day is not None for c in commands) >= 60


def test_the_audit_has_no_error(office: Folio) -> None:
    assert [finding for finding in audit(office) if finding.severity == "error"] == []


@pytest.fixture(scope="module")
def weighed(office: Folio) -> dict[str, Verdict]:
    records = practise(office, NOW, "bridge")
    tries = tuple(one for one in records if isinstance(one, Try))
    changes = tuple(one for one in records if type(one).__name__ == "Change")
    assert len({one.at.date() for one in tries}) == DAYS
    return verdicts(measure(office, Practice(tries, changes), NOW, "bridge"))  # type: ignore[arg-type]


@pytest.mark.parametrize("trouble", TROUBLES.values(), ids=lambda trouble: trouble.binding)
def test_a_planted_trouble_is_the_trouble_found(weighed: dict[str, Verdict], trouble: object) -> None:
    found = weighed[trouble.binding]  # type: ignore[attr-defined]
    assert found.reason == trouble.reason, found.words  # type: ignore[attr-defined]


def test_at_least_eight_troubles_are_planted_and_listed(weighed: dict[str, Verdict]) -> None:
    assert len({trouble.reason for trouble in TROUBLES.values()}) >= 8
    listed = (Path(__file__).parents[2] / "docs" / "demo.md").read_text()
    for trouble in TROUBLES.values():
        assert f"`{trouble.binding}`" in listed and f"`{trouble.reason}`" in listed


def test_most_others_are_not_blamed(weighed: dict[str, Verdict]) -> None:
    plain = [v for id, v in weighed.items() if id not in TROUBLES and v.row.effective >= 8]
    blamed = [v.row.binding.id for v in plain if v.reason not in ("solid", "still-learning", "long-reach", "thin-evidence")]
    assert len(blamed) <= len(plain) * 0.15, blamed


def test_making_it_writes_a_folio_with_its_practice_and_can_be_stopped(tmp_path: Path) -> None:
    names = make_demo(tmp_path / "office", NOW, "bridge", each_day=lambda day: day < 2)
    opened = open_folio(tmp_path / "office")
    with open_log(opened.folder, opened.folio.settings.log) as log:
        tries = log.practice().tries
    assert "practice.db" in names and len({one.at.date() for one in tries}) == 2
    assert all(opened.folio.bindings[one.binding].given_id for one in tries)
    assert json.dumps(names)


def test_the_same_seed_gives_the_same_practice(office: Folio) -> None:
    assert practise(office, NOW, "bridge", days=2) == practise(office, NOW, "bridge", days=2)
    assert practise(office, NOW, "bridge", days=2) != practise(office, NOW, "bridge", seed=5, days=2)


def test_days_made_ahead_are_those_that_would_be_made_now(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from glimber.demo import prepared as ahead
    from glimber.demo.build import copy_files
    from glimber.demo.days import practise

    copy_files(tmp_path / "office")
    folio = open_folio(tmp_path / "office").folio
    monkeypatch.setattr(ahead, "FILE", tmp_path / "practice.jsonl.gz")
    assert ahead.prepared(NOON, "bridge") is None
    ahead.prepare(folio, practise(folio, ahead.AT, "quay", days=2))
    made, wanted = ahead.prepared(NOON, "bridge"), practise(folio, NOON, "bridge", days=2)
    assert made is not None and len(made) == len(wanted)

    def told(records: Any) -> list[Any]:
        # to the millisecond, as the log keeps moments; ids and what names them are of their own moment
        return [
            (one.at.replace(microsecond=0), one.computer, one.binding, one.outcome, one.recall_ms)
            for one in records
            if isinstance(one, Try)
        ]

    assert told(made) == told(wanted) and {one.computer for one in made if isinstance(one, Try)} == {"bridge"}
    monkeypatch.setattr(ahead, "made_from", lambda: "another code")
    assert ahead.prepared(NOON, "bridge") is None
    (tmp_path / "practice.jsonl.gz").write_bytes(b"damaged")
    assert ahead.prepared(NOON, "bridge") is None
