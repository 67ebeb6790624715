"""The troubles planted in the demo's practice, and the reason the verdict should find for each: see docs/demo.md."""

from __future__ import annotations

from typing import Final

from glimber.core.notation.keys import Trigger, parse_trigger
from glimber.standin.person import Trouble


def _triggers(*texts: str | None) -> tuple[Trigger | None, ...]:
    return tuple(None if text is None else parse_trigger(text) for text in texts)


def _draw(*keys: str, gesture: str = "tap") -> tuple[str, ...]:
    return tuple(f"split-42:draw:{key}:{gesture}" for key in keys)


_TROUBLES: Final = (
    # The hand goes to D for S, whatever is practised: the two should swap.
    Trouble("sounding-s", "hand-goes-elsewhere", 0.47, _triggers(*_draw("KeyD", "KeyA", "KeyW", "KeyX")), (14, 2, 2, 1)),
    # Flip hachures and Contour step are taken for each other.
    Trouble("hachures-f", "mix-up", 0.34, _triggers(*_draw("KeyC", "KeyG")), (6, 1)),
    Trouble("step-c", "mix-up", 0.26, _triggers(*_draw("KeyF", "KeyX")), (5, 1)),
    # Next sheet moved five days ago; the hand still goes to where it was.
    Trouble("next-p", "old-habit", 0.36, _triggers("split-42:base:KeyP:tap"), (1,)),
    # Bulk soundings is a hold, let go too early.
    Trouble("bulk-s", "gesture-slips", 0.38, _triggers(*_draw("KeyS")), (1,)),
    # Snap to graticule: the right key with whatever modifiers.
    Trouble("snap-chord", "modifier-slips", 0.40, _triggers(
        "Ctrl+G", "Ctrl+Alt+G", "Shift+G", "Super+G", "Alt+Shift+G", "Ctrl+Alt+Shift+G")),
    # Trim to neatline: its second step never comes to mind, and that does not get better.
    Trouble("trim-to-neatline", "unfinished", 0.45,
            _triggers("Ctrl+K Ctrl+N", "Ctrl+K Ctrl+R", "Ctrl+K Ctrl+Y", "Ctrl+K Ctrl+E", "Ctrl+K Ctrl+W", "Ctrl+K Ctrl+I", None),
            (2, 2, 2, 2, 2, 2, 5)),
    # The workspaces' key is struck on whatever layer is at hand.
    Trouble("space-left-a", "wrong-layer", 0.40, _triggers("split-42:draw:KeyA:tap", "split-42:base:KeyA:tap",
                                                          "split-42:soundings:KeyA:tap", "split-42:travel:KeyS:tap", None),
            (2, 2, 2, 1, 1)),
    # Edit vertex: the finger lands beside it, on every side.
    Trouble("vertex-e", "neighbour-slips", 0.34, _triggers(*_draw("KeyW", "KeyR", "KeyD", "KeyS", "KeyF")), (3, 3, 3, 1, 1)),
    # Light sector was hardly ever asked for.
    Trouble("sector-comma", "thin-evidence", most_tries=3),
    # Export sheet is known well and used once in two weeks.
    Trouble("export-sheet", "unused"),
    # Zoom to selection is known, but both hands leave their places for it.
    Trouble("zoom-to-selection", "long-reach", slower_ms=40),
)  # fmt: skip

TROUBLES: Final = {trouble.binding: trouble for trouble in _TROUBLES}
