"""Groups of sequences that stay open are one case: kept, practised or retired together, and never parted."""

from __future__ import annotations

import pytest

from glimber.core.cards.sheet_rows import sections_of
from glimber.core.decide.places import movable
from glimber.core.decide.selection import selections
from glimber.core.decide.verdict import verdicts
from glimber.core.edit.commands import edit_command
from glimber.core.edit.edit import EditError
from glimber.core.edit.sequences import close_with, take_place_of
from glimber.core.model.folio import Card, Folio
from glimber.core.model.open_sets import open_sets, slow_way_steps
from glimber.core.notation.keys import Sequence, parse_trigger
from glimber.core.stats.measures import measure
from glimber.core.stats.reach import slow_way_s
from tests.helpers import NOON, folio_of, practice, text_of, tries_of

PROGRAM = text_of("open-sets.toml")
_STEM = parse_trigger("Ctrl+M")
assert isinstance(_STEM, Sequence)
TRIGGER = _STEM
UNUSED = PROGRAM.replace('"Ctrl+M Left"', '"Ctrl+M Left", uses_per_day = 0').replace('"Ctrl+M Right"', '"Ctrl+M Right", uses_per_day = 0')
UNUSED = UNUSED.replace('"Ctrl+M Ctrl+T"', '"Ctrl+M Ctrl+T", uses_per_day = 0')


def folio(stays_open: bool = True, text: str = PROGRAM) -> Folio:
    return folio_of({"programs/wherry.toml": text.replace("OPEN", str(stays_open).lower())})


def judged(left: list[object], right: list[object], turn: list[object], of: Folio) -> dict[str, str]:
    tries = [one for id, outcomes in (("left", left), ("right", right), ("round", turn)) if outcomes
             for one in tries_of(id, str(of.bindings[id].trigger), outcomes)]  # type: ignore[arg-type]  # fmt: skip
    found = verdicts(measure(of, practice(tries), NOON))
    return {id: f"{found[id].choice}: {found[id].words}" for id in ("left", "right", "round", "all")}


def test_the_keys_of_a_set_are_found() -> None:
    found = open_sets(folio())
    assert set(found) == {"left", "right", "round"} and found["left"].name == "Move the chart"
    assert found["left"].bindings == ("left", "right", "round") and found["left"] == found["round"]
    assert open_sets(folio(False)) == {}
    assert not movable(folio(), folio().bindings["left"]) and movable(folio(False), folio(False).bindings["left"])


def test_one_bad_key_does_not_part_them_and_many_are_practised_together() -> None:
    good, bad = ["hit"] * 30, ["blank", "hit"] * 15
    kept = judged(good, good, ["blank"] * 3 + ["hit"] * 27, folio())
    assert [kept[id].split(":")[0] for id in ("left", "right", "round")] == ["keep"] * 3
    assert all("Move the chart stays open, so its 3 keys are one case. Together they take" in kept[id] for id in ("left", "right", "round"))
    assert "one case" not in kept["all"]
    practised = judged(bad, bad, good, folio())
    assert [practised[id].split(":")[0] for id in ("left", "right", "round")] == ["practise"] * 3
    parted = judged(bad, bad, good, folio(False))
    assert parted["round"].startswith("keep") and "one case" not in parted["left"]


def test_a_set_that_is_not_used_is_retired_and_one_that_was_hardly_tried_is_practised() -> None:
    assert judged([], [], [], folio())["left"].startswith("practise")
    assert all(words.startswith("retire") for id, words in judged([], [], [], folio(text=UNUSED)).items() if id != "all")


@pytest.mark.parametrize(("text", "closes"), [
    ("Enter finish, Escape cancel", (("Enter", "finish"), ("Escape", "cancel"))), ("Escape", (("Escape", ""),)),
    ("Ctrl+Enter = done at last ,, F2", (("Ctrl+Enter", "done at last"), ("F2", ""))),
])  # fmt: skip
def test_what_closes_a_set_is_written(text: str, closes: tuple[tuple[str, str], ...]) -> None:
    trigger = parse_trigger("Ctrl+M")
    after = close_with(folio(), "wherry", trigger, text)  # type: ignore[arg-type]
    assert after.programs["wherry"].stems[0].closes == closes


