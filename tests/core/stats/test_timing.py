"""The timing study: what was meant is known from the prompt, and what a limit would misread from the engine's own rule."""

from __future__ import annotations

from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.engine.engine import Machine
from glimber.core.engine.events import Event
from glimber.core.engine.keymap import keymap_of
from glimber.core.model.folio import Folio
from glimber.core.practice.tries import KeyEvents, Try
from glimber.core.stats.plain_taps import with_plain_taps
from glimber.core.stats.timing import LIMITS_MS, POLICIES, Press, exercise, misread, presses_of, study, with_timing
from tests.helpers import LAYOUT, NOON, folio_of

PLACE = ("split-42", "draw", "KeyS")
TAP, HOLD = "split-42:draw:KeyS:tap", "split-42:draw:KeyS:hold"


def answered(n: int, trigger: str, events: list[tuple[float, str, str]]) -> tuple[KeyEvents, Try]:
    at = NOON + timedelta(seconds=n)
    return (KeyEvents(f"e{n}", "round", at, "split-42", tuple(events)),
            Try(f"t{n}", "round", n, at, "bench", "b", trigger, "press", "hit"))  # fmt: skip


def pressed(ms: float, other: tuple[float, float] | None = None) -> list[tuple[float, str, str]]:
    events = [(0.0, "down", "KeyS"), (ms, "up", "KeyS")]
    if other is not None:
        events += [(other[0], "down", "KeyJ"), (other[1], "up", "KeyJ")]
    return sorted(events)


def test_what_a_press_was_meant_as_is_known_from_its_prompt() -> None:
    pairs = [answered(1, TAP, pressed(90)), answered(2, HOLD, pressed(320)), answered(3, "Ctrl+S", pressed(50)),
             answered(4, TAP, pressed(140, (60, 100)))]  # fmt: skip
    found = presses_of(folio_of(), [one for one, _ in pairs], [two for _, two in pairs])
    assert found[PLACE] == [Press(90, False, False, False), Press(320, False, False, True), Press(140, True, True, False)]
    way = found.get(("split-42", "base", "thumb-left-1"))
    assert way is None  # the layer's own key was not in these events


def test_a_way_into_a_layer_is_a_hold() -> None:
    events = [(0.0, "down", "thumb-left-1"), (300.0, "down", "KeyS"), (360.0, "up", "KeyS"), (420.0, "up", "thumb-left-1")]
    one, its = answered(1, TAP, events)
    assert presses_of(folio_of(), [one], [its])["split-42", "base", "thumb-left-1"] == [Press(420, True, True, True)]


def with_limit(folio: Folio, limit: int, policy: str) -> Folio:
    timing = replace(folio.settings.timing, hold_ms=limit, policy=policy)
    return replace(folio, settings=replace(folio.settings, timing=timing))


@given(
    ms=st.sampled_from([79.0, 80.0, 81.0, 150.0, 200.0, 399.0, 400.0, 401.0]),
    other=st.one_of(st.none(), st.tuples(st.sampled_from([10.0, 60.0, 150.0]), st.sampled_from([20.0, 90.0, 500.0]))),
    limit=st.sampled_from([80, 200, 400]),
    policy=st.sampled_from(POLICIES),
)
def test_a_press_is_read_as_the_engine_reads_it(ms: float, other: tuple[float, float] | None, limit: int, policy: str) -> None:
    if other is not None and (other[1] <= other[0] or other[0] >= ms):
        other = None
    events = pressed(ms, other)
    one, its = answered(1, TAP, events)
    (press,) = presses_of(folio_of(), [one], [its])[PLACE]
    machine = Machine(keymap_of(with_limit(folio_of(), limit, policy), "split-42"), None)
    acts = []
    stream = [(0.0, "down", "thumb-left-1"), *[(t + 1000.0, kind, key) for t, kind, key in events]]
    for t, kind, key in stream:
        acts += machine.advance(t) + machine.feed(Event(t, kind, key))
    acts += machine.settle()
    engine_held = any(act.spot is not None and str(act.spot) == HOLD and act.do == "press" for act in acts)
    ours = misread([press])[POLICIES.index(policy), LIMITS_MS.index(limit)] == 1.0  # meant as a tap: misread where held
    assert ours == engine_held


def test_the_limit_with_fewest_misreadings_is_suggested_and_set_in_one_step() -> None:
    folio = folio_of()
    slow = [Press(ms, False, False, False) for ms in range(100, 260, 10)]  # taps of up to 250 ms
    holds = [Press(ms, False, False, True) for ms in range(300, 460, 10)]
    found = study(folio, {PLACE: slow + holds})
    assert found is not None and 250 < found.limit_ms <= 300 and found.best == 0
    assert found.now == pytest.approx(6 / 32)  # taps from 200 ms on are held by the present limit
    after = with_timing(folio, found)
    assert after.settings.timing.hold_ms == found.limit_ms and after.settings.timing.policy == "crossed"
    assert study(after, {PLACE: slow + holds}).now == 0


