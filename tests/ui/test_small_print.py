"""No text on screen is under 11 px, and the board has the room there is."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QRect
from PySide6.QtGui import QPainter

from glimber.ui.shell.scroll_frame import place_in
from tests.helpers import write_folio
from tests.ui.kinds import OpenRoom, Settle

WIDE = 1280, 800
SMALL = 1000, 560


@pytest.fixture
def window(tmp_path: Path, open_room: OpenRoom) -> Any:
    return open_room(write_folio(tmp_path / "small"), "arrange")


@pytest.mark.parametrize(("size", "least"), [(WIDE, 60), (SMALL, 44)])
def test_keys_of_the_split_board_are_large(window: Any, settle: Settle, size: tuple[int, int], least: int) -> None:
    window.resize(*size)
    settle(lambda: (window.width(), window.height()) == size)
    canvas = window.arrange_room().canvas
    settle(lambda: canvas._scale()[0] * 0.93 >= least)
    if size == WIDE:
        assert canvas._scale()[0] * 0.93 >= 60


def test_what_stands_beside_the_board_folds_by_a_key(window: Any, hands: Any, settle: Settle) -> None:
    room = window.arrange_room()
    room.canvas.setFocus()
    before = room.canvas.height()
    hands.strike("z")
    settle(lambda: not room.side.isVisible() and not room.ladder.isVisible() and room.canvas.height() > before)
    hands.strike("z")
    settle(lambda: room.side.isVisible() and room.ladder.isVisible())


@pytest.mark.parametrize("size", [WIDE, SMALL])
def test_no_text_is_under_eleven_pixels(window: Any, settle: Settle, monkeypatch: pytest.MonkeyPatch,
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


def seen_of(window: Any) -> Any:
    """The part of the desk that is on the screen."""
    glass = window.glass
    return QRect(
        glass.horizontalScrollBar().value(), glass.verticalScrollBar().value(), glass.viewport().width(), glass.viewport().height()
    )


def hand_of(window: Any) -> Any:
    widget = window.focusWidget()
    here = place_in(widget)
    return QRect(widget.mapTo(window.desk, here.topLeft()), here.size())


def test_at_twice_the_size_on_a_small_screen_what_is_seen_follows_the_hand(window: Any, hands: Any, settle: Settle) -> None:
    """1280 × 800 at 200 % are 640 × 372 of the desk, below a window's frame. Nothing is cut off: the rest is come by."""
    window.setMinimumSize(0, 0)
    window.resize(640, 372)
    settle(lambda: window.glass.width() == 640 and (window.desk.width(), window.desk.height()) == SMALL)
    canvas = window.arrange_room().canvas
    canvas.setFocus()
    for key in ("End", "Down", "Left", "Up", "Home", "Up"):
        hands.strike(*[key] * 3)
        settle(lambda: seen_of(window).contains(hand_of(window)))
        assert canvas.hasFocus() and hand_of(window).width() < 200  # a key, not the whole board
    window.go("weigh")
    hands.strike(*["Down"] * 3)
    settle(lambda: window.weigh_room().ledger.current == min(3, len(window.weigh_room().ledger.rows) - 1))
    settle(lambda: seen_of(window).intersects(hand_of(window)))
    hands.strike("ctrl+comma")
    settle(lambda: window.settings().isVisible())
    hands.strike("End")
    settle(lambda: seen_of(window).top() <= hand_of(window).top() and hand_of(window).bottom() <= seen_of(window).bottom())
    hands.strike("Escape")
    window.drill(["sounding-s"])
    settle(lambda: window.desk.width() == 640 and window.desk.height() == 372)  # a prompt has room enough
    window.drill_room().put_aside()
    settle(lambda: (window.desk.width(), window.desk.height()) == SMALL)
    window.resize(*WIDE)
    settle(lambda: window.desk.size() == window.glass.size() and window.glass.width() == WIDE[0])
    assert seen_of(window) == window.desk.rect()
