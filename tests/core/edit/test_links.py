"""Sources linked, watched and let go; the own keys of Glimber as a program of the folio."""

from __future__ import annotations

import pytest

from glimber.core.audit.checks import audit
from glimber.core.edit.edit import EditError, add_trigger, move_binding, retire_binding
from glimber.core.edit.links import link, unlink, watch
from glimber.core.edit.ownkeys import OWN, OwnAction, own_keys, with_own_keys
from glimber.core.notation.keys import parse_trigger
from tests.helpers import folio_of

SMALL = folio_of()


def test_links_have_ids_of_their_own_and_only_files_are_watched() -> None:
    one, first = link(SMALL, "Pad notes", path="a.csv", program="shoalwright")
    two, second = link(one, "Pad notes", path="b.csv")
    three, system = link(two, "gsettings", system="gsettings")
    assert (first, second, system) == ("pad-notes", "pad-notes-2", "gsettings")
    assert three.settings.sources["pad-notes"].watch and not three.settings.sources["gsettings"].watch
    assert not watch(three, first).settings.sources[first].watch
    assert unlink(one, first) == SMALL


def test_what_is_refused_says_why() -> None:
    one, id = link(SMALL, "notes", path="a.csv")
    with pytest.raises(EditError, match="linked already, as notes"):
        link(one, "other", path="a.csv")
    with pytest.raises(EditError, match="a file, a system or a running program"):
        link(one, "other")
    system, _ = link(one, "desktop", system="gsettings")
    with pytest.raises(EditError, match="cannot be watched"):
        watch(system, "desktop")
    with pytest.raises(EditError, match="not a source"):
        unlink(one, "gone")
    assert id == "notes"


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
