"""A family of chords changed at once: what moves, what stays because something is in the way, and that ids stay."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from glimber.core.edit.edit import EditError, with_program
from glimber.core.edit.family import held_with, modifiers_of, move_family, plan_family
from glimber.core.model.folio import Binding, Command, Folio
from glimber.core.notation.keys import parse_trigger
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
    return {one.binding: (str(one.to), one.in_the_way) for one in plan_family(folio, "shoalwright", family, modifiers_of(to))}


def test_what_is_in_the_way_is_named_and_stays() -> None:
    folio = office()
    found = planned(folio, "Shift+Alt")
    assert found["a"] == ("Alt+Shift+A", "") and found["d"] == ("Ctrl+K Alt+Shift+D", "")
    assert found["b"] == ("Alt+Shift+B", "Alt+Shift+B already does Command x in Shoalwright")
    assert found["c"] == ("Alt+Shift+C", "It is the beginning of what does Command y in Shoalwright")
    family = held_with(folio, "shoalwright", ("Ctrl", "Alt"))
    after = move_family(folio, "shoalwright", plan_family(folio, "shoalwright", family, ("Alt", "Shift")))
    assert {id: str(after.bindings[id].trigger) for id in CHORDS} == {**CHORDS, "a": "Alt+Shift+A", "d": "Ctrl+K Alt+Shift+D"}
    assert after.bindings["a"].given_id and after.bindings["a"].command == "shoalwright/a"


def test_a_family_is_of_one_group_where_that_is_wanted() -> None:
    assert list(planned(office(), "Alt+Shift", "survey")) == ["a"]


def test_what_is_pinned_stays_and_is_in_the_way() -> None:
    found = planned(office("a"), "Alt+Shift")
    assert found["a"][1] == "it is pinned"
    stays = plan_family(office("a"), "shoalwright", [office("a").bindings["a"]], ("Alt", "Shift"))
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
