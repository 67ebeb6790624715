"""Sources linked, watched and let go."""

from __future__ import annotations

import pytest

from glimber.core.edits.edit import EditError
from glimber.core.edits.links import link, unlink, watch
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
    with pytest.raises(EditError, match="either a file or a system"):
        link(one, "other")
    system, _ = link(one, "desktop", system="gsettings")
    with pytest.raises(EditError, match="is no file"):
        watch(system, "desktop")
    with pytest.raises(EditError, match="not a source"):
        unlink(one, "gone")
    assert id == "notes"
