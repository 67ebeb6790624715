"""What program a source is of by its own words, and which id it has; a spot told from the timing of its keys."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.edit.program_name import program_id_of, program_named
from glimber.core.engine.capture import SpotCapture
from glimber.core.model.folio import Program
from tests.helpers import events, folio_of

HERE = {"shoalwright": Program("shoalwright", "Shoalwright"), "tide-tables": Program("tide-tables", "Tables of tides"),
        "command": Program("command", "Карта")}  # fmt: skip


@pytest.mark.parametrize(("told", "name"), [
    (("Keyboard shortcuts - Shoalwright manual",), "Shoalwright"), (("Shoalwright | Keyboard Shortcuts",), "Shoalwright"),
    (("Shoalwright: default keys",), "Shoalwright"), (("Shortcuts in Harbour log",), "Harbour log"), (("List of keys",), ""),
    (("", "shoalwright-keys"), "Shoalwright"), (("", "tide_tables.keymap"), "Tide tables.keymap"),
    (("Keyboard shortcuts", "harbour-log"), "Harbour log"), (("3.2",), ""), (("(Shoalwright)",), "Shoalwright"), (("A" * 40,), "A" * 40),
    (("A" * 41,), ""), (("Карта: клавиши",), "Карта"), (("",), ""),
])  # fmt: skip
def test_a_name_is_what_is_left_without_the_words_of_a_list_of_keys(told: tuple[str, ...], name: str) -> None:
    assert program_named(*told) == name


@given(st.text(max_size=120), st.text(max_size=60))
def test_whatever_a_source_calls_itself_gives_a_short_name_or_none(title: str, stem: str) -> None:
    name = program_named(title, stem)
    assert len(name) <= 41 and name == name.strip()


@pytest.mark.parametrize(("name", "id"), [
    ("SHOALWRIGHT", "shoalwright"), ("Tables of tides", "tide-tables"), ("Tide-tables", "tide-tables"), ("Harbour log", "harbour-log"),
    ("карта", "command"), ("Порт", "command-2"),
])  # fmt: skip
def test_an_id_is_that_of_the_program_or_a_free_one(name: str, id: str) -> None:
    assert program_id_of(name, HERE) == id


SMALL = folio_of()


@pytest.mark.parametrize(
    ("rows", "spot"),
    [
        ([(0, "down", "KeyS"), (60, "up", "KeyS")], "split-42:draw:KeyS:tap"),
        ([(0, "down", "KeyS"), (260, "up", "KeyS")], "split-42:draw:KeyS:hold"),
        ([(0, "down", "KeyS"), (60, "up", "KeyS"), (150, "down", "KeyS"), (200, "up", "KeyS")], "split-42:draw:KeyS:double"),
        ([(0, "down", "KeyS"), (60, "up", "KeyS"), (150, "down", "KeyS"), (500, "up", "KeyS")], "split-42:draw:KeyS:tap-hold"),
        ([(0, "down", "KeyK"), (30, "down", "KeyJ"), (90, "up", "KeyK"), (99, "up", "KeyJ")], "split-42:draw:KeyJ&KeyK:tap"),
        ([(0, "down", "thumb-left-1"), (60, "up", "thumb-left-1")], "split-42:draw:thumb-left-1:tap"),
    ],
)  # fmt: skip
def test_gestures_by_their_timing(rows: list[tuple[float, str, str]], spot: str) -> None:
    capture = SpotCapture(SMALL, "split-42")
    for event in events(*rows):
        capture.feed(event)
    capture.advance(2000)
    assert str(capture.spot("draw")) == spot and capture.pending_until() is None
    capture.clear()
    assert capture.spot("draw") is None
