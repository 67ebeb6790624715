"""Writes cards to files. No Qt is loaded unless a PNG is asked for: the command line uses it without a toolkit."""

from __future__ import annotations

from pathlib import Path

from glimber.core.cards.boardcard import board_card
from glimber.core.cards.svg import to_svg
from glimber.core.notation.nearest import did_you_mean
from glimber.store.cache.fonts import carried_fonts, faces
from glimber.store.cache.icons import icon
from glimber.store.faults import StoreError
from glimber.store.files import write_atomically
from glimber.store.folder import Opened
from glimber.ui.look import PAPER


def write_card(opened: Opened, id: str, to: Path) -> None:
    """Draw a card and write it in the kind the file's ending names. Raises StoreError, CannotDraw."""
    cards = opened.folio.cards
    if id not in cards:
        raise StoreError(
            f"{id} is not a card of this folio{did_you_mean(id, cards)}; it has {', '.join(cards) or 'none'}"
        )
    if to.suffix not in (".svg", ".png"):
        raise StoreError(f"{to}: expected a file that ends in .svg or .png")
    drawing = board_card(opened.folio, cards[id], faces(), opened.folio.settings.title, icon)
    if to.suffix == ".svg":
        write_atomically(to, to_svg(drawing, PAPER, carried_fonts(drawing)).encode())
        return
    try:
        from glimber.ui.draw import write_png
    except ModuleNotFoundError as error:
        raise StoreError(f"{to}: a PNG needs PySide6 ({error.name} is missing); write an .svg instead") from error
    write_png(drawing, to)
