"""What the store takes at most and keeps: each limit as a number, just under it, at it and just over it."""

from __future__ import annotations

from pathlib import Path

import pytest

from glimber.core.practice.tries import Round, Try
from glimber.core.session.changes import Note
from glimber.store.cache.folio_cache import of_folder
from glimber.store.change_log import take_move
from glimber.store.faults import StoreError
from glimber.store.files import read_given
from glimber.store.folder import Opened, folio_files
from glimber.store.pack import LARGEST_PACK
from glimber.store.practice.log import open_log
from glimber.store.toml import shape
from tests.helpers import NOON


@pytest.mark.parametrize(("files", "taken"), [(1999, True), (2000, True), (2001, False)])
def test_files_of_a_folio(small: Opened, files: int, taken: bool) -> None:
    (small.folder / "cards").mkdir(exist_ok=True)
    for nth in range(files - len(folio_files(small.folder))):
        (small.folder / f"cards/c-{nth}.toml").write_bytes(b"")
    if taken:
        assert len(folio_files(small.folder)) == files
        return
    with pytest.raises(StoreError, match=f"{files} files; expected a folio of at most 2000"):
        folio_files(small.folder)


def test_a_pack_that_is_too_large_is_not_read(tmp_path: Path) -> None:
    file = tmp_path / "large"
    with file.open("wb") as made:
        made.truncate(60_000_000)  # no space is taken on the disk
    assert len(read_given(file, LARGEST_PACK)) == 60_000_000
    with file.open("r+b") as made:
        made.truncate(60_000_001)
    with pytest.raises(StoreError, match="larger than 60 MB"):
        read_given(file, LARGEST_PACK)


@pytest.mark.parametrize(("length", "whole"), [(199, True), (200, True), (201, False)])
def test_a_folder_s_place_as_the_name_of_its_caches(length: int, whole: bool) -> None:
    place = Path("/" + "a" * (length - 3))  # the slash is written as three characters
    name = of_folder(place)
    assert (name == "%2F" + "a" * (length - 3)) == whole and len(name) <= 200
    assert name != of_folder(place.with_name("b" * (length - 3)))


@pytest.mark.parametrize(("length", "whole"), [(79, True), (80, True), (81, False)])
def test_a_value_in_a_fault(length: int, whole: bool) -> None:
    text = "a" * (length - 2)  # two quotes
    assert shape.quote(text) == (repr(text) if whole else f"{repr(text)[:80]}… ({length} characters)")


def test_a_move_takes_no_others_place_unless_it_is_a_swap(small: Opened) -> None:
    with open_log(small.folder, "practice.db") as log:
        before = folio_files(small.folder)
        with pytest.raises(ValueError, match=r"Ctrl\+Shift\+S already carries Add sounding in Shoalwright"):
            to = small.folio.bindings["add-sounding"].trigger
            take_move(small, log, "lead-line", to, Note("move", "nearer"), NOON, "bridge")
        assert folio_files(small.folder) == before and not log.changed


def test_whoever_has_read_holds_nothing_open(small: Opened) -> None:
    """An open transaction would keep a server from moving its tables on, and a file from being taken in."""
    with open_log(small.folder, "practice.db") as log:
        for read in (log.ids, log.practice, lambda: log.records(Round), lambda: log.count(Try), lambda: log.tries_of_round("r")):
            read()
            assert not log.connection.in_transaction()
