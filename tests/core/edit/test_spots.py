"""Edits of layers: what each does, what it keeps, and what it refuses."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.audit.checks import audit
from glimber.core.audit.cures import cure
from glimber.core.decide.carry import carry_over, give_to_other_hand, held_by_hand, plan_carrying, with_board
from glimber.core.decide.free_places import free_chords, free_near, free_spots
from glimber.core.edit.commands import edit_binding, edit_command
from glimber.core.edit.edit import EditError
from glimber.core.edit.layers import add_layer, add_layout, bring_to_front, move_layer, remove_layer, rename_layer, set_unbound
from glimber.core.edit.spots import (
    Does,
    clear_spots,
    commands_sent,
    copy_to,
    move_key,
    of_key,
    set_spot,
    spot_of,
    swap_keys,
    type_on,
    with_bundle,
)
from glimber.core.model.board import Board
from glimber.core.model.folio import Folio
from glimber.core.model.walk import after, reading_order, step_from
from glimber.core.notation.keys import Spot, parse_sent, parse_spot
from glimber.core.notation.standard import is_standard
from glimber.store.toml.reading import shipped_board
from tests.helpers import PROGRAM, folio_of

SMALL = folio_of()
BOARD = SMALL.boards["split-42"]
S, D, F = (spot_of("split-42", "draw", key) for key in ("KeyS", "KeyD", "KeyF"))


def at(key: str, layer: str = "draw") -> tuple[str, str, str]:
    return "split-42", layer, key


@pytest.mark.parametrize(("name", "held", "modifiers"), [
    ("Anchor", "Ctrl+Alt+Shift", ("Ctrl", "Alt", "Shift")), ("Keel", "control + opt + control", ("Ctrl", "Alt")),
    ("Crown", "+".join(SMALL.bundles["Crown"]), SMALL.bundles["Crown"]),
])  # fmt: skip
def test_a_bundle_is_named(name: str, held: str, modifiers: tuple[str, ...]) -> None:
    assert with_bundle(SMALL, name, held).bundles[name] == modifiers


@pytest.mark.parametrize(("name", "held", "why"), [
    ("Ctrl", "Alt+Shift", "cannot name a bundle"), ("Escape", "Alt+Shift", "no key"), ("7up", "Alt", "cannot name"), ("", "Alt", "cannot name"),
    ("Anchor", "Ctrl+Foo", "'Foo' is no modifier"), ("Anchor", "", "'' is no modifier"), ("Crown", "Shift", "already"),
])  # fmt: skip
def test_what_is_no_bundle_says_why(name: str, held: str, why: str) -> None:
    with pytest.raises(EditError, match=why):
        with_bundle(SMALL, name, held)


def test_the_commands_of_typed_shortcuts_are_known() -> None:
    free = [spot_of("split-42", "draw", key) for key in ("KeyZ", "KeyX", "KeyC", "KeyV")]
    folio = SMALL
    for spot, keys in zip(free, ("Ctrl+Shift+S", "Shift+Ctrl+s", "q", "Ctrl+Alt+F12"), strict=True):
        folio = type_on(folio, spot, keys)
    assert commands_sent(folio, free) == dict.fromkeys(free[:2], "shoalwright/add-sounding")
    bound = set_spot(folio, free[0], Does(command="shoalwright/add-sounding"))
    assert commands_sent(bound, [*free[:1], spot_of("split-42", "draw", "KeyB")]) == {}


def test_a_spot_does_something_else_and_keeps_its_id_and_reason() -> None:
    after_edit = type_on(SMALL, S, "Ctrl+K Ctrl+L")
    binding = after_edit.by_trigger[S]
    assert (binding.id, binding.reason, str(binding.sends), binding.command) == ("sounding-s", "S as in sounding", "Ctrl+K Ctrl+L", None)
    free = type_on(SMALL, F, '"/depth "')
    assert free.by_trigger[F].id == "draw-KeyF-tap" and "KeyF" not in free.layouts["split-42"].layers[1].unset
    again = set_spot(free, F, Does(command="shoalwright/quay-list"))
    assert again.by_trigger[F].command == "shoalwright/quay-list" and again.by_trigger[F].sends is None


@pytest.mark.parametrize(("edit", "said"), [
    (lambda f: type_on(f, S, "Crtl+S"), "did you mean Ctrl"),
    (lambda f: type_on(f, S, "split-42:draw:KeyD:tap"), "which a spot can send"),
    (lambda f: set_spot(f, S, Does(command="shoalwright/gone")), "is not a command"),
    (lambda f: set_spot(f, S, Does(enters="gone", mode="while")), "gone is not a layer of split-42; it has base, draw"),
    (lambda f: set_spot(f, spot_of("split-42", "base", "KeyS"), Does(enters="draw")), "say how the layer comes in"),
    (lambda f: set_spot(f, S, Does(bundle="Throne")), "it has Crown"),
    (lambda f: set_spot(f, spot_of("split-42", "draw", "KeyJ2"), Does(leaves=True)), "KeyJ2 is not a key of split-42"),
    (lambda f: clear_spots(f, [F]), "nothing is bound there"),
    (lambda f: clear_spots(edit_binding(f, "sounding-s", pinned=True), [S]), "is pinned"),
    (lambda f: swap_keys(f, at("KeyF"), at("KeyG")), "nothing is bound on either key"),
    (lambda f: swap_keys(f, at("KeyF"), at("KeyF")), "choose another key"),
    (lambda f: move_key(f, at("KeyF"), at("KeyS")), "nothing is bound there to lift"),
    (lambda f: move_key(f, at("thumb-left-1", "base"), at("KeyQ")), "it cannot be put there"),
    (lambda f: copy_to(f, F, [S]), "nothing is bound there to copy"),
    (lambda f: add_layer(f, "split-42", " "), "needs a name"),
    (lambda f: add_layer(f, "split-42", "More", "letters"), "letters is not a starter"),
    (lambda f: remove_layer(f, "split-42", "base"), "is the base"),
    (lambda f: remove_layer(f, "split-42", "gone"), "gone is not a layer of split-42"),
    (lambda f: move_layer(f, "split-42", "draw", -1), "stays the first"),
    (lambda f: move_layer(f, "split-42", "draw", 1), "at the end of the order"),
    (lambda f: bring_to_front(f, "split-42", "base", "shoalwright"), "always in"),
    (lambda f: bring_to_front(f, "split-42", "draw", "gone"), "is not a program"),
    (lambda f: add_layout(f, "split-42"), "laid out already"),
    (lambda f: plan_carrying(f, "split-42", "split-42"), "is not another board"),
])  # fmt: skip
def test_what_is_refused_says_why(edit: Callable[[Folio], object], said: str) -> None:
    with pytest.raises(EditError, match=said):
        edit(SMALL)


def test_keys_are_swapped_and_moved_with_all_their_gestures() -> None:
    swapped = swap_keys(SMALL, at("KeyS"), at("KeyD"))
    assert {b.id for b in of_key(swapped, *at("KeyD")).values()} == {"sounding-s", "range-held"}
    assert swap_keys(swapped, at("KeyD"), at("KeyS")).by_trigger.keys() == SMALL.by_trigger.keys()
    moved = move_key(SMALL, at("KeyS"), at("KeyQ", "base"))
    assert str(moved.bindings["range-held"].trigger) == "split-42:base:KeyQ:hold" and not of_key(moved, *at("KeyS"))
    put = move_key(SMALL, at("KeyS"), at("KeyD"), put=True)
    assert "range-d" not in put.bindings and str(put.bindings["sounding-s"].trigger) == "split-42:draw:KeyD:tap"


def test_one_thing_on_many_and_off_again() -> None:
    many = copy_to(SMALL, S, [F, D, S])
    assert [many.by_trigger[spot].command for spot in (S, D, F)] == ["shoalwright/add-sounding"] * 3
    assert many.by_trigger[D].id == "range-d" and len({b.id for b in many.all_bindings()}) == len(list(many.all_bindings()))
    assert clear_spots(many, [F]).bindings.keys() == SMALL.bindings.keys()
    benched = clear_spots(clear_spots(SMALL, [D]), [parse_spot("split-42:draw:KeyS:hold")])
    assert "shoalwright/depth-range" in {command.ref for command in benched.bench()}


def test_unbound_keys_one_by_one_and_all() -> None:
    one = set_unbound(SMALL, "split-42", "draw", "falls", ["KeyQ", "KeyS"])
    assert one.layouts["split-42"].layers[1].unset["KeyQ"] == "falls" and "KeyS" not in one.layouts["split-42"].layers[1].unset
    assert set_unbound(one, "split-42", "draw", "dead", ["KeyQ"]).layouts["split-42"].layers[1].unset.get("KeyQ") is None
    every = set_unbound(SMALL, "split-42", "draw", "falls").layouts["split-42"].layers[1]
    assert (every.unbound, dict(every.unset)) == ("falls", {})


@pytest.mark.parametrize(("starter", "spot", "sends"), [
    ("digits", "KeyJ", "4"), ("movement", "KeyI", "Up"), ("function keys", "KeyQ", "F13"), ("windows", "KeyO", "Alt+Tab"),
])  # fmt: skip
def test_a_new_layer_from_a_starter(starter: str, spot: str, sends: str) -> None:
    made, id = add_layer(SMALL, "split-42", "Draw", starter)
    assert id == "draw-2" and str(made.by_trigger[spot_of("split-42", id, spot)].sends) == sends
    gone = remove_layer(made, "split-42", id)
    assert gone.layouts == SMALL.layouts


def test_layers_are_called_otherwise_moved_brought_in_and_removed() -> None:
    named = rename_layer(SMALL, "split-42", "draw", "Charting")
    assert named.layouts["split-42"].layers[1].name == "Charting" and named.by_trigger == SMALL.by_trigger
    two, id = add_layer(named, "split-42", "More")
    assert [layer.id for layer in move_layer(two, "split-42", id, -1).layouts["split-42"].layers] == ["base", "more", "draw"]
    assert bring_to_front(two, "split-42", id, "shoalwright").layouts["split-42"].layers[2].front == "shoalwright"
    gone = remove_layer(SMALL, "split-42", "draw")
    assert "sounding-s" not in gone.bindings and "shoalwright/depth-range" in {c.ref for c in gone.bench()}
    assert not any(b.enters for b in gone.all_bindings())


@given(st.lists(st.sampled_from(["KeyS", "KeyD", "KeyQ", "KeyW", "KeyF"]), min_size=2, max_size=8))
def test_swaps_lose_nothing_and_double_nothing(keys: list[str]) -> None:
    folio = SMALL
    for one, other in pairwise(keys):
        if one != other and (of_key(folio, *at(one)) or of_key(folio, *at(other))):
            folio = swap_keys(folio, at(one), at(other))
    assert folio.bindings.keys() == SMALL.bindings.keys()
    spots = [b.trigger for b in folio.all_bindings() if isinstance(b.trigger, Spot)]
    assert len(set(spots)) == len(spots)


# Walking


@pytest.mark.parametrize(
    ("key", "way", "to"),
    [("KeyS", "left", "KeyA"), ("KeyS", "up", "KeyW"), ("KeyS", "down", "KeyX"), ("KeyT", "right", "KeyY"), ("Tab", "left", "Tab"),
     ("KeyV", "down", "thumb-left-3"), ("thumb-left-1", "right", "thumb-right-1"), ("thumb-right-1", "up", "KeyN")],
)  # fmt: skip
def test_walking_by_direction(key: str, way: str, to: str) -> None:
    assert step_from(BOARD, key, way) == to  # type: ignore[arg-type]


def test_reading_order_has_every_key_once() -> None:
    order = reading_order(BOARD)
    assert sorted(order) == sorted(key.id for key in BOARD.keys) and order[:3] == ["Tab", "KeyQ", "KeyW"]
    assert after(BOARD, "Backspace") == "Escape" and after(BOARD, order[-1]) == order[0]


# Free places, cures, carrying over


def test_free_chords_are_free_and_the_easiest_come_first() -> None:
    found = free_chords(SMALL, "shoalwright/quay-list", most=400)
    texts = [str(one.trigger) for one in found]
    assert "Ctrl+Shift+S" not in texts and "Super+D" not in texts and "Ctrl+K" not in texts and "Ctrl+C" not in texts
    assert [one.score for one in found] == sorted(one.score for one in found)
    assert "first letter of its name" in next(one for one in found if str(one.trigger) == "Alt+Q").why
    assert all(one.why[0].startswith("free") for one in found)
    assert "free everywhere" in {one.why[0] for one in found}


def test_free_chords_near_a_taken_one_share_its_key_or_its_modifiers() -> None:
    every = {str(one.trigger) for one in free_chords(SMALL, "shoalwright/quay-list", most=400)}
    near = [str(one.trigger) for one in free_near(SMALL, "shoalwright/quay-list", parse_sent("Ctrl+Shift+S"))]
    assert len(near) == 3 and set(near) <= every
    assert all(text.rpartition("+")[0] == "Ctrl+Shift" or text.endswith("+S") for text in near)


def test_nothing_is_said_of_a_desktop_that_was_not_read() -> None:
    unread = folio_of({"programs/everywhere.toml": 'format = "glimber-program/1"\nname = "Everywhere"\n'})
    words = {one.why[0] for one in free_chords(unread, "shoalwright/quay-list", most=400)}
    assert "free everywhere" not in words and "free in every program; the desktop's keys are not read yet" in words


def test_free_spots_are_unbound_and_say_why() -> None:
    folio = edit_command(SMALL, "shoalwright/quay-list", group="survey")
    found = {str(one.trigger): one for one in free_spots(folio, "shoalwright/quay-list", most=99)}
    assert "split-42:draw:KeyS:tap" not in found and not any(text.startswith("split-42:base:Key") for text in found)
    assert "first letter of its name" in found["split-42:draw:KeyQ:tap"].why
    assert "beside Depth range" in found["split-42:draw:KeyF:tap"].why


def cured(folio: Folio, code: str) -> tuple[Folio, Folio]:
    finding = next(one for one in audit(folio, "bridge") if one.code == code)
    after_cure = cure(folio, finding, "bridge")
    assert finding not in audit(after_cure, "bridge")
    return folio, after_cure


def program(more: str) -> Folio:
    return folio_of({"programs/shoalwright.toml": PROGRAM + more})


@pytest.mark.parametrize(("folio", "code"), [
    (lambda: program('\n[commands.a]\nname = "A"\nshortcut = "Ctrl+Shift+S"\n'), "same-trigger"),
    (lambda: program('\n[commands.a]\nname = "A"\nshortcut = "F4"\n[[commands.a.bindings]]\ntrigger = "F4"\n'), "same-trigger"),
    (lambda: program('\n[commands.a]\nname = "A"\nshortcut = "Super+D"\n'), "desktop-takes"),
    (lambda: program('\n[commands.a]\nname = "A"\nshortcut = "Ctrl+ü"\n'), "no-such-key"),
    (lambda: program('\n[commands.a]\nname = "A"\nshortcut = "Ctrl+K"\n'), "stem-complete"),
    (
        lambda: program('\n[commands.a]\nname = "A"\n[[commands.a.bindings]]\ntrigger = "F9"\ncomputers = ["quay"]\n'),
        "not-on-this-computer",
    ),
    (lambda: set_unbound(SMALL, "split-42", "draw", "dead"), "dead-here"),
    (lambda: type_on(SMALL, F, "Ctrl+Alt+Q"), "sends-nothing-known"),
    (lambda: set_spot(SMALL, spot_of("split-42", "base", "KeyG"), Does(enters="draw", mode="stay")), "no-way-out"),
    (lambda: move_key(SMALL, at("KeyD"), at("Enter")), "awkward-busy"),
])  # fmt: skip
def test_cures_cure(folio: Callable[[], Folio], code: str) -> None:
    before, after_cure = cured(folio(), code)
    assert after_cure.commands.keys() == before.commands.keys()


def test_standard_chords_are_known() -> None:
    from glimber.core.notation.keys import Chord

    assert is_standard(Chord(("Ctrl",), "C")) and is_standard(Chord(("Ctrl", "Shift"), "Left")) and is_standard(Chord(("Alt",), "Tab"))
    assert not is_standard(Chord(("Ctrl",), "K")) and not is_standard(Chord(("Ctrl",), "KeyC", by_place=True))


@pytest.mark.parametrize("board", ["split-36", "full-105", "grid-48", "pad-21"])
def test_a_layout_is_carried_over(board: str) -> None:
    folio = with_board(SMALL, shipped_board(board))
    plan = plan_carrying(folio, "split-42", board)
    moved = carry_over(folio, plan)
    typed = {f"{board}-{name.lower()}" for name, _ in plan.placed}
    assert {b.id for b in moved.all_bindings()} == (set(folio.bindings) - set(plan.left)) | typed
    assert "split-42" not in moved.layouts and all(
        moved.boards[board].has(key) for b in moved.layouts[board].layers for one in b.bindings for key in one.spot.keys
    )
    assert len({one.to for one in plan.keys if one.to}) == sum(one.to is not None for one in plan.keys)
    kept = carry_over(folio, plan, keep=True)
    assert set(folio.bindings) < set(kept.bindings) and len(kept.layouts) == 2


def test_a_hand_that_is_away_and_what_it_held() -> None:
    assert {b.id for b in held_by_hand(SMALL, "split-42", "left")} == {"sounding-s", "range-held", "range-d"}
    assert held_by_hand(SMALL, "split-42", "right") == []


def test_what_a_hand_held_is_given_to_the_other() -> None:
    given = give_to_other_hand(SMALL, "split-42", "left")
    assert given.left == () and {id for id, _, _ in given.moves} == {"sounding-s", "range-held", "range-d"}
    assert held_by_hand(given.folio, "split-42", "left") == []
    keys = {to.key for _, _, to in given.moves}
    assert len(keys) == 2 and all(given.folio.boards["split-42"].by_id[key].hand == "right" for key in keys)
    pinned = give_to_other_hand(edit_binding(SMALL, "range-d", pinned=True), "split-42", "left")
    assert "range-d" not in {id for id, _, _ in pinned.moves}


def test_keys_are_matched_by_print_where_their_ids_differ() -> None:
    named = {"KeyS": "finger-2", "KeyD": "finger-3"}
    drawn = Board("drawn", "Drawn", tuple(
        replace(key, id=named[key.id], print=key.id[-1], mirror=None) for key in BOARD.keys if key.id in named
    ))  # fmt: skip
    plan = plan_carrying(with_board(SMALL, drawn), "split-42", "drawn")
    assert [(one.key, one.to, one.why) for one in plan.of("near")] == [
        ("KeyS", "finger-2", "the same print"), ("KeyD", "finger-3", "the same print"),
    ]  # fmt: skip
