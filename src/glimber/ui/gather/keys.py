"""The keys of the Gather room, one line each."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from glimber.ui.actions import Action

if TYPE_CHECKING:
    from glimber.ui.gather.room import GatherRoom


def gather_actions(room: GatherRoom) -> list[Action]:
    """Every action of the room: some make sense while a source is shown, others while the commands are."""
    reading, resting = lambda: room.found is not None, lambda: room.found is None
    doing = room.doing

    def act(id: str, name: str, keys: str, run: Callable[[], None], brief: str = "", shown: str = "",
            when: Callable[[], bool] = lambda: True, scope: QWidget | None = None) -> Action:  # fmt: skip
        return Action(f"gather-{id}", name, (keys,) if keys else (), run, room.id, brief, shown, when, scope)

    return [
        act("file", "Read a file", "o", room.ask_file, "read a file", "O"),
        act("paste", "Read what was copied", "Ctrl+V", room.read_clipboard, "read what was copied"),
        act("take", "Take in what is ticked", "Enter", room.enter_pressed, "take in", "Enter", reading),
        act("all", "Tick all or none", "a", room.tick_all, "tick all or none", "A", reading),
        act("version", "It is the program's new version, or not", "n", room.merging.toggle, "a new version", "N", reading),
        act("away", "Put the source away", "Escape", room.put_away, "back to the commands", "Esc", reading),
        act("link", "Link the file that is shown, or a system, as a source", "l", doing.link, "link a source", "L"),
        act("watch", "Watch the source, or no longer", "w", doing.watch, scope=room.sources.list),
        act("unlink", "Let the source go", "Delete", doing.unlink, scope=room.sources.list),
        act("key", "Press a key for the command in front", "k", doing.press_it, "press a key for it", "K", resting),
        act("spell", "Spell a key for the command in front", "Shift+K", doing.spell_it),
        act("find", "Find a command by any of its names", "f", room.find, "find", "F", resting),
        act("every", "All commands, or only the bench", "b", room.bench.show_everything, "bench or all", "B", resting),
        act("tally", "What holding modifiers costs", "m", doing.show_tally, "modifiers", "M", resting),
        act("counts", "Read uses a day from counts", "u", doing.ask_counts, "uses from counts", "U", resting),
        act("edit", "Edit the command in front", "e", room.edit_front, "edit", "E", resting),
        act("own", "Take Glimber's own keys into the folio", "", doing.take_own),
        act("defaults", "Back to all the keys the program came with", "", doing.back_to_all),
    ]  # fmt: skip
