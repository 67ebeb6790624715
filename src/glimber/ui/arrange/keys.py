"""The keys of the Arrange room, one line each."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from glimber.ui.actions import Action

if TYPE_CHECKING:
    from glimber.ui.arrange.room import ArrangeRoom


class _Late:
    """What a part of the room does, by name: the part is made when a key is first struck for it."""

    def __init__(self, room: ArrangeRoom, part: str) -> None:
        self._room, self._part = room, part

    def __getattr__(self, name: str) -> Callable[..., object]:
        return lambda *values: getattr(getattr(self._room, self._part), name)(*values)


def arrange_actions(room: ArrangeRoom) -> list[Action]:
    """Every action of the room; those of the board only work while it has the focus."""
    do, boarding, board = _Late(room, "doing"), _Late(room, "boarding"), room.canvas

    def act(id: str, name: str, keys: str, run: Callable[[], object], brief: str = "", shown: str = "",
            scope: QWidget | None = None) -> Action:  # fmt: skip
        return Action(
            f"arrange-{id}", name, tuple(keys.split()), lambda: (run(), None)[1], room.id, brief, shown, scope=scope
        )

    walking = [
        act(f"walk-{way}", f"Walk {way}", way.capitalize(), lambda way=way: room.walk(way), "walk" if way == "left" else "",  # type: ignore[misc]
            "← ↑ ↓ →", board)
        for way in ("left", "right", "up", "down")
    ]  # fmt: skip
    selecting = [
        act(
            f"select-{way}",
            f"Select {way}",
            f"Shift+{way.capitalize()}",
            lambda way=way: room.walk(way, True),
            scope=board,
        )  # type: ignore[misc]
        for way in ("left", "right", "up", "down")
    ]
    nudge = boarding.nudge
    nudging = [
        act(
            f"nudge-{way}",
            f"Move the key {way} on the board",
            f"Alt+{way.capitalize()}",
            partial(nudge, way),
            scope=board,
        )
        for way in ("left", "right", "up", "down")
    ]
    return [
        *walking,
        act("enter", "Press what the key sends; on the bench put it here; on a finding cure it", "Enter", do.enter, "press it"),
        act("run", "Type a run: each chord goes on a key, and the next key comes", "r", do.run, "run", "R"),
        act("lift", "Lift what is on the key", "x", do.lift, "lift, put", "X P"),
        act("put", "Put what was lifted", "p", do.put),
        act("swap", "Swap with the key marked before", "s", do.swap, "swap", "S"),
        act("copy", "Copy what is on the key to many", "c", do.copy, "copy to many", "C"),
        act("paint", "Copy it here", "Space", do.paint, scope=board),
        act("bench", "Take what is on the keys to the bench", "Delete", do.bench, "bench", "Del", board),
        act("find", "Find a command and put it here", "f", do.place_command, "find and place", "F"),
        act("what", "What the key does: layers, bundles, steps, text", "e", do.what_it_does, "what it does", "E"),
        act("layer-before", "The layer before", "[", lambda: room.walk_layers(-1), "layer", "[ ]"),
        act("layer-after", "The layer after", "]", lambda: room.walk_layers(1)),
        act("gesture", "The next gesture of the key", "g", room.walk_gestures, "gesture", "G"),
        act("board", "The next board", "b", lambda: room.walk_boards(1)),
        act("all", "Select every key, or none", "a", room.select_all),
        *selecting,
        act("free", "Free places for the command", "o", do.free_places),
        act("why", "Write down why it is there", "w", do.write_reason),
        act("label", "Its short label", "t", do.write_label),
        act("icon", "Its icon", "i", do.choose_icon),
        act("group", "The group of all that is selected", "u", do.choose_group),
        act("look", "Ink and mark of its group", "Shift+U", do.choose_look),
        act("pin", "Pin it, or take the pin off", "k", do.pin),
        act("dead", "Unbound keys: dead, or fall through", "d", do.dead_or_falls),
        act("dead-all", "All unbound keys of the layer: dead, or fall through", "Shift+D", do.all_dead_or_fall),
        act("new", "A new layer", "n", do.new_layer),
        act("rename", "Call the layer otherwise", "F2", do.rename_layer),
        act("front", "Let the layer come in with a program", "Shift+F", do.front_program),
        act("up", "Move the layer up", "{", lambda: do.move_layer(-1)),
        act("down", "Move the layer down", "}", lambda: do.move_layer(1)),
        act("remove", "Remove the layer; its commands go to the bench", "Shift+Delete", do.remove_layer),
        act("add-board", "Lay out another board", "Shift+B", do.add_board),
        act("carry", "Carry the layout over to another board", "v", do.carry),
        act("hand", "One hand is away: what it held", "h", do.hand_away),
        act("play", "Free play: press anything and see what it does", "y", do.free_play, "free play", "Y"),
        act("device", "Free play on a board read as a device of its own", "Shift+Y", do.play_device),
        act("check", "Check the real board: strike each key once", "Shift+C", boarding.check_real),
        act("shape", "The shape of the board: places, sizes, fingers", "Shift+E", boarding.shape),
        *nudging,
        act("add-key", "Add a key to the board", "Shift+N", boarding.add_key),
        act("remove-key", "Take keys off the board", "Ctrl+Delete", boarding.remove_keys, scope=board),
        act("drawing", "A board from a drawing", "Shift+O", boarding.ask_drawing),
        act("tree", "The sequences of a program as a tree", "q", do.show_tree, "sequences", "Q"),
        act("leave", "End what is going on", "Escape", do.end),
    ]  # fmt: skip
