"""A family of chords changed at once: what moves, what stays because something is in the way, and that ids stay."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from glimber.core.edit.edit import EditError, with_program
from glimber.core.edit.family import (
    held_with,
    in_row,
    modifiers_of,
    move_family,
    of_group,
    plan_family,
    put_behind,
    stem_of,
    with_modifiers,
)
from glimber.core.model.folio import Binding, Command, Folio, Stem
from glimber.core.model.meaning import following
from glimber.core.notation.keys import Sequence as Keys
from glimber.core.notation.keys import parse_trigger, strikes_of
from tests.helpers import folio_of

CHORDS = {"a": "Ctrl+Alt+A", "b": "Ctrl+Alt+B", "c": "Ctrl+Alt+C", "d": "Ctrl+K Ctrl+Alt+D", "x": "Alt+Shift+B", "y": "Alt+Shift+C q"}


def office(pinned: str = "") -> Folio:
    folio = folio_of()
    program = folio.programs["shoalwright"]
    commands = {id: Command(id, "shoalwright", f"Command {id}", group="survey" if id == "a" else None) for id in CHORDS}
    bindings = tuple(Binding(id, parse_trigger(keys), f"shoalwright/{id}", pinned=id == pinned) for id, keys in CHORDS.items())
    changed = replace(program, commands={**program.commands, **commands}, bindings=(*program.bindings, *bindings))
    return with_program(folio, changed)


def planned(folio: Folio, to: str, group: str | None = None) -> dict[str, tuple[str, str]]:
    family = held_with(folio, "shoalwright", ("Ctrl", "Alt"), group)
    return {one.binding: (str(one.to), one.in_the_way) for one in plan_family(folio, "shoalwright", family, with_modifiers(modifiers_of(to)))}


def test_what_is_in_the_way_is_named_and_stays() -> None:
    folio = office()
    found = planned(folio, "Shift+Alt")
    assert found["a"] == ("Alt+Shift+A", "") and found["d"] == ("Ctrl+K Alt+Shift+D", "")
    assert found["b"] == ("Alt+Shift+B", "Alt+Shift+B already does Command x in Shoalwright")
    assert found["c"] == ("Alt+Shift+C", "It is the beginning of what does Command y in Shoalwright")
    family = held_with(folio, "shoalwright", ("Ctrl", "Alt"))
    after = move_family(folio, "shoalwright", plan_family(folio, "shoalwright", family, with_modifiers(("Alt", "Shift"))))
    assert {id: str(after.bindings[id].trigger) for id in CHORDS} == {**CHORDS, "a": "Alt+Shift+A", "d": "Ctrl+K Alt+Shift+D"}
    assert after.bindings["a"].given_id and after.bindings["a"].command == "shoalwright/a"


def test_a_family_is_of_one_group_where_that_is_wanted() -> None:
    assert list(planned(office(), "Alt+Shift", "survey")) == ["a"]


def test_what_is_pinned_stays_and_is_in_the_way() -> None:
    found = planned(office("a"), "Alt+Shift")
    assert found["a"][1] == "it is pinned"
    stays = plan_family(office("a"), "shoalwright", [office("a").bindings["a"]], with_modifiers(("Alt", "Shift")))
    with pytest.raises(EditError, match="something is in the way of each"):
        move_family(office("a"), "shoalwright", stays)


@pytest.mark.parametrize(("text", "modifiers"), [
    ("ctrl + alt", ("Ctrl", "Alt")), ("Shift+Ctrl", ("Ctrl", "Shift")), ("none", ()), ("", ()),
])  # fmt: skip
def test_modifiers_are_read_in_their_order(text: str, modifiers: tuple[str, ...]) -> None:
    assert modifiers_of(text) == modifiers


def test_a_word_that_is_no_modifier_is_refused() -> None:
    with pytest.raises(EditError, match="Ctlr is not a modifier; did you mean Ctrl"):
        modifiers_of("Ctlr+Alt")


def moved(folio: Folio, change: object, *ids: str) -> dict[str, tuple[str, str]]:
    bindings = [folio.bindings[id] for id in ids or CHORDS]
    return {one.binding: (str(one.to), one.in_the_way) for one in plan_family(folio, "shoalwright", bindings, change)}  # type: ignore[arg-type]


def with_keys(**keys: str) -> Folio:
    """The office with these triggers instead."""
    folio = office()
    program = folio.programs["shoalwright"]
    return with_program(folio, replace(program, bindings=tuple(
        replace(one, trigger=parse_trigger(keys[one.id])) if one.id in keys else one for one in program.bindings)))  # fmt: skip


@pytest.mark.parametrize(("keys", "up", "to"), [
    ("Ctrl+Q", 1, "Ctrl+1"), ("Ctrl+Q", -1, "Ctrl+A"), ("Ctrl+A", -1, "Ctrl+Z"), ("Ctrl+Z", 1, "Ctrl+A"), ("Ctrl+A", 1, "Ctrl+Q"),
    ("Ctrl+1", -1, "Ctrl+Q"), ("Ctrl+P", 1, "Ctrl+0"), ("Ctrl+0", -1, "Ctrl+P"), ("Ctrl+M", 2, "Ctrl+U"), ("Ctrl+Shift+[KeyK]", -1, "Ctrl+Shift+,"),
    ("Ctrl+K Ctrl+S", 1, "Ctrl+K Ctrl+W"),
])  # fmt: skip
def test_the_key_of_the_same_column_in_another_row(keys: str, up: int, to: str) -> None:
    change = in_row(up)
    found = change(folio_of(), parse_trigger(keys))  # type: ignore[arg-type]
    assert found is not None and strikes(found) == strikes(parse_trigger(to))


def strikes(keys: object) -> object:
    folio = folio_of()
    return strikes_of(keys, folio.legend, folio.bundles)  # type: ignore[arg-type]


@pytest.mark.parametrize(("keys", "up"), [("Ctrl+1", 1), ("Ctrl+Z", -2), ("F5", -1), ("Ctrl+Left", -1), ("Ctrl+Ж", 1)])
def test_where_there_is_no_such_row_nothing_moves(keys: str, up: int) -> None:
    found = moved(with_keys(a=keys), in_row(up), "a")
    assert found["a"][1] == "there is no such key"


def test_a_column_moves_as_one_and_stays_as_one() -> None:
    folio = with_keys(a="Ctrl+Alt+Q", b="Ctrl+Alt+A", c="Ctrl+Alt+Z")
    assert {to for to, way in moved(folio, in_row(1), "a", "b", "c").values() if not way} == {"Ctrl+Alt+1", "Ctrl+Alt+Q", "Ctrl+Alt+A"}
    found = moved(folio, in_row(-1), "a", "b", "c")  # the lowest has no place, so none above it has
    assert [found[id][1] for id in "abc"] == ["Ctrl+Alt+A already does Command b in Shoalwright",
                                              "Ctrl+Alt+Z already does Command c in Shoalwright", "there is no such key"]  # fmt: skip


def test_chords_go_behind_other_keys_and_sequences_go_from_stem_to_stem() -> None:
    folio = office()
    found = moved(folio, put_behind(stem_of("Ctrl+M")), "a", "b", "d")
    assert {id: to for id, (to, way) in found.items() if not way} == {"a": "Ctrl+M a", "b": "Ctrl+M b", "d": "Ctrl+M Ctrl+Alt+D"}
    assert moved(folio, put_behind(None), "d") == {"d": ("Ctrl+Alt+D", "")}
    assert moved(folio, put_behind(stem_of("Ctrl+Alt+A")), "b")["b"][1].startswith("Its first steps already do Command a")


def test_of_two_that_would_meet_one_moves() -> None:
    folio = with_keys(b="Ctrl+Shift+A")
    found = moved(folio, put_behind(stem_of("Ctrl+M")), "a", "b")
    assert found == {"a": ("Ctrl+M a", ""), "b": ("Ctrl+M a", "Command a goes there as well")}


def test_a_named_group_of_sequences_goes_along_where_all_of_it_goes() -> None:
    folio = with_keys(a="Ctrl+K a", b="Ctrl+K b")
    program = replace(folio.programs["shoalwright"], stems=(Stem(Keys(parse_trigger("Ctrl+K").chords), "Soundings"),))  # type: ignore[union-attr]
    folio = with_program(folio, program)
    stem = program.stems[0]
    family = following(folio, "shoalwright", stem.trigger)
    after = move_family(folio, "shoalwright", plan_family(folio, "shoalwright", family, put_behind(stem_of("Ctrl+M"))))
    assert [(str(one.trigger), one.name) for one in after.programs["shoalwright"].stems] == [("Ctrl+M", "Soundings")]
    part = move_family(folio, "shoalwright", plan_family(folio, "shoalwright", family[:1], put_behind(stem_of("Ctrl+M"))))
    assert len(family) > 2 and part.programs["shoalwright"].stems == (stem,)
    alone = move_family(folio, "shoalwright", plan_family(folio, "shoalwright", family, put_behind(None)))
    assert alone.programs["shoalwright"].stems == (stem,)  # it is the beginning of nothing any more, and keeps its name


@pytest.mark.parametrize("text", ["", " none ", "None"])
def test_no_keys_are_none(text: str) -> None:
    assert stem_of(text) is None


@pytest.mark.parametrize(("text", "error"), [("Ctrl+", "expected"), ('"typed"', "is no key"), ("Crtl+M", "Crtl")])
def test_keys_that_are_none_say_why(text: str, error: str) -> None:
    with pytest.raises(EditError, match=error):
        stem_of(text)


def test_a_group_is_a_family() -> None:
    assert [one.id for one in of_group(office(), "shoalwright", "survey") if one.id in CHORDS] == ["a"]
