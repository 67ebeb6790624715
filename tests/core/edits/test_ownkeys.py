"""Glimber's own keys as a program of the folio."""

from __future__ import annotations

from glimber.core.audit.cache import audit
from glimber.core.edits.edit import add_trigger, move_binding, retire_binding
from glimber.core.edits.ownkeys import OWN, OwnAction, own_keys, with_own_keys
from glimber.core.notation.keys import parse_trigger
from tests.helpers import folio_of

SMALL = folio_of()
ACTIONS = [
    OwnAction("undo", "Undo", "anywhere", ("Ctrl+Z",)),
    OwnAction("gather-find", "Find a command", "gather", ("f",)),
    OwnAction("arrange-find", "Find and place", "arrange", ("f", "Ctrl+F")),
    OwnAction("gather-own", "Take in", "gather", ()),
]


def test_actions_become_commands_with_their_keys_and_rooms() -> None:
    folio = with_own_keys(SMALL, ACTIONS)
    program = folio.programs[OWN]
    assert [command.context for command in program.commands.values()] == [None, "Gather", "Arrange", "Gather"]
    assert own_keys(folio) == {"undo": ("Ctrl+Z",), "gather-find": ("f",), "arrange-find": ("f", "Ctrl+F"), "gather-own": ()}
    assert not [one for one in audit(folio) if one.code == "same-trigger"]  # the same key in two rooms
    assert program.defaults["arrange-find"] == ("f", "Ctrl+F")
    assert own_keys(SMALL) == {}


def test_what_the_person_changed_stays_when_more_actions_come() -> None:
    folio = move_binding(with_own_keys(SMALL, ACTIONS[:2]), "gather-find", parse_trigger("Ctrl+[KeyG]")).folio
    folio = retire_binding(folio, "undo")
    more = with_own_keys(folio, ACTIONS)
    assert own_keys(more)["gather-find"] == ("Ctrl+G",) and own_keys(more)["undo"] == ()
    assert "arrange-find" in own_keys(more)
    two = add_trigger(more, f"{OWN}/undo", parse_trigger("Ctrl+K u"))
    assert own_keys(two)["undo"] == ("Ctrl+K u",)
