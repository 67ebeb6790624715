"""The next prompt: worth a second decides, new ones are shown and paced, and nobody meets one slip again and again."""

from __future__ import annotations

from collections import Counter
from datetime import timedelta
from random import Random

import numpy as np
import pytest
from msgspec.structs import replace

from glimber.core.decide.next_prompt import CLEAN_OF, MOST_CLEAN, MOST_MISSES, OPEN_NEW, USUAL_S, Prompts, prompts_of, seconds_of
from glimber.core.edit.edit import with_program
from glimber.core.model.folio import Folio
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Outcome
from glimber.core.stats.belief import FLOORS, GROWTHS, SHAPES, Belief, after_known, after_unknown, believe, retention
from glimber.core.stats.measures import measure
from tests.helpers import NOON, folio_of, tries_of

S = "split-42:draw:KeyS:tap"


def fresh(count: int = 40, tried: bool = False) -> Prompts:
    """A round of so many bindings, all alike but for what is at stake."""
    hypotheses = len(GROWTHS) * len(SHAPES) * len(FLOORS) * 2
    belief = Belief(np.full((hypotheses, count), 1.0), np.full((hypotheses, count), 10.0), np.full(count, tried), np.full(hypotheses, 1 / hypotheses),
                    np.full(count, 0.25), np.full(count, 4.0), 5 / 7)  # fmt: skip
    stakes = np.linspace(100.0, 50.0, count)
    return Prompts([f"b{n}" for n in range(count)], belief, stakes, np.full(count, 0.05), dict(USUAL_S), 11.0, np.zeros(count, dtype=bool))


def drive(prompts: Prompts, clean: float, seconds: float = 180.0, seed: int = 1) -> list[tuple[str, bool, Outcome]]:
    """Answer until the time is used; each answer is clean with one chance."""
    random, done, left = Random(seed), list[tuple[str, bool, Outcome]](), seconds
    while left > 0 and (prompt := prompts.next()) is not None:
        outcome: Outcome = "hit" if prompt.shown or random.random() < clean else random.choice(["slip", "blank"])
        took = 3.5 if prompt.shown else USUAL_S[outcome]
        prompts.answer(prompt, outcome, "stray" if outcome == "slip" else None, took)
        done.append((prompt.binding, prompt.shown, outcome))
        left -= took
    return done


def test_what_was_never_struck_is_shown_first_and_then_asked_after_others() -> None:
    done = drive(fresh(), 0.9)
    firsts: dict[str, int] = {}
    for place, (binding, shown, _) in enumerate(done):
        if binding in firsts and sum(one[0] == binding for one in done[:place]) == 1:
            assert not shown and place - firsts[binding] >= 3
        elif binding not in firsts:
            assert shown
        firsts[binding] = firsts.get(binding, place)


@pytest.mark.parametrize(("clean", "most"), [(0.0, OPEN_NEW), (0.5, 9), (1.0, 40)])
def test_new_ones_come_as_fast_as_they_are_held(clean: float, most: int) -> None:
    done = drive(fresh(), clean)
    assert len({binding for binding, _, _ in done}) <= most
    assert len({binding for binding, _, _ in done}) >= min(3, most)


@pytest.mark.parametrize("clean", [0.0, 0.3, 0.7, 1.0])
@pytest.mark.parametrize("tried", [False, True])
def test_no_binding_is_asked_again_and_again(clean: float, tried: bool) -> None:
    done = [(binding, outcome) for binding, shown, outcome in drive(fresh(tried=tried), clean, 300.0) if not shown]
    assert all(count <= MOST_CLEAN for count in Counter(b for b, outcome in done if outcome == "hit").values())
    assert all(count <= MOST_MISSES for count in Counter(b for b, outcome in done if outcome != "hit").values())
    for place in range(len(done) - 1):
        assert done[place][0] != done[place + 1][0]


