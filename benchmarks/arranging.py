"""Arranging: the audit of a large folio, whole and after one edit; from an edit to the board painted with it."""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from benchmarks.figures import Figure, alone, office

if TYPE_CHECKING:
    from glimber.core.model.folio import Folio

BINDINGS = 1000
AUDIT_MS, EDIT_MS, PAINT_MS = 150.0, 10.0, 16.0
EDITS, SLOW_EDITS = 400, 120


def figures() -> list[Figure]:
    """Medians for the audit, the 99th percentile of the edits for the paint."""
    return [*_audit(), *_painted()]


def _audit() -> list[Figure]:
    from glimber.core.audit.checks import AuditMemory, audit
    from glimber.core.edit.spots import swap_keys
    from glimber.core.model.folio import Binding, Command
    from glimber.core.notation.keys import parse_trigger
    from glimber.store.toml.reading import open_folio

    folio: Folio = open_folio(office()).folio
    program = folio.programs["shoalwright"]
    have = len(folio.bindings)
    commands, bindings = dict(program.commands), list(program.bindings)
    chance = random.Random(7)
    for number in range(BINDINGS - have):
        id = f"chart-{number}"
        commands[id] = Command(id, "shoalwright", f"Chart {number}", uses_per_day=chance.choice((None, 3.0, 40.0)))
        held = chance.choice(("Ctrl", "Alt", "Ctrl+Alt", "Ctrl+Shift", "Ctrl+Alt+Shift", "Alt+Shift"))
        keys = "".join(chance.choice("ABCDEFGHIJKLMNOPQRSTUVWXYZ") for _ in range(2))
        bindings.append(Binding(id, parse_trigger(f"{held}+{keys[0]} {held}+{keys[1]}"), f"shoalwright/{id}"))
    large = replace(
        folio, programs={**folio.programs, "shoalwright": replace(program, commands=commands, bindings=tuple(bindings))}
    )
    whole, after = [], []
    for _ in range(7):
        bare = replace(large)  # nothing derived from it yet
        began = time.perf_counter()
        found = audit(bare, "bridge")
        whole.append((time.perf_counter() - began) * 1000)
    memory = AuditMemory()
    audit(large, "bridge", memory)
    keys = ("KeyS", "KeyD", "KeyF", "KeyR", "KeyX")
    for number in range(40):
        one, other = keys[number % 5], keys[(number + 1) % 5]
        large = swap_keys(large, ("split-42", "draw", one), ("split-42", "draw", other))
        began = time.perf_counter()
        audit(large, "bridge", memory)
        after.append((time.perf_counter() - began) * 1000)
    note = f"{len(found)} findings"
    return [
        Figure(f"audit of {len(large.bindings):,} bindings", float(np.median(whole)), "ms", AUDIT_MS, note=note),
        Figure(
            "audit after one edit",
            float(np.median(after)),
            "ms",
            EDIT_MS,
            note=f"99th percentile {np.percentile(after, 99):.1f} ms",
        ),
    ]


def _painted() -> list[Figure]:
    """Edits in a real window, each waited for until the board is painted; the files are written all the while."""
    from PySide6.QtCore import QEvent, QObject, Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from glimber.store.settings import load_settings, remember
    from glimber.store.toml.reading import open_folio
    from glimber.ui.arrange.place import Place
    from glimber.ui.shell.app import application, open_window

    remember(introduced=True, last_room="arrange")
    app: QApplication = application("dark")
    window = open_window(open_folio(office()), load_settings(), helper=True)

    def rest(seconds: float) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            app.processEvents()
            time.sleep(0.0005)

    # Whoever strikes keys is at work: the page of the day does not come over the board then, to be painted with it.
    room = window.arrange_room()
    rest(1)
    QTest.keyClick(room.canvas, Qt.Key.Key_Right)
    rest(6)
    window.go("arrange")
    if window.childAt(room.canvas.mapTo(window, room.canvas.rect().center())) is not room.canvas:
        raise AssertionError("the board is covered: it would not be measured alone")
    room.desk.move_to(Place("split-42", "draw", "KeyS"))
    painted: list[float] = []
    written = 0

    class Watch(QObject):
        def eventFilter(self, watched: QObject, event: QEvent) -> bool:
            if event.type() == QEvent.Type.Paint:
                painted.append(time.perf_counter())
            return False

    def count() -> None:
        nonlocal written
        written += 1

    watch = Watch()
    room.canvas.installEventFilter(watch)
    window.session.edits.written.connect(count)
    figures = []
    for edits, pause in ((EDITS, 0.012), (SLOW_EDITS, 0.3)):
        written, took = 0, []
        for one, other in _pairs(edits):
            rest(pause)
            painted.clear()
            began = time.perf_counter()
            window.session.edit("swap", _swap(one, other))
            while not painted:
                app.processEvents()
            app.processEvents()
            took.append((time.perf_counter() - began) * 1000)
        values = np.array(took)
        note = f"median {np.median(values):.1f} ms, worst {values.max():.1f} ms, {len(took)} edits, files written {written} times"
        note = f"{note}; {alone(float(np.median(values)))}"
        name = f"edit to repainted board, {pause * 1000:.0f} ms between edits, 99th percentile"
        figures.append(Figure(name, float(np.percentile(values, 99)), "ms", PAINT_MS, note=note))
    window.close()
    return figures


def _pairs(edits: int) -> list[tuple[str, str]]:
    keys = ("KeyS", "KeyD", "KeyF", "KeyR", "KeyX", "KeyC", "KeyQ")
    pairs = [(keys[number % 7], keys[(number * 3 + 1) % 7]) for number in range(edits)]
    return [(one, other) for one, other in pairs if one != other]


def _swap(one: str, other: str) -> Callable[[Folio], Folio]:
    from glimber.core.edit.spots import swap_keys

    return lambda folio: swap_keys(folio, ("split-42", "draw", one), ("split-42", "draw", other))
