"""Ways to drill: options and deadlines, help in steps, look-alikes, what a round is made of, task runs, what came after."""

from __future__ import annotations

from datetime import timedelta
from functools import cache
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.decide.plan import Budget, replanned
from glimber.core.decide.round_choice import choose_round, why_not
from glimber.core.decide.selection import LATELY_DAYS, WEAKEST, selections
from glimber.core.engine.events import Event
from glimber.core.engine.listen import SpellListener
from glimber.core.engine.standin_keys import keys_before
from glimber.core.model.folio import Run
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.aids import aids_of
from glimber.core.practice.answer import Question
from glimber.core.practice.judge import judge_named
from glimber.core.practice.lookalikes import look_alikes, mix_ups
from glimber.core.practice.options import Options, adaptive_ms, options_of
from glimber.core.practice.round import answered, ask, running, sprinting
from glimber.core.practice.round_review import before_round, newly_held, went, worst_first
from glimber.core.practice.tries import Change, Round, Try
from glimber.core.stats.measures import measure
from glimber.core.stats.runs import best_before, run_slow_s, run_times, steps_of
from tests.helpers import NOON, folio_of, practice, tries_of

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
SMALL = folio_of()


# Deadlines


@pytest.mark.parametrize(
    ("median", "deadline"), [(532.0, 800.0), (533.4, 800.1), (1000.0, 1500.0), (3999.0, 5998.5), (4000.0, 6000.0), (4001.0, 6000.0)]
)
def test_an_own_deadline_is_one_and_a_half_medians_within_its_bounds(median: float, deadline: float) -> None:
    assert adaptive_ms({"a": median})["a"] == pytest.approx(deadline)


def test_what_has_no_time_yet_waits_by_the_median_of_the_others() -> None:
    assert adaptive_ms({"a": 1000.0, "b": 2000.0, "c": 3000.0, "d": None})["d"] == 3000.0
    assert adaptive_ms({"a": None}) == {"a": 4000.0}


def test_options_come_back_from_the_log() -> None:
    whole = Round("r", NOON, "bridge", "spell", ("a",), minutes=5, goal="sprint", cue="mixed", deadline="none", strict=True, hands="board")
    assert options_of(whole) == Options("spell", "mixed", True, "none", "board", minutes=5, sprint=True)
    old = Round("r", NOON, "bridge", "press", ("a",), cue="odd")
    assert options_of(old) == Options()
    assert (Options(deadline="none").deadline_ms, Options().deadline_ms) == (60_000.0, 4000.0)


# Help


def test_help_goes_from_the_group_to_the_key_and_every_step_is_less() -> None:
    steps = aids_of(SMALL, SMALL.bindings["sounding-s"])
    assert all("KeyS" in step.keys for step in steps) and steps[-1].keys == ("KeyS",)
    assert steps[0].words == "One of the keys of Survey" and steps[-1].words == "S on Draw"
    assert "The ring finger" in [step.words for step in steps]
    sizes = [len(step.keys) for step in steps[1:]]
    assert sizes == sorted(sizes, reverse=True) and sizes[-1] == 1


@given(st.sampled_from(sorted(SMALL.bindings)))
def test_every_binding_has_help_that_ends_with_the_whole_of_it(id: str) -> None:
    binding = SMALL.bindings[id]
    if binding.command is not None:
        steps = aids_of(SMALL, binding)
        assert steps and len({step.keys for step in steps}) == len(steps)


# Names


def test_what_is_truly_mixed_up_is_among_the_choices_first() -> None:
    mixed = mix_ups(SMALL, {"sounding-s": {"shoalwright/lead-line": 3}})
    assert mixed[("shoalwright/lead-line", "shoalwright/add-sounding")] == 3
    two = look_alikes(SMALL, SMALL.bindings["sounding-s"], mixed, "1", count=2)
    assert {one.ref for one in two} == {"shoalwright/add-sounding", "shoalwright/lead-line"}
    group = look_alikes(SMALL, SMALL.bindings["sounding-s"], {}, "1", count=2)
    assert {one.ref for one in group} == {"shoalwright/add-sounding", "shoalwright/depth-range"}  # of its group
    orders = {tuple(one.ref for one in look_alikes(SMALL, SMALL.bindings["sounding-s"], mixed, str(n))) for n in range(30)}
    assert len(orders) > 3 and all("shoalwright/add-sounding" in order for order in orders)