def test_after_two_blanks_it_goes_on_to_others_and_comes_back_shown() -> None:
    prompts, seen = fresh(12, tried=True), list[tuple[str, bool]]()
    while len(seen) < 60 and (prompt := prompts.next()) is not None:
        first = prompt.binding == "b0"
        seen.append((prompt.binding, prompt.shown))
        prompts.answer(prompt, "blank" if first and not prompt.shown else "hit", None, 2.0)
    mine = [shown for binding, shown in seen if binding == "b0"]
    assert mine[:3] == [False, False, True] and mine.count(False) <= MOST_MISSES


def test_the_dearest_comes_first_and_what_must_be_asked_is() -> None:
    prompts = fresh(8, tried=True)
    first = prompts.next()
    assert first is not None and first.binding == "b0"
    pressed = fresh(8, tried=True)
    pressed.pressed = {"b7"}
    last = pressed.next()
    assert last is not None and last.binding == "b7"
    pressed.answer(last, "hit", None, 1.3)
    assert not pressed.pressed


def test_few_bindings_still_fill_a_round() -> None:
    done = drive(fresh(2, tried=True), 1.0)
    assert Counter(binding for binding, _, _ in done) == {"b0": MOST_CLEAN, "b1": MOST_CLEAN}
    assert drive(fresh(1, tried=True), 1.0)


def known(folio: Folio, learn: str) -> Folio:
    program = folio.programs["shoalwright"]
    command = replace(program.commands["add-sounding"], learn=learn)
    return with_program(folio, replace(program, commands={**program.commands, "add-sounding": command}))


def test_what_a_person_says_of_a_command_counts() -> None:
    ledger = measure(known(folio_of(), "never"), Practice(), NOON)
    assert "sounding-s" not in prompts_of(ledger, list(ledger.rows)).ids
    ledger = measure(known(folio_of(), "known"), Practice(), NOON)
    prompts = prompts_of(ledger, ["sounding-s"])
    assert prompts.belief.first[0] == pytest.approx((0.25 + 9.5) / 11)
    asked = prompts.next()
    assert asked is not None and asked.new and not asked.shown


def test_a_binding_seen_to_fail_is_believed_to() -> None:
    tries = tries_of("sounding-s", S, ["hit"] * 12, days=6) + tries_of("range-d", S.replace("KeyS", "KeyD"), ["blank"] * 12, days=6)
    ledger = measure(folio_of(), Practice(tuple(tries)), NOON + timedelta(days=1))
    prompts = prompts_of(ledger, ["sounding-s", "range-d"])
    chance = dict(zip(prompts.ids, prompts.belief.known(prompts.day + 7), strict=True))
    assert chance["sounding-s"] > chance["range-d"] + 0.2


def test_strength_and_retention_are_their_formulas() -> None:
    one = np.full((48, 1), 2.0)
    p = retention(one, 3.0)
    grid = [(g, d, f) for g in GROWTHS for d in SHAPES for f in FLOORS for _ in range(2)]
    for place, (g, d, f) in enumerate(grid):
        assert p[place, 0] == pytest.approx((1 + 3 / (d * 2)) ** -d)
        assert after_known(one, p)[place, 0] == pytest.approx(2 * (1 + g * (1 - p[place, 0])) + 0.05)
        assert after_unknown(one)[place, 0] == pytest.approx(max(f, 1.4) + 0.15)


def test_weights_are_a_distribution_and_lean_to_what_the_log_shows() -> None:
    held = [one for day in range(12) for one in tries_of("sounding-s", S, ["hit"], days=1, until=NOON - timedelta(days=12 - day))]
    ledger = measure(folio_of(), Practice(tuple(held)), NOON)
    count = len(ledger.rows)
    belief = believe(ledger.logged, np.zeros(count), 5.0, np.zeros(count, dtype=bool))
    assert belief.weight.sum() == pytest.approx(1.0) and belief.weight.max() > 1.05 / 48


def test_the_persons_own_pace_takes_the_place_of_the_usual_one() -> None:
    usual = seconds_of(measure(folio_of(), Practice(), NOON))
    assert usual == pytest.approx(USUAL_S) and CLEAN_OF == 12
