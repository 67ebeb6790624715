"""The shipped icons and type as shapes and numbers, read once and kept; the icon set comes with the window's packages."""

from __future__ import annotations

import itertools
import json
from pathlib import Path

import pytest

from glimber.store.cache import fonts, icons


@pytest.fixture(autouse=True)
def read_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    icons._kept.cache_clear()
    monkeypatch.setattr(icons, "_drawn", {})
    fonts.faces.cache_clear()


def test_an_outline_begins_each_of_its_rings_and_closes_it() -> None:
    steps = icons.icon("anchor")
    assert steps is not None
    signs = [str(step[0]) for step in steps]
    assert signs[0] == "M" and signs[-1] == "Z" and signs.count("M") == signs.count("Z") >= 1
    assert all(before == "Z" for before, sign in itertools.pairwise(signs) if sign == "M")
    points = [float(value) for step in steps for value in step[1:]]
    assert min(points) >= -0.05 and max(points) <= 1.05 and max(points) > 0.7
    assert icons.icon("no-such-icon") is None


def test_drawn_outlines_are_kept_and_the_font_is_not_opened_for_them(monkeypatch: pytest.MonkeyPatch) -> None:
    drawn = icons.icon("anchor")
    icons.keep_icons()
    monkeypatch.setattr(icons, "_drawn", {})
    monkeypatch.setattr(icons, "_outline", lambda name: pytest.fail("read from the font again"))
    assert icons.icon("anchor") == drawn


@pytest.mark.parametrize("text", ["", "[]", '{"anchor": 3}', "not json"])
def test_a_spoilt_cache_is_only_slower(text: str) -> None:
    icons._cache().parent.mkdir(parents=True, exist_ok=True)
    icons._cache().write_text(text)
    assert icons.icon("anchor") is not None


def test_metrics_are_shares_of_the_type_size() -> None:
    faces = fonts.faces()
    assert set(faces) == {400, 500, 600, 700}
    for weight, face in faces.items():
        assert face.weight == weight and 0.5 < face.cap < face.ascent < 1.5 and 0.1 < face.descent < 0.6
        assert 0.1 < face.advances["i"] < face.advances["n"] < face.advances["W"] < 1.5
    assert faces[700].advances["n"] > faces[400].advances["n"]


def test_kept_metrics_are_those_of_the_files_there_are(monkeypatch: pytest.MonkeyPatch) -> None:
    made = fonts.faces()
    monkeypatch.setattr(fonts, "face", lambda weight: pytest.fail("read from the font again"))
    fonts.faces.cache_clear()
    assert fonts.faces() == made
    file: Path = fonts.cache_file("faces.json")
    kept = json.loads(file.read_text())
    file.write_text(json.dumps({**kept, "state": [[1, 2]] * 4}))
    fonts.faces.cache_clear()
    with pytest.raises(pytest.fail.Exception):
        fonts.faces()
