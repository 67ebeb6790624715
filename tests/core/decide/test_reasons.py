"""Every threshold of a reason, a gate and a choice: just under, at and just over; and each sentence with its figures."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace

from glimber.core.decide.candidates import Candidate
from glimber.core.decide.forecast import Gain, break_even_day, carried, gain_of
from glimber.core.decide.reasons import REASONS, at_work, because, lasts, mixed_with, outcome, pair_of, reason_of
from glimber.core.decide.verdict import _choice, _taken, _worth_it
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.tally import Measured
from glimber.core.stats.accuracy import Beta
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.measures import measure
from tests.helpers import NOON, folio_of, practice, tries_of

S, D, P = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap", "split-42:draw:KeyP:tap"
RANGE, SOUNDING = "shoalwright/depth-range", "shoalwright/add-sounding"
SURE = {"knowing": 0.0, "none": 1.0}


def ledger_of(mine: list[Any], theirs: list[Any] = ["hit"] * 24, **changed: str) -> Ledger:
    tries = practice(tries_of("sounding-s", S, mine), tries_of("range-d", D, theirs))
    return measure(folio_of({f"{name}.toml": text for name, text in changed.items()}), tries, NOON)


LEDGER = ledger_of(["hit"] * 24)


def row_of(**changed: Any) -> Weighed:
    """A binding in whose figures nothing stands out, but for what is changed."""
    row = replace(LEDGER.rows["sounding-s"], effective=20.0, causes=SURE, knowing_now=0.0, reach_ms=100.0, days=4)
    return changed_to(row, **changed)


def changed_to(row: Weighed, uses: float | None = -1.0, **changed: Any) -> Weighed:
    return replace(row, command=row.command if uses == -1 else replace(row.command, uses_per_day=uses), **changed)


def counted(high: float, days: int = 10, **more: Any) -> Measured:
    return Measured(**{"mean": high / 2, "low": 0.0, "high": high, "weekend": 0.0, "days": days, "struck": 0, "undone": 0} | more)


EARNS = row_of().earned_s / row_of().uses_week  # type: ignore[operator]
TIME = row_of().time_ms or 0.0
GUESSED = {"uses": None, "slow_s": None}


@pytest.mark.parametrize(("changed", "reason"), [
    ({}, "solid"), ({"effective": 7.999}, "thin-evidence"), ({"effective": 8.0}, "solid"), ({"posterior": None}, "thin-evidence"),
    ({"days": 1}, "thin-evidence"), ({"days": 2}, "solid"),
    ({"uses": 0.1999, "slow_s": None}, "unused"), ({"uses": 0.2, "slow_s": None}, "solid"),
    ({"uses": 0.1, "uses_week": 4.999 / EARNS}, "unused"), ({"uses": 0.1, "uses_week": 5.001 / EARNS}, "solid"),
    ({**GUESSED}, "solid"), ({**GUESSED, "at_work": counted(0.1999)}, "unused"), ({**GUESSED, "at_work": counted(0.2)}, "solid"),
    ({**GUESSED, "at_work": counted(0.1, days=1)}, "solid"), ({"at_work": counted(0.1), "slow_s": None}, "solid"),
    ({"causes": {"none": 0.2}, "cause": "layer"}, "wrong-layer"), ({"causes": {"none": 0.2001}, "cause": "layer"}, "solid"),
    ({"causes": {"none": 0.1}, "cause": "place"}, "hand-goes-elsewhere"), ({"causes": {"none": 0.1}, "cause": "knowing"}, "solid"),
    ({"knowing_now": 0.15}, "solid"), ({"knowing_now": 0.1501, "lasting": 0.5}, "still-learning"),
    ({"knowing_now": 0.1501, "lasting": 0.5001}, "stuck"), ({"causes": {"none": 0.0}, "cause": "knowing", "knowing_now": 0.5}, "still-learning"),
    ({"reach_ms": 0.3 * TIME}, "long-reach"), ({"reach_ms": 0.2999 * TIME}, "solid"), ({"reach_ms": None}, "solid"),
    ({"reach_ms": 200.0, "recall_ms": None}, "solid"),
])  # fmt: skip
def test_the_first_reason_that_fits(changed: dict[str, Any], reason: str) -> None:
    row = row_of(**changed)
    assert reason_of(LEDGER, row, 150.0) == reason
    if reason == "long-reach":
        assert reason_of(LEDGER, row, row.reach_ms or 0.0) == "solid"  # no longer than three quarters of the others


def test_not_knowing_lasts_from_twenty_four_tries_on() -> None:
    few = ledger_of(["hit"] * 23).rows["sounding-s"]
    assert [lasts(replace(row, lasting=0.6)) for row in (few, row_of())] == [False, True]


@pytest.mark.parametrize(("back", "rest", "told"), [(2, 0, None), (3, 0, RANGE), (3, 9, RANGE), (3, 10, None)])
def test_a_mix_up_sends_back_three_and_a_quarter_of_its_slips(back: int, rest: int, told: str | None) -> None:
    theirs = [("mix-up", S, SOUNDING)] * back + [("stray", P, "")] * rest + ["hit"] * 9
    ledger = ledger_of([("mix-up", D, RANGE), ("mix-up", P, RANGE), "hit"] * 4, theirs)
    row = replace(ledger.rows["sounding-s"], place=D)
    assert mixed_with(ledger, row) == told
    for place, pair in ((D, "range-d"), (P, "range-held")):  # else the first binding of that command
        found = pair_of(ledger, replace(row, place=place))
        assert (found.binding.id if found else None) == (pair if told else None)
    own = ledger_of([("stray", P, SOUNDING), "hit"] * 4)
    assert mixed_with(own, replace(own.rows["sounding-s"], place=P)) is None  # it does what was wanted
    assert mixed_with(ledger, replace(row, place=None)) is None and pair_of(ledger, replace(row, place=None)) is None


@pytest.mark.parametrize(("reason", "changed", "words"), [
    ("thin-evidence", {"days": 1}, "Only 24 tries on one day so far; it takes one more day to judge it."),
    ("unused", {"uses": 0.13, "slow_s": None}, "Used 0.7 times a week; it earns 0 s a week."),
    ("unused", {**GUESSED, "at_work": counted(0.1, struck=1)}, "Struck one time on ten days at work; it earns 0 s a week."),
    ("hand-goes-elsewhere", {"place": D}, "Struck D for S in 1 of 6 slips."),
    ("hand-goes-elsewhere", {"place": "split-42:draw:KeyS:hold"}, "Struck S held on Draw for S on Draw in 0 of 6 slips."),
    ("hand-goes-elsewhere", {"place": "a place that is no more"}, "Struck a place that is no more for S in 0 of 6 slips."),
    ("old-habit", {}, "The hand went to a former place in 1 of 6 slips."), ("wrong-layer", {}, "On the wrong layer in 1 of 6 slips."),
    ("gesture-slips", {}, "With another gesture in 1 of 6 slips."), ("modifier-slips", {}, "With other modifiers in 0 of 6 slips."),
    ("neighbour-slips", {}, "A key beside it in 1 of 6 slips."),
    ("stuck", {"knowing_now": 0.256}, "Not known in 26 % of tries, and not getting better."),
    ("still-learning", {"knowing_now": 0.256}, "Not known in 26 % of tries, and getting better."),
    ("long-reach", {"reach_ms": 301.2}, "S is a long way: 301 of 820 ms are reach."),
    ("solid", {"posterior": Beta(89.6, 10.4)}, "90 % clean, 820 ms."),
])  # fmt: skip
def test_a_reason_is_said_with_its_figures(reason: str, changed: dict[str, Any], words: str) -> None:
    slips: list[Any] = [
        (kind, D if kind == "neighbour" else P, "") for kind in ("neighbour", "old habit", "layer", "gesture", "stray", "stray")
    ]
    ledger = ledger_of(["hit"] * 18 + slips)
    assert because(ledger, changed_to(ledger.rows["sounding-s"], **changed), reason) == words


def test_a_mix_up_is_said_and_one_slip_is_one() -> None:
    ledger = ledger_of([("mix-up", D, RANGE)] + ["hit"] * 9, [("mix-up", S, SOUNDING)] * 3)
    row = replace(ledger.rows["sounding-s"], place=D)
    assert because(ledger, row, "mix-up") == "Taken for Depth range in 1 of 1 slip, and the other way round."
    assert because(ledger, ledger.rows["name-strait"], "thin-evidence") == "Not tried yet."


HOLD, BASE_S, CTRL, ALT = "split-42:draw:KeyS:hold", "split-42:base:KeyS:tap", "Ctrl+S", "Alt+S"


@pytest.mark.parametrize(("went", "blanks", "more", "to", "along"), [
    ({}, 0, {}, None, (0, 0)), ({"layer": {BASE_S: 1}}, 0, {}, None, (1, 0)), ({"old habit": {D: 1}}, 3, {}, None, (0.25, 0)), ({"stray": {D: 4}}, 0, {}, None, (0, 0)),
    ({"gesture": {HOLD: 1}}, 0, {}, None, (0, 1)), ({"modifiers": {CTRL: 1}, "neighbour": {D: 3}}, 0, {}, None, (0, 0.25)),
    ({"stray": {D: 4}}, 0, {"causes": {"place": 0.51}}, None, (0.5, 0)), ({"stray": {D: 4}}, 0, {"causes": {"place": 0.5}}, None, (0, 0)),
    ({"stray": {D: 4}}, 0, {"causes": {"place": 0.9}}, D, (0, 0)), ({"stray": {D: 4}}, 0, {"causes": {"place": 0.9}, "place": None}, None, (0, 0)),
    ({"neighbour": {D: 4}}, 0, {"causes": {"place": 0.9}, "place_beside": True}, None, (0, 0.5)),
    ({"neighbour": {D: 4}}, 0, {"causes": {"place": 0.9}, "place_beside": True}, D, (0, 0)),
    ({"stray": {D: 1}}, 0, {"causes": {"place": 0.9}, "place_count": 5}, None, (1, 0)),
    # Each place takes away what went there, and no more.
    ({"layer": {BASE_S: 3, D: 1}}, 0, {}, BASE_S, (0.25, 0)), ({"layer": {BASE_S: 3, D: 1}}, 0, {}, D, (0.75, 0)), ({"old habit": {D: 2}}, 2, {}, D, (0, 0)),
    ({"modifiers": {CTRL: 7, ALT: 3}}, 0, {}, CTRL, (0, 0.3)), ({"modifiers": {CTRL: 69, ALT: 31}}, 0, {}, CTRL, (0, 1)), ({"modifiers": {CTRL: 7, ALT: 3}}, 0, {}, ALT, (0, 1)),
])  # fmt: skip
def test_which_errors_carry_over_to_a_new_place(went: Any, blanks: int, more: dict[str, Any], to: str | None, along: Any) -> None:
    row = row_of(**({"place": D, "place_count": 2, "place_beside": False, "causes": {"place": 0.0}} | more))
    kinds = {kind: sum(counts.values()) for kind, counts in went.items()}
    row.__dict__["slips"] = replace(row.slips, kinds=kinds, blanks=blanks, went=went)
    assert carried(row).shares(to) == pytest.approx(along)


@pytest.mark.parametrize(("without", "along"), [(False, 1.0), (True, 0.25)])
def test_a_key_without_another_gesture_takes_gesture_slips_away(without: bool, along: float) -> None:
    row = row_of()
    row.__dict__["slips"] = replace(row.slips, kinds={"gesture": 3, "modifiers": 1}, blanks=0, went={"gesture": {HOLD: 3}, "modifiers": {}})
    assert carried(row).shares(D, without)[1] == along


@pytest.mark.parametrize(("found", "firm", "said"), [
    (counted(14.99, struck=5), True, "At work it was struck five times on ten days, not 60 a day: the situation does not bring it to mind; "
     "drill it by its situation."),
    (counted(15.0), True, ""), (counted(14.0), False, ""), (counted(14.0, days=1), True, ""), (None, True, ""),
    (counted(90.0, struck=30, undone=3), True, "At work 3 of 30 were undone immediately."), (counted(90.0, struck=31, undone=3), True, ""),
    (counted(90.0, struck=4, undone=2), True, ""),
])  # fmt: skip
def test_what_the_real_day_says_beside_practice(found: Measured | None, firm: bool, said: str) -> None:
    assert at_work(row_of(at_work=found, p_know=1.0, hand=Beta(2.0, 8.0) if firm else Beta(2.01, 7.99))) == said


def place(to: str = P, week: float = 30.0, sure: float = 0.8, share: float = 0.1, total: float = 0.0, day: int | None = None, goes: float = 0.0,
          move: bool = True, swap: str | None = None) -> Candidate:  # fmt: skip
    gain = Gain(total, week, share, sure, day)
    return Candidate("sounding-s", parse_trigger(to), swap, 0.0, gain, gain, goes, move)


@pytest.mark.parametrize(("reason", "to", "worth"), [
    ("stuck", {}, True), ("stuck", {"sure": 0.7999}, False), ("stuck", {"share": 0.0999}, False), ("stuck", {"week": 29.99}, False),
    ("solid", {"sure": 0.9099}, False), ("solid", {"sure": 0.91}, True), ("long-reach", {"sure": 0.9099}, False),
    ("stuck", {"week": 5.0, "goes": 0.4}, True), ("stuck", {"week": 4.999, "goes": 0.4}, False), ("stuck", {"week": 29.0, "goes": 0.399}, False),
])  # fmt: skip
def test_a_change_must_be_sure_and_gain_enough(reason: str, to: dict[str, Any], worth: bool) -> None:
    assert _worth_it(LEDGER, place(**to), reason) is worth


@pytest.mark.parametrize(("totals", "taken"), [
    ([(100.0, False, 0.0), (95.0, True, 0.0)], 1), ([(100.0, False, 0.0), (94.9, True, 0.0)], 0), ([(100.0, False, 0.0)], 0),
    ([(100.0, False, 0.0), (99.0, True, 0.0), (9.0, False, 0.4)], 2), ([], None),
])  # fmt: skip
def test_the_hands_place_comes_first_then_a_move(totals: list[tuple[float, bool, float]], taken: int | None) -> None:
    worth = [place(total=total, move=move, goes=goes) for total, move, goes in totals]
    assert _taken(worth) is (None if taken is None else worth[taken])


@pytest.mark.parametrize(("changed", "reason", "best", "settling", "choice"), [
    ({"days": 1}, "thin-evidence", None, False, "practise"), ({"knowing_now": 0.15}, "solid", place(), True, "keep"),
    ({"knowing_now": 0.1501}, "stuck", place(), True, "practise"), ({"uses": 0.1, "slow_s": None}, "unused", place(), False, "retire"),
    ({}, "solid", place(), False, "move"), ({}, "solid", place(move=False), False, "rebind"), ({"lasting": 0.1}, "still-learning", place(), False, "keep"),
    ({"lasting": 0.2}, "still-learning", place(), False, "keep"), ({"lasting": 0.2001}, "still-learning", place(), False, "move"),
    ({"knowing_now": 0.15, "lasting": 0.6}, "stuck", None, False, "keep"), ({"knowing_now": 0.1501, "lasting": 0.6}, "stuck", None, False, "rebind"),
    ({"knowing_now": 0.1501, "lasting": 0.15}, "still-learning", place(), False, "practise"),
])  # fmt: skip
def test_the_choice(changed: dict[str, Any], reason: str, best: Candidate | None, settling: bool, choice: str) -> None:
    assert _choice(row_of(**changed), reason, best, settling, asked=False) == choice


@pytest.mark.parametrize(("changed", "best", "choice"), [({}, None, "practise"), ({"knowing_now": 0.9, "lasting": 0.9}, None, "practise"), ({}, place(), "move")])
def test_a_pair_that_was_not_asked_about_is_practised(changed: dict[str, Any], best: Candidate | None, choice: str) -> None:
    assert _choice(row_of(**changed), "mix-up", best, False, asked=True) == choice


@pytest.mark.parametrize(("choice", "best", "words"), [
    ("move", place(day=3, swap="x"), "Swapping S and P breaks even on day 3 and saves 30 s a week."), ("move", place(), "Moving to P saves 30 s a week."),
    ("rebind", place("split-42:draw:KeyP:hold", move=False), "Rebinding to P held on Draw saves 30 s a week."),
    ("move", place("split-42:base:KeyP:tap"), "Moving to P on Base saves 30 s a week."), ("rebind", place("Ctrl+P"), "Moving to Ctrl+P saves 30 s a week."),
    ("rebind", None, "Nothing free is better; a better reason for the key may be."), ("retire", place(), "The slow way will do."),
    ("practise", None, "Practice will mend it."), ("keep", None, ""),
])  # fmt: skip
def test_what_it_would_bring_is_said(choice: Any, best: Candidate | None, words: str) -> None:
    assert outcome(LEDGER, row_of(), choice, best) == words and outcome(LEDGER, row_of(days=1), "practise", best) == ""


@pytest.mark.parametrize(("running", "after", "day"), [
    ([0.0, 1.0], 5.0, 1), ([-1.0, 0.0], 5.0, 2), ([1.0, -1.0], 5.0, None), ([-1.0, 2.0, -1.0, 2.0], 5.0, 4), ([1.0, 1.0], 10.0, None),
])  # fmt: skip
def test_even_is_the_day_from_which_it_stays_ahead(running: list[float], after: float, day: int | None) -> None:
    days, before = len(running), np.array([10.0, 10.0])
    found = gain_of(before, np.array([after, after]), np.array([running]))
    assert found == Gain(10 - after, (10 - after) * 7 / days, (10 - after) / 10, pytest.approx(0.96 if after < 10 else 0.04), day)
    assert gain_of(0 * before, 0 * before, np.array([running])).share == 0.0
    assert gain_of(before, np.array([9.0, 10.0]), np.array([running])).p_better == 0.5
    assert gain_of(before / 20, 0 * before, np.array([[0.0]])) == Gain(0.5, 3.5, 1.0, pytest.approx(0.96), 1)


@pytest.mark.parametrize(("days", "even"), [([1] * 8 + [3, 5], 1), ([1] * 7 + [3, 4, 5], 3), ([2] * 10, 2), ([2] * 7 + [9] * 3, None), ([2] * 8 + [9] * 2, 2)])
def test_even_is_the_day_by_which_four_in_five_draws_are(days: list[int], even: int | None) -> None:
    running = np.array([[1.0 if day >= first else -1.0 for day in range(1, 8)] for first in days])
    assert break_even_day(running) == even


@pytest.mark.parametrize(("changed", "words"), [
    ({"days": 1}, "it takes one more day"), ({"effective": 5.0}, "it takes three more tries"), ({"effective": 7.9, "days": 1}, "it takes one more try on one more day"),
])  # fmt: skip
def test_a_verdict_not_yet_possible_says_what_it_lacks(changed: dict[str, Any], words: str) -> None:
    assert words in because(LEDGER, row_of(**changed), "thin-evidence")


def test_every_reason_has_its_sentence_and_no_other_is_known() -> None:
    assert len({reason.id for reason in REASONS}) == len(REASONS)
    with pytest.raises(KeyError):
        because(LEDGER, row_of(), "undone-at-wrk")
