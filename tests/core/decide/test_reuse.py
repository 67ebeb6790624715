"""What need not be weighed anew after an edit: exactly what no figure and no verdict rests on."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta

import pytest
from msgspec.structs import fields, replace

from glimber.core.decide import reuse as again
from glimber.core.decide.verdict import verdicts
from glimber.core.edit.commands import edit_binding
from glimber.core.edit.edit import with_program
from glimber.core.model.folio import Binding, Card, Command, Folio, Run, Settings, Stem
from glimber.core.notation.keys import Sequence, parse_sent
from glimber.core.practice.log import Practice
from glimber.core.stats.measures import measure
from tests.helpers import folio_of, tries_of

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"


def command(folio: Folio, **changes: object) -> Folio:
    program = folio.programs["shoalwright"]
    changed = replace(program.commands["add-sounding"], **changes)  # type: ignore[arg-type]
    return with_program(folio, replace(program, commands={**program.commands, "add-sounding": changed}))


def group(folio: Folio, **changes: str) -> Folio:
    program = folio.programs["shoalwright"]
    changed = {id: replace(one, **changes) for id, one in program.groups.items()}  # type: ignore[arg-type]
    return with_program(folio, replace(program, groups=changed))


def stem(folio: Folio, **changes: object) -> Folio:
    program = folio.programs["shoalwright"]
    trigger = parse_sent("Ctrl+K")
    assert isinstance(trigger, Sequence)
    return with_program(folio, replace(program, stems=(Stem(trigger, "Go", **changes),)))  # type: ignore[arg-type]


def setting(folio: Folio, **changes: object) -> Folio:
    return replace(folio, settings=replace(folio.settings, **changes))  # type: ignore[arg-type]


NOTHING: list[Callable[[Folio], Folio]] = [
    lambda f: edit_binding(f, "sounding-s", reason="the hand rests there"),
    lambda f: edit_binding(f, "sounding-s", label="Sound", icon="anchor", picture="a.png", set_at="the sheet"),
    lambda f: command(f, words=("what is the depth here",), icon="anchor", was=("Sounding",), set_at="prefs", keys_of=(("mac", ("F2",)),)),
    lambda f: command(f, label="S. taken"),
    lambda f: group(f, ink="plum", mark="wave", name="Of the survey"),
    lambda f: replace(f, cards={"c": Card("c", "Draw", "board", "split-42")}, runs={"r": Run("r", "Line", ())}),
    lambda f: setting(f, title="Another", abbreviations={"sounding": "sdg"}),
]
SOMETHING: list[Callable[[Folio], Folio]] = [
    lambda f: edit_binding(f, "sounding-s", pinned=True),
    lambda f: edit_binding(f, "sounding-s", share=0.5),
    lambda f: edit_binding(f, "sounding-s", computers=("bridge",)),
    lambda f: command(f, uses_per_day=7.0),
    lambda f: command(f, careful=True),
    lambda f: command(f, slow_way=("menu Survey",)),
    lambda f: stem(f, slow_way=("menu Survey", "click Go")),
    lambda f: command(f, group=None),
    lambda f: command(f, name="Sound"),
    lambda f: command(f, label="Zounding"),
    lambda f: setting(f, target_ms=900.0),
    lambda f: setting(f, xkb="de"),
    lambda f: replace(f, layouts={}),
]


@pytest.mark.parametrize("edit", NOTHING)
def test_what_is_only_said_is_not_weighed_and_weighing_all_anew_gives_the_same(edit: Callable[[Folio], Folio]) -> None:
    folio, practice = folio_of(), Practice(tries_of("sounding-s", S, ["hit", ("neighbour", D, "")] * 30))
    at = practice.tries[-1].at + timedelta(hours=1)
    ledger = measure(folio, practice, at)
    found, edited = verdicts(ledger), edit(folio)
    assert edited != folio and again.still_good(ledger, edited, practice, at + timedelta(minutes=9))
    kept, judged = again.of_folio(ledger, found, edited)
    whole = measure(edited, practice, at)
    assert kept.folio is edited and kept.rows == whole.rows and judged == verdicts(whole)
    assert all(row.binding is edited.bindings[id] for id, row in kept.rows.items())


@pytest.mark.parametrize("edit", SOMETHING)
def test_what_a_figure_rests_on_is_weighed(edit: Callable[[Folio], Folio]) -> None:
    folio = folio_of()
    assert not again.weighs_the_same(folio, edit(folio))


def test_a_weighing_does_not_stand_for_other_tries_nor_for_ever() -> None:
    folio, practice = folio_of(), Practice(tries_of("sounding-s", S, ["hit"] * 9))
    at = practice.tries[-1].at
    ledger = measure(folio, practice, at)
    for later, good in ((-1, False), (0, True), (599, True), (600, False)):
        assert again.still_good(ledger, folio, practice, at + timedelta(seconds=later)) is good
    assert not again.still_good(ledger, folio, Practice(tries_of("sounding-s", S, ["hit"] * 10)), at)
    empty = measure(folio, Practice(), at)
    assert again.still_good(empty, folio, Practice(), at)  # nothing practised then, nothing now


def test_every_field_is_known_to_be_weighed_or_not() -> None:
    """A new field is weighed until somebody says here and there that it is not."""
    weighed = {
        Binding: {"id", "trigger", "command", "sends", "steps", "repeat_ms", "release", "enters", "mode", "leaves", "bundle", "computers", "pinned", "share"},
        Command: {"id", "program", "name", "label", "group", "context", "slow_way", "uses_per_day", "careful", "learn"},
        Folio: {"settings", "boards", "programs", "layouts"},
        Settings: {"keyboard", "xkb", "log", "working_days", "target_ms", "horizon_weeks", "recovery_s", "careful_recovery_s", "sure", "least_gain_s", "away",
                   "timing", "bundles"},
    }  # fmt: skip
    said = {Binding: again.SAID_OF_BINDINGS, Command: again.SAID_OF_COMMANDS, Folio: again.SAID_OF_FOLIOS, Settings: again.SAID_OF_SETTINGS}
    for kind, names in weighed.items():
        assert {one.name for one in fields(kind)} == names | set(said[kind])
