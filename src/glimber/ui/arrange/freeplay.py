"""Free play: press anything and see what it does. The ordinary keyboard stands in for the board that is in front."""

from __future__ import annotations

import contextlib
import os
import threading
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from glimber.core.engine.events import Event
from glimber.core.engine.freeplay import Heard, Player
from glimber.store.faults import StoreError
from glimber.ui.keyhold import KeyHold
from glimber.ui.keystrokes import StampClock, monotonic_ms

if TYPE_CHECKING:
    from glimber.ui.arrange.room import ArrangeRoom

TICK_MS = 15


class FreePlay(QObject):
    """Holds the keyboard while it is on. What is struck lights up on the board, and is said in a line above it."""

    _from_device = Signal(object)

    def __init__(self, room: ArrangeRoom) -> None:
        super().__init__(room)
        self._room = room
        self._player: Player | None = None
        self._heard: Heard | None = None
        self._descriptor: int | None = None
        self._from_device.connect(lambda event: self.hear(event, 0.0))
        self._hold = KeyHold(room.canvas, self.hear)
        # While a device is listened to, the ordinary keyboard only ends it.
        self._hold.wanted = lambda event: self._descriptor is None or event.key() == Qt.Key.Key_Escape
        self._tick = QTimer(self)
        self._tick.setInterval(TICK_MS)
        self._tick.timeout.connect(lambda: self._advance(monotonic_ms()))

    @property
    def on(self) -> bool:
        return self._player is not None

    def start(self, device: Path | None = None) -> None:
        """Begin to listen: to the ordinary keyboard, or to a device. A device that cannot be read is told."""
        place = self._room.place
        if place is None:
            return
        if device is not None:
            from glimber.store.system.device import open_device

            try:
                self.listen_to(open_device(device))
            except StoreError as error:
                self._room.session.told.emit(str(error))
                return
        folio = self._room.session.folio
        program = self._program()
        self._player = Player(
            folio, place.board, program, self._room.session.computer, direct=self._descriptor is not None
        )
        self._heard = None
        self._hold.take()
        self._tick.start()
        self._room.show_place()

    def listen_to(self, descriptor: int) -> None:
        """Take the key events of a device from now on; times are those of the kernel, related to ours."""
        self._descriptor = descriptor

        def work() -> None:
            from glimber.store.system.device import key_events

            clock = StampClock()
            for event in key_events(descriptor):
                if self._descriptor != descriptor:
                    break
                if event is not None:
                    t, _ = clock.moment(event.t, monotonic_ms())
                    self._from_device.emit(Event(t, event.kind, event.key))
            with contextlib.suppress(OSError):
                os.close(descriptor)

        threading.Thread(target=work, name="device", daemon=True).start()

    def _program(self) -> str | None:
        return self._room.doing._program(self._room.place) if self._room.place is not None else None

    def stop(self) -> None:
        """Let the keyboard go."""
        if self._player is None:
            return
        self._player = None
        self._descriptor = None
        self._tick.stop()
        self._hold.let_go()
        self._room.lit = frozenset()
        self._room.show_place()

    def words(self) -> str:
        """What was struck last, or how to begin."""
        if self._heard is None:
            return "Free play: press anything. Hold Esc to end."
        return f"Free play. {self._heard.words}"

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
            self._room.lit = lit
            self._room.move_to(replace(place, layer=layers[-1]))
        elif heard or lit != self._room.lit:
            self._room.lit = lit
            self._room.show_place()
