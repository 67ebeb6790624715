"""What to learn: proposals, their order, and whole groups at once."""

from __future__ import annotations

import pytest

from glimber.core.decide.learning import OFTEN, sort_commands, to_sort, use_often
from glimber.core.decide.summarise import summarise
from glimber.core.decide.verdict import verdicts
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Try
from glimber.core.stats.measures import measure
from tests.helpers import NOON, folio_of, text_of

PROGRAM = text_of("learning.toml")
BARE = 'format = "glimber-layout/1"\nboard = "split-42"\n[[layers]]\nid = "base"\nname = "Base"\n'
EVERYWHERE = 'format = "glimber-program/1"\nname = "Everywhere"\n'
FOLIO = folio_of({"programs/shoalwright.toml": PROGRAM, "programs/everywhere.toml": EVERYWHERE, "layouts/split-42.toml": BARE})


def once(recall_ms: float, outcome: str = "hit") -> Practice:
    return Practice((Try("t", "r", 1, NOON, "bridge", "quick", "Ctrl+Alt+Q", "press", outcome, recall_ms=recall_ms, motor_ms=1.0),))  # type: ignore[arg-type]


def sorted_out(practice: Practice) -> dict[str, str | None]:
    return {one.command.id: one.proposed for one in to_sort(FOLIO, measure(FOLIO, practice, NOON))}


def test_what_costs_most_comes_first_and_what_is_known_last() -> None:
    found = sorted_out(Practice())
    assert found == {"far": "learn", "near": "learn", "plain": None, "quick": None, "copy": "known", "paste": "known"}
    assert list(found) == ["far", "near", "plain", "quick", "copy", "paste"]
    assert list({one.command.id for one in to_sort(FOLIO)}) and not to_sort(FOLIO, program="namewell")


@pytest.mark.parametrize(("recall", "outcome", "proposed"), [(1499.0, "hit", "known"), (1500.0, "hit", None), (900.0, "slip", None)])
def test_what_was_struck_clean_and_quickly_at_once_is_proposed_as_known(recall: float, outcome: str, proposed: str | None) -> None:
    assert sorted_out(once(recall, outcome))["quick"] == proposed


def test_commands_are_sorted_and_said_to_be_used() -> None:
    after = sort_commands(FOLIO, ["shoalwright/far", "shoalwright/near"], "never")
    assert [after.commands[f"shoalwright/{id}"].learn for id in ("far", "near", "plain")] == ["never", "never", None]
    assert {one.command.id for one in to_sort(after)} == {"plain", "quick", "copy", "paste"}
    for word, a_day in OFTEN.items():
        assert use_often(FOLIO, "shoalwright/far", word).commands["shoalwright/far"].uses_per_day == a_day


def test_what_is_never_learnt_is_no_case() -> None:
    after = sort_commands(FOLIO, ["shoalwright/far"], "never")
    ledger = measure(after, Practice(), NOON)
    rows = {row.id for row in summarise(ledger, verdicts(ledger)).rows}
    assert "far" not in rows and "near" in rows and "done" not in rows
