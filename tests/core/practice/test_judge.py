"""Judging an answer: the table of docs/judging.md line by line, the words, and what is credited."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.engine.events import Event
from glimber.core.engine.perform import perform
from glimber.core.model.describe import way_words
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.answer import Answer, CannotAnswer, Question, habits_of
from glimber.core.practice.judge import Judge, judge, judge_pointed, listener_for
from glimber.core.practice.sentence import words_of
from glimber.core.practice.tries import Change
from tests.helpers import NOON, events, folio_of, layer_text, layout_of, layout_text, tapped

SMALL = folio_of()


def ask(binding: str, board: str | None = None, folio: Folio = SMALL, **more: object) -> Question:
    return Question(folio, folio.bindings[binding], on_board=board, computer="bridge", **more)  # type: ignore[arg-type]


def chord(text: str, at: float = 500, folio: Folio = SMALL) -> list[Event]:
    """Events of the ordinary keyboard for a trigger."""
    return perform(folio, parse_trigger(text, folio.bundles), at)


@pytest.mark.parametrize(("binding", "struck", "slip", "words"), [
    ("add-sounding", "Ctrl+Shift+S", None, ""), ("add-sounding", "Ctrl+S", "modifiers", "Ctrl+S. Wanted Ctrl+Shift+S: Shift was missing."),
    ("add-sounding", "Ctrl+Alt+Shift+S", "modifiers", "Ctrl+Alt+Shift+S. Wanted Ctrl+Shift+S: Alt was too much."),
    ("add-sounding", "Ctrl+Shift+D", "neighbour", "Ctrl+Shift+D. Wanted Ctrl+Shift+S: one key left, ring finger."),
    ("add-sounding", "Ctrl+Shift+L", "mirror", "Ctrl+Shift+L. Wanted Ctrl+Shift+S: the same key of the other hand, ring finger."),
    ("add-sounding", "Ctrl+Shift+B", "stray", None),
    ("add-sounding", "Super+D", "mix-up", "Super+D is Show desktop. Wanted Ctrl+Shift+S."), ("tide-table", "Shift+[Numpad4]", None, ""),
    ("tide-table", "Shift+[Digit4]", "stray", None), ("tide-table", "Shift+[Numpad5]", "neighbour", None),
    ("lead-line", "Ctrl+K Ctrl+L", None, ""), ("name-strait", "Super+D", "mix-up", None),
    ("lead-line", "Ctrl+K Ctrl+X", "unfinished", "Ctrl+K, then Ctrl+X. Wanted Ctrl+K Ctrl+L."),
    ("lead-line", "Ctrl+K", "unfinished", "Ctrl+K, then nothing. Wanted Ctrl+K Ctrl+L."), ("show-desktop", "Super+D", None, ""),
])  # fmt: skip
def test_chords_and_sequences(binding: str, struck: str, slip: str | None, words: str | None) -> None:
    answer = judge(ask(binding), chord(struck))
    assert (answer.outcome, answer.slip) == ("hit" if slip is None else "slip", slip)
    if words is not None:
        assert answer.words == words


def held(key: str, *inside: Event, at: float = 500, limit: float = 210) -> list[Event]:
    return [Event(at, "down", key), *inside, Event(max([at + limit, *(e.t for e in inside)]) + 30, "up", key)]


LAYERED = [
    # what the hand did on the stand-in board, and what it is called
    (held("thumb-left-1", *tapped("KeyS", 750)), None, None),
    (held("thumb-left-1", *tapped("KeyD", 750)), "neighbour", "D on Draw. Wanted S: one key left, ring finger."),
    (held("thumb-left-1", *tapped("KeyS", 750, 260)), "gesture", "S held. Wanted S tapped."),
    (tapped("KeyS", 600), "layer", "S on Base. Wanted S on Draw."),
    (tapped("thumb-left-1", 600), "gesture", "Left thumb 1 tapped. Wanted it held, for Draw."),
    (held("thumb-left-1", *tapped("KeyL", 750)), "mirror", "L on Draw. Wanted S: the same key of the other hand, ring finger."),
    (held("thumb-left-1", *tapped("KeyP", 750)), "stray", None),
    ([], "blank", "No answer. Wanted S on Draw."),
]  # fmt: skip


@pytest.mark.parametrize(("rows", "slip", "words"), LAYERED)
def test_spots_on_the_stand_in_board(rows: list[Event], slip: str | None, words: str | None) -> None:
    answer = judge(ask("sounding-s", "split-42"), sorted(rows, key=lambda e: e.t))
    expected = ("hit", None) if slip is None else ("blank", None) if slip == "blank" else ("slip", slip)
    assert (answer.outcome, answer.slip) == expected
    if words is not None:
        assert answer.words == words


def test_the_offset_is_struck_minus_wanted_between_centres() -> None:
    answer = judge(ask("sounding-s", "split-42"), held("thumb-left-1", *tapped("KeyD", 750)))
    assert answer.offset_u == (1.0, -0.12)
    assert answer.neighbour and (answer.finger_wanted, answer.finger_struck) == ("left-ring", "left-middle")
    assert answer.would_do == "shoalwright/depth-range"


def test_times_are_from_the_prompt_to_the_first_key_and_from_there_to_the_end() -> None:
    plain = judge(ask("show-desktop"), events((600, "down", "MetaLeft"), (680, "down", "KeyD"), (760, "up", "KeyD")))
    assert (plain.recall_ms, plain.motor_ms) == (600, 80)
    sequence = judge(ask("lead-line"), chord("Ctrl+K Ctrl+L", 500))
    assert sequence.recall_ms == 500 and sequence.motor_ms is not None and sequence.motor_ms > 100
    tap = judge(ask("sounding-s", "split-42", front="shoalwright"), held("thumb-left-1", *tapped("KeyS", 800)))
    assert (tap.recall_ms, tap.motor_ms) == (500, 360)  # S has a hold too, so it is a tap only once it is up


def test_modifiers_let_go_before_the_key_are_a_hesitation() -> None:
    rows = [*tapped("ControlLeft", 200), *tapped("AltLeft", 300), *chord("Ctrl+Shift+S", 600)]
    answer = judge(ask("add-sounding"), rows)
    assert answer.outcome == "hit" and answer.recall_ms == 200


def test_nothing_but_modifiers_is_a_blank() -> None:
    assert judge(ask("add-sounding"), tapped("ShiftLeft", 900)).outcome == "blank"
    assert judge(ask("sounding-s", "split-42"), held("thumb-left-1")).outcome == "blank"


def test_a_key_at_or_after_the_deadline_does_not_count() -> None:
    assert judge(ask("add-sounding", deadline_ms=2000), chord("Ctrl+Shift+S", 1900)).outcome == "hit"
    assert judge(ask("add-sounding", deadline_ms=2000), chord("Ctrl+Shift+S", 2000)).outcome == "blank"


def test_a_key_struck_before_the_prompt_is_no_answer_to_it_but_may_be_held_into_it() -> None:
    early = [*chord("Ctrl+Shift+D", -200), *chord("Ctrl+Shift+S", 400)]
    answer = judge(ask("add-sounding"), sorted(early, key=lambda e: e.t))
    assert (answer.outcome, answer.recall_ms) == ("hit", 400)
    layered = [Event(-500, "down", "thumb-left-1"), *tapped("KeyS", 300), Event(500, "up", "thumb-left-1")]
    answer = judge(ask("sounding-s", "split-42"), layered)
    assert (answer.outcome, answer.recall_ms) == ("hit", 300)


def test_another_live_binding_of_the_command_is_credited_unless_strict() -> None:
    asked = ask("add-sounding", "split-42")
    rows = held("thumb-left-1", *tapped("KeyS", 750))
    by_spot = replace(asked, wanted=SMALL.bindings["range-held"])
    answer = judge(by_spot, held("thumb-left-1", *tapped("KeyD", 750)))
    assert (answer.outcome, answer.credited) == ("hit", "range-d")
    strict = judge(replace(by_spot, strict=True), held("thumb-left-1", *tapped("KeyD", 750)))
    assert strict.outcome == "slip"
    assert judge(ask("sounding-s", "split-42"), rows).credited == "sounding-s"


def test_a_former_trigger_is_an_old_habit_for_ninety_days() -> None:
    when = NOON - timedelta(days=20)
    change = Change("c1", when, "bridge", "sounding-s", "move", "shoalwright/add-sounding", "split-42:base:KeyP:tap",
                    "split-42:draw:KeyS:tap", "why", applied=when)  # fmt: skip
    binding = SMALL.bindings["sounding-s"]
    habits = habits_of(SMALL, binding, [change], "bridge", NOON)
    assert [str(habit.trigger) for habit in habits] == ["split-42:base:KeyP:tap"]
    answer = judge(ask("sounding-s", "split-42", habits=habits), tapped("KeyP", 600, 40))
    assert answer.slip == "old habit"
    assert answer.words == "P on Base, where it was until 31 October. Wanted S on Draw."
    assert not habits_of(SMALL, binding, [change], "bridge", when + timedelta(days=91))
    assert not habits_of(SMALL, binding, [change], "another computer", NOON)


def test_working_back_from_what_the_board_sent() -> None:
    keys = ('KeyS = { tap = { id = "s", does = "shoalwright/add-sounding" } }', 'KeyD = "Ctrl+K Ctrl+S"', 'KeyL = "Ctrl+K Ctrl+S"')
    folio = layout_of(layer_text("base", *keys))
    answer = judge(ask("s", folio=folio), chord("Ctrl+K Ctrl+S", folio=folio))
    assert str(answer.pressed) == "split-42:base:KeyD:tap" and answer.slip == "neighbour"
    assert answer.words.startswith("Most likely D on Base.")
    assert judge(ask("s", folio=folio), chord("Ctrl+Shift+S")).outcome == "hit"


@pytest.mark.parametrize(("struck", "pressed"), [("d", "split-42:base:KeyD:tap"), ("Ctrl+D", "Ctrl+D"), ("l", "l")])
def test_only_a_key_by_itself_that_falls_through_is_taken_for_its_own_place(struck: str, pressed: str) -> None:
    """What the board sends for D alone, where D falls through; not a chord with it, not a key that does something there."""
    folio = layout_of(layer_text("base", 'KeyS = { tap = { id = "s", does = "shoalwright/add-sounding" } }', 'KeyL = "Ctrl+K Ctrl+S"'))
    assert str(judge(ask("s", folio=folio), chord(struck, folio=folio)).pressed) == pressed


@pytest.mark.parametrize(("offset", "said"), [
    ((5.0, 5.0), True), ((6.0, 4.5), False), ((-6.0, 4.5), False), ((9.0, 0.0), True), ((0.0, 11.0), False),
])  # fmt: skip
def test_the_way_is_said_up_to_ten_keys(offset: tuple[float, float], said: bool) -> None:
    question = ask("sounding-s", "split-42")
    answer = Answer("slip", "stray", parse_trigger("split-42:draw:KeyF:tap"), offset_u=offset, finger_wanted="left-ring")
    assert words_of(question, answer) == f"F on Draw. Wanted S: {f'{way_words(offset)}, ' if said else ''}ring finger."


def test_a_spot_that_sends_nothing_visible_needs_its_board() -> None:
    with pytest.raises(CannotAnswer, match="point at it, or answer on the stand-in board"):
        judge(ask("range-d"), tapped("KeyD", 500))
    pointed = judge_pointed(ask("range-d"), "KeyF", 900)
    assert (pointed.outcome, pointed.slip, pointed.recall_ms) == ("slip", "neighbour", 900)
    assert judge_pointed(ask("range-d"), "KeyD", 900).outcome == "hit"


def test_a_step_that_completes_and_begins_waits_sequence_ms() -> None:
    text = """format = "glimber-program/1"
