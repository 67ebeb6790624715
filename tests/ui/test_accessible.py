"""For who does not see it, or sees it badly: names for everything that takes the focus, words in the tree, contrast as it is
painted, no word cut off; in both themes, in the smallest window and in a large one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QAbstractButton, QApplication, QLabel, QWidget

from glimber.ui.paint.look import THEMES
from glimber.ui.session.actions import ROOMS
from tests.helpers import tries_of, write_folio
from tests.ui.kinds import OpenRoom, Settle
from tests.ui.test_rooms import contrast

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"


@pytest.fixture
def window(tmp_path: Path, open_room: OpenRoom) -> Any:
    from glimber.store.practice.log import open_log

    folder = write_folio(tmp_path / "small")
    with open_log(folder, "practice.db") as log:
        log.add(
            *tries_of("sounding-s", S, ["hit", "hit", ("neighbour", D, "shoalwright/depth-range")] * 14),
            *tries_of("range-d", D, ["hit"] * 20),
        )
    return open_room(folder, "gather")


def screens(window: Any, settle: Settle) -> Iterator[str]:
    """Every room, and what lies over them."""
    for room in ROOMS:
        window.go(room)
        settle(window.rooms[room].isVisible)
        QApplication.processEvents()
        yield room
    window.settings().open()
    yield "settings"
    window.settings().dismiss()
    window.begin().ask()
    yield "the first question"
    window.chooser().dismiss()


def shown(window: Any, kind: type) -> list[Any]:
    return [one for one in window.findChildren(kind) if one.isVisible() and not one.visibleRegion().isEmpty()]


@pytest.mark.parametrize("theme", sorted(THEMES))
def test_text_is_told_from_its_ground_as_it_is_painted(window: Any, theme: str, settle: Settle) -> None:
    window.use_theme(theme)
    window.refresh_stale()
    seen = 0
    for screen in screens(window, settle):
        whole = window.grab().toImage()
        over = [one for one in (window.settings(), window.chooser()) if one.isVisible()]
        for one in [*shown(window, QLabel), *shown(window, QAbstractButton)]:
            if over and not over[0].isAncestorOf(one):
                continue  # it lies dimmed below what is asked
            if not one.isEnabled() or not one.text().strip() or one.visibleRegion().boundingRect() != one.rect():
                continue
            image = whole.copy(QRect(one.mapTo(window, QPoint(0, 0)), one.size()))
            colours = Counter(image.pixelColor(x, y).name() for x in range(image.width()) for y in range(image.height()))
            ground = colours.most_common(1)[0][0]
            best = max(contrast(colour, ground) for colour in colours)
            assert best >= 4.5, (screen, type(one).__name__, one.text(), round(best, 2), ground)
            seen += 1
    window.use_theme("dark")
    assert seen > 30


def test_whatever_takes_the_focus_has_a_name_and_every_room_says_what_is_in_it(window: Any, settle: Settle) -> None:
    for screen in screens(window, settle):
        for one in shown(window, QWidget):
            if one.focusPolicy() & Qt.FocusPolicy.TabFocus and one.isEnabled():
                told = QAccessible.queryAccessibleInterface(one)
                assert told.text(QAccessible.Text.Name).strip(), (screen, type(one).__name__, one.objectName())
    words = {room: said(window, window.rooms[room], settle) for room in ROOMS}
    assert "Quay list" in words["gather"]  # a row of the bench
    assert "Space; brings this layer in" in words["arrange"] or "On this layer: " in words["arrange"]  # every key of the board
    assert "Draw" in words["cards"]
    assert "Add sounding" in words["drill"]  # what is due
    assert "Add sounding" in words["weigh"] and any(choice in words["weigh"] for choice in ("move", "keep", "practise"))


def said(window: Any, room: Any, settle: Settle) -> str:
    """Every name, description and value in the tree below a room, as a screen reader walks it."""
    window.go(room.id)
    settle(room.isVisible)
    found: list[str] = []

    def walk(one: Any, deep: int) -> None:
        if one is None or not one.isValid() or deep > 12:
            return
        found.extend(one.text(kind) for kind in (QAccessible.Text.Name, QAccessible.Text.Description, QAccessible.Text.Value))
        for place in range(min(one.childCount(), 300)):
            walk(one.child(place), deep + 1)

    walk(QAccessible.queryAccessibleInterface(room), 0)
    return "\n".join(found)


@pytest.mark.parametrize("size", [(1024, 600), (1280, 800), (1440, 930)])
def test_no_word_is_cut_off(window: Any, size: tuple[int, int], settle: Settle) -> None:
    window.resize(*size)
    settle(lambda: window.width() == size[0])
    for screen in screens(window, settle):
        for one in [*shown(window, QLabel), *shown(window, QAbstractButton)]:
            wraps = isinstance(one, QLabel) and one.wordWrap()
            if not one.text().strip() or wraps or one.toolTip() or "…" in one.text():
                continue
            assert one.sizeHint().width() <= one.width() + 1, (screen, type(one).__name__, one.text(), one.sizeHint().width(), one.width())
