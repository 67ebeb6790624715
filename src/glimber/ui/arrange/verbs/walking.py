"""Going about: from key to key, layer to layer, board to board, and selecting on the way."""

from __future__ import annotations

from functools import partial

from glimber.core.model.walk import WAYS
from glimber.ui.arrange.verbs.base import Panes, Verbs, act
from glimber.ui.session.actions import Action


class WalkVerbs(Verbs):
    """Nothing here changes the folio."""

    def is_on_chords(self) -> bool:
        """Return True if the ordinary keyboard is in front as a program's board."""
        return self.is_somewhere() and not self.is_on_layout()

    def actions(self, panes: Panes) -> list[Action]:
        board, here, walk = panes.board, self.is_somewhere, self.desk.walk
        walking = [
            act(f"walk-{way}", f"Walk {way}", way.capitalize(), partial(walk, way), "walk" if way == "left" else "",
                "← ↑ ↓ →", scope=board, when=here)
            for way in WAYS
        ]  # fmt: skip
        selecting = [
            act(
                f"select-{way}",
                f"Select {way}",
                f"Shift+{way.capitalize()}",
                partial(walk, way, True),
                scope=board,
                when=here,
            )
            for way in WAYS
        ]
        return [*walking, *selecting, act("all", "Select every key, or none", "a", self.desk.select_all, when=here)]

    def to_others(self) -> list[Action]:
        """To other layers, gestures and boards."""
        desk, here = self.desk, self.is_somewhere
        return [
            act("layer-before", "The layer before", "[", lambda: desk.walk_layers(-1), "layer", "[ ]", when=here),
            act("layer-after", "The layer after", "]", lambda: desk.walk_layers(1), when=here),
            self.for_layouts(act("gesture", "The next gesture of the key", "g", desk.walk_gestures, "gesture", "G")),
            act(
                "blocks",
                "Show or fold the function row, arrows and number pad",
                "Shift+Z",
                desk.fold_blocks,
                when=self.is_on_chords,
            ),
            act("board", "The next board", "b", lambda: desk.walk_boards(1), when=lambda: len(desk.folio.layouts) > 1),
        ]
