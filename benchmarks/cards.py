"""Cards: laying out a full board against painting it; many into one PDF; one put up by another process."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from benchmarks.figures import Figure, office

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from glimber.core.model.folio import Folio

LAYOUT_MS, LAYOUT_RATIO, PDF_S, LINEAR, UP_MS = 20.0, 3.0, 3.0, 1.3, 100.0
CALLS = 50


def figures() -> list[Figure]:
    """Medians; the 99th percentile of the calls."""
    from benchmarks import readable_cards

    return [*readable_cards.figures(), *_laid_out(), *_written(), *_put_up()]


def _full() -> Folio:
    """The office with every key of the large board bound, each with a name of two words."""
    from glimber.core.model.folio import Binding, Command, Layer, Layout
    from glimber.core.notation.keys import parse_trigger
    from glimber.store.toml.reading import open_folio

    folio = open_folio(office()).folio
    program, bindings = folio.programs["shoalwright"], []
    commands = dict(program.commands)
    names = [command.name for command in program.commands.values()]
    groups = list(program.groups)
    for at, key in enumerate(folio.boards["full-105"].keys):
        commands[f"full-{at}"] = Command(
            f"full-{at}", "shoalwright", names[at % len(names)], group=groups[at % len(groups)]
        )
        bindings.append(Binding(f"full-{at}", parse_trigger(f"full-105:full:{key.id}:tap"), f"shoalwright/full-{at}"))
    layout = Layout("full-105", (Layer("full", "Full", bindings=tuple(bindings)),))
    return replace(folio, programs={**folio.programs, "shoalwright": replace(program, commands=commands)},
                   layouts={**folio.layouts, "full-105": layout})  # fmt: skip


def _timed(do: Callable[[], object], times: int = 9) -> float:
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        do()
        taken.append((time.perf_counter() - began) * 1000)
    return median(taken)


def _laid_out() -> list[Figure]:
    from glimber.core.cards.kinds import draw_card
    from glimber.core.model.shelf import shelf
    from glimber.store.cache.fonts import faces
    from glimber.ui.paint.draw import to_pixmap
    from glimber.ui.shell.app import application

    application("dark")
    folio, type_ = _full(), faces()
    card = replace(shelf(folio)["board-full-105-full"].card, paper="A4")
    drawing = draw_card(folio, card, type_)[0]
    layout = _timed(lambda: draw_card(replace(folio), card, type_))
    paint = _timed(lambda: to_pixmap(drawing, 1600))
    return [
        Figure("laying out a card of 105 keys, median", layout, "ms", LAYOUT_MS),
        Figure("  of the time of painting it 1600 px wide", layout / paint, "x", LAYOUT_RATIO, note=f"{paint:.1f} ms"),
    ]


def _written() -> list[Figure]:
    from glimber.core.cards.kinds import draw_card
    from glimber.core.model.shelf import shelf
    from glimber.store.cache.fonts import faces
    from glimber.store.toml.reading import open_folio
    from glimber.ui.paint.pdf import pdf_bytes

    folio = open_folio(office()).folio
    cards = [one.card for one in shelf(folio).values()]

    def write(count: int) -> float:
        began = time.perf_counter()
        pdf_bytes([draw_card(folio, cards[at % len(cards)], faces())[0] for at in range(count)])
        return time.perf_counter() - began

    write(4)
    few, many = min(write(40) for _ in range(3)), min(write(160) for _ in range(2))
    return [
        Figure("40 cards into one PDF", few, "s", PDF_S),
        Figure("  160 cards, of four times that", many / few / 4, "x", LINEAR, note=f"{many:.1f} s"),
    ]


def _wait_for_rest(app: QApplication) -> None:
    """Carry out events until none has taken more than 5 ms for two seconds."""
    busy = time.monotonic()
    while time.monotonic() - busy < 2:
        began = time.monotonic()
        app.processEvents()
        if time.monotonic() - began > 0.005:
            busy = time.monotonic()


def _put_up() -> list[Figure]:
    """From the call of ``glimber up`` to its answer, which comes when the window is shown."""
    from glimber.store.settings import load_settings
    from glimber.store.toml.reading import open_folio
    from glimber.ui.shell.app import application, open_window

    app = application("dark")
    window = open_window(open_folio(office()), load_settings())
    until = time.monotonic() + 20
    while window.session.ledger is None and time.monotonic() < until:
        app.processEvents()
    _wait_for_rest(app)  # rooms and thumbs are worked out after opening; that is not the cost of a card
    within, whole = [], []
    up = window.cards_room().up()
    for _ in range(CALLS):
        began = time.perf_counter()
        up.toggle("draw")
        app.processEvents()
        within.append((time.perf_counter() - began) * 1000)
        up.toggle("draw")
        app.processEvents()
    for _ in range(CALLS):
        began = time.perf_counter()
        call = subprocess.Popen([Path(sys.executable).with_name("glimber"), "up", "draw"], stdout=subprocess.DEVNULL)
        while call.poll() is None:
            app.processEvents()
            time.sleep(0.0005)
        whole.append((time.perf_counter() - began) * 1000)
    window.close()
    return [
        Figure("a card put up or down, from being asked, p99 of 50", float(np.percentile(within, 99)), "ms", UP_MS,
               note=f"median {median(within):.0f} ms"),
        Figure("  the whole call of glimber up, p99 of 50", float(np.percentile(whole, 99)), "ms", UP_MS,
               note=f"median {median(whole):.0f} ms, of which Python's own start is most"),
    ]  # fmt: skip