def test_a_lit_key_is_named_rightly_wrongly_or_not_at_all() -> None:
    question = Question(SMALL, SMALL.bindings["sounding-s"])
    right = judge_named(question, "shoalwright/add-sounding", 400, 900)
    assert (right.outcome, right.recall_ms, right.motor_ms, right.credited) == ("hit", 400, 500, "sounding-s")
    wrong = judge_named(question, "shoalwright/lead-line", 400, 900)
    assert (wrong.outcome, wrong.slip, wrong.would_do) == ("slip", "mix-up", "shoalwright/lead-line")
    assert wrong.words == "Lead line is Ctrl+K Ctrl+L. This is Add sounding."
    none = judge_named(question, None, None, None)
    assert (none.outcome, none.recall_ms, none.words) == ("blank", None, "No answer. S on Draw is Add sounding.")
    benched = judge_named(question, "shoalwright/quay-list", 1, 2)
    assert benched.pressed is None and benched.words == "Quay list. This is Add sounding."


# Spelling


def spelt(*steps: str) -> list[tuple[frozenset[str], str]]:
    listener, found, t = SpellListener(), [], 0.0
    for step in steps:
        t += 10
        kind = "up" if step.startswith("-") else "down"
        found += [unit.strikes[0] for unit in listener.feed(Event(t, kind, step.strip("-"))) if not unit.modifier]
    return found


def test_modifiers_go_with_the_next_key_and_a_second_strike_takes_one_away() -> None:
    assert spelt("ControlLeft", "-ControlLeft", "KeyS", "-KeyS") == [(frozenset({"Ctrl"}), "KeyS")]
    assert spelt("ControlLeft", "KeyS", "-KeyS", "KeyD") == [(frozenset({"Ctrl"}), "KeyS"), (frozenset(), "KeyD")]
    toggled = spelt("ControlLeft", "-ControlLeft", "ShiftLeft", "-ShiftLeft", "ControlLeft", "-ControlLeft", "KeyS")
    assert toggled == [(frozenset({"Shift"}), "KeyS")]
    assert spelt("KeyS", "KeyS") == [(frozenset(), "KeyS")]  # a repeat is no second strike


def test_the_keys_that_go_down_before_the_last_are_told_in_order() -> None:
    assert keys_before(SMALL, parse_trigger(S)) == ("thumb-left-1",)
    assert keys_before(SMALL, parse_trigger("split-42:base:KeyA:tap")) == ()
    assert keys_before(SMALL, parse_trigger("Ctrl+Shift+S")) == ("ControlLeft", "ShiftLeft")
    assert keys_before(SMALL, parse_trigger("F2")) == ()


# What can be answered how


@pytest.mark.parametrize(("binding", "options", "why"), [
    ("sounding-s", Options(), None), ("sounding-s", Options("point"), None), ("sounding-s", Options("name"), None),
    ("sounding-s", Options("spell"), "places on a board are pressed or pointed at"), ("show-desktop", Options("spell"), None),
    ("show-desktop", Options("point"), "only places on a board can be pointed at; press or spell it"),
    ("show-desktop", Options(hands="board"), None),
])  # fmt: skip
def test_what_cannot_be_answered_so_is_said_with_the_way_that_can(binding: str, options: Options, why: str | None) -> None:
    assert why_not(SMALL, SMALL.bindings[binding], options) == why


def test_on_the_board_itself_only_what_sends_something_can_be_seen() -> None:
    silent = [one for one in SMALL.drillable() if why_not(SMALL, one, Options(hands="board"))]
    assert all(SMALL.sent_by(one) is None for one in silent)


@pytest.mark.parametrize(("away", "asked"), [("none", True), ("left", False), ("right", True)])
def test_with_a_hand_away_only_what_the_other_can_do_is_asked(away: str, asked: bool) -> None:
    folio = replace(SMALL, settings=replace(SMALL.settings, away=away))
    assert (why_not(folio, folio.bindings["sounding-s"], Options()) is None) is asked  # S and its layer's key are the left hand's
    assert why_not(folio, folio.bindings["sounding-s"], Options("name")) is None


