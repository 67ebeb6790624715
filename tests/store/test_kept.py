"""A folio kept among the caches: used only while its files are the same, and made of nothing but Glimber's own values."""

from __future__ import annotations

import pickle
import shutil
from base64 import b64decode
from fractions import Fraction
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from fontTools.ttLib import TTFont
from msgspec.structs import replace

from glimber.core.drawing.drawing import Drawing, Group, Text
from glimber.store.cache import folio_cache as kept
from glimber.store.cache import fonts, icons
from glimber.store.folder import Opened


@pytest.fixture
def unread(monkeypatch: pytest.MonkeyPatch) -> None:
    """Reading the files is an error."""

    def read(*_: Any, **__: Any) -> Opened:
        raise AssertionError("the files were read")

    monkeypatch.setattr("glimber.store.toml.reading.read_files", read)


def test_what_is_kept_is_opened_without_reading_a_file(small: Opened, unread: None) -> None:
    kept.keep(small)
    assert kept.open_quickly(small.folder).folio == small.folio


@pytest.mark.parametrize("change", ["a byte of a file", "another file", "something that is no value of ours", "cut off"])
def test_what_does_not_fit_is_as_if_it_were_not_there(small: Opened, unread: None, change: str) -> None:
    kept.keep(small)
    file: Path = kept._file(small.folder)
    if change == "a byte of a file":
        (small.folder / "folio.toml").write_bytes((small.folder / "folio.toml").read_bytes() + b"\n")
    elif change == "another file":
        (small.folder / "cards").mkdir(exist_ok=True)
        (small.folder / "cards" / "new.toml").write_text("")
    elif change == "cut off":
        file.write_bytes(file.read_bytes()[:-9])
    else:
        file.write_bytes(kept._basis(small.texts) + pickle.dumps(Fraction(1, 2)))
    with pytest.raises(AssertionError, match="the files were read"):
        kept.open_quickly(small.folder)


def test_each_folder_has_its_own_and_nothing_is_kept_of_one_that_is_gone(small: Opened, tmp_path: Path) -> None:
    moved = tmp_path / "a chart-office – 2% larger"
    shutil.copytree(small.folder, moved)
    there = replace(small, folder=moved)
    kept.keep(there)
    kept.keep(small)
    files = kept._file(moved), kept._file(small.folder)
    ledger = kept.cache_file(f"ledger-{kept.of_folder(moved)}.json")
    ledger.write_text("{}")
    assert files[0] != files[1] and all(file.exists() for file in files)
    shutil.rmtree(moved)
    kept.keep(small)
    assert [file.exists() for file in (*files, ledger)] == [False, True, False]


@pytest.mark.parametrize(("letters", "as_it_is"), [(196, True), (197, True), (198, False)])
def test_a_long_place_has_a_name_that_a_file_may_have(letters: int, as_it_is: bool) -> None:
    name = kept.of_folder(Path("/" + "x" * letters))
    assert ("x" * letters in name) is as_it_is and len(name) <= 200
    assert kept.of_folder(Path("/" + "x" * letters + "y")) != name


def test_faces_that_were_kept_are_the_faces() -> None:
    assert all(fonts._face(fonts._plain(face)).advances == face.advances for face in map(fonts.face, fonts.WEIGHTS))


def test_icons_are_closed_outlines_in_a_square_and_kept_for_the_next_start(monkeypatch: pytest.MonkeyPatch) -> None:
    if not icons.icon_names():
        pytest.skip("the icons come with the toolkit")
    icons._kept.cache_clear()
    icons._drawn.clear()
    drawn = {name: icons.icon(name) for name in ("anchor", "ruler", "waves", "x")}
    for steps in drawn.values():
        assert steps is not None and steps[0][0] == "M" and steps[-1] == ("Z",)
        kinds = "".join(str(step[0]) for step in steps)
        assert kinds.count("M") == kinds.count("Z") == kinds.count("ZM") + 1 and set(kinds) <= set("MLCZ")
        assert [len(step) for step in steps] == [{"M": 3, "L": 3, "C": 7, "Z": 1}[kind] for kind in kinds]
        across, down = ([float(one) for step in steps for one in step[at::2]] for at in (1, 2))
        assert 0 <= min(across) < 0.3 and 0.7 < max(across) <= 1 and 0 <= min(down) < 0.4 and 0.6 < max(down) <= 1
    assert icons.icon("no such icon") is None
    icons.keep_icons()
    icons._drawn.clear()
    monkeypatch.setattr(icons, "_outline", lambda name: pytest.fail(f"{name} was drawn again"))
    assert {name: icons.icon(name) for name in drawn} == drawn
    font = icons._files()
    assert font is not None and icons._cache().name.startswith(f"icons-{font[0].stat().st_size}-")
    before = icons._cache().stat().st_mtime_ns
    icons.keep_icons()  # nothing new
    assert icons._cache().stat().st_mtime_ns == before
    icons._kept.cache_clear()
    icons._cache().write_text('{"anchor": 7}')
    assert icons._kept() == {}
    icons._drawn.clear()


def test_a_drawing_carries_fonts_with_all_of_its_characters() -> None:
    texts = [Text(0, 0, "Ναυτικός", 3, 600, "ink", 9), Text(0, 0, "Survey", 3, 400, "ink", 9)]
    carried = fonts.carried_fonts(Drawing(10, 10, "x", "x", (Group(tuple(texts)),)))
    assert list(carried) == [400, 600]
    for weight, wanted in ((400, "Survey–é"), (600, "Ναυτικός–é")):
        with TTFont(BytesIO(b64decode(carried[weight]))) as font:
            characters = font.getBestCmap()
        whole = TTFont(fonts.font_file(weight)).getBestCmap()
        assert {ord(one) for one in wanted} & set(whole) <= set(characters) and len(characters) < len(whole)
