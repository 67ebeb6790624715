"""Judged answers: for every sort of trigger what may be struck instead, and what that is called, written down by hand."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.drill.answer import Habit, Question
from glimber.core.drill.judge import Judge, judge, listener_for
from glimber.core.engine.events import Event
from glimber.core.engine.perform import perform
from glimber.core.folio.folio import Folio
from glimber.core.notation.keys import Spot, parse_trigger
from tests.helpers import folio_of

PROGRAM = """format = "glimber-program/1"
name = "Shoalwright"
[commands.sounding]
name = "Add sounding"
shortcut = "Ctrl+Shift+S"
[commands.depth]
name = "Depth range"
shortcut = "F6"
[commands.lead]
name = "Lead line"
shortcut = "Ctrl+K Ctrl+L"
[commands.strait]
name = "Name strait"
shortcut = "Ctrl+K Ctrl+G"
[commands.tide]
name = "Tide table"
shortcut = "Shift+[Numpad4]"
[commands.island]
name = "Name island"
shortcut = "g i"
[commands.note]
name = "Write note"
bindings = [{ id = "note", trigger = "\\"ab\\"" }]
"""
PROGRAM += "".join(f'[commands.{name}]\nname = "{name.title()}"\n' for name in ("one", "two", "three", "four", "five", "six", "seven"))
LAYOUT = """format = "glimber-layout/1"
board = "split-42"
[[layers]]
id = "base"
name = "Base"
unbound = "falls"
[layers.keys]
thumb-left-1 = { tap = "Space", hold = { enters = "draw", mode = "while" } }
KeyA = { tap = { id = "base-a", does = "shoalwright/seven" } }
[[layers]]
id = "draw"
name = "Draw"
unbound = "dead"
[layers.keys]
KeyS = { tap = { id = "tap", does = "shoalwright/one" }, hold = { id = "hold", does = "shoalwright/two" } }
KeyD = { tap = { id = "beside", does = "shoalwright/three" } }
KeyE = { tap = { id = "twice-tap", does = "shoalwright/six" }, double = { id = "double", does = "shoalwright/four" } }
KeyX = { tap = "x", "tap-hold" = { id = "tap-hold", does = "shoalwright/five" } }
"KeyJ&KeyK" = { tap = { id = "pair", does = "shoalwright/sounding" } }
KeyJ = { tap = { id = "single", does = "shoalwright/strait" } }
"""
PAD = """format = "glimber-layout/1"
board = "pad-21"
[[layers]]
id = "base"
name = "Base"
[layers.keys]
knob-1 = { left = { id = "left", does = "shoalwright/one" }, right = { id = "right", does = "shoalwright/two" }, press = { id = "press", does = "shoalwright/three" } }
knob-2 = { left = { id = "other-left", does = "shoalwright/four" } }
"""
FOLIO = folio_of({"programs/shoalwright.toml": PROGRAM, "layouts/split-42.toml": LAYOUT, "layouts/pad-21.toml": PAD})

# binding : what is struck for it = what that is. "hit" a clean hit; "-" nothing at all.
CHORDS = """
sounding : Ctrl+Shift+S = hit
sounding : Ctrl+S = modifiers
sounding : Shift+S = modifiers
sounding : s = modifiers
sounding : Ctrl+Alt+Shift+S = modifiers
sounding : Alt+Shift+S = modifiers
sounding : Ctrl+Alt+S = modifiers
sounding : Super+S = modifiers
sounding : Ctrl+Shift+A = neighbour
sounding : Ctrl+Shift+D = neighbour
sounding : Ctrl+Shift+W = neighbour
sounding : Ctrl+Shift+E = neighbour
sounding : Ctrl+Shift+X = neighbour
sounding : Ctrl+Shift+Z = neighbour
sounding : Ctrl+Shift+L = mirror
sounding : Ctrl+Shift+F = stray
sounding : Ctrl+Shift+Q = neighbour
sounding : Ctrl+Shift+R = stray
sounding : Ctrl+Shift+P = stray
sounding : Ctrl+D = stray
sounding : a = stray
sounding : F6 = mix-up
sounding : Super+D = mix-up
sounding : g i = mix-up
sounding : Ctrl+K Ctrl+L = mix-up
sounding : Shift+[Numpad4] = mix-up
sounding : F2 = stray
sounding : Escape = stray
sounding : Enter = stray
sounding : - = blank
depth : F6 = hit
depth : F5 = neighbour
depth : F7 = neighbour
depth : F8 = stray
depth : Ctrl+F6 = modifiers
depth : Shift+F6 = modifiers
depth : 6 = stray
depth : Ctrl+Shift+S = mix-up
depth : Super+D = mix-up
depth : - = blank
show-desktop : Super+D = hit
show-desktop : Ctrl+D = modifiers
show-desktop : d = modifiers
show-desktop : Ctrl+Super+D = modifiers
show-desktop : Super+S = neighbour
show-desktop : Super+F = neighbour
show-desktop : Super+E = neighbour
show-desktop : Super+K = mirror
show-desktop : Super+L = stray
show-desktop : - = blank
tide : Shift+[Numpad4] = hit
tide : [Numpad4] = modifiers
tide : Ctrl+[Numpad4] = modifiers
tide : Shift+[Numpad1] = neighbour
tide : Shift+[Numpad5] = neighbour
tide : Shift+[Numpad7] = neighbour
tide : Shift+[Numpad8] = neighbour
tide : Shift+[Digit4] = stray
tide : Shift+[Numpad9] = stray
tide : F6 = mix-up
tide : - = blank
"""
SEQUENCES = """
lead : Ctrl+K Ctrl+L = hit
lead : Ctrl+K = unfinished
lead : Ctrl+K Ctrl+G = mix-up
lead : Ctrl+K L = unfinished
lead : Ctrl+K Ctrl+X = unfinished
lead : Ctrl+K Escape = unfinished
lead : Ctrl+J = neighbour
lead : Ctrl+I = neighbour
lead : Ctrl+D = mirror
lead : k = modifiers
lead : Alt+K = modifiers
lead : Ctrl+Shift+K = modifiers
lead : Ctrl+Z = stray
lead : Super+D = mix-up
lead : F6 = mix-up
lead : - = blank
strait : Ctrl+K Ctrl+G = hit
strait : Ctrl+K Ctrl+L = mix-up
strait : Ctrl+K Ctrl+H = unfinished
strait : Ctrl+K = unfinished
strait : Ctrl+Shift+S = mix-up
strait : - = blank
island : g i = hit
island : g = unfinished
island : g o = unfinished
island : g u = unfinished
island : g x = unfinished
island : g g = unfinished
island : h = neighbour
island : f = neighbour
island : t = neighbour
island : p = stray
island : Ctrl+G = modifiers
island : F6 = mix-up
island : - = blank
"""
SPOTS = """
tap : split-42:draw:KeyS:tap = hit
tap : split-42:draw:KeyS:hold = gesture
tap : split-42:draw:KeyD:tap = neighbour
tap : split-42:draw:KeyA:tap = neighbour
tap : split-42:draw:KeyW:tap = neighbour
tap : split-42:draw:KeyE:tap = neighbour
tap : split-42:draw:KeyX:tap = neighbour
tap : split-42:draw:KeyL:tap = mirror
tap : split-42:draw:KeyG:tap = stray
tap : split-42:draw:KeyP:tap = stray
tap : split-42:draw:KeyJ:tap = mix-up
tap : split-42:base:KeyS:tap = layer
tap : split-42:base:KeyA:tap = mix-up
tap : split-42:base:KeyG:tap = stray
tap : split-42:base:thumb-left-1:tap = gesture
tap : split-42:draw:KeyE:double = mix-up
tap : split-42:draw:KeyJ&KeyK:tap = mix-up
tap : - = blank
hold : split-42:draw:KeyS:hold = hit
hold : split-42:draw:KeyS:tap = gesture
hold : split-42:draw:KeyD:tap = mix-up
hold : split-42:draw:KeyG:tap = stray
hold : split-42:base:KeyS:tap = stray
hold : split-42:base:KeyA:tap = mix-up
hold : split-42:base:thumb-left-1:tap = gesture
hold : split-42:draw:KeyX:tap-hold = mix-up
hold : - = blank
double : split-42:draw:KeyE:double = hit
double : split-42:draw:KeyE:tap = gesture
double : split-42:draw:KeyS:tap = mix-up
double : split-42:draw:KeyD:tap = mix-up
double : split-42:draw:KeyG:tap = stray
double : split-42:base:thumb-left-1:tap = gesture
double : - = blank
tap-hold : split-42:draw:KeyX:tap-hold = hit
tap-hold : split-42:draw:KeyX:tap = gesture
tap-hold : split-42:draw:KeyS:hold = mix-up
tap-hold : split-42:draw:KeyC:tap = stray
tap-hold : split-42:draw:KeyD:tap = mix-up
tap-hold : - = blank
pair : split-42:draw:KeyJ&KeyK:tap = hit
pair : split-42:draw:KeyJ:tap = mix-up
pair : split-42:draw:KeyK:tap = stray
pair : split-42:draw:KeyS:tap = mix-up
pair : split-42:base:KeyJ:tap = stray
pair : split-42:base:thumb-left-1:tap = gesture
pair : - = blank
beside : split-42:draw:KeyD:tap = hit
beside : split-42:draw:KeyS:tap = neighbour
beside : split-42:draw:KeyF:tap = neighbour
beside : split-42:draw:KeyE:tap = neighbour
beside : split-42:draw:KeyK:tap = mirror
beside : split-42:base:KeyD:tap = layer
base-a : split-42:base:KeyA:tap = hit
base-a : split-42:base:KeyS:tap = neighbour
base-a : split-42:base:KeyQ:tap = neighbour
base-a : split-42:base:KeyZ:tap = neighbour
base-a : split-42:base:KeyG:tap = stray
base-a : split-42:draw:KeyA:tap = layer
base-a : split-42:draw:KeyS:tap = mix-up
base-a : - = blank
"""
KNOBS = """
left : pad-21:base:knob-1:left = hit
left : pad-21:base:knob-1:right = gesture
left : pad-21:base:knob-1:press = gesture
left : pad-21:base:knob-2:left = mix-up
left : - = blank
right : pad-21:base:knob-1:right = hit
right : pad-21:base:knob-1:left = gesture
right : pad-21:base:knob-1:press = gesture
press : pad-21:base:knob-1:press = hit
press : pad-21:base:knob-1:left = gesture
press : pad-21:base:knob-1:right = gesture
"""


def rows(table: str) -> list[tuple[str, str, str]]:
    found = []
    for line in table.strip().split("\n"):
        wanted, _, rest = line.partition(" : ")
        struck, _, kind = rest.rpartition(" = ")
        found.append((wanted, struck, kind))
    return found


ROWS = [row for table in (CHORDS, SEQUENCES, SPOTS, KNOBS) for row in rows(table)]


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
