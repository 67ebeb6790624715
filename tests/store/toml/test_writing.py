"""Saving edits: comments, order and layout stay; saves are atomic, copied first, and never over somebody else's change."""

from __future__ import annotations

import difflib
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.edit.commands import edit_command
from glimber.core.edit.edit import EditError, map_bindings, move_binding, retire_binding
from glimber.core.edit.shape import edit_keys, with_own_board
from glimber.core.model.folio import Card, Folio
from glimber.core.notation.keys import Spot, parse_trigger
from glimber.core.session.changes import Note
from glimber.store.change_log import note_verdict, record, record_in, take_move
from glimber.store.faults import FolioError, StoreError
from glimber.store.files import write_atomically
from glimber.store.folder import Opened
from glimber.store.practice.log import open_log
from glimber.store.saving import ChangedOnDisk
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import keep_ids, new_folio, restore, save_folio
from tests.helpers import NOON, write_folio

SPLIT = "layouts/split-42.toml"


def changed_lines(before: bytes, after: bytes) -> list[str]:
    diff = difflib.unified_diff(before.decode().splitlines(), after.decode().splitlines(), lineterm="", n=0)
    return [line for line in diff if line[:1] in "+-" and line[:3] not in ("+++", "---")]


def saved(opened: Opened, new: Folio) -> Opened:
    after = save_folio(opened, new, NOON)
    assert after.folio == open_folio(opened.folder).folio
    return after


def test_a_move_touches_only_its_lines(small: Opened) -> None:
    before = (small.folder / SPLIT).read_bytes()
    moved = move_binding(small.folio, "range-d", parse_trigger("split-42:draw:KeyA:tap")).folio
    saved(small, moved)
    lines = changed_lines(before, (small.folder / SPLIT).read_bytes())
    assert len(lines) == 2 and any("KeyA = { tap = { id" in line for line in lines)
    assert b"# the one that is used most" in (small.folder / "programs/shoalwright.toml").read_bytes()


def test_a_line_keeps_its_own_order_where_it_stays_the_same_binding(small: Opened) -> None:
    path = small.folder / SPLIT
    line = 'KeyD = { tap = { does = "shoalwright/depth-range", id = "range-d", reason = "D" } }'
    path.write_text("\n".join(line if one.startswith("KeyD") else one for one in path.read_text().split("\n")))
    opened = open_folio(small.folder)
    labelled = map_bindings(opened.folio, lambda one: replace(one, label="Range") if one.id == "range-d" else one)
    saved(opened, labelled)
    (now,) = (one for one in path.read_text().split("\n") if one.startswith("KeyD"))
    assert now.startswith(line.removesuffix(" } }")) and 'label = "Range"' in now


def test_a_layout_may_lie_in_a_file_of_another_name(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "mine", {SPLIT: None, "layouts/by-hand.toml": (write_folio(tmp_path / "small") / SPLIT).read_text()})
    opened = open_folio(folder)
    saved(opened, move_binding(opened.folio, "range-d", parse_trigger("split-42:draw:KeyA:tap")).folio)
    assert [path.name for path in (folder / "layouts").iterdir()] == ["by-hand.toml"] and "KeyA" in (
        folder / "layouts/by-hand.toml"
    ).read_text()


def test_a_swap_keeps_the_comment_of_each_place(small: Opened) -> None:
    swapped = move_binding(small.folio, "sounding-s", parse_trigger("split-42:draw:KeyD:tap"), swap=True).folio
    after = saved(small, swapped)
    assert after.folio.by_trigger[Spot("split-42", "draw", ("KeyD",), "tap")].id == "sounding-s"
    assert "# beside it" in (small.folder / SPLIT).read_text()


def test_a_swap_back_gives_the_same_bytes(small: Opened) -> None:
    before = (small.folder / SPLIT).read_bytes()
    there = move_binding(small.folio, "sounding-s", parse_trigger("split-42:draw:KeyD:tap"), swap=True).folio
    after = saved(small, there)
    back = move_binding(after.folio, "sounding-s", parse_trigger("split-42:draw:KeyS:tap"), swap=True).folio
    saved(after, back)
    assert (small.folder / SPLIT).read_bytes() == before


def test_a_dated_copy_is_made_first(small: Opened) -> None:
    before = (small.folder / SPLIT).read_bytes()
    moved = move_binding(small.folio, "range-d", parse_trigger("split-42:draw:KeyA:tap")).folio
    once = saved(small, moved)
    saved(once, move_binding(once.folio, "range-d", parse_trigger("split-42:draw:KeyD:tap")).folio)
    copies = sorted((small.folder / "backups").iterdir())
    assert [copy.name for copy in copies] == [
        "2026-11-20-120000-2-layouts-split-42.toml", "2026-11-20-120000-layouts-split-42.toml"
    ]  # fmt: skip
    assert before in [copy.read_bytes() for copy in copies]


