"""Takes the pictures of docs/screenshots anew from the demo, in a real window at 1280 × 800. Run by script/pictures."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QApplication

from glimber.core.cards.kinds import draw_card
from glimber.core.drawing.drawing import Group, Rect
from glimber.core.drawing.print_sheet import print_sheets
from glimber.core.engine.events import Event
from glimber.core.engine.perform import perform
from glimber.core.engine.standin_keys import board_keys
from glimber.core.model.card_bindings import Known, Moved
from glimber.core.model.folio import Card, Source
from glimber.core.model.shelf import shelf
from glimber.core.notation.keys import Spot, Trigger, parse_trigger
from glimber.core.practice.counting import Count
from glimber.core.practice.watched import watched
from glimber.demo.build import make_demo
from glimber.store.cache.fonts import faces
from glimber.store.cache.icons import icon
from glimber.store.settings import load_settings, remember
from glimber.store.tally import change_tally
from glimber.store.toml.reading import open_folio
from glimber.store.work.running import begin, end
from glimber.ui.capture.keystrokes import monotonic_ms
from glimber.ui.paint.draw import to_pixmap
from glimber.ui.shell.app import application, open_window

TO = Path(__file__).parent / "screenshots"
ROUND = ["sounding-s", "contour-z", "hachures-f", "next-p", "snap-chord"]


class Shots:
    """One window on a fresh demo, and the hand that uses it."""

    def __init__(self, folder: Path) -> None:
        remember(computer="bridge", introduced=True, day_page="never", last_room="cards", theme="dark")
        self.app: QApplication = application("dark")
        self.window: Any = open_window(open_folio(folder), load_settings())
        self.until(lambda: len(self.window.rooms) == 5 and self.window.session.ledger is not None)
        self.rest(1.5)

    def until(self, done: Callable[[], bool], seconds: float = 20.0) -> None:
        end = time.monotonic() + seconds
        while not done() and time.monotonic() < end:
            self.app.processEvents()
            time.sleep(0.002)

    def rest(self, seconds: float = 0.4) -> None:
        self.until(lambda: False, seconds)

    def take(self, name: str) -> None:
        self.rest()
        self.window.grab().save(str(TO / f"{name}.png"))

    def strike(self, trigger: Trigger | None = None) -> None:
        """Carry out a trigger at the present prompt as a hand would; the wanted one unless another is given."""
        room = self.window.room("drill")
        play = room.play
        wanted = trigger or play.binding.trigger
        folio, count = play.drill.folio, len(play.tries)
        codes = (
            {key: code for code, key in board_keys(folio.boards[wanted.board]).items()}
            if isinstance(wanted, Spot)
            else {}
        )
        begin = monotonic_ms() + 30
        for event in perform(folio, wanted):
            self.until(lambda event=event: monotonic_ms() >= begin + event.t)  # type: ignore[misc]
            play.take(Event(monotonic_ms(), event.kind, codes.get(event.key, event.key)), 0.0)
        self.until(lambda: len(play.tries) > count)
        self.until(lambda: room.play is None or play.prompt_ms is not None)


def kinds(folder: Path) -> None:
    """A print sheet with a card of each kind, from the real output."""
    folio = open_folio(folder).folio
    known = Known({}, tuple(Moved("2026-11-02", id, f"split-42:draw:{was}:tap", f"split-42:draw:{now}:tap")
                            for id, was, now in (("sounding-s", "KeyB", "KeyS"), ("next-p", "Semicolon", "KeyP"))))  # fmt: skip
    facing = Card("moved", "What moved", "facing", "split-42", ("draw",), paper="A4", landscape=False)
    cards = [shelf(folio)[id].card for id in ("sheet-shoalwright", "keyboard-shoalwright", "draw", "grid-shoalwright", "branch-shoalwright")]
    sheets = [draw_card(folio, card, faces(), folio.settings.title, icon, known)[0] for card in (*cards, facing)]
    page = print_sheets(sheets, "A3", 6)[0]
    white = Group((Rect(0, 0, page.width, page.height, fill="tile"),))
    to_pixmap(replace(page, groups=(white, *page.groups)), 1280).save(str(TO / "card-kinds.png"))


def cards_up(window: Any, shots: Shots) -> None:
    """A card over Arrange, as the screen has it."""
    up = window.cards_room().up()
    up.toggle("draw")
    card = up.up["draw"]
    at = window.mapToGlobal(window.rect().bottomRight())
    card.setGeometry(at.x() - 700, at.y() - 500, 640, 451)
    shots.rest(0.6)
    place = window.geometry()
    window.screen().grabWindow(0, place.x(), place.y(), place.width(), place.height()).save(str(TO / "card-up.png"))
    up.toggle("draw")


def weighing(window: Any, shots: Shots) -> None:
    """The case with what settles above; a layer rearranged; how it goes; and the field by day, with two that are taken for each other."""
    window.weigh("sounding-s")
    shots.take("weigh")
    room = window.room("weigh")
    room.rearrange()
    shots.until(lambda: room.rearranging.made is not None and room.rearranging().isVisible())
    room.rearranging().go_to(4)
    shots.take("weigh-rearrange")
    room.rearranging().dismiss()
    room.reports().show()
    shots.until(lambda: window.overlay().isVisible())
    shots.take("weigh-report")
    window.overlay().dismiss()
    window.weigh("hachures-f")
    window.weigh("sounding-s")


def counted(folder: Path, today: date) -> None:
    """Nine days of counting at work, made up."""
    random, counts = Random(3), []
    days = [(today - timedelta(days=n)).isoformat() for n in range(9)]
    for place, id in enumerate(sorted(watched(open_folio(folder).folio, "bridge").countable)):
        for day in days:
            counts += [Count("struck", id, day)] * max(0, round(random.gauss(30 / (place + 1), 3)))
            counts += [Count("undone", id, day)] * (random.random() < 0.2)
    change_tally(folder, lambda tally: tally.with_counts(counts, days))


def at_work(window: Any, folder: Path, shots: Shots) -> None:
    """The day's page, the tally and a difference before it is set."""
    counted(folder, datetime.now().date())
    (folder / "shoalwright-keys.csv").write_text("Command;Keys\nAdd buoy;Ctrl+Shift+B\nFlip hachures;Ctrl+Alt+H\nSnap to graticule;Ctrl+Shift+G\n")
    session = window.session
    source = Source("charts", path="shoalwright-keys.csv", program="shoalwright")
    session.edit("link", lambda folio: replace(folio, settings=replace(folio.settings, sources={**folio.settings.sources, "charts": source})))
    session.take_move("snap-chord", parse_trigger("Ctrl+Alt+G"), False, "nearer to the pan keys", "move", "works")
    session.flush()
    shots.rest(3.0)
    window.go("weigh")
    window.weigh_room().set_it()
    shots.until(lambda: window.page_over.made is not None and window.page_over().isVisible())
    shots.take("set")
    window.page_over().dismiss()
    session.undo()
    session.flush()
    begin(folder)
    window.at_work().show()
    shots.take("tally")
    window.page_over().dismiss()
    end(folder)
    window.at_work().look()
    window.day_page().show()
    shots.until(lambda: window.day_page().sheet.isVisible())
    shots.take("day")
    window.day_page().sheet.dismiss()


