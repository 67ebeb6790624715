"""Reach by the formulas of docs/measures.md, each worked out here by hand."""

from __future__ import annotations

from math import log2

import pytest
from msgspec.structs import replace

from glimber.core.model.board import Board, Key, Knob
from glimber.core.model.folio import Folio, Layer, Layout, Settings
from glimber.core.notation.keys import parse_trigger
from glimber.core.stats.reach import Reach, slow_way_s
from tests.helpers import folio_of, layout_of

INDEX, MIDDLE, RING, LITTLE, THUMB = 120.0, 125.0, 145.0, 170.0, 115.0


def fitts(distance: float, width: float = 1.0) -> float:
    return 75 * log2(distance / width + 1)


def plane(*keys: Key, knobs: tuple[Knob, ...] = (), **settings: object) -> Folio:
    board = Board("plane", "Plane", keys, knobs, homes={"right": (0.5, 0.5)})
    layout = Layout("plane", (Layer("base", "Base"),))
    return Folio(Settings("t", keyboard="plane", **settings), {"plane": board}, layouts={"plane": layout})  # type: ignore[arg-type]


HOME = Key("KeyF", 0, 0, finger="left-index", home=True)
CASES = [
    (HOME, INDEX),
    (Key("KeyR", 0, -1, finger="left-index"), INDEX + fitts(1)),
    (Key("KeyR", 0, -1, finger="left-index", reach="stretch"), INDEX + fitts(1) + 60),
    (Key("KeyR", 0, -1, finger="left-index", reach="avoid"), INDEX + fitts(1) + 250),
    (Key("Space", -1, 1, 3, 1, finger="left-thumb"), THUMB + fitts(2)),  # no home of its own: D = 2
    (Key("KeyX", 0.5, 0, finger="right-ring"), RING + fitts(0.5)),  # from the board's resting point of that hand
    (Key("KeyX", 0, -1), INDEX + fitts(1)),  # no finger: index
    (Key("F5", 0, -2.0, finger="left-index"), INDEX + fitts(2.0)),  # centre 1.5 u outside the home block
    (Key("F5", 0, -2.01, finger="left-index"), INDEX + fitts(2.01) + 400),
]


@pytest.mark.parametrize(("key", "expected"), CASES)
def test_one_key(key: Key, expected: float) -> None:
    folio = plane(*({HOME.id: HOME, key.id: key}.values()))
    assert Reach(folio).ms(parse_trigger(f"plane:base:{key.id}:tap")) == pytest.approx(expected)


def test_a_knob_and_a_hand_that_is_away() -> None:
    folio = plane(HOME, knobs=(Knob("knob-1", 5, 0),), away="left")
    assert Reach(folio).ms(parse_trigger("plane:base:knob-1:left")) == 300
    assert Reach(folio).ms(parse_trigger("plane:base:KeyF:tap")) == INDEX + 800


def test_keys_held_together() -> None:
    j = Key("KeyJ", 3, 0, finger="right-index", home=True)
    d = Key("KeyD", -1, 0, finger="left-middle", home=True)
    far = Key("KeyA", -6, 0, finger="left-little", home=True)
    both = Key("KeyG", 1, 0, finger="left-index")
    folio = plane(HOME, j, d, far, both)
    reach = Reach(folio)
    assert reach.ms(parse_trigger("plane:base:KeyF&KeyJ:tap")) == pytest.approx(INDEX + 0.6 * INDEX)
    assert reach.ms(parse_trigger("plane:base:KeyD&KeyF:tap")) == pytest.approx(MIDDLE + INDEX)
    assert reach.ms(parse_trigger("plane:base:KeyA&KeyF:tap")) == pytest.approx(LITTLE + INDEX + 40 * (6 - 4))
    assert reach.ms(parse_trigger("plane:base:KeyF&KeyG:tap")) == pytest.approx(2 * INDEX + fitts(1) + 200)


def test_chords_take_the_cheaper_side_of_a_modifier_and_sequences_add_up() -> None:
    folio = folio_of()
    reach = Reach(folio)
    shift_a, shift_l = reach.ms(parse_trigger("Shift+A")), reach.ms(parse_trigger("Shift+L"))
    assert shift_a is not None and shift_l is not None
    left_only = replace(folio, boards={**folio.boards, "full-105": replace(
        folio.keyboard, keys=tuple(key for key in folio.keyboard.keys if key.id != "ShiftRight"))})  # fmt: skip
    assert Reach(left_only).ms(parse_trigger("Shift+A")) > shift_a  # type: ignore[operator]
    both = reach.ms(parse_trigger("Ctrl+K Ctrl+L"))
    one, other = reach.ms(parse_trigger("Ctrl+K")), reach.ms(parse_trigger("Ctrl+L"))
    assert both == pytest.approx(one + other)  # type: ignore[operator]
    assert reach.ms(parse_trigger('"tide"')) == 800
    assert reach.ms(parse_trigger("F24")) is None


