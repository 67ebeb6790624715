"""No text on screen is under 11 px, and the board has the room there is."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtGui import QPainter

from tests.helpers import write_folio

WIDE = 1280, 800
SMALL = 1024, 600


@pytest.fixture
def window(tmp_path: Path, open_room: Callable[..., Any]) -> Any:
    return open_room(write_folio(tmp_path / "small"), "arrange")


@pytest.mark.parametrize(("size", "least"), [(WIDE, 60), (SMALL, 44)])
def test_keys_of_the_split_board_are_large(window: Any, settle: Callable[..., None], size: tuple[int, int], least: int) -> None:
    window.resize(*size)
    settle(lambda: (window.width(), window.height()) == size)
    canvas = window.arrange_room().canvas
    settle(lambda: canvas._scale()[0] * 0.93 >= least)
    if size == WIDE:
        assert canvas._scale()[0] * 0.93 >= 60


def test_what_stands_beside_the_board_folds_by_a_key(window: Any, hands: Any, settle: Callable[..., None]) -> None:
    room = window.arrange_room()
    room.canvas.setFocus()
    before = room.canvas.height()
    hands.strike("z")
    settle(lambda: not room.side.isVisible() and not room.ladder.isVisible() and room.canvas.height() > before)
    hands.strike("z")
    settle(lambda: room.side.isVisible() and room.ladder.isVisible())


@pytest.mark.parametrize("size", [WIDE, SMALL])
def test_no_text_is_under_eleven_pixels(window: Any, settle: Callable[..., None], monkeypatch: pytest.MonkeyPatch,
                                        size: tuple[int, int]) -> None:  # fmt: skip
    """Every text that is painted while each room is looked at, in a large window and in the smallest."""
    painted: set[tuple[int, str]] = set()
    draw = QPainter.drawText

    def seen(painter: QPainter, *what: Any) -> Any:
        painted.add((painter.font().pixelSize(), str(what[-1])))
        return draw(painter, *what)

    monkeypatch.setattr(QPainter, "drawText", seen)
    window.resize(*size)
    for id in ("gather", "arrange", "drill", "weigh"):
        window.go(id)
        window.grab()
    assert len(painted) > 40
    assert not {(px, text) for px, text in painted if 0 < px < 11}