name = "Shoalwright"
[commands]
go = { name = "Go", shortcut = "g" }
go-index = { name = "Go to the index", shortcut = "g i" }
"""
    folio = folio_of({"programs/shoalwright.toml": text, "layouts/split-42.toml": layout_text(layer_text("base"))})
    question = ask("go", folio=folio)
    judging = Judge(question, listener_for(question))
    assert judging.feed(Event(500, "down", "KeyG")) is None or judging.feed(Event(560, "up", "KeyG")) is None
    index = ask("go-index", folio=folio)
    alone = Judge(index, listener_for(index))
    assert alone.feed(Event(500, "down", "KeyG")) is None
    assert alone.advance(1400) is None
    waited = alone.advance(1600)
    assert waited is not None and waited.slip in ("mix-up", "unfinished")
    assert judge(index, chord("g i", folio=folio)).outcome == "hit"


@given(st.lists(st.tuples(st.floats(0, 5000), st.sampled_from(["down", "up"]),
                          st.sampled_from(["KeyS", "KeyD", "KeyP", "thumb-left-1", "KeyF", "KeyJ"])), max_size=14))  # fmt: skip
def test_any_events_give_one_answer_with_all_that_belongs_to_it(rows: list[tuple[float, str, str]]) -> None:
    answer: Answer = judge(ask("sounding-s", "split-42"), events(*sorted(rows, key=lambda row: row[0])))
    assert answer.outcome in ("hit", "slip", "blank")
    assert (answer.slip is not None) == (answer.outcome == "slip")
    assert bool(answer.words) == (answer.outcome != "hit")
    assert answer.words.count(". ") <= 1
    if answer.outcome == "slip":
        assert answer.pressed is not None and answer.recall_ms is not None and answer.recall_ms >= 0


@pytest.mark.parametrize("id", ["sounding-s", "range-held", "range-d", "add-sounding", "lead-line", "tide-table", "show-desktop"])
def test_carrying_out_the_wanted_trigger_is_always_a_hit(id: str) -> None:
    binding = SMALL.bindings[id]
    board = "split-42" if ":" in str(binding.trigger) else None
    assert judge(ask(id, board), perform(SMALL, binding.trigger, 400)).outcome == "hit"


def test_every_drillable_binding_of_the_office_can_be_hit(office: Folio) -> None:
    at = datetime(2026, 11, 20, tzinfo=UTC)
    for binding in office.drillable():
        board = str(binding.trigger).partition(":")[0] if binding.trigger.kind == "spot" else None
        question = Question(office, binding, on_board=board, habits=habits_of(office, binding, (), None, at))
        answer = judge(question, perform(office, binding.trigger, 400))
        assert answer.outcome == "hit", f"{binding.id} {binding.trigger}: {answer.words}"
