"""Records what is in view after each step of a person: words, roles and fixed sizes, and pictures."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from difflib import unified_diff
from typing import Any

from PySide6.QtCore import QSize, QTimer
from PySide6.QtGui import QAccessible, QAccessibleInterface, QCursor
from PySide6.QtWidgets import QApplication, QLayout, QScrollBar, QWidget

from glimber.ui.cards.shelf import Shelf
from glimber.ui.drill.play import RoundPlay
from glimber.ui.shell.top_line import LoopWords
from tests.recorded import RECORDING, assert_recorded, recorded_lines
from tests.ui.painted import pictures_of, way_of_painting

LOOK_MS, MOST_MS, ENOUGH_RESTS = 20, 9000, 4
SOON_MS, AT_ONCE_MS = 3000, 10
LARGEST, MOST_ITEMS = 16777215, 60
CHANGING = re.compile(r"/\S*pytest-\S*|\b\d\d:\d\d\b|\b\d+ ms\b")
"""Folders of a run, times of day and what was measured."""


def sizes(widget: QWidget) -> str:
    """The sizes that the code gives a widget, and the spaces of its layout; none of those that letters decide."""
    least, most = widget.minimumSize(), widget.maximumSize()
    said = [
        f"{name} {size.width()} × {size.height()}"
        for name, size, usual in (("least", least, QSize()), ("most", most, QSize(LARGEST, LARGEST)))
        if size != usual and not size.isNull() and not isinstance(widget, LoopWords)
    ]
    layout = widget.layout()
    if isinstance(layout, QLayout):
        edges = layout.contentsMargins()
        said.append(f"layout {layout.spacing()} ({edges.left()} {edges.top()} {edges.right()} {edges.bottom()})")
    return "; ".join(said)


def words_of(face: QAccessibleInterface | None) -> str:
    """What an item says to who does not see it: its name, its description and its value."""
    texts = [face.text(kind) for kind in (QAccessible.Text.Name, QAccessible.Text.Description, QAccessible.Text.Value)] if face else []
    return CHANGING.sub("…", " | ".join(" ".join(text.split()) for text in texts if text))


def in_view(widget: QWidget, depth: int = 0) -> Iterator[str]:
    """A line for each visible widget, and for each item in it that is no widget."""
    face = QAccessible.queryAccessibleInterface(widget)
    focus, off = "*" if widget.hasFocus() else "", "" if widget.isEnabled() else " (off)"
    yield f"{'  ' * depth}{focus}{type(widget).__name__} {widget.objectName()}{off} {sizes(widget)}: {words_of(face)}"
    for place in range(min(face.childCount(), MOST_ITEMS) if face is not None else 0):
        inner = face.child(place)
        if inner is not None and inner.isValid() and inner.object() is None and words_of(inner):
            yield f"{'  ' * (depth + 1)}- {words_of(inner)}"
    inside = [one for one in widget.children() if isinstance(one, QWidget) and one.isVisible() and not isinstance(one, QScrollBar)]
    for below in sorted(inside, key=lambda one: (one.y(), one.x(), type(one).__name__)):
        yield from in_view(below, depth + 1)


class RoundClock:
    """The clock of a round, in ms, which goes on only when somebody strikes a key, or when the round waits for a moment."""

    def __init__(self) -> None:
        self.ms = 1_000_000.0

    def __call__(self) -> float:
        return self.ms


def under_way(window: Any, clock: RoundClock | None = None) -> list[str]:
    """Return the jobs under way and the timers that are due soon, by name; the timers are made to fire at once."""
    waiting = [one for one in window.findChildren(QTimer) if one.isActive() and one.isSingleShot() and one.interval() <= SOON_MS]
    for timer in waiting:
        if timer.interval() > AT_ONCE_MS:
            if clock is not None and isinstance(parent := timer.parent(), RoundPlay) and timer is parent._timer:
                clock.ms += timer.interval()
            timer.setInterval(AT_ONCE_MS)
    return [
        *(f"timer of {type(timer.parent()).__name__}" for timer in waiting),
        *("a shelf" for shelf in window.findChildren(Shelf) if shelf.is_drawing),
        # A weighing that begins during a round is held until the round has ended.
        *(name for name in window.session.jobs.names() if name != "weighing" or not window.session._round_on),
    ]


def still(window: Any, qtbot: Any, clock: RoundClock | None = None) -> list[str]:
    """What is in view once nothing changes any more."""
    before: list[str] = []
    rested = 0
    for _ in range(MOST_MS // LOOK_MS):
        qtbot.wait(LOOK_MS)
        busy = under_way(window, clock)
        rested = 0 if busy else rested + 1
        if rested >= ENOUGH_RESTS:  # what a job brings comes in through the loop of events, after the job has ended
            now = list(in_view(window))
            if now == before:
                return now
            before = now
    raise AssertionError(f"it did not come to rest: {', '.join(busy) or 'what is in view changes'}")


def changed(before: list[str], after: list[str]) -> Iterator[str]:
    """The lines that came or went."""
    return (line for line in unified_diff(before, after, lineterm="", n=0) if line[:3] not in ("---", "+++") and line[:2] != "@@")


class Recording:
    """What is in view of a window at first, and what each step changes there."""

    def __init__(self, window: Any, qtbot: Any, clock: RoundClock | None = None) -> None:
        QApplication.setCursorFlashTime(0)
        QCursor.setPos(0, 0)
        self._window, self._qtbot, self._clock = window, qtbot, clock
        self._lines, self._pictures = still(window, qtbot, clock), list(pictures_of(window))
        self._words = list(self._lines)
        self._painted = [way_of_painting(), *self._pictures]

    def step(self, head: str, do: Callable[[], object], questions: list[str] | None = None) -> None:
        """Do something, wait until nothing changes any more, and note what is in view now that was not, and the questions asked."""
        lines, pictures, known = self._lines, self._pictures, len(questions or ())
        do()
        self._lines, self._pictures = still(self._window, self._qtbot, self._clock), list(pictures_of(self._window))
        headed = ["", f"## {head}", *(questions or ())[known:]]
        self._words += [*headed, *changed(lines, self._lines)]
        self._painted += [*headed, *(line for line in changed(pictures, self._pictures) if line[0] == "+")]

    def check(self, name: str, pictures: bool = True) -> None:
        """Compare with what is recorded; pictures where this machine paints as the one on which they were recorded."""
        assert_recorded(name, self._words)
        if pictures and (RECORDING or self._painted[0] == recorded_lines(f"pictures/{name}")[0]):
            assert_recorded(f"pictures/{name}", self._painted)
