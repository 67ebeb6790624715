"""Free play: press anything and see what it does. The ordinary keyboard stands in for the board that is in front, or the
board itself is read as a device."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QObject, Qt, QTimer

from glimber.core.engine.events import Event
from glimber.core.engine.freeplay import Heard, Player
from glimber.ui.arrange.desk import ArrangeDesk, Lights
from glimber.ui.arrange.place import Place
from glimber.ui.capture.devices import DeviceEar
from glimber.ui.capture.keyboard_grab import HoldMaker
from glimber.ui.capture.keystrokes import monotonic_ms

TICK_MS = 15


class FreePlay(QObject):
    """Free play: report what struck keys do."""

    def __init__(
        self, desk: ArrangeDesk, hold: HoldMaker, place: Place, program: str | None, device: int | None = None
    ) -> None:
        super().__init__(desk)
        self._desk = desk
        self._heard: Heard | None = None
        self._board = place.board
        self._shown: tuple[str, frozenset[str]] = ("", frozenset())
        self._player = Player(desk.folio, place.board, program, desk.session.computer, direct=device is not None)
        self._hold = hold(self.hear)
        # While a device is listened to, the ordinary keyboard only ends it.
        self._hold.wanted = lambda event: device is None or event.key() == Qt.Key.Key_Escape
        self._hold.take()
        self._tick = QTimer(self)
        self._tick.setInterval(TICK_MS)
        self._tick.timeout.connect(lambda: self._take(self._player.advance(monotonic_ms())))
        self._tick.start()
        self._ear = DeviceEar(desk.session.jobs, device, self.hear, parent=self) if device is not None else None
        desk.begin(self)

    def let_go(self) -> None:
        self._tick.stop()
        self._hold.let_go()
        if self._ear is not None:
            self._ear.let_go()
        self._desk.light(replace(self._desk.lights, lit=frozenset()))
        self._desk.session.played.emit(self._board, "", frozenset[str]())
        self.deleteLater()

    def words(self) -> str:
        """Return what was struck last, or how to begin."""
        if self._heard is None:
            return "Free play: press anything. Hold Esc to end."
        return f"Free play. {self._heard.words}"

    def hear(self, event: Event, late_ms: float) -> None:
        """A key went down or up."""
        self._take(self._player.feed(event))
        if self._player.escape_held_ms(event.t) is not None and event.kind == "down":
            QTimer.singleShot(820, self, self._end_if_held)

    def _end_if_held(self) -> None:
        held = self._player.escape_held_ms(monotonic_ms())
        if held is not None and held > 780 and self._desk.mode is self:
            self._desk.end_mode()

    def _take(self, heard: list[Heard]) -> None:
        desk, lit = self._desk, self._player.down()
        if heard:
            self._heard = heard[-1]
        layers, place = self._player.layers(), desk.place
        now = (layers[-1] if layers else "", lit)
        if now != self._shown:
            self._shown = now
            desk.session.played.emit(self._board, *now)
        if place is not None and layers and layers[-1] != place.layer:
            desk.lights = replace(desk.lights, lit=lit)
            desk.move_to(replace(place, layer=layers[-1]))
        elif heard or lit != desk.lights.lit:
            desk.lights = Lights(lit, desk.lights.dim)
            desk.shown.emit()
