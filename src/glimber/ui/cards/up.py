"""Cards that are up over the desktop, and who may ask for one: a room's key, or ``glimber up`` in another process. Another start
of Glimber is heard here as well: the window comes forward instead."""

from __future__ import annotations

import contextlib
import os
import socket
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier

from glimber.core.cards.frame import CannotDraw
from glimber.core.drawing.drawing import Drawing
from glimber.core.notation.nearest import did_you_mean
from glimber.store.system.running import FRONT, OPEN
from glimber.store.system.up_path import LONGEST
from glimber.store.system.up_socket import is_own, listen, socket_path
from glimber.ui.cards.putup import PutUp, keeps_on_top
from glimber.ui.session.session import Session

Draw = Callable[[str], Drawing]


class CardsUp(QObject):
    """Puts cards up and takes them down. ``draw`` gives a card's first sheet: KeyError for one that is not there, CannotDraw."""

    def __init__(
        self, session: Session, draw: Draw, ids: Callable[[], list[str]], come: Callable[[str | None], str]
    ) -> None:
        super().__init__(session)
        self._draw, self._ids, self._come = draw, ids, come
        self._windows: dict[str, PutUp] = {}
        session.folio_changed.connect(self._draw_again)
        session.played.connect(self._light)
        self._session = session
        self._ours: socket.socket | None = None
        self._notifier: QSocketNotifier | None = None

    @property
    def up(self) -> dict[str, PutUp]:
        """The cards that are up."""
        return {card: window for card, window in self._windows.items() if window.isVisible()}

    def toggle(self, card: str) -> str:
        """Put a card up, or take it down; what was done. Raises KeyError, CannotDraw.

        One that is taken down is kept, so that it is there at once the next time.
        """
        window = self._windows.get(card)
        if window is not None and window.isVisible():
            window.close()
            return f"{card} is taken down"
        drawing = self._draw(card)
        if window is None:
            window = self._windows[card] = PutUp(card, drawing)
        elif window.drawing is not drawing:
            window.show_drawing(drawing)
        window.show()
        window.raise_()
        if not keeps_on_top():
            return f"{card} is up in an ordinary window: this desktop lets none stay on top"
        return f"{card} is up"

    def _draw_again(self) -> None:
        for card, window in self.up.items():
            try:
                window.show_drawing(self._draw(card))
            except (KeyError, CannotDraw):
                window.close()

    def _light(self, board: str, layer: str, keys: frozenset[str]) -> None:
        """Light struck keys on the board cards that are up, and dim the cards of other layers meanwhile."""
        from glimber.core.model.shelf import shelf

        cards = shelf(self._session.folio)
        for id, window in self.up.items():
            card = cards[id].card if id in cards else None
            if card is None or card.board != board or card.kind != "board":
                continue
            shown = card.layers or (self._session.folio.layouts[board].base.id,)
            window.light(keys if layer in shown else frozenset(), aside=bool(layer) and layer not in shown)

    # Asked by another process

    def listen(self) -> None:
        """From now on ``glimber up`` is heard, unless another Glimber hears it already."""
        if self._ours is not None:
            return
        self._ours = listen()
        if self._ours is not None:
            self._notifier = QSocketNotifier(self._ours.fileno(), QSocketNotifier.Type.Read, self)
            self._notifier.activated.connect(self._asked)

    def _asked(self) -> None:
        assert self._ours is not None
        with contextlib.suppress(OSError):
            end, _ = self._ours.accept()
            with end:
                end.settimeout(0.5)
                if is_own(end):
                    end.sendall(f"{self._answer(end.recv(LONGEST).decode('utf-8', 'replace').strip())}\n".encode())

    def _answer(self, asked: str) -> str:
        card, _, display = asked.partition("\t")
        if card == FRONT or card.startswith(OPEN):
            here = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY") or ""
            if display != here:
                return "no it is on another display"
            return f"ok {self._come(card.removeprefix(OPEN) if card != FRONT else None)}"
        try:
            return f"ok {self.toggle(card)}"
        except KeyError:
            ids = self._ids()
            return (
                f"no {card} is not a card of the open folio{did_you_mean(card, ids)}; it has {', '.join(ids) or 'none'}"
            )
        except CannotDraw as error:
            return f"no {error}"

    def close_all(self) -> None:
        """The window closes: nothing stays up, nobody is heard."""
        for window in self._windows.values():
            window.close()
            window.deleteLater()
        self._windows.clear()
        if self._notifier is not None:
            self._notifier.setEnabled(False)
        if self._ours is not None:
            self._ours.close()
            self._ours = None
            with contextlib.suppress(OSError):
                socket_path().unlink()
