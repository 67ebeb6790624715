"""The cells of the list of commands."""

from __future__ import annotations

import pytest

from glimber.core.edit.command_cells import CELL, CELLS
from glimber.core.edit.edit import EditError
from tests.helpers import folio_of

REF = "shoalwright/lead-line"


@pytest.mark.parametrize(
    ("cell", "written", "shown"),
    [("name", " Sounding  lead ", "Sounding lead"), ("label", " Lead ", "Lead"), ("label", " ", ""), ("uses", "2,5", "2.5"),
     ("uses", "0", "0"), ("uses", "", ""), ("reason", "L as in lead", "L as in lead"), ("reason", "", ""),
     ("group", "Depths", "Depths"), ("group", "", "")],
)  # fmt: skip
def test_what_is_written_is_shown(cell: str, written: str, shown: str) -> None:
    folio = CELL[cell].write(folio_of(), [REF], written)
    assert CELL[cell].text(folio, folio.commands[REF]) == shown


@pytest.mark.parametrize(
    ("cell", "ref", "written", "told"),
    [("name", REF, " ", "needs its name"), ("uses", REF, "often", "'often' is not a number of uses"), ("uses", REF, "-1", "0 or more"),
     ("uses", REF, "nan", "0 or more"), ("reason", "shoalwright/quay-list", "Q", "Quay list has no key yet")],
)  # fmt: skip
def test_what_cannot_be_is_refused(cell: str, ref: str, written: str, told: str) -> None:
    with pytest.raises(EditError, match=told):
        CELL[cell].write(folio_of(), [ref], written)


def test_several_commands_at_once() -> None:
    folio = folio_of()
    refs = [ref for ref in folio.commands if ref.startswith("shoalwright/")][:3]
    for cell, text in (("uses", "7"), ("group", "Bridge")):
        folio = CELL[cell].write(folio, refs, text)
        assert [CELL[cell].text(folio, folio.commands[ref]) for ref in refs] == [text] * 3
    assert [cell.id for cell in CELLS if not cell.several] == ["name", "label"]