@pytest.mark.parametrize(("gesture", "more"), [("tap", 180.0), ("hold", 200.0), ("double", INDEX + 90), ("tap-hold", INDEX + 90 + 200)])
def test_gestures(gesture: str, more: float) -> None:
    folio = layout_of('id = "base"\nname = "Base"\n[layers.keys]\nKeyF = { tap = "f", hold = "a", double = "b", tap-hold = "c" }')
    reach = Reach(folio).ms(parse_trigger(f"split-42:base:KeyF:{gesture}"))
    assert reach == pytest.approx(INDEX + more)


def layered(mode: str, key: str = "KeyJ") -> Folio:
    base = f'id = "base"\nname = "Base"\n[layers.keys]\n{key} = {{ tap = {{ enters = "draw", mode = "{mode}" }} }}'
    return layout_of(base, 'id = "draw"\nname = "Draw"\n[layers.keys]\nKeyF = "x"\nKeyJ = { tap = { leaves = true } }')


@pytest.mark.parametrize(
    ("mode", "expected"), [("while", INDEX + 0.6 * INDEX), ("once", 2 * INDEX), ("stay", 2 * INDEX), ("switch", 2 * INDEX)]
)
def test_a_layer_costs_its_entry(mode: str, expected: float) -> None:
    assert Reach(layered(mode)).ms(parse_trigger("split-42:draw:KeyF:tap")) == pytest.approx(expected)


def test_a_layer_nothing_enters_has_no_reach() -> None:
    folio = layout_of('id = "base"\nname = "Base"', 'id = "draw"\nname = "Draw"\n[layers.keys]\nKeyF = "x"')
    assert Reach(folio).ms(parse_trigger("split-42:draw:KeyF:tap")) is None


def test_scaled_to_the_person_only_in_finger_and_distance() -> None:
    folio = layout_of('id = "base"\nname = "Base"\n[layers.keys]\nKeyF = { hold = "a" }')
    assert Reach(folio, finger=2.0, distance=3.0).ms(parse_trigger("split-42:base:KeyF:hold")) == 2 * INDEX + 200


@pytest.mark.parametrize(("steps", "seconds"), [
    ([], None), (["menu Survey"], 1.35 + 1.35 + 1.3 + 0.8),
    (["menu Survey", "menu Soundings", "click Add"], 1.35 + 2 * (1.35 + 1.3) + 1.3 + 0.8), (["field 8"], 1.35 + 1.35 + 1.6),
    (["drag line"], 1.35 + 2.2 + 0.4 + 0.8), (["click OK", "wait 2.5", "scroll"], 1.35 + 1.3 + 2.5 + 0.8 + 0.8),
])  # fmt: skip
def test_slow_way_by_the_keystroke_level_model(steps: list[str], seconds: float | None) -> None:
    found = slow_way_s(steps)
    assert found is None if seconds is None else found == pytest.approx(seconds)


def test_a_layers_key_that_is_held_costs_its_hand_in_full_or_in_part() -> None:
    """A key held with the other hand counts 0.6, with the same hand fully; a layer used once or left is struck in full."""
    base = 'id = "base"\nname = "Base"\n[layers.keys]\n{key} = {{ tap = "Space", hold = {{ enters = "draw", mode = "{mode}" }} }}\n'
    draw = 'id = "draw"\nname = "Draw"\n[layers.keys]\nKeyF = "Ctrl+K Ctrl+L"\n'
    costs = {}
    for key in ("thumb-left-1", "thumb-right-1"):
        for mode in ("while", "once", "stay", "switch"):
            reach = Reach(layout_of(base.format(key=key, mode=mode), draw))
            alone = reach.cost(parse_trigger(f"split-42:base:{key}:tap"))
            assert alone is not None
            costs[key, mode] = reach.ms(parse_trigger("split-42:draw:KeyF:tap")), alone.ms
    for key, share in (("thumb-left-1", 1.0), ("thumb-right-1", 0.6)):
        whole, alone = costs[key, "while"]
        assert whole == pytest.approx(INDEX + share * alone)
        for mode in ("once", "stay", "switch"):
            whole, alone = costs[key, mode]
            assert whole == pytest.approx(INDEX + alone + 200)  # struck in full, and held to be told from a tap


def test_a_layer_in_a_held_layer_costs_both_holds() -> None:
    """Draw is held with the right index key, a layer in it with the right middle one: both stay down for the strike."""
    base = 'id = "base"\nname = "Base"\n[layers.keys]\nKeyJ = { tap = "j", hold = { enters = "draw", mode = "while" } }\n'
    draw = 'id = "draw"\nname = "Draw"\n[layers.keys]\nKeyF = "x"\nKeyK = { hold = { enters = "deep", mode = "MODE" } }\n'
    deep = 'id = "deep"\nname = "Deep"\n[layers.keys]\nKeyF = "y"\n'
    found = {}
    for mode in ("while", "once"):
        reach = Reach(layout_of(base, draw.replace("MODE", mode), deep))
        one, two = (reach.ms(parse_trigger(f"split-42:{layer}:KeyF:tap")) for layer in ("draw", "deep"))
        assert one == pytest.approx(INDEX + 0.6 * INDEX)
        found[mode] = two
    assert found["while"] == pytest.approx(INDEX + 0.6 * (INDEX + MIDDLE))  # one hand strikes, the other holds two keys
    assert found["once"] == pytest.approx(INDEX + MIDDLE + INDEX + 200)
