"""The change sheet line by line, as Markdown and as a table; and what of the history waits to be set at all."""

from __future__ import annotations

import csv
from datetime import timedelta
from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.practice.tries import Change
from glimber.core.session.change_sheet import sheet_of, to_csv, to_markdown
from glimber.core.session.pending import as_set, open_changes, with_partners
from tests.helpers import NOON, PROGRAM, folio_of

MOVED = Change("m", NOON, "bridge", "add-sounding", "move", "shoalwright/add-sounding", "Ctrl+Shift+S", "Ctrl+Alt+S", "nearer")
ON_BOARD = Change("b", NOON + timedelta(hours=1), "bridge", "sounding-s", "move", "shoalwright/add-sounding", "split-42:draw:KeyS:tap",
                  "split-42:draw:KeyW:tap", "", old_trigger="works")  # fmt: skip
RETIRED = Change("r", NOON + timedelta(hours=2), "bridge", "lead-line", "retire", "shoalwright/lead-line", "Ctrl+K Ctrl+L", None, "*never*")
LATER = NOON + timedelta(days=2)


def folio() -> Any:
    return folio_of({"programs/shoalwright.toml": PROGRAM.replace('shortcut = "Ctrl+Shift+S"', 'bindings = [{ id = "add-sounding", trigger = "Ctrl+Alt+S", set_at = "Options, Keys" }]')})


@pytest.mark.parametrize(("changes", "waiting"), [
    ([MOVED], ["add-sounding"]), ([replace(MOVED, reverted=LATER)], []), ([replace(MOVED, applied=LATER)], []),
    ([replace(MOVED, from_trigger=None)], []), ([replace(MOVED, to_trigger=None)], []), ([RETIRED], ["lead-line"]),
    ([replace(RETIRED, verdict="keep")], []), ([replace(MOVED, to_trigger=MOVED.from_trigger)], []),
    ([MOVED, replace(MOVED, id="back", at=LATER, from_trigger="Ctrl+Alt+S", to_trigger="Ctrl+Shift+S")], []),
    ([replace(MOVED, applied=LATER), replace(MOVED, id="n", at=LATER)], ["add-sounding"]),
    ([replace(MOVED, id="n", at=LATER, applied=LATER), MOVED], []),  # what was set later has passed it over
    ([RETIRED, ON_BOARD, MOVED], ["add-sounding", "sounding-s", "lead-line"]),
])  # fmt: skip
def test_what_waits_to_be_set(changes: list[Change], waiting: list[str]) -> None:
    assert [one.binding for one in open_changes(changes)] == waiting


def test_several_changes_of_a_binding_are_one_from_where_it_is_set() -> None:
    again = replace(MOVED, id="n", at=LATER, from_trigger="Ctrl+Alt+S", to_trigger="F7")
    (one,) = open_changes([again, MOVED])
    assert (one.id, one.from_trigger, one.to_trigger) == ("n", "Ctrl+Shift+S", "F7")


def test_each_line_says_where_and_how() -> None:
    lines = sheet_of(folio(), [RETIRED, ON_BOARD, MOVED])
    assert [(one.where, one.set_at, one.command, one.old, one.new, one.then) for one in lines] == [
        ("Shoalwright", "Options, Keys", "Add sounding", "Ctrl+Shift+S", "Ctrl+Alt+S", "let it do nothing"),
        ("Shoalwright", "", "Lead line", "Ctrl+K Ctrl+L", "nothing: it waits on the bench", "let it do nothing"),
        ("Split board, 42 keys", "", "Add sounding", "S on Draw", "W on Draw", "leave it working"),
    ]  # fmt: skip
    (swapped,) = sheet_of(folio(), [replace(MOVED, swap_with="lead-line")])
    assert swapped.then == "it does Lead line now"
    (unknown,) = sheet_of(folio(), [replace(MOVED, command="gone/x", binding="gone", to_trigger="no such place!")])
    assert (unknown.where, unknown.command, unknown.new, unknown.set_at) == ("elsewhere", "gone", "no such place!", "")


@pytest.mark.parametrize(("change", "shown"), [
    (replace(MOVED, applied=LATER), True), (replace(MOVED, applied=LATER, reverted=LATER), False),
    (replace(MOVED, applied=LATER, from_trigger=None), False), (replace(MOVED, applied=LATER, to_trigger=None), False),
    (replace(RETIRED, applied=LATER), True),
])  # fmt: skip
def test_what_is_set_is_shown_where_it_is_asked_for(change: Change, shown: bool) -> None:
    assert sheet_of(folio(), [change]) == []
    assert [one.done for one in sheet_of(folio(), [change], with_done=True)] == [True] * shown


def test_the_sheet_as_markdown() -> None:
    lines = sheet_of(folio(), [MOVED, replace(RETIRED, applied=LATER), ON_BOARD], with_done=True)
    assert to_markdown("Small", lines).splitlines() == [
        "# Changes to set: Small", "", "## Shoalwright", "",
        "- [ ] **Add sounding** (Options, Keys): Ctrl+Shift+S → Ctrl+Alt+S; the old one: let it do nothing — nearer",
        "- [x] **Lead line**: Ctrl+K Ctrl+L → nothing: it waits on the bench; the old one: let it do nothing — \\*never\\*",
        "## Split board, 42 keys", "", "- [ ] **Add sounding**: S on Draw → W on Draw; the old one: leave it working",
    ]  # fmt: skip
    assert to_markdown("Small", []).splitlines() == ["# Changes to set: Small", "", "Nothing waits to be set.", ""]


def test_the_sheet_as_a_table() -> None:
    rows = list(csv.reader(to_csv(sheet_of(folio(), [MOVED, replace(RETIRED, applied=LATER)], with_done=True)).splitlines()))
    assert rows[0] == ["where", "set at", "command", "old", "new", "the old one", "since", "set", "why"]
    assert [row[2] for row in rows[1:]] == ["Add sounding", "Lead line"]
    assert [row[6:] for row in rows[1:]] == [["2026-11-20", "", "nearer"], ["2026-11-20", "2026-11-22", "*never*"]]


def test_the_two_of_a_swap_are_set_in_one_go() -> None:
    one, other = replace(MOVED, swap_with="undo"), replace(MOVED, id="o", binding="undo", swap_with="add-sounding")
    strangers = [replace(other, id="x", at=LATER), replace(other, id="y", swap_with="lead-line"), replace(other, id="z", binding="lead-line")]
    assert with_partners(one, [one, other, *strangers]) == [one, other]
    assert with_partners(MOVED, [MOVED, other]) == [MOVED]


def test_until_it_is_set_the_old_place_is_asked_for() -> None:
    now = folio()
    assert str(as_set(now, [MOVED]).bindings["add-sounding"].trigger) == "Ctrl+Shift+S"
    assert as_set(now, [replace(MOVED, applied=LATER)]) is now
    assert as_set(now, [replace(MOVED, to_trigger="F12")]) is now  # it is not where that change put it
    assert as_set(now, [replace(MOVED, from_trigger="no keys at all!")]) is now
    assert as_set(now, [replace(MOVED, from_trigger="split-42:draw:KeyW:tap")]) is now  # a spot is no chord
