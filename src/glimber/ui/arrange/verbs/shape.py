"""Actions on the shape of a board: move, add, remove and describe its keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Final

from glimber.core.model.board import Board
from glimber.core.model.walk import WAYS, Way
from glimber.ui.arrange.verbs.base import Panes, Verbs, act
from glimber.ui.session.actions import Action

STEP_U: Final = 0.25
_BY: Final[dict[Way, tuple[float, float]]] = {
    "left": (-STEP_U, 0.0), "right": (STEP_U, 0.0), "up": (0.0, -STEP_U), "down": (0.0, STEP_U),
}  # fmt: skip


class ShapeVerbs(Verbs):
    """Operations on the board in front, which is the folio's own from the first of them on."""

    def actions(self, panes: Panes) -> list[Action]:
        here, board = self.is_somewhere, panes.board
        nudging = [
            act(f"nudge-{way}", f"Move the key {way} on the board", f"Alt+{way.capitalize()}", partial(self.nudge, way),
                scope=board, when=here)
            for way in WAYS
        ]  # fmt: skip
        actions = [
            act("shape", "The shape of the board: places, sizes, fingers", "Shift+E", self.shape, when=here),
            *nudging,
            act("add-key", "Add a key to the board", "Shift+N", self.add_key, when=here),
            act("remove-key", "Remove keys from the board", "Ctrl+Delete", self.remove_keys, scope=board, when=here),
        ]
        return [self.for_layouts(action) for action in actions]

    def send(self, name: str, change: Callable[[Board], Board]) -> bool:
        """Return an edit of the board in front, which is the folio's own from then on."""
        from glimber.core.edit.shape import with_own_board

        place = self.place
        if place is None:
            return False
        id = place.board
        return self.desk.edit(name, lambda folio: with_own_board(folio, change(folio.boards[id])))

    def shape(self) -> None:
        """Begin or end editing the shape of the board."""
        self.desk.shape(not self.desk.shaping)

    def nudge(self, way: Way) -> None:
        """Move the keys in front by a quarter unit."""
        from glimber.core.edit.shape import move_keys

        place = self.place
        if place is not None:
            dx, dy = _BY[way]
            self.send(f"move {self.desk.called(place)}", lambda board: move_keys(board, place.keys, dx, dy))

    def guess(self) -> None:
        """Fingers for all keys that have none."""
        from glimber.core.edit.shape import guess_fingers

        self.send("guess fingers", guess_fingers)

    def add_key(self) -> None:
        """One more key, beside the one in front."""
        from glimber.core.edit.shape import add_key, guess_fingers

        place = self.place
        if place is None:
            return
        key = self.folio.boards[place.board].by_id.get(place.key)
        x, y = (key.x + key.w, key.y) if key is not None else (0.0, 0.0)

        def taken(id: object) -> None:
            if self.send(f"add {id}", lambda board: guess_fingers(add_key(board, str(id).strip(), x, y))):
                self.desk.move_to(place.to(str(id).strip()))

        self.host.choose("Id of the new key, a code such as KeyS or a word", taken)

    def remove_keys(self) -> None:
        """Take the keys in front off the board."""
        from glimber.core.edit.shape import remove_keys

        place = self.place
        if place is not None:
            self.send(f"remove {self.desk.called(place)}", lambda board: remove_keys(self.folio, board, place.keys))
