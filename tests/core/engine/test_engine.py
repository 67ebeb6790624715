"""The key engine by the rules of docs/engine.md: a table of cases for each rule, and what must hold for any stream."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.engine.engine import Machine, run
from glimber.core.engine.events import Act, Event
from glimber.core.engine.keymap import Effect, Keymap, keymap_of
from glimber.core.notation.keys import Spot
from tests.core.engine.naive_engine import Naive
from tests.helpers import events, layout_of

BASE, DRAW = (Path(__file__).with_name(f"layer-{id}.toml").read_text() for id in ("base", "draw"))


@cache
def keymap(base: str = BASE, draw: str = DRAW) -> Keymap:
    return keymap_of(layout_of(base, draw), "split-42")


def told(acts: list[Act]) -> list[str]:
    """Acts in short: "0 press Ctrl+A"."""
    return [f"{act.t:g} {act.do} {act.layer or act.sends}" for act in acts]


def acts_of(*rows: tuple[float, str, str], base: str = BASE, draw: str = DRAW) -> list[str]:
    return told(run(keymap(base, draw), events(*rows)))


@pytest.mark.parametrize(("key", "times", "expected"), [
    ("KeyA", (0, 70), ["0 press Ctrl+A", "70 release Ctrl+A"]),  # acts at its down and ends at its up
    ("KeyW", (5, 9), ["5 press w", "9 release w"]),  # not bound on base: sends itself
    ("KeyH", (0, 199), ["199 press h", "199 release h"]),
    ("KeyH", (0, 200), ["200 press Ctrl+H", "200 release Ctrl+H"]),  # exactly the limit is too late for a tap
    ("KeyH", (0, 350), ["200 press Ctrl+H", "350 release Ctrl+H"]),
    ("KeyO", (0, 100), []),  # without a tap an early up does nothing
    ("KeyD", (0, 50), ["230 press d", "230 release d"]),
    ("KeyD", (0, 50, 230, 260), ["230 press Ctrl+D", "260 release Ctrl+D"]),
    ("KeyD", (0, 50, 231, 260), ["230 press d", "230 release d", "440 press d", "440 release d"]),
    ("KeyD", (0, 300), ["200 press d", "300 release d"]),  # hold_ms passing makes it a tap that lasts
    ("KeyT", (0, 250), ["200 press Ctrl+T", "250 release Ctrl+T"]),
    ("KeyT", (0, 50, 100, 150), ["150 press Alt+T", "150 release Alt+T"]),
    ("KeyT", (0, 50, 100, 400), ["300 press Super+T", "400 release Super+T"]),
    ("thumb-left-2", (0, 20, 100, 120), ["0 enter draw", "100 leave draw"]),  # a switch goes out by the same key
])  # fmt: skip
def test_one_key_by_the_times_of_its_downs_and_ups(key: str, times: tuple[float, ...], expected: list[str]) -> None:
    assert acts_of(*((t, ("down", "up")[nth % 2], key) for nth, t in enumerate(times))) == expected


@pytest.mark.parametrize(("policy", "rows", "first"), [
    ("timer", [(0, "down", "KeyH"), (30, "down", "KeyA"), (60, "up", "KeyA"), (90, "up", "KeyH")], "90 press h"),
    ("crossed", [(0, "down", "KeyH"), (30, "down", "KeyA"), (60, "up", "KeyA"), (90, "up", "KeyH")], "60 press Ctrl+H"),
    ("crossed", [(0, "down", "KeyH"), (30, "down", "KeyA"), (60, "up", "KeyH"), (90, "up", "KeyA")], "60 press h"),
    ("eager", [(0, "down", "KeyH"), (30, "down", "KeyA"), (60, "up", "KeyH"), (90, "up", "KeyA")], "30 press Ctrl+H"),
])  # fmt: skip
def test_policies_decide_a_hold_earlier(policy: str, rows: list[tuple[float, str, str]], first: str) -> None:
    base = BASE.replace("[layers.keys]", f'[layers.timing.KeyH]\npolicy = "{policy}"\n[layers.keys]')
    acts = acts_of(*rows, base=base)
    assert acts[0] == first
    assert any("press Ctrl+A" in act for act in acts[1:])


def test_another_down_in_the_wait_for_a_double_makes_it_a_tap_at_once() -> None:
    rows = [(0, "down", "KeyD"), (50, "up", "KeyD"), (90, "down", "KeyA"), (120, "up", "KeyA")]
    assert acts_of(*rows) == ["90 press d", "90 release d", "90 press Ctrl+A", "120 release Ctrl+A"]


@pytest.mark.parametrize(
    ("rows", "expected"),
    [
        ([(0, "down", "KeyJ"), (50, "down", "KeyK"), (90, "up", "KeyJ"), (99, "up", "KeyK")],
         ["50 press Escape", "90 release Escape"]),
        ([(0, "down", "KeyJ"), (51, "down", "KeyK"), (90, "up", "KeyJ"), (120, "up", "KeyK")],
         ["50 press j", "101 press k", "101 release j", "120 release k"]),  # each when its wait is over
        ([(0, "down", "KeyJ"), (20, "up", "KeyJ")], ["20 press j", "20 release j"]),
        ([(0, "down", "KeyJ"), (20, "down", "KeyA"), (40, "up", "KeyA"), (60, "up", "KeyJ")],
         ["20 press j", "20 press Ctrl+A", "40 release Ctrl+A", "60 release j"]),
        # the first J ends before the pair acts, though its up had to wait
        ([(0, "down", "KeyJ"), (100, "down", "KeyK"), (110, "up", "KeyJ"), (130, "down", "KeyJ"), (200, "up", "KeyJ"), (210, "up", "KeyK")],
         ["50 press j", "130 release j", "130 press Escape", "200 release Escape"]),
    ],
)  # fmt: skip
def test_together_spots(rows: list[tuple[float, str, str]], expected: list[str]) -> None:
    assert acts_of(*rows) == expected


def test_a_layer_held_is_there_while_it_is_held() -> None:
    rows = [(0, "down", "thumb-left-1"), (210, "down", "KeyS"), (260, "up", "KeyS"), (300, "up", "thumb-left-1"),
            (400, "down", "KeyS"), (450, "up", "KeyS")]  # fmt: skip
    assert acts_of(*rows) == ["200 enter draw", "210 press Ctrl+S", "260 release Ctrl+S", "300 leave draw",
                              "400 press s", "450 release s"]  # fmt: skip


def test_dead_keys_end_the_search_and_falling_ones_go_on() -> None:
    rows = [(0, "down", "thumb-left-2"), (20, "up", "thumb-left-2"), (50, "down", "KeyW"), (60, "up", "KeyW"),
            (70, "down", "KeyF"), (80, "up", "KeyF")]  # fmt: skip
    assert acts_of(*rows) == ["0 enter draw", "70 press f", "80 release f"]


def test_once_leaves_after_the_next_press_and_stay_by_a_key_that_leaves() -> None:
    once = [(0, "down", "thumb-left-3"), (20, "up", "thumb-left-3"), (50, "down", "KeyS"), (90, "up", "KeyS")]
    assert acts_of(*once) == ["0 enter draw", "50 press Ctrl+S", "50 leave draw", "90 release Ctrl+S"]
    stay = [(0, "down", "thumb-right-1"), (20, "up", "thumb-right-1"), (50, "down", "KeyS"), (90, "up", "KeyS"),
            (200, "down", "thumb-right-1"), (220, "up", "thumb-right-1")]  # fmt: skip
    assert acts_of(*stay) == ["0 enter draw", "50 press Ctrl+S", "90 release Ctrl+S", "200 leave draw"]


def test_what_a_key_resolves_to_stays_with_it_whatever_layers_do() -> None:
    rows = [(0, "down", "thumb-left-1"), (210, "down", "KeyS"), (250, "up", "thumb-left-1"), (300, "up", "KeyS")]
    assert acts_of(*rows) == ["200 enter draw", "210 press Ctrl+S", "250 leave draw", "300 release Ctrl+S"]


def test_a_front_layer_comes_and_goes_with_its_program() -> None:
    front = DRAW.replace('name = "Draw"', 'name = "Draw"\nfront = "shoalwright"')
    rows = [(0, "front", "shoalwright"), (10, "down", "KeyS"), (30, "up", "KeyS"), (40, "front", "")]
    assert acts_of(*rows, draw=front) == ["0 enter draw", "10 press Ctrl+S", "30 release Ctrl+S", "40 leave draw"]


def test_release_all_first_lets_time_run() -> None:
    for at, expected in ((199, []), (200, ["200 press Ctrl+H", "200 release Ctrl+H"]), (260, ["200 press Ctrl+H", "260 release Ctrl+H"])):
        machine = Machine(keymap())
        assert machine.feed(Event(0, "down", "KeyH")) == []
        assert told(machine.release_all(at)) == expected


def test_a_layer_that_is_in_by_front_and_by_entry_leaves_once() -> None:
    front = DRAW.replace('name = "Draw"', 'name = "Draw"\nfront = "shoalwright"')
    machine = Machine(keymap(draw=front), "shoalwright")
    for event in events((0, "down", "thumb-left-2"), (5, "up", "thumb-left-2")):
        assert machine.feed(event) == []  # it was in already
    assert told(machine.release_all(10)) == ["10 leave draw"]


@pytest.mark.parametrize(
    ("rows", "sent"),
    [
        # the layer that came in last is looked at first, as long as that entry stands
        ([(0, "down", "thumb-left-2"), (5, "up", "thumb-left-2"), (10, "down", "thumb-right-2"), (15, "up", "thumb-right-2")], "Alt+S"),
        ([(0, "down", "thumb-right-2"), (5, "up", "thumb-right-2"), (10, "down", "thumb-left-2"), (15, "up", "thumb-left-2")], "Ctrl+S"),
        # draw by a switch, travel, draw once more while held: on top only until that is let go
        ([(0, "down", "thumb-left-2"), (5, "up", "thumb-left-2"), (10, "down", "thumb-right-2"), (15, "up", "thumb-right-2"),
          (20, "down", "thumb-left-1"), (400, "down", "KeyW"), (410, "up", "KeyW")], "Ctrl+S"),
        ([(0, "down", "thumb-left-2"), (5, "up", "thumb-left-2"), (10, "down", "thumb-right-2"), (15, "up", "thumb-right-2"),
          (20, "down", "thumb-left-1"), (400, "up", "thumb-left-1")], "Alt+S"),
    ],
)  # fmt: skip
def test_the_last_entry_that_stands_says_which_layer_is_on_top(rows: list[tuple[float, str, str]], sent: str) -> None:
    base = BASE + 'thumb-right-2 = { tap = { enters = "travel", mode = "switch" } }\n'
    draw = DRAW.replace('unbound = "dead"\n', "")
    travel = 'id = "travel"\nname = "Travel"\n[layers.keys]\nKeyS = "Alt+S"\n'
    keys = keymap_of(layout_of(base, draw, travel), "split-42")
    acts = told(run(keys, events(*rows, (500, "down", "KeyS"), (510, "up", "KeyS"))))
    assert f"500 press {sent}" in acts


def test_a_layer_stays_until_its_last_entry_ends() -> None:
    rows = [(0, "down", "thumb-left-2"), (5, "up", "thumb-left-2"), (10, "down", "thumb-right-1"), (15, "up", "thumb-right-1")]
    draw = DRAW.replace("thumb-right-1 = { tap = { leaves = true } }", 'thumb-right-1 = "falls"')
    assert acts_of(*rows, (20, "down", "thumb-left-2"), (25, "up", "thumb-left-2"), draw=draw) == ["0 enter draw"]
    # what leaves ends every entry there is
    assert acts_of(*rows, draw=DRAW) == ["0 enter draw", "10 leave draw"]


def test_an_act_is_dated_when_it_is_certain() -> None:
    # H is held, which decides at 200 and sends nothing; A waited for it and acts then, not at its own down
    base = BASE.replace('KeyO = { hold = "Ctrl+O" }', 'KeyO = { hold = "Ctrl+O", double = "o" }')
    rows = [(0, "down", "KeyO"), (40, "up", "KeyO"), (60, "down", "KeyA"), (90, "up", "KeyA")]
    assert acts_of(*rows, base=base) == ["60 press Ctrl+A", "90 release Ctrl+A"]
    timer = base.replace("[layers.keys]", '[layers.timing.KeyO]\npolicy = "timer"\n[layers.keys]').replace(
        'hold = "Ctrl+O"', "hold = { leaves = true }"
    )
    late = [(0, "down", "KeyO"), (60, "down", "KeyA"), (90, "up", "KeyA"), (300, "up", "KeyO")]
    assert acts_of(*late, base=timer) == ["200 press Ctrl+A", "200 release Ctrl+A"]


def test_a_knob_that_is_turned_counts_as_another_key() -> None:
    knob = Effect(Spot("split-42", "base", ("knob-1",), "left"), "VolumeDown")
    keys = keymap()
    first = replace(keys.layers[0], keys={**keys.layers[0].keys, "knob-1": {"left": knob}})
    keys = replace(keys, layers=(first, *keys.layers[1:]), knobs=frozenset({"knob-1"}))
    turned = (20, "turn", "knob-1:left")
    ends_wait = told(run(keys, events((0, "down", "KeyJ"), turned, (30, "down", "KeyK"), (60, "up", "KeyJ"), (90, "up", "KeyK"))))
    assert ends_wait[:3] == ["20 press j", "20 press VolumeDown", "20 release VolumeDown"]
    tap_at_once = told(run(keys, events((0, "down", "KeyD"), (10, "up", "KeyD"), turned, (30, "down", "KeyD"), (40, "up", "KeyD"))))
    assert tap_at_once[:2] == ["20 press d", "20 release d"]
    tap_before_up = told(run(keys, events((0, "down", "KeyH"), turned, (30, "up", "KeyH"))))
    assert tap_before_up[:2] == ["30 press h", "30 release h"]


def test_repeats_end_with_an_up_that_waits() -> None:
    # R's up at 70 waits for H until 200: the repeat of 100 must not come
    rows = [(0, "down", "KeyR"), (60, "down", "KeyH"), (70, "up", "KeyR"), (300, "up", "KeyH")]
    acts = acts_of(*rows, base=BASE.replace("[layers.keys]", '[layers.timing.KeyH]\npolicy = "timer"\n[layers.keys]'))
    assert [act for act in acts if "press r" in act] == ["0 press r", "50 press r"]
    # of a pair either up ends it
    pair = BASE.replace('"KeyJ&KeyK" = "Escape"', '"KeyJ&KeyK" = { tap = { sends = "r", repeat_ms = 50 } }')
    pair = pair.replace("[layers.keys]", '[layers.timing.KeyH]\npolicy = "timer"\n[layers.keys]')
    rows = [(0, "down", "KeyJ"), (10, "down", "KeyK"), (20, "down", "KeyH"), (70, "up", "KeyK"), (90, "up", "KeyJ"), (300, "up", "KeyH")]
    assert [act for act in acts_of(*rows, base=pair) if "press r" in act] == ["10 press r", "60 press r"]


def test_steps_play_with_their_pauses_and_a_bundle_is_held() -> None:
    assert acts_of((0, "down", "KeyM"), (10, "up", "KeyM")) == ["0 press x", "0 release x", "80 press y", "80 release y"]
    assert acts_of((0, "down", "KeyB"), (300, "up", "KeyB")) == ["200 press Ctrl+Alt+Super", "300 release Ctrl+Alt+Super"]


def test_a_repeat_runs_while_held_and_release_plays_at_its_end() -> None:
    acts = acts_of((0, "down", "KeyR"), (120, "up", "KeyR"))
    assert [act for act in acts if "press r" in act] == ["0 press r", "50 press r", "100 press r"]
    assert acts[-2:] == ["120 press Escape", "120 release Escape"]


def test_knobs_act_at_once() -> None:
    from tests.helpers import folio_of

    text = 'format = "glimber-layout/1"\nboard = "pad-21"\n[[layers]]\nid = "base"\nname = "Pad"\n[layers.keys]\n'
    folio = folio_of({"layouts/pad-21.toml": text + 'knob-1 = { left = "VolumeDown", press = "Mute" }\n'})
    rows = [(0, "turn", "knob-1:left"), (10, "turn", "knob-1:right"), (20, "down", "knob-1"), (40, "up", "knob-1")]
    acts = told(run(keymap_of(folio, "pad-21"), events(*rows)))
    assert acts == ["0 press VolumeDown", "0 release VolumeDown", "20 press Mute", "40 release Mute"]


def test_repeats_and_ups_out_of_nowhere_are_ignored() -> None:
    rows = [(0, "up", "KeyA"), (1, "down", "KeyA"), (5, "down", "KeyA"), (9, "up", "KeyA"), (12, "up", "KeyA")]
    assert acts_of(*rows) == ["1 press Ctrl+A", "9 release Ctrl+A"]


def test_release_all_leaves_nothing_pressed_and_only_base() -> None:
    machine = Machine(keymap())
    for event in events((0, "down", "thumb-left-2"), (5, "up", "thumb-left-2"), (10, "down", "KeyS"), (20, "down", "KeyH")):
        machine.feed(event)
    assert told(machine.release_all(50)) == ["50 release Ctrl+S", "50 leave draw"]
    assert machine.live_layers() == ["base"]
    assert machine.pending_until() is None


def test_a_copy_goes_its_own_way() -> None:
    """Everything a machine knows is in its copy, and what happens to the one does not happen to the other."""
    machine = Machine(keymap())
    for event in events((0, "down", "thumb-left-2"), (5, "up", "thumb-left-2"), (10, "down", "KeyS"), (20, "down", "KeyR"),
                        (30, "down", "KeyJ"), (40, "down", "KeyK"), (50, "up", "KeyJ"), (60, "down", "KeyH")):  # fmt: skip
        machine.feed(event)
    one, other = machine.copy(), machine.copy()
    rest = events((100, "up", "KeyK"), (110, "up", "KeyS"), (120, "up", "KeyR"), (130, "up", "KeyH"), (140, "down", "thumb-left-2"))
    acts = [act for event in rest for act in one.feed(event)]
    assert machine.live_layers() == ["base", "draw"] and one.live_layers() == ["base"]
    assert [act for event in rest for act in other.feed(event)] == acts
    assert [act for event in rest for act in machine.feed(event)] == acts
    assert one.struck() == other.struck() == machine.struck()


KEYS = ["KeyA", "KeyH", "KeyD", "KeyT", "KeyB", "KeyJ", "KeyK", "KeyS", "KeyW", "KeyR", "thumb-left-1", "thumb-left-2",
        "thumb-left-3", "thumb-right-1", "thumb-right-2", "front"]  # fmt: skip


@st.composite
def streams(draw: st.DrawFn) -> list[Event]:
    """Any keys going down and up in any order, the last ones up at the end."""
    t, down, found = 0.0, set[str](), []
    for _ in range(draw(st.integers(1, 24))):
        t += draw(st.sampled_from([0, 1, 10, 49, 50, 51, 120, 179, 180, 181, 199, 200, 201, 400]))
        key = draw(st.sampled_from(KEYS))
        if key == "front":
            found.append(Event(t, "front", draw(st.sampled_from(["", "shoalwright"]))))
            continue
        found.append(Event(t, "up" if key in down else "down", key))
        down ^= {key}
    for key in sorted(down):
        t += 30
        found.append(Event(t, "up", key))
    return found


@pytest.mark.slow
@given(streams(), st.lists(st.floats(0, 3000), max_size=30))
@settings(max_examples=200)
def test_advancing_in_any_slices_gives_the_same_acts(stream: list[Event], slices: list[float]) -> None:
    whole = run(keymap(), stream)
    machine, acts = Machine(keymap()), []
    waiting = sorted(slices)
    for event in stream:
        while waiting and waiting[0] < event.t:
            acts += machine.advance(waiting.pop(0))
        acts += machine.feed(event)
    acts += machine.settle()
    assert acts == whole


@pytest.mark.slow
@given(streams())
@settings(max_examples=200)
def test_nothing_is_stuck_lost_or_out_of_order(stream: list[Event]) -> None:
    acts = run(keymap(), stream)
    assert [act.t for act in acts] == sorted(act.t for act in acts)
    pressed: dict[str, int] = {}
    live: dict[str, int] = {}
    for act in acts:
        counts, key = (pressed, act.sends) if act.do in ("press", "release") else (live, act.layer)
        assert key is not None
        counts[key] = counts.get(key, 0) + (1 if act.do in ("press", "enter") else -1)
        assert counts[key] >= 0
    assert not any(pressed.values())
    machine = Machine(keymap())
    for event in stream:
        machine.feed(event)
    machine.settle()
    assert sorted(layer for layer, count in live.items() if count) == sorted(set(machine.live_layers()) - {"base"})


@st.composite
def pair_streams(draw: st.DrawFn) -> list[Event]:
    """The two keys of a together spot and one other, in quick succession."""
    t, down, found = 0.0, set[str](), []
    for _ in range(draw(st.integers(4, 14))):
        t += draw(st.sampled_from([1, 10, 20, 30, 49, 50, 51, 70, 100]))
        key = draw(st.sampled_from(["KeyJ", "KeyK", "KeyJ", "KeyK", "KeyR", "KeyH"]))
        found.append(Event(t, "up" if key in down else "down", key))
        down ^= {key}
    return [*found, *(Event(t + 300 + at, "up", key) for at, key in enumerate(sorted(down)))]


@given(pair_streams())
@settings(max_examples=200)
def test_no_key_of_a_pair_stays_down(stream: list[Event]) -> None:
    pressed: dict[str, int] = {}
    for act in run(keymap(), stream):
        if act.do in ("press", "release"):
            pressed[str(act.sends)] = pressed.get(str(act.sends), 0) + (1 if act.do == "press" else -1)
    assert not any(pressed.values())


@given(st.one_of(pair_streams(), streams()), st.floats(0, 3000))
@settings(max_examples=200)
def test_release_all_tells_everything_up_to_then_and_each_end_once(stream: list[Event], at: float) -> None:
    machine, acts = Machine(keymap()), []
    for event in stream:
        if event.t > at:
            break
        acts += machine.feed(event)
    acts += machine.release_all(at)
    counts: dict[tuple[str, str | None], int] = {}
    for act in acts:
        kind = "key" if act.do in ("press", "release") else "layer"
        counts[kind, act.sends or act.layer] = counts.get((kind, act.sends or act.layer), 0) + (1 if act.do in ("press", "enter") else -1)
    assert not any(counts.values())
    assert acts[len(acts) - len([a for a in acts if a.t >= at]) :] == [a for a in acts if a.t >= at]


@given(st.one_of(pair_streams(), streams()), st.lists(st.floats(0, 3000), max_size=20))
@settings(max_examples=200)
def test_no_act_is_dated_before_a_time_already_given(stream: list[Event], slices: list[float]) -> None:
    base = "\n".join(line for line in BASE.splitlines() if not line.startswith("KeyM"))
    machine, waiting, given_t = Machine(keymap(base)), sorted(slices), float("-inf")
    for event in stream:
        while waiting and waiting[0] < event.t:
            t = waiting.pop(0)
            assert all(act.t >= given_t for act in machine.advance(t))
            given_t = t
        assert all(act.t >= given_t for act in machine.feed(event))


PLAIN = "\n".join(line for line in BASE.splitlines() if not line.startswith(("KeyM", "KeyR")))


@cache
def _three(base: str, travel: str) -> Keymap:
    return keymap_of(layout_of(base, DRAW, travel), "split-42")


@pytest.mark.slow
@pytest.mark.parametrize("policy", ["timer", "crossed", "eager"])
@given(stream=st.one_of(streams(), pair_streams()))
@settings(max_examples=200)
def test_a_second_naive_engine_does_the_same(policy: str, stream: list[Event]) -> None:
    base = PLAIN + "\n".join(["", f'[layers.timing.KeyT]\npolicy = "{policy}"', f'[layers.timing.KeyH]\npolicy = "{policy}"',
                              f'[layers.timing.thumb-left-1]\npolicy = "{policy}"'])  # fmt: skip
    travel = 'id = "travel"\nname = "Travel"\nfront = "shoalwright"\n[layers.keys]\nKeyS = "Alt+S"\n"KeyJ&KeyK" = "Alt+J"\n'
    base += '\n[layers.keys.thumb-right-2]\ntap = { enters = "travel", mode = "switch" }\n'
    keys = _three(base, travel)
    acts = [(act.t, act.do, act.layer, act.sends) for act in run(keys, stream)]
    assert acts == Naive(keys).run(stream)
