"""Free play: press anything and see what it does. The ordinary keyboard stands in for the board that is in front."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtGui import QKeyEvent

from glimber.core.events import Event
from glimber.core.freeplay import Heard, Player
from glimber.ui.keystrokes import KeyReader, monotonic_ms

if TYPE_CHECKING:
    from glimber.ui.arrange.room import ArrangeRoom

TICK_MS = 15


class FreePlay(QObject):
    """Holds the keyboard while it is on. What is struck lights up on the board, and is said in a line above it."""

    def __init__(self, room: ArrangeRoom) -> None:
        super().__init__(room)
        self._room = room
        self._player: Player | None = None
        self._heard: Heard | None = None
        self.reader = KeyReader(self.hear, self)
        self._tick = QTimer(self)
        self._tick.setInterval(TICK_MS)
        self._tick.timeout.connect(lambda: self._advance(monotonic_ms()))

    @property
    def on(self) -> bool:
        return self._player is not None

    def start(self) -> None:
        """Begin to listen."""
        place = self._room.place
        if place is None:
            return
        folio = self._room.session.folio
        program = self._program()
        self._player = Player(folio, place.board, program, self._room.session.computer)
        self._heard = None
        canvas = self._room.canvas
        canvas.setFocus()
        canvas.grabKeyboard()
        canvas.installEventFilter(self)
        self._tick.start()
        self._room.show_place()

    def _program(self) -> str | None:
        return self._room.doing._program(self._room.place) if self._room.place is not None else None

    def stop(self) -> None:
        """Let the keyboard go."""
        if self._player is None:
            return
        self._player = None
        self._tick.stop()
        canvas = self._room.canvas
        canvas.removeEventFilter(self)
        canvas.releaseKeyboard()
        self.reader.forget()
        self._room.lit = frozenset()
        self._room.show_place()

    def words(self) -> str:
        """What was struck last, or how to begin."""
        if self._heard is None:
            return "Free play: press anything. Hold Esc to end."
        return f"Free play. {self._heard.words}"

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and self.on:
            if event.type() in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                self.reader.read(event)
            event.accept()
            return True
        return super().eventFilter(watched, event)

    def hear(self, event: Event, late_ms: float) -> None:
        """A key of the ordinary keyboard went down or up."""
        player = self._player
        if player is None:
            return
        self._take(player.feed(event))
        if player.escape_held_ms(event.t) is not None and event.kind == "down":
            QTimer.singleShot(820, self._end_if_held)

    def _end_if_held(self) -> None:
        held = self._player.escape_held_ms(monotonic_ms()) if self._player is not None else None
        if held is not None and held > 780:
            self.stop()

    def _advance(self, t: float) -> None:
        if self._player is not None:
            self._take(self._player.advance(t))

    def _take(self, heard: list[Heard]) -> None:
        player = self._player
        if player is None:
            return
        lit = player.down()
        if heard:
            self._heard = heard[-1]
        layers = player.layers()
        place = self._room.place
        if place is not None and layers and layers[-1] != place.layer:
            from dataclasses import replace

            self._room.lit = lit
            self._room.move_to(replace(place, layer=layers[-1]))
        elif heard or lit != self._room.lit:
            self._room.lit = lit
            self._room.show_place()
