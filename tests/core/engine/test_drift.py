"""Checking the real board, the tree of sequences, and free play, all without a window."""

from __future__ import annotations

import pytest

from glimber.core.audit.drift import BoardCheck, spots_to_check, take_over
from glimber.core.edit.edit import EditError
from glimber.core.edit.sequences import name_stem, sequence_tree
from glimber.core.edit.spots import Does, set_spot, spot_of, type_on
from glimber.core.engine.freeplay import Player
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Sequence, Strike, parse_trigger, strikes_of
from tests.helpers import events, folio_of

SMALL = folio_of()


def struck(text: str) -> tuple[Strike, ...]:
    found = strikes_of(parse_trigger(text), SMALL.legend, SMALL.bundles)  # type: ignore[arg-type]
    assert found is not None
    return found


def test_each_spot_is_asked_once_in_reading_order_layer_by_layer() -> None:
    folio = type_on(type_on(SMALL, spot_of("split-42", "base", "KeyQ"), "Ctrl+Q"), spot_of("split-42", "draw", "KeyA"), "Ctrl+K Ctrl+L")
    asked = [str(one.spot) for one in spots_to_check(folio, "split-42")]
    assert asked == ["split-42:base:KeyQ:tap", "split-42:base:KeyP:tap", "split-42:base:thumb-left-1:tap",
                     "split-42:draw:KeyA:tap", "split-42:draw:KeyS:tap"]  # fmt: skip


def test_what_the_computer_sees_is_compared_and_drift_taken_over() -> None:
    folio = type_on(SMALL, spot_of("split-42", "draw", "KeyA"), "Ctrl+K Ctrl+L")
    check = BoardCheck(folio, "split-42")
    assert check.strike(struck("p")[0]) == "same"
    assert check.nothing() == "nothing"  # the thumb key sent nothing
    first, second = struck("Ctrl+K Ctrl+L")
    assert check.strike(first) is None and check.strike(second) == "same"
    assert check.strike(struck("Ctrl+Shift+D")[0]) == "drift"
    assert check.now is None and check.strike(first) is None
    nothing, other = check.drifts
    assert nothing.words(folio) == "left thumb 1 on Base: the board sends nothing, the folio says Space."
    assert other.words(folio).endswith("the board sends Ctrl+Shift+D, the folio says Ctrl+Shift+S.")
    after = take_over(folio, other)
    assert str(after.bindings["sounding-s"].sends) == "Ctrl+Shift+D" and after.bindings["sounding-s"].command is not None
    with pytest.raises(EditError, match="the board sends nothing there"):
        take_over(folio, nothing)


def test_sequences_are_a_tree_with_named_groups() -> None:
    tree = sequence_tree(SMALL, "shoalwright")
    assert [str(one.trigger) for one in tree] == ["Ctrl+K"]
    assert [str(one.trigger) for one in tree[0].branches] == ["Ctrl+K Ctrl+L", "Ctrl+K Ctrl+S"]
    assert len(list(tree[0].all_bindings())) == 2
    stem = tree[0].trigger
    named = name_stem(SMALL, "shoalwright", stem, "Names and lines", stays_open=True)
    assert (sequence_tree(named, "shoalwright")[0].name, named.programs["shoalwright"].stems[0].closes) == ("Names and lines", (("Escape", ""),))
    assert name_stem(named, "shoalwright", stem, "Lines").programs["shoalwright"].stems[0].stays_open
    assert name_stem(named, "shoalwright", stem, "").programs["shoalwright"].stems == ()
    with pytest.raises(EditError, match="no name to take away"):
        name_stem(SMALL, "shoalwright", Sequence(stem.chords), "")


def play(folio: Folio, *rows: tuple[float, str, str], direct: bool = False) -> list[str]:
    player = Player(folio, "split-42", "shoalwright", direct=direct)
    said = []
    for event in events(*rows):
        said += [one.words for one in player.feed(event)]
    return said + [one.words for one in player.advance(9999)]


def test_free_play_tells_what_is_sent_and_meant_and_why_nothing_happens() -> None:
    hold = [(0, "down", "KeyB"), (300, "down", "KeyS"), (340, "up", "KeyS")]  # B stands in for the inner thumb key
    assert play(SMALL, *hold) == ["S on Draw: Add sounding in Shoalwright, by Ctrl+Shift+S."]
    assert play(SMALL, (0, "down", "KeyB"), (300, "down", "KeyQ"), (340, "up", "KeyQ")) == ["Q on Draw: nothing, the key is dead on Draw."]
    assert play(SMALL, (0, "down", "KeyW"), (50, "up", "KeyW")) == ["W on Base: sends W. Shoalwright has nothing on it."]
    assert play(SMALL, (0, "down", "F9"), (40, "up", "F9")) == ["split-42 has no key where F9 is."]
    direct = play(SMALL, (0, "down", "thumb-left-1"), (300, "down", "KeyD"), (340, "up", "KeyD"), direct=True)
    assert direct == ["D on Draw: Depth range in Shoalwright."]


def test_free_play_puts_the_steps_of_a_sequence_together() -> None:
    folio = type_on(type_on(SMALL, spot_of("split-42", "base", "KeyQ"), "Ctrl+K"), spot_of("split-42", "base", "KeyW"), "Ctrl+L")
    rows = [(0, "down", "KeyQ"), (40, "up", "KeyQ"), (200, "down", "KeyW"), (240, "up", "KeyW")]
    assert play(folio, *rows) == [
        "Q on Base: Ctrl+K, the beginning of a longer sequence.",
        "W on Base: Lead line in Shoalwright, by Ctrl+L.",
    ]


def test_steps_that_are_played_are_said() -> None:
    steps = (parse_trigger("Ctrl+J"), parse_trigger("x"))
    folio = set_spot(SMALL, spot_of("split-42", "base", "KeyQ"), Does(steps=steps))
    assert play(folio, (0, "down", "KeyQ"), (40, "up", "KeyQ"))[0].startswith("Q on Base: sends Ctrl+J x.")


@pytest.mark.parametrize(("gap_ms", "also"), [(1, True), (79, True), (80, True), (81, False)])
@pytest.mark.parametrize("own_first", [False, True])
def test_a_key_that_fires_its_own_action_as_well_is_told(gap_ms: float, also: bool, own_first: bool) -> None:
    """What the folio says comes, and the key's own letter with it, before or after."""
    check = BoardCheck(SMALL, "split-42")
    wanted, own = struck("p")[0], struck("F13")[0]
    first, second = (own, wanted) if own_first else (wanted, own)
    assert check.strike(first, 1000.0) == ("drift" if own_first else "same")
    assert (check.strike(second, 1000.0 + gap_ms) == "also") is also
    found = check.drifts[0] if check.drifts else None
    assert (found is not None and found.also) is also
    if also and found is not None:
        assert found.words(SMALL).endswith("the board sends p, and F13 as well.") and check.at == 1
        with pytest.raises(EditError, match="so that only p comes"):
            take_over(SMALL, found)
        assert check.strike(own, 1000.0 + gap_ms + 5) == "also" and len(check.drifts) == 1  # it is told once
        assert check.strike(struck("space")[0], 2000.0) == "same"


@pytest.mark.parametrize("between", ["skip", "nothing"])
def test_what_comes_after_a_spot_was_left_out_is_the_next_one_s(between: str) -> None:
    check = BoardCheck(SMALL, "split-42")
    assert check.strike(struck("p")[0], 1000.0) == "same"
    getattr(check, between)()
    assert check.strike(struck("Ctrl+Shift+D")[0], 1020.0) == "drift"
