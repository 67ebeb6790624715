"""Whatever is edited, and in whatever order: the files say it, and taking it back gives the bytes there were."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glimber.core.decide.carry import carry_over, give_to_other_hand, plan_carrying, with_board
from glimber.core.edit import commands, defaults, layers, links, sequences, shape
from glimber.core.edit import compare as gather
from glimber.core.edit import spots as arrange
from glimber.core.edit.counts import with_uses
from glimber.core.edit.edit import EditError, add_trigger
from glimber.core.edit.spots import Does, spot_of
from glimber.core.model.folio import Folio, Wait
from glimber.core.notation.keys import Sequence, Typed, parse_trigger
from glimber.store.toml.normal_form import to_plain
from glimber.store.toml.reading import open_folio, shipped_board
from glimber.store.toml.writing import restore, save_folio
from tests.held import differences, flat, hold
from tests.helpers import NOON, write_folio
from tests.store.toml.test_reading import FULL
from tests.store.toml.test_writing import changed_lines

HELD = Path(__file__).with_name("every_edit.json")
LEAD, B = "shoalwright/lead-line", "split-42"
ROWS = [gather.Incoming("Lead line", ("F3", "Ctrl+K Ctrl+L")), gather.Incoming("Trace coast", ('"/c\\\\oast "',), "Coast & shore")]


def keys(text: str) -> Sequence:
    found = parse_trigger(text, ("Crown",))
    assert isinstance(found, Sequence)
    return found


EDITS: dict[str, Callable[[Folio], Folio]] = {
    "type": lambda f: arrange.type_on(f, spot_of(B, "draw", "KeyG"), "Ctrl+Alt+\\"),
    "text": lambda f: arrange.set_spot(f, spot_of(B, "draw", "KeyH", "hold"), Does(sends=Typed('say "ho"\n'))),
    "steps": lambda f: arrange.set_spot(
        f, spot_of(B, "base", "KeyQ"), Does(steps=(keys("Ctrl+K"), Wait(80), Typed("b, c")), repeat_ms=60, release=(keys("Escape"),))
    ),
    "enters": lambda f: arrange.set_spot(f, spot_of(B, "base", "KeyJ&KeyK"), Does(enters="draw", mode="once")),
    "leaves": lambda f: arrange.set_spot(f, spot_of(B, "draw", "Escape"), Does(leaves=True)),
    "swap": lambda f: arrange.swap_keys(f, (B, "draw", "KeyS"), (B, "draw", "KeyD")),
    "move": lambda f: arrange.move_key(f, (B, "draw", "KeyS"), (B, "base", "KeyW")),
    "copy": lambda f: arrange.copy_to(f, spot_of(B, "draw", "KeyD"), [spot_of(B, "draw", key) for key in ("KeyR", "KeyT")]),
    "clear": lambda f: arrange.clear_spots(f, [spot_of(B, "draw", "KeyD")]),
    "dead": lambda f: layers.set_unbound(f, B, "draw", "falls", ["KeyZ"]),
    "all dead": lambda f: layers.set_unbound(f, B, "base", "dead"),
    "layer": lambda f: layers.add_layer(f, B, 'Über "all"', "digits")[0],
    "rename": lambda f: layers.rename_layer(f, B, "draw", "Draw & trim"),
    "front": lambda f: layers.bring_to_front(f, B, "draw", "shoalwright"),
    "remove": lambda f: layers.remove_layer(f, B, "draw"),
    "command": lambda f: commands.edit_command(f, LEAD, name="Lead = line", words=("a; b", "c"), slow_way=("menu A", "wait 0.5"), careful=True),
    "new": lambda f: commands.add_command(f, "shoalwright", "Fog # signal")[0],
    "group": lambda f: commands.put_in_group(f, [LEAD], "Lines [1]", "rose", "wave"),
    "context": lambda f: commands.edit_command(commands.add_context(f, "shoalwright", "chart room"), LEAD, context="chart room"),
    "binding": lambda f: commands.edit_binding(f, "lead-line", computers=("bridge",), reason="L as in lead", share=0.5, pinned=True),
    "trigger": lambda f: add_trigger(f, "shoalwright/quay-list", keys("Crown+Q")),
    "on a spot": lambda f: add_trigger(f, "shoalwright/quay-list", spot_of(B, "draw", "KeyY", "double")),
    "uses": lambda f: with_uses(f, {LEAD: 3.26}),
    "take": lambda f: gather.take(f, "shoalwright", gather.compare(f, "shoalwright", ROWS), own_set=ROWS),
    "defaults": lambda f: defaults.back_to_defaults(f, "shoalwright"),
    "stem": lambda f: sequences.name_stem(f, "shoalwright", keys("Ctrl+K"), "Names", True),
    "link": lambda f: links.link(f, "Pad notes", path="~/pad notes.csv", program="shoalwright")[0],
    "board": lambda f: shape.with_own_board(f, shape.edit_keys(f.boards[B], ["KeyS"], finger="left-middle", w=1.25)),
    "carry": lambda f: carry_over(with_board(f, shipped_board("split-36")), plan_carrying(with_board(f, shipped_board("split-36")), B, "split-36")),
    "beside": lambda f: carry_over(
        with_board(f, shipped_board("grid-48")), plan_carrying(with_board(f, shipped_board("grid-48")), B, "grid-48"), keep=True
    ),
    "hand": lambda f: give_to_other_hand(f, B, "left").folio,
}  # fmt: skip


def applied(folio: Folio, name: str) -> Folio | None:
    """The folio after an edit; None where it does not fit any more."""
    try:
        return EDITS[name](folio)
    except (EditError, KeyError):
        return None


@pytest.mark.slow
@given(names=st.lists(st.sampled_from(sorted(EDITS)), min_size=1, max_size=6))
@settings(max_examples=60, deadline=None)
def test_files_say_what_was_edited_and_go_back_byte_for_byte(names: list[str]) -> None:
    with tempfile.TemporaryDirectory() as home:
        first = opened = open_folio(write_folio(Path(home) / "small"))
        before = dict(opened.texts)
        for name in names:
            after = applied(opened.folio, name)
            if after is None:
                continue
            opened = save_folio(opened, after, NOON)
            assert to_plain(opened.folio) == to_plain(after), name
            assert open_folio(opened.folder).folio == opened.folio, name
        restore(opened, first, NOON)
        found = {str(p.relative_to(first.folder)): p.read_bytes() for p in first.folder.rglob("*.toml") if "backups" not in p.parts}
        assert found == before


def test_every_edit_of_the_list_fits_the_small_office() -> None:
    with tempfile.TemporaryDirectory() as home:
        folio = open_folio(write_folio(Path(home) / "small")).folio
        assert [name for name in EDITS if applied(folio, name) is None] == ["defaults"]  # there is no such set yet


def lines_of_edits(_: Folio | None = None) -> dict[str, list[str]]:
    """The lines that go and come with each edit of a folio that has everything in it."""
    found = {}
    with tempfile.TemporaryDirectory() as home:
        for name in EDITS:
            opened = open_folio(write_folio(Path(home) / name, FULL))
            after = applied(opened.folio, name)
            texts = opened.texts if after is None else save_folio(opened, after, NOON).texts
            diffs = {file: changed_lines(opened.texts.get(file, b""), texts.get(file, b"")) for file in sorted({*opened.texts, *texts})}
            found[name] = [line for file, lines in diffs.items() if lines for line in (file, *lines)]
    return found


@pytest.mark.slow
def test_each_edit_changes_the_lines_it_did_and_no_others() -> None:
    assert not differences(HELD, dict(flat(lines_of_edits())))


if __name__ == "__main__":
    hold(HELD, lines_of_edits)