# What a round is made of


def test_everything_that_has_bindings_can_be_chosen() -> None:
    runs = {"line": Run("line", "Survey line", ("shoalwright/add-sounding", "shoalwright/quay-list"))}
    folio = replace(SMALL, runs=runs)
    lately = [Change("c", NOON - timedelta(days=LATELY_DAYS), "bridge", "range-d", "move", to_trigger=D),
              Change("d", NOON - timedelta(days=LATELY_DAYS, seconds=1), "bridge", "sounding-s", "move", to_trigger=S)]  # fmt: skip
    all_of_them = selections(folio, "bridge", {"sounding-s": 0.2, "range-d": 0.9}, lately, NOON)
    found = {one.name: one for one in reversed(all_of_them)}  # a run comes before its card
    assert found["What is due"].of is None
    assert found["The 2 weakest"].of == {"sounding-s", "range-d"}
    assert found["Changed lately"].of == {"range-d"}  # a second more than two weeks is no longer lately
    assert found["Survey line"].run == "line" and "sounding-s" in (found["Survey line"].of or ())
    assert {"Draw", "Survey", "Shoalwright", "Everywhere"} <= set(found)
    assert all(one.of is None or one.of for one in all_of_them)
    whole = found["Shoalwright"].of  # its sheet, keyboard and grid cards show the same: they are no choices of their own
    assert [one.detail for one in all_of_them if one.of == whole] == ["program"]
    cards = [one.detail for one in all_of_them if one.detail.endswith(" card")]
    assert "board card" in cards and "sheet card" not in cards


@pytest.mark.parametrize("count", [WEAKEST - 1, WEAKEST, WEAKEST + 1])
def test_the_weakest_are_at_most_twelve(count: int) -> None:
    ids = [one.id for one in SMALL.drillable("bridge")]
    grips = {id: n / 100 for n, id in enumerate(ids)}
    many = {**grips, **{f"gone-{n}": 0.0 for n in range(count)}}
    found = selections(SMALL, "bridge", many, [], NOON)
    weakest = [one for one in found if one.detail == "by grip"]
    assert all(len(one.of or ()) <= WEAKEST for one in weakest)


@pytest.mark.parametrize(("uses", "name", "of"), [
    ({"sounding-s": 40.0, "range-d": 3.0, "gone": 90.0, "show-desktop": 0.0}, "The 2 most used", {"sounding-s", "range-d"}),
    ({"sounding-s": 0.0}, None, set()), ({}, None, set()),
])  # fmt: skip
def test_what_is_used_most_can_be_chosen(uses: dict[str, float], name: str | None, of: set[str]) -> None:
    found = [one for one in selections(SMALL, "bridge", {}, [], NOON, uses) if one.detail == "as counted or stated"]
    assert [(one.name, one.of) for one in found] == ([(name, of)] if name else [])


def test_the_most_used_are_at_most_twenty() -> None:
    many = folio_of({"programs/many.toml": 'format = "glimber-program/1"\nname = "Many"\n[commands]\n' + "".join(
        f'c{n} = {{ name = "Sheet {n}", bindings = [{{ id = "c{n}", trigger = "Ctrl+Alt+F{n % 12 + 1}" }}] }}\n' for n in range(12)
    ) + "".join(f'd{n} = {{ name = "Chart {n}", bindings = [{{ id = "d{n}", trigger = "Ctrl+Shift+F{n + 1}" }}] }}\n' for n in range(12))})
    uses = {**{f"c{n}": 10.0 + n for n in range(12)}, **{f"d{n}": 1.0 + n / 100 for n in range(12)}}
    (found,) = [one for one in selections(many, "bridge", {}, [], NOON, uses) if one.detail == "as counted or stated"]
    assert found.name == "The 20 most used" and found.of == {f"c{n}" for n in range(12)} | {f"d{n}" for n in range(4, 12)}


