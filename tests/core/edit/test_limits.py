"""Limits and choices of edits that no other test draws close: settings, new cards, orders of groups, trees of sequences."""

from __future__ import annotations

import pytest

from glimber.core.edit.cards import add_card, dress_group, forget_card, order_group
from glimber.core.edit.edit import EditError
from glimber.core.edit.sequences import close_with, laid_out, sequence_tree
from glimber.core.edit.settings import FOLIO_SETTINGS, NUMBERS, number_of, set_setting
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Sequence, parse_trigger
from tests.helpers import folio_of, text_of

LIMITS = {
    "hold_ms": (20, 2_000), "again_ms": (20, 2_000), "together_ms": (5, 500), "sequence_ms": (100, 20_000),
    "target_ms": (100, 60_000), "working_days": (0.5, 7), "horizon_weeks": (1, 520), "recovery_s": (0.1, 120),
    "careful_recovery_s": (0.1, 600), "sure": (0.5, 0.99), "least_gain_s": (0, 3_600),
}  # fmt: skip
PROGRAM = text_of("groups-and-stems.toml")


@pytest.fixture
def folio() -> Folio:
    return folio_of({"programs/wherry.toml": PROGRAM})


def test_every_number_among_the_settings_is_in_the_table() -> None:
    assert set(NUMBERS) == set(LIMITS) == {setting.id for setting in FOLIO_SETTINGS if setting.number is not None}


@pytest.mark.parametrize("name", LIMITS)
def test_a_number_is_taken_at_its_limits_and_not_beyond(name: str) -> None:
    least, most = LIMITS[name]
    whole = NUMBERS[name].whole
    step = 1 if whole else 0.001
    assert (number_of(name, f" {least} "), number_of(name, str(most))) == (least, most)
    assert number_of(name, str(least + step).replace(".", ",")) == pytest.approx(least + step)
    for beyond in (least - step, most + step):
        with pytest.raises(EditError, match=f"expected {'a whole number, ' if whole else ''}from {least:g} to {most:g}"):
            number_of(name, str(beyond))
    if whole:
        with pytest.raises(EditError, match="a whole number"):
            number_of(name, str(least + 0.5))


def test_a_setting_is_one_of_its_choices_or_a_text_that_is_not_empty(folio: Folio) -> None:
    assert set_setting(folio, "away", "left").settings.away == "left"
    with pytest.raises(EditError, match="expected one of none, left, right"):
        set_setting(folio, "away", "both")
    assert set_setting(folio, "title", "  Tide   office ").settings.title == "Tide office"
    with pytest.raises(EditError):
        set_setting(folio, "title", "  ")


@pytest.mark.parametrize(("about", "kind", "paper"), [
    ({"program": "wherry"}, "sheet", "A5"), ({"find": "light"}, "sheet", "A5"), ({"board": "full-105"}, "board", "A5"),
])  # fmt: skip
def test_a_new_card_has_the_kind_that_suits_what_it_is_about(folio: Folio, about: dict[str, object], kind: str, paper: str) -> None:
    now, id = add_card(folio, "Lights & tides", about)
    assert (id, now.cards[id].kind, now.cards[id].paper) == ("lights-tides", kind, paper)
    again, other = add_card(now, "Lights & tides", about)
    assert other != id and len(again.cards) == 2 and set(forget_card(again, id).cards) == {other}


@pytest.mark.parametrize(("group", "before", "order"), [
    ("wrecks", "tides", ["wrecks", "tides", "lights"]), ("tides", None, ["lights", "wrecks", "tides"]),
    ("tides", "wrecks", ["lights", "tides", "wrecks"]), ("lights", "lights", ["tides", "lights", "wrecks"]),
])  # fmt: skip
def test_groups_are_put_in_another_order(folio: Folio, group: str, before: str | None, order: list[str]) -> None:
    assert list(order_group(folio, "wherry", group, before).programs["wherry"].groups) == order


def test_a_group_that_is_none_has_no_order_and_no_ink(folio: Folio) -> None:
    for group, before in (("shoals", "tides"), ("tides", "shoals")):
        with pytest.raises(EditError, match="shoals is not a group of Wherry"):
            order_group(folio, "wherry", group, before)
    dressed = dress_group(folio, "wherry", "tides", mark="bar").programs["wherry"].groups["tides"]
    assert (dressed.ink, dressed.mark) == ("tide", "bar")
    with pytest.raises(EditError, match="is not the name of an ink"):
        dress_group(folio, "wherry", "tides", ink="bar")


def test_a_tree_of_sequences_in_rows_and_columns(folio: Folio) -> None:
    """A chord that is a command itself is on the tree where others follow it; one that stands alone is not."""
    tree = sequence_tree(folio, "wherry")
    assert [(str(branch.trigger), branch.name, branch.stays_open) for branch in tree] == [("Ctrl+K", "Move", True)]
    assert [one.id for one in tree[0].bindings] == ["fold"]
    half, sort = tree[0].branches
    assert (half.name, half.stays_open, half.bindings) == ("Half", False, ()) and [one.id for one in sort.bindings] == ["sort"]
    cells = [(cell.row, cell.column, cell.first, cell.more) for cell in laid_out(tree) if cell.branch is not None]
    assert cells == [(0, 0, True, False), (0, 1, True, True), (0, 2, True, True), (1, 2, False, False), (2, 1, False, False)]


def test_only_the_group_that_stays_open_is_closed(folio: Folio) -> None:
    trigger = parse_trigger("Ctrl+K")
    assert isinstance(trigger, Sequence)
    first, second = close_with(folio, "wherry", trigger, "Enter=finish, Escape  give up").programs["wherry"].stems
    assert dict(first.closes) == {"Enter": "finish", "Escape": "give up"} and second.closes == ()
    inner = parse_trigger("Ctrl+K h")
    assert isinstance(inner, Sequence)
    with pytest.raises(EditError, match="does not stay open"):
        close_with(folio, "wherry", inner, "Enter finish")
