"""What a first frame needs of the core and the store, loaded before PySide.

PySide looks through the source text of each module that is loaded after it, for a name of its own: a third of a millisecond
a module, which those without a window need not pay.
"""

from __future__ import annotations

from importlib import import_module
from typing import Final

ALWAYS: Final = (
    "core.cards.drawing", "core.cards.marks", "core.cards.metrics", "core.edits.ownkeys", "core.folio.words",
    "core.session.history", "store.cache.fonts", "store.cache.kept", "store.settings", "store.system.watch",
)  # fmt: skip
OF_ROOMS: Final = {
    "gather": ("core.edits.commands", "core.gather.naming", "core.gather.stake"),
    "arrange": (
        "core.audit.finding", "core.cards.tiles", "core.edits.commands", "core.edits.layers", "core.edits.sequences",
        "core.edits.spots", "core.edits.starters", "core.folio.walk", "store.cache.pictures",
    ),
    "cards": (
        "core.cards.about", "core.cards.boardcard", "core.cards.chosen", "core.cards.shelf", "core.edits.cards",
        "store.cache.pictures",
    ),
    "drill": (
        "core.drill.cues", "core.drill.options", "core.engine.standin_keys", "core.session.pending", "core.weigh.plan",
        "store.cache.snapshot",
    ),
    "weigh": ("core.session.pending", "core.weigh.showing", "core.weigh.choices", "store.cache.snapshot"),
}  # fmt: skip


def load(room: str) -> None:
    """Load what the first frame of a room needs."""
    for name in (*ALWAYS, *OF_ROOMS.get(room, ())):
        import_module(f"glimber.{name}")