def test_a_file_changed_meanwhile_is_not_overwritten(small: Opened) -> None:
    theirs = (small.folder / SPLIT).read_text() + "# a note of my own\n"
    (small.folder / SPLIT).write_text(theirs)
    with pytest.raises(ChangedOnDisk, match=r"layouts/split-42\.toml was changed on disk"):
        save_folio(small, move_binding(small.folio, "range-d", parse_trigger("split-42:draw:KeyA:tap")).folio, NOON)
    assert (small.folder / SPLIT).read_text() == theirs and not (small.folder / "backups").exists()


def test_a_folder_that_cannot_be_written_leaves_the_old_file(small: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(*_: object, **__: object) -> None:
        raise PermissionError(13, "Permission denied")

    before = (small.folder / SPLIT).read_bytes()
    monkeypatch.setattr("tempfile.mkstemp", refuse)
    with pytest.raises(StoreError, match=r"cannot be written \(Permission denied\); nothing was changed"):
        save_folio(small, move_binding(small.folio, "range-d", parse_trigger("split-42:draw:KeyA:tap")).folio, NOON)
    assert (small.folder / SPLIT).read_bytes() == before


def test_a_crash_in_the_middle_of_a_save_leaves_the_old_file(small: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    before = (small.folder / SPLIT).read_bytes()
    monkeypatch.setattr("glimber.store.files.Path.replace", lambda *_: (_ for _ in ()).throw(OSError(28, "No space left")))
    with pytest.raises(StoreError, match="No space left"):
        write_atomically(small.folder / SPLIT, b"half")
    assert (small.folder / SPLIT).read_bytes() == before
    assert [path.name for path in (small.folder / "layouts").iterdir()] == ["split-42.toml"]


def test_ids_are_written_before_their_first_try(small: Opened) -> None:
    after = keep_ids(small, {"tide-table", "base-KeyP-hold", "sounding-s"}, NOON)
    assert after.folio.bindings["tide-table"].given_id
    text = (small.folder / "programs/shoalwright.toml").read_text()
    assert 'id = "tide-table"' in text and "# the one that is used most" in text
    assert 'id = "base-KeyP-hold"' in (small.folder / SPLIT).read_text()
    again = open_folio(small.folder).folio
    assert again.bindings.keys() == small.folio.bindings.keys()
    assert keep_ids(after, {"tide-table"}, NOON) is after


def test_new_files_and_files_that_go(small: Opened) -> None:
    card = Card("draw", "Draw", "board", "split-42", ("draw",))
    after = saved(small, replace(small.folio, cards={"draw": card}))
    assert open_folio(small.folder).folio.cards["draw"] == card
    saved(after, replace(after.folio, cards={}))
    assert not (small.folder / "cards" / "draw.toml").exists()
    assert any("cards-draw" in copy.name for copy in (small.folder / "backups").iterdir())


KEYS = [f"Key{letter}" for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"]


@pytest.mark.slow
@given(st.lists(st.tuples(st.sampled_from(["sounding-s", "range-held", "range-d"]), st.sampled_from(["base", "draw"]),
                          st.sampled_from(KEYS)), min_size=1, max_size=6))  # fmt: skip
@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_any_moves_saved_read_back_as_they_are(tmp_path_factory: pytest.TempPathFactory, moves: list[tuple[str, str, str]]) -> None:
    opened = open_folio(write_folio(tmp_path_factory.mktemp("f") / "small"))
    for id, layer, key in moves:
        spot = opened.folio.bindings[id].spot
        to = replace(spot, layer=layer, keys=(key,))
        try:
            opened = saved(opened, move_binding(opened.folio, id, to, swap=to in opened.folio.by_trigger).folio)
        except EditError:
            continue
    text = (opened.folder / SPLIT).read_text()
    assert text.count("[[layers]]") == 2 and text.startswith('format = "glimber-layout/1"\nboard = "split-42"\n')


def test_taking_a_move_edits_the_file_and_records_the_why(small: Opened) -> None:
    with open_log(small.folder, "practice.db") as log:
        note = Note("move", "the hand goes there")
        taken = take_move(small, log, "sounding-s", parse_trigger("split-42:draw:KeyD:tap"), note, NOON, "bridge", swap=True)
        changes = log.practice().changes
        assert {(c.binding, c.from_trigger, c.to_trigger) for c in changes} == {
            ("sounding-s", "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"),
            ("range-d", "split-42:draw:KeyD:tap", "split-42:draw:KeyS:tap"),
        }
        assert all(c.why == "the hand goes there" and c.applied is None and c.command for c in changes)
        later = datetime(2026, 11, 21, tzinfo=UTC)
        assert record(log, taken.opened.folio, small.folio, {}, later, "bridge") == ()  # going back is no change of its own
        assert [c.reverted for c in log.practice().changes] == [later, later]


def test_the_history_is_only_opened_where_a_trigger_differs(small: Opened) -> None:
    label = edit_command(small.folio, "shoalwright/lead-line", label="Lead")
    record_in(small.folder, small.folio, label, {}, NOON, "bridge")
    assert not (small.folder / "practice.db").exists()
    gone = retire_binding(small.folio, "tide-table")
    record_in(small.folder, small.folio, gone, {"tide-table": Note("retire", "hardly used")}, NOON, "bridge")
    with open_log(small.folder, "practice.db") as log:
        (change,) = log.practice().changes
        noted = note_verdict(log, small.folio.bindings["range-d"], "keep", "fine", NOON, "bridge")
        assert {c.verdict for c in log.practice().changes} == {"retire", "keep"} and noted.to_trigger is None
    assert (change.from_trigger, change.to_trigger, change.why) == ("Shift+[Numpad4]", None, "hardly used")


def test_retiring_a_spot_leaves_the_other_gestures(small: Opened) -> None:
    after = saved(small, retire_binding(small.folio, "sounding-s"))
    assert "range-held" in after.folio.bindings and "sounding-s" not in after.folio.bindings


def test_a_program_whose_tables_stand_apart_can_be_added_to(small: Opened) -> None:
    from glimber.core.edit.compare import Incoming, compare, take

    path = small.folder / "programs" / "shoalwright.toml"
    path.write_text(
        path.read_text() + '\n[defaults]\nadd-sounding = ["F9"]\n\n[commands.last-one]   # after the defaults\nname = "Last one"\n'
    )
    opened = open_folio(small.folder)
    rows = [Incoming("Trace coast", ("Ctrl+T", "F8"), "Drawing"), Incoming("Lead line", ("F3",))]
    taken = saved(opened, take(opened.folio, "shoalwright", compare(opened.folio, "shoalwright", rows)))
    assert [str(b.trigger) for b in taken.folio.bindings_of["shoalwright/trace-coast"]] == ["Ctrl+T", "F8"]
    assert str(taken.folio.bindings["lead-line"].trigger) == "F3"
    assert "# after the defaults" in path.read_text() and "# the one that is used most" in path.read_text()


def test_rows_of_an_array_are_edited_one_by_one(small: Opened) -> None:
    text = (
        'format = "glimber-board/1"\nid = "own"\nname = "Own"\nkeys = [\n    # the left one\n'
        '    { id = "KeyA", x = 0.0, y = 0.0 },   # stays\n    { id = "KeyB", x = 1.0, y = 0.0 },\n]\n'
    )
    (small.folder / "boards").mkdir()
    (small.folder / "boards" / "own.toml").write_text(text)
    opened = open_folio(small.folder)
    own = opened.folio.boards["own"]
    turned = replace(own, keys=(own.keys[0], replace(own.keys[1], angle=12.0), replace(own.keys[1], id="KeyC", x=2.0)))
    saved(opened, replace(opened.folio, boards={**opened.folio.boards, "own": turned}))
    after = (small.folder / "boards" / "own.toml").read_text()
    assert "# the left one" in after and "},   # stays" in after and "angle = 12" in after and "KeyC" in after


def test_a_new_folio_is_empty_and_sound(tmp_path: Path) -> None:
    new_folio(tmp_path / "mine", 'The "north" office', "pad-21")
    folio = open_folio(tmp_path / "mine").folio
    assert folio.settings.title == 'The "north" office' and list(folio.layouts) == ["pad-21"]
    assert not folio.commands
    with pytest.raises(StoreError, match="already there and not empty"):
        new_folio(tmp_path / "mine", "x", "pad-21")


def test_an_edit_that_would_not_read_back_is_never_written(small: Opened) -> None:
    bad = replace(small.folio, cards={"x": Card("x", "", "board", "split-42")})
    with pytest.raises(FolioError):
        save_folio(small, bad, NOON)
    assert not (small.folder / "cards").exists()


def test_a_shipped_board_becomes_the_folios_own_when_it_is_edited(small: Opened) -> None:
    before = {name: (small.folder / name).read_bytes() for name in small.texts}
    board = edit_keys(small.folio.boards["split-42"], ["KeyS"], reach="avoid", print="ß")
    after = save_folio(small, with_own_board(small.folio, board), NOON)
    assert open_folio(small.folder).folio.boards["split-42"].by_id["KeyS"].print == "ß"
    assert "boards/split-42.toml" in after.texts and after.folio.own_boards == {"split-42"}
    restore(after, small, NOON)
    assert not (small.folder / "boards/split-42.toml").exists()
    assert {name: (small.folder / name).read_bytes() for name in small.texts} == before
