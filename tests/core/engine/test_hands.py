"""From a trigger to the hand's events and back: performing, hearing, and how a spot is struck on the ordinary keyboard."""

from __future__ import annotations

import pytest

from glimber.core.engine.engine import run
from glimber.core.engine.keymap import keymap_of
from glimber.core.engine.listen import BoardListener, KeyboardListener
from glimber.core.engine.perform import CannotPerform, perform, way_to
from glimber.core.engine.standin_keys import here_words
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import parse_spot, parse_trigger
from tests.helpers import events, folio_of, layout_of, text_of

BASE = text_of("hands-base.toml")
DRAW = text_of("hands-draw.toml")
MODES = ("while", "once", "switch", "stay")
SPOTS = (
    "base:KeyA:tap",
    "base:KeyA:double",
    "base:KeyA:tap-hold",
    "base:KeyA:hold",
    "base:KeyJ&KeyK:tap",
    "draw:KeyS:tap",
    "draw:KeyS:hold",
)


def laid(mode: str = "while") -> Folio:
    return layout_of(BASE.format(mode=mode), DRAW)


@pytest.mark.parametrize("mode", MODES)
@pytest.mark.parametrize("spot", SPOTS)
def test_what_the_hand_does_for_a_spot_makes_the_board_do_it(spot: str, mode: str) -> None:
    folio = laid(mode)
    wanted = parse_spot(f"split-42:{spot}")
    stream = perform(folio, wanted, 500)
    acts = run(keymap_of(folio, "split-42"), stream)
    (sent,) = [act.sends for act in acts if act.do == "press" and act.spot is not None and act.spot == wanted]
    assert sent == str(folio.by_trigger[wanted].sends)
    assert [act.sends for act in acts if act.do == "press"] == [sent]
    assert [event.t for event in stream] == sorted(event.t for event in stream) and stream[0].t == 500
    down = [event.key for event in stream if event.kind == "down"]
    assert sorted(down) == sorted(event.key for event in stream if event.kind == "up")


def test_chords_are_struck_modifiers_first_and_let_go_in_turn() -> None:
    stream = perform(folio_of(), parse_trigger("Ctrl+Shift+S"), 100)
    assert [(event.kind, event.key) for event in stream] == [
        ("down", "ControlLeft"), ("down", "ShiftLeft"), ("down", "KeyS"), ("up", "KeyS"), ("up", "ShiftLeft"), ("up", "ControlLeft")]  # fmt: skip
    assert [round(event.t) for event in stream[:3]] == [100, 140, 180]
    assert stream[4].t - stream[3].t == stream[5].t - stream[4].t == 20
    slow = perform(folio_of(), parse_trigger("Ctrl+Shift+S"), 100, pace=2)
    assert [round(event.t) for event in slow[:3]] == [100, 180, 260]
    with pytest.raises(CannotPerform, match="no key for it"):
        perform(folio_of(), parse_trigger("é"))


def test_a_way_in_that_is_held_comes_before_one_that_stays_and_a_ring_has_none() -> None:
    folio = layout_of(BASE.format(mode="while") + 'KeyQ = { tap = { enters = "draw", mode = "stay" } }\n', DRAW)
    assert [b.spot.key for b in way_to(folio, "split-42", "draw")] == ["thumb-left-1"]
    assert way_to(folio, "split-42", "base") == []
    ring = layout_of(
        'id = "base"\nname = "Base"\n', 'id = "a"\nname = "A"\n[layers.keys]\nKeyA = { tap = { enters = "a", mode = "stay" } }\n'
    )
    with pytest.raises(CannotPerform, match="no key brings this layer in"):
        way_to(ring, "split-42", "a")


def test_a_bundle_that_is_held_goes_with_what_is_struck_after_it_and_no_longer() -> None:
    listener = BoardListener(laid(), "split-42", None)
    heard = [unit for event in events(
        (0, "down", "thumb-left-2"), (400, "down", "KeyG"), (450, "up", "KeyG"), (600, "up", "thumb-left-2"),
        (700, "down", "KeyG"), (750, "up", "KeyG"),
    ) for unit in listener.feed(event)]  # fmt: skip
    assert [(sorted(unit.held), [sorted(held) for held, _ in unit.strikes]) for unit in heard] == [
        (["Alt", "Ctrl", "Super"], [["Alt", "Ctrl", "Super"]]), ([], [[]])]  # fmt: skip
    assert all(unit.bound for unit in heard)


def test_what_is_not_bound_is_said_to_be_so() -> None:
    listener = BoardListener(laid(), "split-42", None)
    (unit,) = listener.feed(events((0, "down", "KeyW"))[0])
    assert not unit.bound and not unit.modifier and unit.strikes == ((frozenset(), "KeyW"),)
    assert listener.pending_until() is None and KeyboardListener().pending_until() is None
    listener.feed(events((10, "down", "KeyA"))[0])
    assert listener.pending_until() == 210


def test_a_layer_above_that_has_the_key_alone_takes_it_out_of_its_pair() -> None:
    draw = DRAW + 'KeyJ = "Ctrl+J"\n'
    folio = layout_of(BASE.format(mode="switch"), draw)
    for layer, expected in (("base", ["Ctrl+E"]), ("draw", ["Ctrl+J", "k"])):
        rows = [] if layer == "base" else [(0, "down", "thumb-left-1"), (300, "up", "thumb-left-1")]
        rows += [(400, "down", "KeyJ"), (420, "down", "KeyK"), (500, "up", "KeyJ"), (520, "up", "KeyK")]
        acts = run(keymap_of(folio, "split-42"), events(*rows))
        assert [act.sends for act in acts if act.do == "press"] == expected


def test_how_a_spot_is_struck_here_is_said_by_what_the_ordinary_keyboard_prints() -> None:
    assert here_words(laid(), parse_spot("split-42:draw:KeyS:hold")) == "hold B, hold S"
    assert here_words(laid("stay"), parse_spot("split-42:draw:KeyS:tap")) == "hold B, strike S"
    assert here_words(laid(), parse_spot("split-42:base:KeyA:double")) == "strike twice A"