@pytest.mark.parametrize(("taps", "holds", "known"), [(15, 5, True), (16, 4, False), (14, 5, False), (4, 30, False)])
def test_nothing_is_said_before_a_key_was_pressed_often_in_both_ways(taps: int, holds: int, known: bool) -> None:
    presses = [Press(100, False, False, False)] * taps + [Press(300, False, False, True)] * holds
    assert (study(folio_of(), {PLACE: presses}) is not None) is known


def test_a_key_has_a_limit_of_its_own_where_it_pays() -> None:
    quick = [Press(100, False, False, False)] * 40 + [Press(220, False, False, True)] * 40
    slow = [Press(250, False, False, False)] * 10 + [Press(380, False, False, True)] * 10
    found = study(folio_of(), {PLACE: quick, ("split-42", "base", "thumb-left-1"): slow})
    assert found is not None and found.limit_ms <= 220 and [one.key for one in found.own] == ["thumb-left-1"]
    after = with_timing(folio_of(), found)
    own = after.layouts["split-42"].layer("base").timing["thumb-left-1"]
    assert 250 < own.hold_ms <= 380
    only = with_timing(folio_of(), found, found.own)
    assert only.settings.timing == folio_of().settings.timing and only.layouts["split-42"].layer("base").timing == {"thumb-left-1": own}


def test_an_exercise_asks_for_both_uses_of_few_keys_the_least_known_first() -> None:
    folio = folio_of({"layouts/split-42.toml": LAYOUT.replace("[layers.keys]\nKeyS", "[layers.keys]\n" + "\n".join(
        f'Key{key} = {{ tap = {{ id = "{key}-tap", does = "shoalwright/lead-line" }}, hold = {{ id = "{key}-hold", does = "shoalwright/quay-list" }} }}'
        for key in "GHJK") + "\nKeyS")})  # fmt: skip
    known = {("split-42", "draw", f"Key{key}"): [Press(100.0, False, False, hold) for hold in (True, False) for _ in range(count // 2)]
             for key, count in (("G", 20), ("S", 4), ("H", 18))}  # fmt: skip
    found = exercise(folio, folio.drillable("bridge"), known)
    assert len(found) == 6 and set(found) == {"J-tap", "J-hold", "K-tap", "K-hold", "sounding-s", "range-held"}
    assert exercise(folio, [one for one in folio.drillable("bridge") if one.id in {"G-tap", "H-tap", "range-d"}], known) == []


@pytest.mark.parametrize(("line", "asked"), [
    ('thumb-left-1 = { tap = "Space", hold = { enters = "draw", mode = "while" } }', ["thumb-left-1: Type Space"]),
    ('KeyN = { tap = "Enter", hold = { enters = "draw", mode = "while" } }', ["KeyN: Type Enter"]),
    ('KeyH = { hold = { enters = "draw", mode = "while" } }', ["KeyH: Type h"]),  # what it prints
    ('KeyH = { tap = "Shift", hold = { enters = "draw", mode = "while" } }', []),
    ('KeyH = { tap = "Ctrl+H", hold = { enters = "draw", mode = "while" } }', []),
    ('KeyH = { tap = { does = "shoalwright/lead-line" }, hold = { enters = "draw", mode = "while" } }', []),
    ('KeyH = { tap = "h" }', []),
])  # fmt: skip
def test_a_tap_that_types_a_key_is_asked_for_where_a_hold_does_something_else(line: str, asked: list[str]) -> None:
    layout = "\n".join(one for one in LAYOUT.splitlines() if not one.startswith(("thumb-left-1", "KeyP = {")))
    folio = folio_of({"layouts/split-42.toml": layout.replace("[layers.keys]", f"[layers.keys]\n{line}", 1)})
    seen = with_plain_taps(folio)
    new = [one for one in seen.drillable("bridge") if one.id not in {known.id for known in folio.drillable("bridge")}]
    assert [f"{one.spot.key}: {seen.command_of(one).name}" for one in new] == asked  # type: ignore[union-attr]
    found = exercise(seen, seen.drillable("bridge"), {})
    assert {one.id for one in new} <= set(found) and (len(found) > 2 or not asked)
    assert asked or seen is folio


def test_the_times_of_plain_taps_are_known_to_the_study() -> None:
    place = ("split-42", "base", "thumb-left-1")
    taps = [answered(n, "split-42:base:thumb-left-1:tap", [(0.0, "down", "thumb-left-1"), (110.0, "up", "thumb-left-1")])
            for n in range(12)]  # fmt: skip
    way = [(0.0, "down", "thumb-left-1"), (300.0, "down", "KeyS"), (360.0, "up", "KeyS"), (420.0, "up", "thumb-left-1")]
    both = taps + [answered(20 + n, TAP, way) for n in range(12)]
    presses = presses_of(folio_of(), [one for one, _ in both], [its for _, its in both])
    assert [one.hold for one in presses[place]] == [False] * 12 + [True] * 12
    found = study(folio_of(), {place: presses[place]})
    assert found is not None and found.best == 0.0 and (found.keys[0].tap_ms, found.keys[0].hold_ms) == (110.0, 420.0)
