"""PDF: its text in lines, with the gaps between columns as blanks, then read as plain text."""

from __future__ import annotations

import io
import logging
import re
from collections.abc import Iterable, Iterator
from itertools import pairwise
from typing import TYPE_CHECKING, Final

from msgspec import Struct

from glimber.readers.found import Found, Options, StoppedError
from glimber.readers.plaintext import read_text
from glimber.readers.reader import Reader
from glimber.readers.source_page import Block

if TYPE_CHECKING:
    from pdfminer.layout import LTPage

MOST_PAGES: Final = 200
_SAME_LINE: Final = 3.0
_GAP: Final = 8.0


def read(data: bytes, options: Options) -> Found:
    """Read the pages of a document."""
    found = Found(watch=options.watch)
    if not data.startswith(b"%PDF"):
        return found.fail("not a PDF; expected one that begins with %PDF")
    logging.getLogger("pdfminer").setLevel(logging.ERROR)
    from pdfminer.high_level import extract_pages
    from pdfminer.layout import LAParams

    lines: list[_Line] = []
    try:
        for number, page in enumerate(
            extract_pages(io.BytesIO(data), maxpages=MOST_PAGES, laparams=LAParams(boxes_flow=None))
        ):
            if options.watch is not None:
                options.watch(number)
            lines += _lines_of(page)
    except StoppedError:
        raise
    except Exception as error:  # the package raises whatever a damaged document leads it to
        return found.fail(f"not a PDF that can be read: {str(error)[:200] or type(error).__name__}")
    if not any(line.text.strip() for line in lines):
        return found.fail("no text in it; a picture of a page cannot be read")
    if options.page:
        found.page = [Block("row", line.cells, number, at=line.at) for number, line in enumerate(lines, start=1)]
    read_text("\n".join(line.text for line in lines), found)
    return found


class _Line(Struct, frozen=True):
    """A line of a page: its text with wide gaps as blanks, and its pieces with where each begins, as a share of the width."""

    text: str
    cells: tuple[str, ...]
    at: tuple[float, ...]


class _Piece(Struct, frozen=True):
    """Text that was set at one place: its distance below the top of the page, its left and right end, in points."""

    below: float
    left: float
    right: float
    text: str


def _lines_of(page: LTPage) -> list[_Line]:
    """Return the lines of a page from top to bottom; pieces beside each other are one line with blanks between."""
    pieces = sorted(_pieces_of(page), key=lambda piece: (piece.below, piece.left))
    rows: list[list[_Piece]] = []
    for piece in pieces:
        if rows and abs(piece.below - rows[-1][0].below) <= _SAME_LINE:
            rows[-1].append(piece)
        else:
            rows.append([piece])
    return [_line_of(sorted(row, key=lambda piece: piece.left), page.width) for row in rows]


def _pieces_of(item: object, depth: int = 0) -> Iterator[_Piece]:
    from pdfminer.layout import LTTextLine

    if isinstance(item, LTTextLine):
        text = item.get_text().strip("\n")
        if text.strip():
            yield _Piece(-item.y0, item.x0, item.x1, text)
    elif depth < 8 and isinstance(item, Iterable):
        for inner in item:
            yield from _pieces_of(inner, depth + 1)


def _line_of(row: list[_Piece], width: float) -> _Line:
    text = row[0].text.rstrip()
    for before, after in pairwise(row):
        text += ("   " if after.left - before.right > _GAP else " ") + after.text.strip()
    at = tuple(round(min(1.0, max(0.0, piece.left / width)), 4) if width > 0 else 0.0 for piece in row)
    return _Line(text, tuple(piece.text.strip() for piece in row), at)


READERS = (Reader("pdf", read, endings=(".pdf",), signs=((1.0, re.compile(r"\A%PDF")),), unpacks=True),)
