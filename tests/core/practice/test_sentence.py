"""What is said after a slip: each template with and without what can be left out of it."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.answer import Answer, Habit, Question
from glimber.core.practice.sentence import words_of, words_of_name
from tests.helpers import folio_of, layer_text, layout_text

PAD = layout_text(layer_text("base", 'knob-1 = { left = { id = "knob", does = "shoalwright/quay-list" } }'), board="pad-21")
FOLIO = folio_of({"layouts/pad-21.toml": PAD})
S, HELD, D, P = (f"split-42:draw:{key}" for key in ("KeyS:tap", "KeyS:hold", "KeyD:tap", "KeyP:tap"))
WAY = "split-42:base:thumb-left-1"


@pytest.mark.parametrize(("wanted", "struck", "slip", "more", "words"), [
    ("sounding-s", None, None, {"outcome": "hit"}, ""), ("sounding-s", None, None, {"outcome": "blank"}, "No answer. Wanted S on Draw."),
    ("sounding-s", P, "old habit", {"habit": Habit(parse_trigger(P), date(2026, 9, 3))}, "P on Draw, where it was until 3 September. Wanted S on Draw."),
    ("sounding-s", P, "old habit", {}, "P on Draw. Wanted S."),
    ("sounding-s", HELD, "gesture", {}, "S held. Wanted S tapped."), ("range-held", S, "gesture", {"likely": True}, "Most likely S tapped. Wanted S held."),
    ("sounding-s", f"{WAY}:tap", "gesture", {}, "Left thumb 1 tapped. Wanted it held, for Draw."),
    ("sounding-s", f"{WAY}:hold", "gesture", {"likely": True}, "Most likely left thumb 1 held. Wanted it held, for Draw."),
    ("add-sounding", "Ctrl+S", "modifiers", {"missing": ("Shift",)}, "Ctrl+S. Wanted Ctrl+Shift+S: Shift was missing."),
    ("add-sounding", "Alt+Super+S", "modifiers", {"missing": ("Ctrl", "Shift"), "extra": ("Alt", "Super")},
     "Alt+Super+S. Wanted Ctrl+Shift+S: Ctrl and Shift were missing, Alt and Super were too much."),
    ("sounding-s", "split-42:base:KeyS:tap", "layer", {"likely": True}, "Most likely S on Base. Wanted S on Draw."),
    ("sounding-s", D, "mix-up", {"would_do": "shoalwright/depth-range"}, "D on Draw is Depth range. Wanted S on Draw."),
    ("sounding-s", D, "mix-up", {}, "D on Draw is another command. Wanted S on Draw."),
    ("lead-line", "Ctrl+K", "unfinished", {"done": 1}, "Ctrl+K, then nothing. Wanted Ctrl+K Ctrl+L."),
    ("lead-line", "Ctrl+K Ctrl+X", "unfinished", {"done": 1}, "Ctrl+K, then Ctrl+X. Wanted Ctrl+K Ctrl+L."),
    ("sounding-s", D, "unfinished", {}, "D on Draw, then nothing. Wanted S on Draw."),
    ("sounding-s", D, "neighbour", {"offset_u": (1.0, 0.0), "finger_wanted": "left-ring"}, "D on Draw. Wanted S: one key left, ring finger."),
    ("sounding-s", D, "stray", {"offset_u": (-2.0, 1.0), "finger_wanted": "left-thumb"}, "D on Draw. Wanted S: two keys right, one up, thumb."),
    ("sounding-s", D, "stray", {"offset_u": (6.0, 4.0)}, "D on Draw. Wanted S: six keys left, four up."),
    ("sounding-s", D, "stray", {"offset_u": (-6.0, -4.1), "finger_wanted": "left-ring"}, "D on Draw. Wanted S: ring finger."),
    ("sounding-s", D, "stray", {}, "D on Draw. Wanted S."), ("range-held", D, "stray", {}, "D on Draw. Wanted S held."),
    ("sounding-s", D, "mirror", {"offset_u": (9.0, 0.0), "finger_wanted": "left-ring"}, "D on Draw. Wanted S: the same key of the other hand, ring finger."),
    ("sounding-s", "split-42:base:KeyD:tap", "stray", {"likely": True}, "Most likely D on Base. Wanted S on Draw."),
    ("knob", "pad-21:base:knob-1:right", "stray", {}, "Knob 1 turned right on Base. Wanted knob 1 turned left."),
    ("add-sounding", "g i", "stray", {}, "g i. Wanted Ctrl+Shift+S."),
])  # fmt: skip
def test_what_is_said(wanted: str, struck: str | None, slip: Any, more: dict[str, Any], words: str) -> None:
    answer = Answer("slip", slip, parse_trigger(struck, FOLIO.bundles) if struck else None)
    assert words_of(Question(FOLIO, FOLIO.bindings[wanted]), replace(answer, **more)) == words


@pytest.mark.parametrize(("said", "words"), [
    (None, "No answer. S on Draw is Add sounding."), ("none/such", "No answer. S on Draw is Add sounding."),
    ("shoalwright/depth-range", "Depth range is S held on Draw. This is Add sounding."), ("shoalwright/name-strait", "Name strait is Ctrl+K Ctrl+S. This is Add sounding."),
])  # fmt: skip
def test_what_is_said_where_a_key_was_named_wrongly(said: str | None, words: str) -> None:
    assert words_of_name(FOLIO, FOLIO.bindings["sounding-s"], said) == words
