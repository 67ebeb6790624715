"""The window: the loop on top, one room below it, the keys that work at the foot."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QGuiApplication
from PySide6.QtWidgets import QApplication, QMainWindow, QStackedWidget

from glimber.store.faults import FolioError, StoreError
from glimber.store.settings import remember
from glimber.ui.paint.style import apply_theme
from glimber.ui.session.actions import ANYWHERE, ROOMS, Action, Registry
from glimber.ui.session.lazy import Lazy
from glimber.ui.session.room import Room
from glimber.ui.session.session import Session
from glimber.ui.shell.desk import Column, Desk
from glimber.ui.shell.scroll_frame import ScrollFrame
from glimber.ui.shell.sheets import Hooks, Sheets
from glimber.ui.shell.top_line import BottomLine, TopLine
from glimber.ui.shell.window_place import LEAST, keep_place, least_room
from glimber.ui.widgets.announce import announce
from glimber.ui.widgets.notice import Notice
from glimber.ui.widgets.sheet_over import is_covered

if TYPE_CHECKING:
    from glimber.core.drawing.drawing import Drawing
    from glimber.core.edit.ownkeys import OwnAction
    from glimber.ui.arrange.room import ArrangeRoom
    from glimber.ui.capture.press_it import PressIt
    from glimber.ui.cards.room import CardsRoom
    from glimber.ui.drill.room import DrillRoom
    from glimber.ui.gather.room import GatherRoom
    from glimber.ui.session.host import Asked, Choice
    from glimber.ui.session.pages import Page
    from glimber.ui.shell.find import FindPanel, Found
    from glimber.ui.weigh.room import WeighRoom
    from glimber.ui.widgets.chooser import Chooser
    from glimber.ui.widgets.overlay import PaperOverlay
    from glimber.ui.widgets.page import PageOver

REST_MS, NEXT_MS = 450, 20
"""After so long without an edit the rooms out of view catch up, one after the other: longer than between edits in a row."""
PROMPT = (600, 340)
"""px a round needs: a prompt is nothing but a name, and after a slip a board."""


class _LookFirst(QObject):
    """Refresh which actions apply before a key is looked up: they may have changed since the keys were last shown.

    Not by an ``event`` of the window's own: the first event that Python sees makes it load the class of every kind of
    event, and no frame waits for that.
    """

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride:
            self._window.registry.look(self._window.current)
        return False


class Window(QMainWindow):
    """One window on one session. Rooms are made when they are first entered, or in ``build_rooms``."""

    first_frame = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rooms: dict[str, Room] = {}
        self.gather_room, self.arrange_room = Lazy(self._make_gather), Lazy(self._make_arrange)
        self.cards_room, self.drill_room = Lazy(self._make_cards), Lazy(self._make_drill)
        self.weigh_room = Lazy(self._make_weigh)
        self._makers: dict[str, Callable[[], Room]] = dict(
            zip(
                ROOMS,
                (self.gather_room, self.arrange_room, self.cards_room, self.drill_room, self.weigh_room),
                strict=True,
            )
        )
        self.found, self.overlay = Lazy(self._make_find), Lazy(self._make_overlay)
        self.press_it, self.chooser = Lazy(self._make_press_it), Lazy(self._make_chooser)
        self.page_over = Lazy(self._make_page_over)
        self.registry = Registry(self, self.session.notified.emit)
        self.restart: Callable[[], None] | None = None
        """Restarts the application, where that can be."""
        self._stale: set[str] = set()
        self._shown: list[Action] = []
        self._whole = False
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self.refresh_stale)
        self.setWindowTitle(f"{session.folio.settings.title} – Glimber")
        self.setMinimumSize(QSize(*least_room(self.screen())))
        self.top = TopLine(self.go)
        self.bottom = BottomLine()
        self.notice = Notice(session)
        self.stack = QStackedWidget()
        self.desk = Desk()
        self.desk.painted.connect(self._painted)
        self.glass = ScrollFrame(self.desk)
        self.setCentralWidget(self.glass)
        layout = Column(self.desk)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for widget in (self.top, self.notice):
            layout.addWidget(widget)
        layout.addWidget(self.stack, 1)
        layout.addWidget(self.bottom)
        self.sheets = Sheets(session, self, self.desk, self._hooks())
        self.at_work, self.day_page, self.settings = self.sheets.at_work, self.sheets.day_page, self.sheets.settings
        self.copies, self.begin = self.sheets.copies, self.sheets.begin
        self._use_own_keys()
        for action in self._actions():
            self.registry.add(action)
        session.folio_changed.connect(self._folio_changed)
        session.weighed.connect(self._refresh)
        session.notified.connect(self.bottom.say)
        self.bottom.clicked.connect(self._foot_clicked)
        session.jobs.changed.connect(lambda: None if session.jobs.names() else self.bottom.rest())
        session.notified.connect(lambda text: announce(self, text))
        QGuiApplication.styleHints().colorSchemeChanged.connect(self._desktop_changed)
        self.current = session.settings.last_room if session.settings.last_room in ROOMS else "cards"
        session.edits.steps.where = lambda: self.current
        self.top.show_title(session.folio.settings.title)
        self.go(self.current)

    def _painted(self) -> None:
        self.first_frame.emit()
        from glimber.ui.shell.context_menu import ContextMenus

        self.registry.begin()
        self.menus = ContextMenus(self, self.registry, lambda: self.current)
        self.top.title.clicked.connect(lambda: self.menus.show_everywhere(self.top.title))
        self.installEventFilter(_LookFirst(self))

    # Made at the first need, or after the first frame

    def _make_find(self) -> FindPanel:
        from glimber.ui.shell.find import FindPanel, PressedKeys

        keys = PressedKeys(lambda: self.session.folio, self.weigh, lambda: self.session.computer)
        return FindPanel(self.desk, self.top.field, self._findable, self._focus_room, keys)

    def _make_overlay(self) -> PaperOverlay:
        from glimber.ui.widgets.overlay import PaperOverlay

        return PaperOverlay(self.desk)

    def _make_press_it(self) -> PressIt:
        from glimber.ui.capture.press_it import PressIt

        return PressIt(self.desk)

    def _make_chooser(self) -> Chooser:
        from glimber.ui.widgets.chooser import Chooser

        return Chooser(self.desk)

    def _make_page_over(self) -> PageOver:
        from glimber.ui.widgets.page import PageOver

        return PageOver(self.desk)

    def _hooks(self) -> Hooks:
        """Return what the sheets over the rooms need of the window."""
        gather = self.gather_room
        return Hooks(
            self.use_theme, self._redraw, self._show_counting, self.introduce, self._look_back,
            self._resized, lambda: gather().reading, lambda name, data: gather().desk.read_bytes(name, data),
        )  # fmt: skip

    def _look_back(self) -> None:
        self.go("weigh")
        self.weigh_room().reports().show()

    def _show_counting(self, counting: bool) -> None:
        """As long as strikes are counted it is seen, above and below."""
        self.top.show_counting(counting)
        self.bottom.show_message("counting at work" if counting else "")

    def _make_gather(self) -> GatherRoom:
        from glimber.ui.gather.room import GatherRoom

        return GatherRoom(self.session, self, self.stack)

    def _make_arrange(self) -> ArrangeRoom:
        from glimber.ui.arrange.room import ArrangeRoom

        return ArrangeRoom(self.session, self, self.stack)

    def _make_cards(self) -> CardsRoom:
        from glimber.ui.cards.room import CardsRoom

        return CardsRoom(self.session, self, self.stack)

    def _make_drill(self) -> DrillRoom:
        from glimber.ui.drill.room import DrillRoom

        return DrillRoom(self.session, self, self.stack)

    def _make_weigh(self) -> WeighRoom:
        from glimber.ui.weigh.room import WeighRoom

        return WeighRoom(self.session, self, self.stack)

    # As the rooms' host

    def ask_keys(self, asked: Asked, spelt: bool = False) -> None:
        """Ask for the keys of a command by having them pressed, or spelt."""
        self.press_it().ask(asked, spelt)

    def choose(self, title: str, taken: Callable[[object], object], choices: Sequence[Choice] = (), *, text: str = "",
               free: bool | None = None, hint: str = "") -> None:  # fmt: skip
        """Have something chosen or written."""
        self.chooser().ask(title, taken, choices, text=text, free=free, hint=hint)

    def come_forward(self, folder: str | None) -> str:
        """Come to the front, with another folio where one is named; what was done."""
        if folder is not None and Path(folder).resolve() != self.session.folder.resolve():
            QTimer.singleShot(0, self, lambda: self.open_folder(Path(folder)))
        self.setWindowState(self.windowState() & ~Qt.WindowState.WindowMinimized)
        self.show()
        self.raise_()
        self.activateWindow()
        return "it came to the front"

    def own_actions(self) -> list[OwnAction]:
        """Return every action of the application with the keys it comes with."""
        return self.registry.own_actions()

    def show_page(self, page: Page) -> None:
        """Lay a page over the room."""
        self.page_over().show_page(page)

    def show_drawing(self, drawing: Drawing) -> None:
        """Lay a sheet over the room."""
        self.overlay().show_drawing(drawing)

    # Rooms

    def room(self, id: str) -> Room:
        """Return a room, made at the first need."""
        if id not in self.rooms:
            made = self._makers[id]()
            self.rooms[id] = made
            self.stack.addWidget(made)
            for action in made.actions_here():
                self.registry.add(action, made)
        return self.rooms[id]

    def build_rooms(self) -> None:
        """Make the rooms that were not needed for the first frame."""
        for id in ROOMS:
            self.room(id).complete()
        self.found()
        self.sheets.start()
        self.show_numbers()

    def go(self, id: str) -> None:
        """Enter a room."""
        before = self.rooms.get(self.current)
        if before is not None and self.current != id:
            before.leave()
        self.current = id
        room = self.room(id)
        if id in self._stale:
            self._stale.discard(id)
            room.refresh()
        self.stack.setCurrentWidget(room)
        room.enter()
        self.bottom.say("")
        self.show_numbers()
        if self.isVisible():
            remember(last_room=id)

    def _focus_room(self) -> None:
        self.rooms[self.current].enter()

    def take_whole_window(self, whole: bool, rests: bool = False) -> None:
        """A round wants nothing else to be seen, and every key for itself; while it rests, one may go to another room or quit."""
        self._whole = whole
        if not whole:
            self._rest.start(REST_MS)
        self.top.setVisible(not whole)
        self.bottom.setVisible(not whole)
        self.notice.hold_back(whole)
        away = [f"room-{id}" for id in ROOMS if id != self.current] + ["quit"]
        self.registry.set_enabled(not whole, away if rests else ())
        self.glass.need(PROMPT if whole else LEAST)

    def drill(self, bindings: list[str]) -> None:
        """Go to the Drill room with a round of these bindings."""
        self.go("drill")
        self.drill_room().begin_with(bindings)

    def ask_what_is(self) -> None:
        """Have anything pressed, and show what it does everywhere."""
        from glimber.ui.shell.what_is import ask_what_is

        ask_what_is(self.session, self, self.arrange_room().choose)

    def weigh(self, binding: str) -> None:
        """Go to the Weigh room with a binding in front."""
        self.go("weigh")
        self.weigh_room().choose(binding)

    def gather(self, command: str) -> None:
        """Go to the Gather room with a command in front."""
        self.go("gather")
        self.gather_room().choose(command)

    def show_card(self, card: str) -> None:
        """Go to the Cards room with a card in front."""
        self.go("cards")
        self.cards_room().show_card(card)

    # What is shown around the room

    def _use_own_keys(self) -> None:
        """The application's own keys, where the folio has them as a program."""
        from glimber.core.edit.ownkeys import own_keys

        self.registry.use(own_keys(self.session.folio, self.session.computer))

    def _folio_changed(self) -> None:
        self._use_own_keys()
        title = self.session.folio.settings.title
        self.setWindowTitle(f"{title} – Glimber")
        self.top.show_title(title)
        self._refresh()

    def _refresh(self) -> None:
        """The room in view at once, the others when no more changes come: an edit must be seen without waiting for them."""
        self._stale = {id for id in self.rooms if id != self.current}
        self.rooms[self.current].refresh()
        self._rest.start(REST_MS)
        if self.isActiveWindow() and QApplication.focusWidget() is None:
            self._focus_room()  # what had the focus is gone, or what should have had it has come into being

    def refresh_stale(self) -> None:
        """Let the rooms out of view catch up, one at a time; never while a round is on, which would wait for them."""
        if self._whole:
            return
        if self._stale:
            self.rooms[self._stale.pop()].refresh()
            self._rest.start(NEXT_MS)
            return
        self.show_numbers()

    def show_numbers(self) -> None:
        """Put the one number that matters beside each room's word."""
        self.top.loop.show_state(self.current, {id: room.number() for id, room in self.rooms.items()})
        self._show_keys()

    def _show_keys(self) -> None:
        self._shown = [a for a in self.registry.of_room(self.current) if a.brief and a.keys and a.when()]
        self.registry.look(self.current)
        self.bottom.show_keys([(a.brief_keys or a.keys[0], a.brief) for a in self._shown])

    def _foot_clicked(self, place: int) -> None:
        """Carry out what was clicked in the bottom line."""
        if not is_covered(self):
            self.registry.carry_out(self._shown[place].id)

    # Actions

    def _actions(self) -> list[Action]:
        rooms = [
            Action(f"room-{id}", f"Go to {id.title()}", (f"Ctrl+{number}",), partial(self.go, id))
            for number, id in enumerate(ROOMS, start=1)
        ]  # fmt: skip
        return [
            *rooms,
            *self.sheets.actions(),
            Action("find", "Find anything", ("/", "Ctrl+F"), lambda: self.found().open(), ANYWHERE, "find"),
            Action("keys", "The keys of this room", ("?", "F1"), self.show_keys_card, ANYWHERE, "this room's keys"),
            Action("what-is", "What is this? Press anything and see all it does", ("Ctrl+I",), self.ask_what_is),
            Action("menu", "What can be done here, as a menu", ("Shift+F10",), lambda: self.menus.show()),
            Action("undo", "Undo", ("Ctrl+Z",), self.session.undo, ANYWHERE, "undo"),
            Action("redo", "Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), self.session.redo),
            Action("save", "Save now (edits are saved automatically)", ("Ctrl+S",), self.session.edits.save_now),
            Action("next-pane", "Next pane", ("F6",), lambda: self.step_pane(1)),
            Action("pane-before", "Pane before", ("Shift+F6",), lambda: self.step_pane(-1)),
            Action("theme", "Day or dark desk", ("Ctrl+T",), self.other_theme),
            Action("open", "Open another folio", ("Ctrl+O",), self.ask_folio),
            Action("loop", "What the rooms are for", ("Ctrl+H",), self.introduce),
            Action(
                "agree-places",
                "Allow the places that this folio's pack names",
                (),
                self.session.agree_places,
                when=self.session.has_unagreed_places,
            ),
            Action(
                "confirm-log",
                "Keep practice on the server that this folio names",
                (),
                self.session.confirm_server,
                when=lambda: "://" in self.session.folio.settings.log,
            ),
            Action("quit", "Quit", ("Ctrl+Q",), self.close),
        ]

    def _findable(self) -> list[Found]:
        from glimber.ui.shell.find import Found, folio_items

        items = folio_items(self.session.folio, self.weigh, self.show_card, self.gather)
        for action in self.registry.all():
            if action.room in (ANYWHERE, self.current):
                detail = " · ".join([*action.keys, "action"])
                items.append(Found(action.name, detail, f"{action.name} {' '.join(action.keys)}", action.run))
        return [*items, *self.settings().found()]

    def show_keys_card(self) -> None:
        """The current room's own shortcuts as a card, made from the live actions."""
        from glimber.core.sheets.keys import key_card
        from glimber.store.cache.fonts import faces

        rows = [(action.name, action.keys) for action in self.registry.of_room(self.current) if action.keys]
        self.overlay().show_drawing(key_card(self.current.title(), "the keys that work here", rows, faces()))

    def introduce(self) -> None:
        """Show what the five rooms are for, in five lines."""
        from glimber.core.sheets.welcome import welcome_card
        from glimber.store.cache.fonts import faces

        self.overlay().show_drawing(welcome_card(self.session.folio.settings.title, faces()))

    def step_pane(self, by: int) -> None:
        """Give the focus to the next pane of the room."""
        panes = [pane for pane in self.rooms[self.current].panes() if pane.isVisible() and pane.isEnabled()]
        if not panes:
            return
        here = QApplication.focusWidget()
        at = next((i for i, pane in enumerate(panes) if here is pane or (here and pane.isAncestorOf(here))), -by)
        panes[(at + by) % len(panes)].setFocus(Qt.FocusReason.TabFocusReason)

    def other_theme(self) -> None:
        """From the dark desk to the day desk and back."""
        from glimber.ui.paint.style import theme

        self.use_theme("day" if theme().name == "dark" else "dark")

    def use_theme(self, name: str) -> None:
        """Dress everything in a theme, and keep it."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, name)
        self.session.settings = remember(theme=name)
        self._redraw()

    def _resized(self) -> None:
        """Another size of everything was chosen: it applies from the start, so the application restarts."""
        if self.restart is not None:
            self.restart()
        else:
            self.session.notified.emit("The new size applies from the next start.")

    def _desktop_changed(self) -> None:
        """The desktop is light or dark now."""
        if self.session.settings.theme == "desktop":
            self.use_theme("desktop")

    def _redraw(self) -> None:
        self._refresh()
        for widget in QApplication.allWidgets():
            widget.update()

    def ask_folio(self) -> None:
        """Ask for a folder and open the folio in it."""
        from PySide6.QtWidgets import QFileDialog

        name = QFileDialog.getExistingDirectory(self, "Open a folio", str(self.session.folder))
        if name:
            self.open_folder(Path(name))

    def open_folder(self, folder: Path) -> None:
        """Open another folio in this window; where it cannot be used, show the error and keep this one."""
        try:
            self.session.open_folder(folder)
        except (FolioError, StoreError) as error:
            self.notice.say(str(error).splitlines())
            return
        remember(last_folio=str(folder.resolve()))

    def closeEvent(self, event: QCloseEvent) -> None:
        keep_place(self)
        self.rooms[self.current].leave()
        for room in self.rooms.values():
            room.close_down()
        self.session.close()
        super().closeEvent(event)
