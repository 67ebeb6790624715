"""What is done to boards: one made from a drawing, its keys moved and told more of, the real one checked against the folio."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject

from glimber.core.edits.layers import add_layout
from glimber.core.edits.shape import add_key, guess_fingers, move_keys, remove_keys, with_own_board
from glimber.core.engine.drift import BoardCheck, Drift, take_over
from glimber.core.engine.events import Event
from glimber.core.engine.listen import KeyboardListener
from glimber.core.folio.board import Board
from glimber.core.folio.folio import Folio
from glimber.core.folio.words import place_words
from glimber.core.notation.ids import slug_of
from glimber.ui.arrange.place import Place
from glimber.ui.choose import Choice
from glimber.ui.keyhold import KeyHold

if TYPE_CHECKING:
    from glimber.ui.arrange.room import ArrangeRoom

STEP_U = 0.25
_WAYS = {"left": (-STEP_U, 0.0), "right": (STEP_U, 0.0), "up": (0.0, -STEP_U), "down": (0.0, STEP_U)}


class BoardDoing:
    """Operations on boards. ``shaping`` while the shape is what is edited."""

    def __init__(self, room: ArrangeRoom) -> None:
        self.room = room
        self.shaping = False
        self.check = RealCheck(room)

    @property
    def _folio(self) -> Folio:
        return self.room.session.folio

    def send(self, name: str, change: Callable[[Board], Board]) -> bool:
        """An edit of the board in front, which is the folio's own from then on."""
        place = self.room.place
        if place is None:
            return False
        id = place.board
        return self.room.doing.edit(name, lambda folio: with_own_board(folio, change(folio.boards[id])))

    def shape(self) -> None:
        """Begin or end editing the shape of the board."""
        if self.room.place is not None:
            self.shaping = not self.shaping
            self.room.show_place()

    def nudge(self, way: str) -> None:
        """Move the keys in front by a quarter unit."""
        place = self.room.place
        if place is not None:
            dx, dy = _WAYS[way]
            self.send(f"move {place.key}", lambda board: move_keys(board, place.keys, dx, dy))

    def guess(self) -> None:
        """Fingers for all keys that have none."""
        self.send("guess fingers", guess_fingers)

    def add_key(self) -> None:
        """One more key, beside the one in front."""
        place = self.room.place
        if place is None:
            return
        key = self._folio.boards[place.board].by_id.get(place.key)
        x, y = (key.x + key.w, key.y) if key is not None else (0.0, 0.0)

        def taken(id: object) -> None:
            if self.send(f"add {id}", lambda board: guess_fingers(add_key(board, str(id).strip(), x, y))):
                self.room.move_to(place.to(str(id).strip()))

        self.room.doing.choose("Id of the new key, a code such as KeyS or a word", taken)

    def remove_keys(self) -> None:
        """Take the keys in front off the board."""
        place = self.room.place
        if place is not None:
            self.send(f"remove {place.key}", lambda board: remove_keys(self._folio, board, place.keys))

    def ask_drawing(self) -> None:
        """Ask for an SVG drawing and make a board of it."""
        from PySide6.QtWidgets import QFileDialog

        name, _ = QFileDialog.getOpenFileName(self.room, "A drawing of the board", filter="Drawings (*.svg)")
        if name:
            self.from_drawing(Path(name))

    def from_drawing(self, path: Path) -> None:
        """A board of one's own from an SVG drawing, laid out with an empty layer; what in it is no key is told."""
        from glimber.readers.drawing import DrawingError, board_from_svg

        told = self.room.session.told
        id = slug_of(path.stem)
        if id in self._folio.layouts:
            told.emit(f"{id} is laid out already; give the drawing another name.")
            return
        try:
            board, wrong = board_from_svg(path.read_bytes(), id, path.stem.replace("-", " ").capitalize())
        except (OSError, DrawingError) as error:
            told.emit(f"{path.name}: {error}")
            return
        if self.room.doing.edit(f"draw {id}", lambda folio: add_layout(with_own_board(folio, board), id)):
            self.room.go_board(id)
            rest = f"; left out: {wrong[0]}" if wrong else ""
            told.emit(f"{id} has {len(board.keys)} keys and {len(board.knobs)} knobs; fingers were guessed{rest}")

    def check_real(self) -> None:
        """Begin or end checking the real board."""
        if self.check.on:
            self.check.stop()
        else:
            self.check.start()


class RealCheck(QObject):
    """Asks for each key of the real board once and compares what the computer sees. F1: nothing came; F2: leave it out."""

    def __init__(self, room: ArrangeRoom) -> None:
        super().__init__(room)
        self._room = room
        self.check: BoardCheck | None = None
        self._listener = KeyboardListener()
        self._hold = KeyHold(room.canvas, self.hear)

    @property
    def on(self) -> bool:
        return self.check is not None

    def start(self) -> None:
        """Ask for the first key of the board in front."""
        place = self._room.place
        if place is None:
            return
        check = BoardCheck(self._room.session.folio, place.board)
        if check.now is None:
            self._room.session.told.emit(f"Nothing on {place.board} sends what the computer could see.")
            return
        self.check, self._listener = check, KeyboardListener()
        self._hold.take()
        self._show()

    def stop(self) -> None:
        """End it; what differed is listed, to be taken over or not."""
        check, self.check = self.check, None
        if check is None:
            return
        self._hold.let_go()
        self._room.show_place()
        if not check.drifts:
            self._room.session.told.emit(
                f"{check.at} of {len(check.asked)} were struck; the board does what the folio says."
            )
            return
        self._list(check.drifts)

    def _list(self, drifts: list[Drift]) -> None:
        choices = [Choice(one.words(self._room.session.folio), value=one) for one in drifts]

        def taken(value: object) -> None:
            drift: Any = value
            self._room.doing.edit(f"take over {drift.spot.key} from the board", lambda folio: take_over(folio, drift))
            rest = [one for one in drifts if one is not drift]
            if rest:
                self._list(rest)

        hint = "Enter lets the folio say what the board does · Esc leaves the rest to be set on the board"
        self._room.doing.choose(f"Where the board differs: {len(drifts)}", taken, choices, hint=hint)

    def words(self) -> str:
        """What is asked for."""
        check = self.check
        now = check.now if check is not None else None
        if check is None or now is None:
            return ""
        where = place_words(self._room.session.folio, now.spot)
        done = f"{check.at + 1} of {len(check.asked)}, {len(check.drifts)} differ"
        return f"On the real board strike {where}. {done}. F1: nothing comes, F2: leave it out, Esc ends."

    def hear(self, event: Event, late_ms: float) -> None:
        """What the real board sent."""
        check = self.check
        if check is None:
            return
        now = check.now
        wanted = {code for _, code in now.strikes} if now is not None else set()
        if event.kind == "down" and event.key in ("F1", "F2", "Escape") and event.key not in wanted:
            if event.key == "Escape":
                self.stop()
                return
            if event.key == "F1":
                check.nothing()
            else:
                check.skip()
        else:
            for unit in self._listener.feed(event):
                if not unit.modifier:
                    check.strike(unit.strikes[0])
        if check.now is None:
            self.stop()
        else:
            self._show()

    def _show(self) -> None:
        now = self.check.now if self.check is not None else None
        if now is not None:
            self._room.move_to(Place(now.spot.board, now.spot.layer, now.spot.key, now.spot.gesture))
