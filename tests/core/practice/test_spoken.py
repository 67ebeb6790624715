"""A round in words, state by state."""

from __future__ import annotations

from glimber.core.practice.inputs import Pause
from glimber.core.practice.pacing import Prompt
from glimber.core.practice.spoken import PAUSED, spoken
from tests.core.practice.test_machine import Hand, Steps


def test_every_state_of_a_round_has_its_words() -> None:
    hand = Hand("sounding-s", pacing=Steps(Prompt("sounding-s", True, True), *[Prompt("sounding-s", False, False)] * 3))
    assert spoken(hand.drill) == "New: Add sounding is S on Draw. S as in sounding. Strike it once."
    hand.strike()
    assert spoken(hand.drill) == "Add sounding, Shoalwright."
    hand.strike("split-42:draw:KeyD:tap")
    text = spoken(hand.drill)
    assert "Struck D for S" in text or "Wanted S" in text
    assert text.endswith("It is S on Draw. Strike it to go on.")
    hand.do(Pause("paused"))
    assert spoken(hand.drill) == PAUSED


def test_the_first_prompt_says_which_round_it_is_and_its_time() -> None:
    hand = Hand("sounding-s")
    assert spoken(hand.drill, "Round 3 · press", 180.0) == "Round 3 · press, 180 seconds. Add sounding, Shoalwright."
    hand.strike()
    assert spoken(hand.drill, "Round 3 · press", 170.0) == "Add sounding, Shoalwright."


def test_a_lit_key_is_named_and_not_what_it_does() -> None:
    hand = Hand("sounding-s", mode="name")
    assert spoken(hand.drill) == "Which command of Shoalwright is S on Draw?"


def test_what_cannot_be_written_is_said() -> None:
    hand = Hand("sounding-s")
    hand.full = True
    hand.strike()
    assert spoken(hand.drill) == "the disk is full. Enter tries again."