def test_a_binding_struck_out_is_not_asked_and_one_added_is() -> None:
    ledger = measure(SMALL, practice(tries_of("sounding-s", S, ["blank"] * 4), tries_of("range-d", D, ["hit"] * 4)), NOON, "bridge")
    from glimber.core.decide.selection import EVERYTHING, Selection

    whole = choose_round(ledger, SMALL, Options(minutes=3), EVERYTHING)
    assert "sounding-s" in {one.binding for one in whole.due}
    without = choose_round(ledger, SMALL, Options(minutes=3), EVERYTHING, dropped={"sounding-s"})
    assert "sounding-s" not in {one.binding for one in without.due}
    few = choose_round(ledger, SMALL, Options(minutes=3), Selection("x", "", frozenset({"range-d"})), added=["show-desktop"])
    assert {one.binding: one.why for one in few.due}["show-desktop"] == "added"
    assert {one.binding for one in few.due} <= {"range-d", "show-desktop"}
    spelt = choose_round(ledger, SMALL, Options("spell", minutes=3), EVERYTHING)
    assert "sounding-s" in {one.binding for one, why in spelt.left if why}
    (left,) = choose_round(ledger, SMALL, Options("spell", minutes=0.1), Selection("x", "", frozenset({"range-d"}))).left
    assert left[0].binding == "range-d"  # there is not time for it in a round of everything


# The plan made anew


@pytest.mark.slow
@given(st.lists(st.tuples(st.sampled_from(["sounding-s", "range-d", "tide-table"]), st.booleans()), max_size=25), st.floats(0, 200))
def test_a_plan_replanned_keeps_what_was_done_and_its_time(struck: list[tuple[str, bool]], gone: float) -> None:
    budget = _budget()
    tries = [Try(f"t{n}", "now", n, NOON, "bridge", id, "x", "press", "hit" if clean else "blank") for n, (id, clean) in enumerate(struck)]
    plan = replanned(budget, 3, {"range-d", "tide-table"}, tries, gone)
    done = {id: sum(one.binding == id and one.outcome == "hit" for one in tries) for id in plan}
    more = {id: plan[id] - done[id] for id in plan}
    assert all(count >= 0 for count in more.values())
    assert all(plan[id] <= 8 or more[id] == 0 for id in plan)
    if gone >= 180:
        assert not any(more.values())


@cache
def _budget() -> Budget:
    ledger = measure(SMALL, practice(tries_of("sounding-s", S, ["blank", "hit"] * 4)), NOON, "bridge")
    return choose_round(ledger, SMALL, Options(minutes=3), _everything()).budget


def _everything() -> object:
    from glimber.core.decide.selection import EVERYTHING

    return EVERYTHING


@pytest.mark.parametrize(("gone", "more"), [(59.9, 1), (60.0, 0), (60.1, 0)])
def test_a_sprint_ends_with_its_time(gone: float, more: int) -> None:
    tries = [
        Try("t", "now", 1, NOON, "bridge", "a", "x", "press", "hit"),
        replace(Try("u", "now", 2, NOON, "bridge", "a", "x", "press", "hit"), aids=1),
    ]
    assert sprinting(["a", "b"], 1)(tries, gone) == {"a": 1 + more, "b": more}


# Task runs


def test_a_run_is_asked_once_in_its_order_whatever_goes_wrong() -> None:
    state, asked = running(["a", "b", "a"]), []
    while not state.done:
        state = ask(state, Random(1))
        asked.append(state.asked)
        state = answered(state, clean=len(asked) != 2)
        if state.nth >= 3:
            state = replace(state, asked=None)
    assert asked == ["a", "b", "a"] and [lane.hits for lane in state.lanes] == [2, 0]
    with pytest.raises(ValueError):
        ask(state, Random(1))


def one_of(nth: int, binding: str, outcome: str, recall: float | None, first: bool = True, round: str = "r") -> Try:
    return Try(f"{round}-{nth}-{first}", round, nth, NOON, "bridge", binding, "x", "press", outcome, recall_ms=recall,
               motor_ms=100.0 if recall is not None else None, first=first)  # type: ignore[arg-type]  # fmt: skip


