"""What every action shows, as it was when somebody looked at it: the words, the roles and the fixed sizes of all that is in view.

``RECORD=1 script/test tests/ui/test_recorded.py`` records anew; read the difference.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from difflib import unified_diff
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QSize, QTimer
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import QFileDialog, QLayout, QScrollBar, QWidget

from glimber.ui.session.actions import ANYWHERE
from glimber.ui.session.session import Session
from glimber.ui.shell.top_line import LoopWords
from tests.helpers import tries_of, write_folio
from tests.recorded import assert_recorded
from tests.ui.kinds import OpenRoom

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
NOW = datetime(2026, 11, 25, 10, 30, tzinfo=UTC)
CARD = 'format = "glimber-card/1"\ntitle = "{0}"\nkind = "{1}"\nboard = "split-42"\nlayers = ["draw"]\n'
LOOK_MS, MOST_MS, ENOUGH_ALIKE = 20, 9000, 2
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


def is_at_rest(window: Any) -> bool:
    """Return True while no work is under way, and none waits to begin a moment later; what waits is made to come sooner."""
    waiting = [one for one in window.findChildren(QTimer) if one.isActive() and one.isSingleShot() and one.interval() <= SOON_MS]
    for timer in waiting:
        if timer.interval() > AT_ONCE_MS:
            timer.setInterval(AT_ONCE_MS)
    return not waiting and not window.session.jobs.names()


def still(window: Any, qtbot: Any) -> list[str]:
    """What is in view once nothing changes any more."""
    before: list[str] = []
    alike = 0
    for _ in range(MOST_MS // LOOK_MS):
        qtbot.wait(LOOK_MS)
        now = list(in_view(window)) if is_at_rest(window) else []
        alike = alike + 1 if now and now == before else 0
        if alike == ENOUGH_ALIKE:  # what a job brings comes in through the loop of events, after the job has ended
            return now
        before = now
    raise AssertionError("it did not come to rest")


PAGE = b"""<html><head><title>Shoalwright keys</title></head><body><h1>Keyboard shortcuts</h1>
<table><tr><th>Action</th><th>Windows/Linux</th></tr>
<tr><td>Add sounding</td><td>Ctrl+Shift+S</td></tr>
<tr><td>Lead line</td><td>Ctrl+Shift+H (Cmd+Shift+H on macOS)</td></tr>
<tr><td>Fathom mark</td><td>Ctrl+Frob</td></tr>
<tr><td>14</td><td>Ctrl+Alt+B</td></tr></table></body></html>"""
ELSEWHERE = frozenset({"drill-begin", "weigh-drill", "drill-sprint-begin"})
"""Actions that begin a round, where every key is an answer and nothing comes to rest."""


@pytest.fixture(autouse=True)
def one_moment(monkeypatch: pytest.MonkeyPatch) -> None:
    """Stop the clock by which bindings are judged."""
    begin = Session.__init__

    def begun(self: Session, *given: Any, **named: Any) -> None:
        begin(self, *given, **(named | {"now": lambda: NOW}))

    monkeypatch.setattr(Session, "__init__", begun)


@pytest.fixture
def asked(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The questions for files, which nobody answers."""
    questions: list[str] = []

    def ask(name: str, nothing: object) -> Callable[..., object]:
        def answer(_: object, title: str = "", *rest: object, **named: object) -> object:
            questions.append(f"{name}: {title}")
            return nothing

        return answer

    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, ask(name, ("", "")))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", ask("getExistingDirectory", ""))
    return questions


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    cards = {"draw": ("Draw", "board"), "strip": ("Strip", "strip")}
    outcomes: list[Any] = ["hit", "hit", ("neighbour", D, "shoalwright/depth-range")] * 14
    return write_folio(
        tmp_path / "small",
        {f"cards/{id}.toml": CARD.format(*rest) for id, rest in cards.items()},
        tried=[*tries_of("sounding-s", S, outcomes), *tries_of("range-d", D, ["hit"] * 20)],
    )


def recorded(window: Any, room: str, of: str, asked: list[str], qtbot: Any) -> list[str]:
    """What is in view in a room, and for each action that is offered there what it changes."""
    lines = still(window, qtbot)
    found = [f"# {room}", *lines]
    for action in sorted(window.registry.of_room(room), key=lambda one: one.id):
        if action.room != of or action.id in ELSEWHERE or action not in window.registry.offered(room):
            continue
        before, questions = lines, len(asked)
        window.registry.carry_out(action.id)
        lines = still(window, qtbot)
        changed = (line for line in unified_diff(before, lines, lineterm="", n=0) if line[:3] not in ("---", "+++") and line[:2] != "@@")
        found += ["", f"## {action.id}: {action.name}", *asked[questions:], *changed]
    return found


def test_gather(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    assert_recorded("room-gather", recorded(open_room(folder, "gather"), "gather", "gather", asked, qtbot))


def test_arrange(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    assert_recorded("room-arrange", recorded(open_room(folder, "arrange"), "arrange", "arrange", asked, qtbot))


def test_cards(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    assert_recorded("room-cards", recorded(open_room(folder, "cards"), "cards", "cards", asked, qtbot))


def test_drill(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    assert_recorded("room-drill", recorded(open_room(folder, "drill"), "drill", "drill", asked, qtbot))


def test_weigh(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    assert_recorded("room-weigh", recorded(open_room(folder, "weigh"), "weigh", "weigh", asked, qtbot))


def test_gather_with_a_page_on_the_desk(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    window = open_room(folder, "gather")
    window.room("gather").desk.read_bytes("shoalwright-keys.html", PAGE)
    assert_recorded("room-gather-page", recorded(window, "gather", "gather", asked, qtbot))


def test_what_works_in_every_room(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    window = open_room(folder, "cards")
    assert_recorded("room-any", recorded(window, "cards", ANYWHERE, asked, qtbot))
