"""A spot told from the timing of its keys."""

from __future__ import annotations

import pytest

from glimber.core.gather.capture import SpotCapture
from tests.helpers import events, folio_of

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
