"""The Cards room used as a person would: cards by themselves, changed, undone, written, and put up over the desktop."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QPushButton, QWidget

from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import new_folio
from glimber.ui.cards.putup import FAINTEST, NARROWEST, place_of
from tests.ui.choosing import heard
from tests.ui.kinds import OpenRoom, Settle

PAGE = """<h1>Shoalwright</h1><h2>Survey</h2><table><tr><th>Command</th><th>Shortcut</th></tr>
<tr><td>Add sounding</td><td><kbd>Ctrl</kbd>+<kbd>Shift</kbd>+<kbd>S</kbd></td></tr>
<tr><td>Depth range</td><td><kbd>Ctrl</kbd>+<kbd>D</kbd></td></tr><tr><td>Tide table</td><td><kbd>F6</kbd></td></tr></table>"""


@pytest.fixture
def ready(qtbot: Any, settle: Settle) -> Callable[[Any], None]:
    """Wait until the shelf has the keyboard, for the X server too, which tells of it a moment later."""

    def wait(room: Any) -> None:
        settle(room.shelf.hasFocus)
        qtbot.wait(300)

    return wait


def ids(room: Any) -> list[str]:
    found: list[str] = room.shelf.ids()
    return found


def test_a_page_read_into_an_empty_folio_is_a_card(tmp_path: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    """Read, taken, Ctrl+3: a finished sheet; its paper changed, undone; written as PDF."""
    folder = tmp_path / "mine"
    new_folio(folder, "Mine", "split-42")
    (tmp_path / "keys.html").write_text(PAGE)
    done = subprocess.run([sys.executable, "-m", "glimber", "read", str(tmp_path / "keys.html"), "--program", "Shoalwright", "--into",
                           str(folder)], check=False)  # fmt: skip
    assert done.returncode == 0
    window = open_room(folder, "gather")
    hands.strike("+Control_L", 0.02, "+3", 0.02, "-3", "-Control_L")
    settle(lambda: window.current == "cards")
    room = window.room("cards")
    assert ids(room) == ["sheet-shoalwright", "keyboard-shoalwright", "grid-shoalwright"] and room.sheet.drawing.title == "Shoalwright"
    assert not list((folder / "cards").glob("*.toml"))
    width = room.sheet.drawing.width
    hands.tap("o")
    settle(lambda: room.sheet.drawing.width != width)
    settle(lambda: (folder / "cards" / "sheet-shoalwright.toml").exists())
    hands.strike("+Control_L", 0.02, "+z", 0.02, "-z", "-Control_L")
    settle(lambda: room.sheet.drawing.width == width)
    settle(lambda: not (folder / "cards" / "sheet-shoalwright.toml").exists())
    room.write_to(tmp_path / "sheet.pdf")
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")


def test_a_card_is_changed(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle, qtbot: Any, ready: Callable[[Any], None]) -> None:
    window = open_room(folder, "cards")
    room = window.room("cards")
    room.show_card("board-split-42-draw")
    ready(room)
    hands.tap("r")
    settle(lambda: "reasons" in room.card().shows)
    qtbot.mouseClick(room.options.buttons["legend"], Qt.MouseButton.LeftButton)
    settle(lambda: "legend" not in room.card().shows)
    settle(lambda: getattr(open_folio(folder).folio.cards.get("board-split-42-draw"), "shows", ()) == ("labels", "holds", "reasons"))
    told = heard(window.session)
    hands.tap("b")
    settle(lambda: bool(told))
    assert told == ["a card shows labels or icons, or both"]
    hands.tap("Delete")
    settle(lambda: "legend" in room.card().shows and not room.session.folio.cards)


def test_sheets_of_a_card_are_turned(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle, ready: Callable[[Any], None]) -> None:
    (folder / "cards").mkdir()
    (folder / "cards" / "tiny.toml").write_text(
        'format = "glimber-card/1"\ntitle = "Tiny"\nkind = "board"\nboard = "split-42"\nlayers = ["draw"]\npaper = "index"\n'
        'landscape = false\nshows = ["labels", "holds", "reasons"]\n'
    )
    room = open_room(folder, "cards").room("cards")
    room.show_card("tiny")
    ready(room)
    first = room.sheet.drawing.title
    assert first.endswith("(1 of 3)") or first.endswith("(1 of 2)")
    hands.tap("Next")
    settle(lambda: room.sheet.drawing.title != first)
    hands.tap("Prior")
    settle(lambda: room.sheet.drawing.title == first)


def test_a_card_is_copied_as_picture_and_drawing(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    room = open_room(folder, "cards").room("cards")
    room.copy_picture()
    data = QGuiApplication.clipboard().mimeData()
    assert data.hasImage() and bytes(data.data("image/svg+xml").data()).startswith(b"<svg")


def test_all_cards_are_written_into_one_pdf(folder: Path, open_room: OpenRoom, tmp_path: Path, settle: Settle) -> None:
    from pypdf import PdfReader

    room = open_room(folder, "cards").room("cards")
    room.output.write_all(tmp_path / "all.pdf")
    settle((tmp_path / "all.pdf").exists)
    pdf = PdfReader(tmp_path / "all.pdf")
    assert len(pdf.pages) == len(ids(room)) == len(pdf.outline)
    for page, id in zip(pdf.pages, ids(room), strict=True):
        drawing = room.drawing_of(id)
        size = [float(one) * 25.4 / 72 for one in (page.mediabox.width, page.mediabox.height)]
        assert size == pytest.approx([drawing.width, drawing.height], abs=0.1)
    assert "Depth range" in "".join(page.extract_text() for page in pdf.pages).replace("\t", " ")


def test_a_card_is_walked_through_with_keys_and_its_words_are_changed(
    folder: Path, open_room: OpenRoom, hands: Any, settle: Settle, ready: Callable[[Any], None], monkeypatch: pytest.MonkeyPatch
) -> None:
    room = open_room(folder, "cards").room("cards")
    room.show_card("board-split-42-draw")
    ready(room)
    hands.tap("w")
    settle(lambda: room.tour.on)
    assert room.sheet.lit and room.tour.words.text().startswith("Survey: Add sounding, Depth range")
    monkeypatch.setattr(room.host, "choose", lambda title, taken, **more: taken(f"{more['text']} Look."))
    room.say_stop()
    assert room.tour.words.text().endswith(" Look.") and room.tour.on
    settle(lambda: (folder / "cards" / "board-split-42-draw.toml").exists())
    assert open_folio(folder).folio.cards["board-split-42-draw"].tour[0].text.endswith(" Look.")
    hands.tap("Right")
    settle(lambda: not room.tour.on)
    assert room.sheet.lit is None


# Up over the desktop


def up(card: str) -> subprocess.Popen[str]:
    return subprocess.Popen([sys.executable, "-m", "glimber", "up", card], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)


def asked(settle: Settle, card: str) -> tuple[int, str]:
    process = up(card)
    settle(lambda: process.poll() is not None)
    out, told = process.communicate()
    return process.returncode, (out + told).strip()


def window_state(window: Any) -> str:
    said = subprocess.run(["xprop", "-id", str(int(window.winId())), "_NET_WM_STATE"], capture_output=True, text=True, check=True)
    return said.stdout


def test_a_card_put_up_lets_clicks_through(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle, qtbot: Any) -> None:
    window = open_room(folder, "cards")
    room = window.room("cards")
    assert asked(settle, "grid-shoalwright") == (0, "grid-shoalwright is up")
    card = room.up().up["grid-shoalwright"]
    qtbot.waitExposed(card)
    settle(lambda: "_NET_WM_STATE_ABOVE" in window_state(card))
    pressed: list[bool] = []
    button = QPushButton("below", window)
    button.setGeometry(400, 300, 200, 120)
    button.clicked.connect(lambda: pressed.append(True))
    button.show()
    middle = button.mapToGlobal(QPoint(100, 60))
    qtbot.waitExposed(button)
    card.move(middle - QPoint(card.width() // 2, card.height() // 2))
    card.let_through(True)
    settle(lambda: card.isVisible() and card.geometry().contains(middle))
    qtbot.wait(200)

    def click() -> None:
        subprocess.run(["xdotool", "mousemove", str(middle.x()), str(middle.y()), "click", "1"], check=True)

    click()
    settle(lambda: pressed == [True])
    card.let_through(False)
    qtbot.wait(300)
    click()
    qtbot.wait(300)
    assert pressed == [True]
    was = card.geometry()
    card.grow(1.1)
    card.fade(-0.2)
    assert card.width() > was.width() and card.windowOpacity() == pytest.approx(0.72, abs=0.02)
    assert asked(settle, "grid-shoalwright") == (0, "grid-shoalwright is taken down")
    assert not room.up().up
    kept = place_of("grid-shoalwright")
    assert kept.width == round(was.width() * 1.1) and kept.opacity == pytest.approx(0.72, abs=0.02)
    asked(settle, "grid-shoalwright")
    again = room.up().up["grid-shoalwright"]
    assert again.width() == kept.width and abs(again.x() - kept.x) <= 4
    for _ in range(60):
        again.grow(0.8)
        again.fade(-0.1)
    assert again.width() == NARROWEST and again.windowOpacity() == pytest.approx(FAINTEST, abs=0.01)


def test_what_is_up_follows_the_folio_and_goes_with_it(folder: Path, open_room: OpenRoom, settle: Settle) -> None:
    window = open_room(folder, "cards")
    room = window.room("cards")
    room.put_up()
    (card,) = room.up().up.values()
    before = card.drawing
    room.change("turn")
    assert card.drawing is not before and card.drawing.width == before.height
    window.close()
    settle(lambda: not room.up().up)


def test_cards_that_are_not_there_and_no_glimber(folder: Path, open_room: OpenRoom, settle: Settle) -> None:
    process = up("draw")
    _, said = process.communicate(timeout=20)
    assert process.returncode == 2 and "Glimber is not running" in said
    open_room(folder, "cards")
    status, said = asked(settle, "grid-shoalwrigth")
    assert status == 2 and said.startswith("grid-shoalwrigth is not a card of the open folio; did you mean grid-shoalwright?")


def test_the_socket_is_for_the_same_person_only(folder: Path, open_room: OpenRoom) -> None:
    from glimber.store.system.up_socket import listen, socket_path

    open_room(folder, "cards")
    path = socket_path()
    assert path.stat().st_mode & 0o777 == 0o600 and path.parent.stat().st_mode & 0o777 == 0o700
    assert listen() is None  # one is heard already


def test_kind_and_subject(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle, ready: Callable[[Any], None], qtbot: Any) -> None:
    """What is on a card, its kind, the ink and the order of its groups, and a card of its own; each undone by one step."""
    (folder / "layouts/pad-21.toml").write_text(
        'format = "glimber-layout/1"\nboard = "pad-21"\n[[layers]]\nid = "base"\nname = "Pad"\n[layers.keys]\nNumpad1 = "1"\n'
    )
    window = open_room(folder, "cards")
    room, session = window.room("cards"), window.session
    room.show_card("grid-shoalwright")
    ready(room)

    hands.ask(window, "d", "branch")
    settle(lambda: room.card().kind == "branch")
    hands.ask(window, "a", "Tide")
    settle(lambda: room.card().find == "Tide")
    hands.strike("+Control_L", 0.02, "+z", 0.02, "-z", "-Control_L")
    settle(lambda: room.card().find is None and room.card().kind == "branch")
    ready(room)
    hands.ask(window, "m", "Survey", "plum")
    settle(lambda: session.folio.programs["shoalwright"].groups["survey"].ink == "plum")
    hands.ask(window, "n", "Draw")
    settle(lambda: room.card().id == "draw")
    assert room.card().layers == ("draw",) and room.card().kind == "board"
    ready(room)
    assert "beside" not in room.options.buttons  # only a facing card is set against something
    hands.ask(window, "d", "facing")
    settle(lambda: "beside" in room.options.buttons)
    hands.ask(window, "f", "Pad of pad-21")
    settle(lambda: room.card().beside == "pad-21:base")
    ready(room)
    assert sum(group.key in {"Numpad1", "Numpad2"} for group in room.sheet.drawing.groups) == 2  # the pad is on the sheet


def test_a_sheet_is_looked_at_closely(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle, ready: Callable[[Any], None]) -> None:
    room = open_room(folder, "cards").room("cards")
    ready(room)
    place = room.sheet._place()
    hands.tap("plus")
    settle(lambda: room.sheet.zoom > 1.2)
    wide = room.sheet._place()[2]
    assert wide == pytest.approx(place[2] * room.sheet.zoom)
    hands.tap("0")
    settle(lambda: room.sheet._place() == place)


def test_cards_are_put_on_paper(folder: Path, open_room: OpenRoom, tmp_path: Path, settle: Settle) -> None:
    """The preview opens, and what a printer gets are the print sheets of two cards a page."""
    from pypdf import PdfReader
    from PySide6.QtPrintSupport import QPrinter

    from glimber.core.drawing.print_sheet import print_sheets
    from glimber.ui.cards.printing import put_on

    room = open_room(folder, "cards").room("cards")
    room.output.print_these(False)
    settle(lambda: room.output.preview.isVisible())
    room.output.preview.reject()
    printer = QPrinter()
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    sheets = [sheet for id in ids(room) for sheet in room.sheets_of(id)]
    put_on(printer, sheets, 2)
    assert len(PdfReader(tmp_path / "printed.pdf").pages) == len(print_sheets(sheets, "A4", 2)) < len(sheets)


def test_what_is_played_lights_a_card_that_is_up(folder: Path, open_room: OpenRoom, settle: Settle) -> None:
    window = open_room(folder, "cards")
    room = window.room("cards")
    room.show_card("board-split-42-draw")
    room.put_up()
    (up,) = room.up().up.values()
    plain = up.grab().toImage()
    window.session.played.emit("split-42", "draw", frozenset({"KeyS"}))
    assert up.lit == {"KeyS"} and up.grab().toImage() != plain
    window.session.played.emit("split-42", "base", frozenset({"KeyS"}))
    assert up.aside and not up.lit
    window.session.played.emit("split-42", "", frozenset())
    assert up.grab().toImage() == plain


def test_the_tour_of_a_shared_folio_is_offered_once(folder: Path, open_room: OpenRoom, settle: Settle) -> None:
    (folder / "cards").mkdir()
    (folder / "cards" / "round.toml").write_text(
        'format = "glimber-card/1"\ntitle = "The round"\nkind = "board"\nboard = "split-42"\nlayers = ["draw"]\n'
        '[[tour]]\nkeys = ["KeyS"]\ntext = "Begin here."\n'
    )
    window = open_room(folder, "cards")
    room = window.room("cards")
    settle(lambda: room.card().id == "round")
    assert "W walks through “The round”" in window.bottom.accessibleName()
    told = heard(room.session)
    room._offer_tour()
    assert not told


def test_no_line_of_the_options_is_ever_a_window_of_its_own(folder: Path, open_room: OpenRoom, qtbot: Any, qapp: Any) -> None:
    """A button whose parent was taken from it before its layout had shown it came up as a window, and took the next stroke."""
    room = open_room(folder, "cards").room("cards")
    windows: list[str] = []

    class Spy(QObject):
        def eventFilter(self, watched: QObject, event: QEvent) -> bool:
            if event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and watched.isWindow():
                windows.append(type(watched).__name__)
            return False

    spy = Spy()
    qapp.installEventFilter(spy)
    for _ in range(3):
        room.refresh()  # twice and more in one turn of the loop, as an edit and its saving come
    qtbot.wait(100)
    qapp.removeEventFilter(spy)
    assert windows == [] and [one.isVisible() for one in room.options.buttons.values()].count(True) > 3


def test_cards_are_drawn_while_they_are_looked_at(folder: Path, open_room: OpenRoom, qtbot: Any, settle: Settle) -> None:
    """After each edit in any room they were drawn anew, on the way from key to screen."""
    window = open_room(folder, "arrange")
    shelf, drawn = window.room("cards").shelf, set[str]()
    draw = shelf._draw
    shelf._draw = lambda id: drawn.add(id) or draw(id)
    shelf.start()
    window.session.edit("another title", lambda folio: replace(folio, settings=replace(folio.settings, title="Another")))
    qtbot.wait(700)
    assert not drawn
    window.go("cards")
    settle(lambda: drawn == set(shelf.ids()))
