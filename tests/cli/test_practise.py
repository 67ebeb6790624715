"""A round as a conversation: every answer is a try of the log, and a line that is none ends it with a sentence."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import Result
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.core.practice.tries import Round, Try
from glimber.store.practice.log import open_log
from tests.helpers import write_folio

AT = "2026-11-20T09:00:00Z"


def talk(folder: Path, answers: list[str], minutes: str = "0.5") -> tuple[list[dict[str, object]], Result]:
    arguments = ["practise", str(folder), "--minutes", minutes, "--at", AT]
    done = CliRunner().invoke(app, arguments, input="\n".join(answers) + "\n")
    return [json.loads(line) for line in done.stdout.splitlines()], done


def test_answers_are_tries_at_the_times_they_take(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "small")
    hit, blank = json.dumps({"outcome": "hit", "recall_ms": 700, "motor_ms": 150}), json.dumps({"outcome": "blank"})
    slip = json.dumps({"outcome": "slip", "slip": "neighbour", "pressed": "F9", "recall_ms": 900, "motor_ms": 150})
    lines, done = talk(folder, [hit, hit, slip, hit, blank, hit] * 12)
    assert done.exit_code == 0, done.stderr
    asked, end = lines[:-1], lines[-1]
    tries = [one for one in asked if not one["shown"]]
    assert set(asked[0]) == {"ask", "new", "shown"} and asked[0]["new"] is True and asked[0]["shown"] is True
    assert end["tries"] == len(tries) and 30 <= float(str(end["seconds"])) <= 36
    with open_log(folder, "practice.db") as log:
        kept = log.records(Try)
        (whole,) = log.records(Round)
    assert [one.binding for one in kept] == [one["ask"] for one in tries]
    assert whole.id == end["round"] and whole.ended is not None and set(whole.bindings) == {one.binding for one in kept}
    assert [one.at for one in kept] == sorted(one.at for one in kept)
    firsts = {one.binding: one.id for one in reversed(kept)}
    assert all(one.cold == (firsts[one.binding] == one.id) for one in kept)


@pytest.mark.parametrize(("answer", "words"), [
    ("hit", "is not JSON"), ('{"outcome": "good"}', "expected one of hit, slip, blank"), ("[]", "expected one of hit, slip, blank"),
    ('{"outcome": "slip", "slip": "neighbor"}', "did you mean neighbour"), ('{"outcome": "hit", "recall_ms": -1}', "expected milliseconds"),
    ('{"outcome": "hit", "recall_ms": "fast"}', "expected milliseconds"),
])  # fmt: skip
def test_a_line_that_is_no_answer_ends_it(tmp_path: Path, answer: str, words: str) -> None:
    _, done = talk(write_folio(tmp_path / "small"), [answer])
    assert done.exit_code == 2 and words in done.stderr


def test_no_more_answers_end_the_round_and_keep_what_was_said(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "small")
    lines, done = talk(folder, [json.dumps({"outcome": "hit", "recall_ms": 700})] * 3, "3")
    assert done.exit_code == 0 and "round" in lines[-1]
    with open_log(folder, "practice.db") as log:
        assert len(log.records(Try)) == lines[-1]["tries"]
