"""Judged answers: for every sort of trigger what may be struck instead, and what that is called, written down by hand."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.engine.events import Event
from glimber.core.engine.perform import perform
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Spot, parse_trigger
from glimber.core.practice.answer import Habit, Question
from glimber.core.practice.judge import Judge, judge, listener_for
from tests.helpers import folio_of, layer_text, layout_text

PROGRAM = """format = "glimber-program/1"
name = "Shoalwright"
[commands]
sounding = { name = "Add sounding", shortcut = "Ctrl+Shift+S" }
depth = { name = "Depth range", shortcut = "F6" }
lead = { name = "Lead line", shortcut = "Ctrl+K Ctrl+L" }
strait = { name = "Name strait", shortcut = "Ctrl+K Ctrl+G" }
tide = { name = "Tide table", shortcut = "Shift+[Numpad4]" }
island = { name = "Name island", shortcut = "g i" }
note = { name = "Write note", bindings = [{ id = "note", trigger = "\\"ab\\"" }] }
"""
PROGRAM += "".join(f'[commands.{name}]\nname = "{name.title()}"\n' for name in ("one", "two", "three", "four", "five", "six", "seven"))
LAYOUT = layout_text(
    layer_text("base", 'thumb-left-1 = { tap = "Space", hold = { enters = "draw", mode = "while" } }',
               'KeyA = { tap = { id = "base-a", does = "shoalwright/seven" } }'),
    layer_text("draw", 'KeyS = { tap = { id = "tap", does = "shoalwright/one" }, hold = { id = "hold", does = "shoalwright/two" } }',
               'KeyD = { tap = { id = "beside", does = "shoalwright/three" } }',
               'KeyE = { tap = { id = "twice-tap", does = "shoalwright/six" }, double = { id = "double", does = "shoalwright/four" } }',
               'KeyX = { tap = "x", "tap-hold" = { id = "tap-hold", does = "shoalwright/five" } }',
               '"KeyJ&KeyK" = { tap = { id = "pair", does = "shoalwright/sounding" } }',
               'KeyJ = { tap = { id = "single", does = "shoalwright/strait" } }', unbound="dead"))  # fmt: skip
PAD = layout_text(layer_text("base", """knob-1.left = { id = "left", does = "shoalwright/one" }
knob-1.right = { id = "right", does = "shoalwright/two" }
knob-1.press = { id = "press", does = "shoalwright/three" }
knob-2 = { left = { id = "other-left", does = "shoalwright/four" } }"""), board="pad-21")  # fmt: skip
FOLIO = folio_of({"programs/shoalwright.toml": PROGRAM, "layouts/split-42.toml": LAYOUT, "layouts/pad-21.toml": PAD})


def rows() -> list[tuple[str, str, str]]:
    """What is written down: binding, what is struck for it, and what that is."""
    found = []
    for line in Path(__file__).with_name("judged.txt").read_text().splitlines():
        if line and not line.startswith("#"):
            head, _, struck = line.partition(" = ")
            wanted, _, kind = head.partition(", ")
            found += [(wanted, one, kind) for one in struck.split(" | ")]
    return found


ROWS = rows()


def question(folio: Folio, wanted: str) -> Question:
    binding = folio.bindings[wanted]
    board = binding.trigger.board if isinstance(binding.trigger, Spot) else None
    return Question(folio, binding, computer="bridge", on_board=board, strict=True)


def struck_as(folio: Folio, struck: str) -> list[Event]:
    if struck == "-":
        return []
    return perform(folio, parse_trigger(struck, folio.bundles), 400)


def test_the_table_has_every_kind_and_at_least_150_answers() -> None:
    assert len(ROWS) >= 150 and len(set(ROWS)) == len(ROWS)
    kinds = {kind for _, _, kind in ROWS}
    assert kinds == {"hit", "blank", "unfinished", "gesture", "layer", "modifiers", "neighbour", "mirror", "mix-up", "stray"}


@pytest.mark.parametrize(("wanted", "struck", "kind"), ROWS)
def test_an_answer_is_called_what_the_table_says(wanted: str, struck: str, kind: str) -> None:
    answer = judge(question(FOLIO, wanted), struck_as(FOLIO, struck))
    told = answer.slip if answer.outcome == "slip" else answer.outcome
    assert told == kind, answer.words
    elsewhere = tuple(Habit(parse_trigger(one), date(2026, 11, 19)) for one in ("Ctrl+Alt+F11", "split-42:draw:KeyB:tap"))
    assert judge(replace(question(FOLIO, wanted), habits=elsewhere), struck_as(FOLIO, struck)) == answer
    assert (answer.words == "") == (kind == "hit")
    assert answer.words.count(". ") <= 1  # two short sentences at most


@pytest.mark.parametrize(("wanted", "struck", "kind"), [row for row in ROWS if row[2] not in ("hit", "blank")])
def test_where_it_was_until_lately_is_an_old_habit_whatever_else_it_might_be(wanted: str, struck: str, kind: str) -> None:
    trigger = parse_trigger(struck, FOLIO.bundles)
    asked = question(FOLIO, wanted)
    same = isinstance(trigger, Spot) == isinstance(asked.wanted.trigger, Spot)
    if not same or kind == "unfinished":
        return
    habit = Habit(trigger, date(2026, 11, 19))
    answer = judge(replace(asked, habits=(habit,)), struck_as(FOLIO, struck))
    assert answer.slip == "old habit" and "until 19 November" in answer.words


@given(st.sampled_from(sorted({wanted for wanted, _, _ in ROWS})), st.floats(0, 3000), st.floats(0.3, 2.5))
def test_the_wanted_triggers_own_events_are_always_a_clean_hit(wanted: str, begin: float, pace: float) -> None:
    binding = FOLIO.bindings[wanted]
    events = perform(FOLIO, binding.trigger, begin, pace=pace) if pace <= 1.2 else perform(FOLIO, binding.trigger, begin)
    answer = judge(replace(question(FOLIO, wanted), deadline_ms=20_000), events)
    assert (answer.outcome, answer.credited) == ("hit", wanted)


@given(st.sampled_from(ROWS), st.lists(st.sampled_from(["KeyQ", "F9", "KeyS", "Escape"]), min_size=1, max_size=3))
def test_what_comes_after_an_answer_changes_nothing_of_it(row: tuple[str, str, str], more: list[str]) -> None:
    wanted, struck, _ = row
    events = struck_as(FOLIO, struck)
    judging = Judge(question(FOLIO, wanted), listener_for(question(FOLIO, wanted)))
    answers = [answer for event in events if (answer := judging.feed(event)) is not None]
    if not answers:
        return  # decided by time alone
    later = [Event(events[-1].t + 500 + 100 * n, kind, key) for n, key in enumerate(more) for kind in ("down", "up")]
    assert judge(question(FOLIO, wanted), [*events, *later]) == answers[0]


@given(st.sampled_from(ROWS))
def test_every_answer_has_exactly_one_outcome(row: tuple[str, str, str]) -> None:
    answer = judge(question(FOLIO, row[0]), struck_as(FOLIO, row[1]))
    assert answer.outcome in ("hit", "slip", "blank") and (answer.slip is not None) == (answer.outcome == "slip")
    assert (answer.credited is not None) == (answer.outcome == "hit")