def test_the_time_of_a_run_has_the_mending_of_its_faults_and_blanks_their_deadline() -> None:
    tries = [one_of(1, "a", "hit", 500), one_of(2, "b", "blank", None), one_of(2, "b", "hit", 400, first=False),
             one_of(3, "c", "void", 9000), one_of(3, "c", "hit", 300)]  # fmt: skip
    times = run_times(tries)
    assert times.splits == (("a", 0.6), ("b", 4.5), ("c", 0.4)) and times.slips == 1 and times.total_s == pytest.approx(5.5)
    whole = [Round("r", NOON, "bridge", "press", ("a", "b", "c"), NOON, run="line"),
             Round("q", NOON, "bridge", "press", ("a",), NOON, run="line"),
             Round("p", NOON, "bridge", "press", ("a", "b", "c"), None, run="line")]  # fmt: skip
    part = [one_of(1, "a", "hit", 100, round="q"), *[replace(one, id=f"p{one.id}", round="p") for one in tries]]
    best = best_before(whole, [*tries, *part], "line", 3, "now")
    assert best == times  # neither a part of it nor one that was not ended
    assert best_before(whole, tries, "line", 3, "r") is None


def test_the_slow_way_of_a_run_is_its_own_or_that_of_all_its_commands() -> None:
    own = Run("line", "Survey line", ("shoalwright/add-sounding",), ("click Line",))
    assert run_slow_s(SMALL, own) == pytest.approx(1.35 + 1.1 + 0.2 + 0.8)
    each = Run("line", "Survey line", ("shoalwright/add-sounding", "shoalwright/add-sounding"))
    assert run_slow_s(SMALL, each) == pytest.approx(2 * (run_slow_s(SMALL, replace(each, commands=each.commands[:1])) or 0))
    assert run_slow_s(SMALL, Run("line", "x", ("shoalwright/add-sounding", "shoalwright/lead-line"))) is None


def test_the_steps_of_a_run_are_the_bindings_that_can_be_answered() -> None:
    run = Run("line", "x", ("shoalwright/add-sounding", "shoalwright/quay-list", "everywhere/show-desktop"))
    never = lambda id: 0  # noqa: E731
    order, missing = steps_of(SMALL, run, "bridge", lambda one: True, never)
    assert order == ["add-sounding", "show-desktop"] and missing == ["Quay list"]
    usual = steps_of(SMALL, run, "bridge", lambda one: True, lambda id: id == "sounding-s")
    assert usual[0] == ["sounding-s", "show-desktop"]  # what the person strikes, not what stands first
    only = steps_of(SMALL, run, "bridge", lambda one: one.id == "sounding-s", never)
    assert only == (["sounding-s"], ["Quay list", "Show desktop"])


# Afterwards


def test_a_round_is_compared_with_the_last_one_before_it() -> None:
    old = tries_of("sounding-s", S, ["hit", "blank", "hit"], round_size=3, until=NOON - timedelta(days=2))
    new = [replace(one, id=f"n{one.id}", round="now") for one in old]
    found = before_round({"sounding-s": [*old, *new], "range-d": new}, "now")
    assert found == {"sounding-s": went(old)} and (found["sounding-s"].clean, found["sounding-s"].of) == (2, 3)
    assert went([]).middle_s is None


def test_what_went_wrong_most_comes_first() -> None:
    tries = [one_of(1, "a", "hit", 1), one_of(2, "b", "blank", None), one_of(3, "c", "slip", 1), one_of(4, "c", "slip", 1),
             one_of(5, "a", "slip", 1, first=False)]  # fmt: skip
    assert worst_first(["a", "b", "c", "a"], tries) == ["c", "b", "a"]


@pytest.mark.parametrize(("outcomes", "earlier", "is_held"), [
    (["blank", "hit", "hit"], [], True), (["hit"], [], False), (["hit", "hit", "slip"], [], False), (["hit", "hit"], ["blank"], False),
])  # fmt: skip
def test_what_was_new_is_held_with_two_clean_hits_at_the_end(outcomes: list[str], earlier: list[str], is_held: bool) -> None:
    rows = [(one, "before") for one in earlier] + [(one, "now") for one in outcomes]
    mine = [Try(str(n), round, n, NOON, "", "a", "b", "press", outcome, slip="stray" if outcome == "slip" else None)  # type: ignore[arg-type]
            for n, (outcome, round) in enumerate(rows)]  # fmt: skip
    assert newly_held({"a": mine}, "now") == (["a"] if is_held else [])