def main() -> None:
    TO.mkdir(exist_ok=True)
    folder = Path(tempfile.mkdtemp()) / "chart-office"
    make_demo(folder, datetime.now(UTC), "bridge")
    shots = Shots(folder)
    window = shots.window
    window.show_card("keyboard-shoalwright")
    shots.take("card-keyboard")
    window.show_card("sheet-shoalwright")
    shots.take("cards")
    kinds(folder)
    window.go("arrange")
    shots.rest(0.6)
    cards_up(window, shots)
    window.go("gather")
    for source in ("desktop", "namewell-list", "shoalwright-page"):
        window.room("gather").desk.read_source(source)
        shots.rest(1.2)
    shots.take("gather")
    window.room("gather").put_away()
    shots.rest()
    window.go("arrange")
    room = window.room("arrange")
    room.choose("sounding-s")
    shots.take("arrange")
    room.sequences.show_tree()
    shots.take("sequences")
    room.tree().dismiss()
    room.desk.go_board("chords/shoalwright")
    shots.rest(0.6)
    shots.take("arrange-keyboard")
    at_work(window, folder, shots)
    weighing(window, shots)
    window.go("drill")
    shots.take("drill")
    room = window.room("drill")
    room.sort()
    shots.take("drill-sort")
    room.sorting.dismiss()
    room.show_setup()
    room.begin_with(ROUND, seed=3)
    shots.until(lambda: room.play.prompt_ms is not None)
    for _ in range(7):
        shots.strike()
    shots.take("drill-prompt")
    slipped = False
    while room.play is not None:
        if room.play.binding.id == "sounding-s" and not slipped:
            slipped = True
            shots.strike(parse_trigger("split-42:draw:KeyD:tap"))
            shots.take("drill-slip")
        shots.strike()
    shots.rest(4.0)
    shots.take("drill-sheet")
    window.close()


if __name__ == "__main__":
    main()