@pytest.mark.parametrize(("stays_open", "text", "error"), [
    (True, " , ", "expected a key"), (True, "Crtl+E finish", "Crtl"), (False, "Enter", "does not stay open"),
])  # fmt: skip
def test_what_closes_nothing_says_why(stays_open: bool, text: str, error: str) -> None:
    with pytest.raises(EditError, match=error):
        close_with(folio(stays_open), "wherry", parse_trigger("Ctrl+M"), text)  # type: ignore[arg-type]


def test_the_dialog_of_a_set_is_the_slow_way_of_all_that_have_none() -> None:
    steps = "menu Sheet, click  Move, field 2, click OK"
    own = edit_command(folio(), "wherry/round", slow_way=("click Turn",))
    after = take_place_of(own, "wherry", TRIGGER, steps)
    wanted = ("menu Sheet", "click Move", "field 2", "click OK")
    told = {id: slow_way_steps(after, after.commands[f"wherry/{id}"]) for id in ("left", "right", "round", "all")}
    assert told == {"left": wanted, "right": wanted, "round": ("click Turn",), "all": ()}
    rows = measure(after, practice([]), NOON).rows
    assert rows["left"].slow_s == rows["right"].slow_s == pytest.approx(slow_way_s(wanted)) and rows["all"].slow_s is None
    again = take_place_of(after, "wherry", TRIGGER, "none")
    assert slow_way_steps(again, again.commands["wherry/left"]) == ()


@pytest.mark.parametrize(("of", "text", "told"), [
    (folio(), "press Move", "'press Move' is not a step"), (folio(False), "menu Sheet", "Ctrl\\+M does not stay open"),
])  # fmt: skip
def test_a_dialog_that_is_none_is_refused(of: Folio, text: str, told: str) -> None:
    with pytest.raises(EditError, match=told):
        take_place_of(of, "wherry", TRIGGER, text)


def test_a_round_can_be_made_of_the_sequences_that_begin_alike() -> None:
    """Named ones by their name; after a chord without a name by the chord; one alone is no choice."""
    text = PROGRAM.replace('[stems."Ctrl+M"]', 'first = { name = "First sheet", shortcut = "g s" }\nlast = { name = "Last sheet", shortcut = "g e" }\n'
                           'depths = { name = "Depths", shortcut = "Ctrl+M d e" }\nlights = { name = "Lights", shortcut = "Ctrl+M d l" }\n'
                           '[stems."Ctrl+M d"]\nname = "Draw"\n[stems."Ctrl+M"]')  # fmt: skip
    found = [one for one in selections(folio(text=text), "bridge", {}, [], NOON) if one.detail == "sequences of Wherry"]
    assert {one.name: len(one.of or ()) for one in found} == {"Move the chart": 5, "After g": 2, "Draw": 2}


@pytest.mark.parametrize(("digits", "joined", "chip"), [
    ("12", False, ""), ("123", True, "1 … 3"), ("1234567890", True, "1 … 0"), ("135", True, "1 3 5"),
])  # fmt: skip
def test_digits_of_one_command_are_its_value(digits: str, joined: bool, chip: str) -> None:
    keys = ", ".join(f'{{ trigger = "Ctrl+M Shift+{digit}" }}' for digit in digits)
    text = f'format = "glimber-program/1"\nname = "Wherry"\n[commands]\ndepth = {{ name = "Set depth", bindings = [{keys}] }}\n'
    of = folio_of({"programs/wherry.toml": text})
    ids = tuple(binding.id for binding in of.bindings_of["wherry/depth"])
    sets = open_sets(of)
    assert set(sets) == (set(ids) if joined else set()) and movable(of, of.bindings[ids[0]]) is not joined
    ((_, _, (row,)),) = sections_of(of, Card("c", "Wherry", "sheet", program="wherry"))
    assert [way.binding for way in row.ways] == ([" ".join(ids)] if joined else list(ids))
    if joined:
        assert sets[ids[0]].bindings == ids and row.ways[0].steps == (("Ctrl", "M"), ("Shift", chip))
        words = verdicts(measure(of, practice(tries_of(ids[0], "", ["hit"] * 9)), NOON))[ids[1]].words
        assert f"Set depth takes a digit, so its {len(digits)} keys are one case." in words
