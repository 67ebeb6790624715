"""Writes cards to files. No Qt is loaded unless a PNG or a PDF is asked for: the command line uses it without a toolkit."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from glimber.core.cards.frame import CannotDraw
from glimber.core.cards.kinds import draw_card
from glimber.core.drawing.drawing import Drawing
from glimber.core.drawing.svg import to_svg
from glimber.core.model.card_bindings import NOTHING_KNOWN, Known
from glimber.core.model.folio import Folio
from glimber.core.model.shelf import shelf
from glimber.core.notation.nearest import did_you_mean
from glimber.store.cache.fonts import carried_fonts, faces
from glimber.store.cache.pictures import icons_of
from glimber.store.faults import StoreError
from glimber.store.files import write_atomically
from glimber.store.folder import Opened
from glimber.ui.paint.look import PAPER

if TYPE_CHECKING:
    from glimber.core.drawing.print_sheet import Edge

ENDINGS = (".svg", ".pdf", ".png")


def sheets_of(opened: Opened, id: str, known: Known = NOTHING_KNOWN) -> list[Drawing]:
    """Return the sheets of a card of the shelf. Raises StoreError for one that is not there, CannotDraw."""
    folio = opened.folio
    cards = shelf(folio)
    if id not in cards:
        raise StoreError(
            f"{id} is not a card of this folio{did_you_mean(id, cards)}; it has {', '.join(cards) or 'none'}"
        )
    return draw_card(folio, cards[id].card, faces(), stamp_of(folio, datetime.now()), icons_of(opened.folder), known)


def stamp_of(folio: Folio, now: datetime) -> str:
    """Return what every sheet says of where it is from: the folio's title and the day."""
    return f"{folio.settings.title}, {now:%-d %b %Y}"


def write_card(
    opened: Opened, id: str, to: Path, known: Known = NOTHING_KNOWN, outlines: bool = False
) -> list[Path]:
    """Draw a card and write it in the kind the file's ending names; a sheet that continues is a page more of a PDF, else a file
    more. What was written. ``outlines``: an SVG without fonts. Raises StoreError, CannotDraw."""
    if to.suffix.lower() not in ENDINGS:
        raise StoreError(f"{to}: expected a file that ends in .svg, .pdf or .png")
    return write_sheets(sheets_of(opened, id, known), to, outlines)


def write_sheets(sheets: Sequence[Drawing], to: Path, outlines: bool = False) -> list[Path]:
    """Write sheets: a PDF of all of them, or a file for each. ``outlines``: type as paths in an SVG. Raises StoreError."""
    ending = to.suffix.lower()
    if ending == ".pdf":
        _toolkit(to, lambda: _write_pdf(sheets, to))
        return [to]
    files = [to if not place else to.with_name(f"{to.stem}-{place + 1}{to.suffix}") for place in range(len(sheets))]
    for sheet, file in zip(sheets, files, strict=True):
        if ending == ".svg" and outlines:
            _toolkit(file, lambda sheet=sheet, file=file: _write_outlines(sheet, file))  # type: ignore[misc]
        elif ending == ".svg":
            write_atomically(file, to_svg(sheet, PAPER, carried_fonts(sheet)).encode())
        else:
            _toolkit(file, lambda sheet=sheet, file=file: _write_png(sheet, file))  # type: ignore[misc]
    return files


class Imposition(Struct, frozen=True):
    """The arrangement of cards on print sheets: the paper's name (None: each on a page of its own size), how many on a page,
    and for both sides of the paper the edge on which it is turned."""

    paper: str | None = None
    per_page: int = 1
    backs: Edge | None = None


def write_cards(
    opened: Opened,
    to: Path,
    imposition: Imposition = Imposition(),
    known: Known = NOTHING_KNOWN,
    watch: Callable[[int], None] = lambda done: None,
    program: str | None = None,
    outlines: bool = False,
) -> tuple[list[Path], list[str]]:
    """Write all cards of a folio, or of one ``program``: print sheets in one PDF, or one SVG each into a folder.

    Return what was written, and notes: cards that could not be drawn, and that some are not in true size. Raises
    StoreError.
    """
    drawn: list[tuple[str, list[Drawing]]] = []
    notes = []
    cards = {id: one.card for id, one in shelf(opened.folio).items() if program is None or one.card.program == program}
    for done, id in enumerate(cards):
        watch(done)
        try:
            drawn.append((id, sheets_of(opened, id, known)))
        except CannotDraw as error:
            notes.append(f"Left out {id}: {error}")
    if not drawn:
        raise StoreError(f"{opened.folder}: this folio has no cards; bind something first")
    if to.suffix.lower() == ".pdf":
        from glimber.core.drawing.print_sheet import least_scale, print_sheets

        pages = sheets = [sheet for _, card in drawn for sheet in card]
        if imposition != Imposition():
            paper, per_page = imposition.paper, imposition.per_page
            pages, scale = print_sheets(sheets, paper, per_page, imposition.backs), least_scale(sheets, paper, per_page)
            if scale < 1:
                notes.append(f"True size: some cards are printed at {100 * scale:.0f} %, because {per_page} of them do not "
                                "fit on a page; fewer on a page, or larger paper, keeps it")  # fmt: skip
        _toolkit(to, lambda: _write_pdf(pages, to, opened.folio.settings.title))
        return [to], notes
    if to.suffix.lower() in (*ENDINGS, ".jpg", ".jpeg", ".txt", ".html", ".csv", ".md") and not to.is_dir():
        raise StoreError(f"{to}: expected a folder, or a file that ends in .pdf")
    if to.exists() and not to.is_dir():
        raise StoreError(f"{to}: a file is there; expected a folder")
    return [path for id, card in drawn for path in write_sheets(card, to / f"{id}.svg", outlines)], notes


def _write_pdf(sheets: Sequence[Drawing], to: Path, title: str = "") -> None:
    from glimber.ui.paint.pdf import write_pdf

    write_pdf(sheets, to, title)


def _write_outlines(sheet: Drawing, to: Path) -> None:
    from glimber.ui.paint.outlines import outlined
    from glimber.ui.paint.pdf import start_toolkit

    start_toolkit()
    write_atomically(to, to_svg(outlined(sheet), PAPER).encode())


def _write_png(sheet: Drawing, to: Path) -> None:
    from glimber.ui.paint.png import write_png

    write_png(sheet, to)


def _toolkit(to: Path, write: Callable[[], None]) -> None:
    try:
        write()
    except ModuleNotFoundError as error:
        raise StoreError(
            f"{to}: a {to.suffix[1:].upper()} needs PySide6 ({error.name} is missing); write an .svg instead"
        ) from error
