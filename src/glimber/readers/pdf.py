"""PDF: its text in lines, with the gaps between columns as blanks, then read as plain text."""

from __future__ import annotations

import io
import logging
import re
from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, Final
from unicodedata import normalize

from msgspec import Struct

from glimber.readers.found import Found, Options, StoppedError
from glimber.readers.pdf_columns import Piece, columns_of, lines_of
from glimber.readers.plaintext import read_text
from glimber.readers.reader import Reader
from glimber.readers.source_page import Block

if TYPE_CHECKING:
    from pdfminer.layout import LTPage

MOST_PAGES: Final = 200
_GAP: Final = 8.0
_MOST_ENDS: Final = 0.9
_LIGATURE: Final = re.compile("[\ufb00-\ufb06]")


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
    """A line of a page: its text with wide gaps as blanks, and its pieces with where each begins, as a share of its
    column's width."""

    text: str
    cells: tuple[str, ...]
    at: tuple[float, ...]


def _lines_of(page: LTPage) -> list[_Line]:
    """Return the lines of a page, column by column; pieces beside each other are one line with blanks between."""
    return [line for column in columns_of(list(_pieces_of(page))) if column for line in _lines_of_column(column)]


def _lines_of_column(column: Sequence[Piece]) -> list[_Line]:
    left, ends = min(piece.left for piece in column), sorted(piece.right for piece in column)
    width = ends[int(_MOST_ENDS * (len(ends) - 1))] - left  # without a title over several columns
    return [_line_of(row, left, width) for row in lines_of(column)]


def _pieces_of(item: object, depth: int = 0) -> Iterator[Piece]:
    from pdfminer.layout import LTTextLine

    if isinstance(item, LTTextLine):
        text = _LIGATURE.sub(lambda match: normalize("NFKC", match[0]), item.get_text().strip("\n"))
        if text.strip():
            yield Piece(-item.y0, item.x0, item.x1, text)
    elif depth < 8 and isinstance(item, Iterable):
        for inner in item:
            yield from _pieces_of(inner, depth + 1)


def _line_of(row: Sequence[Piece], left: float, width: float) -> _Line:
    text = row[0].text.rstrip()
    for before, after in pairwise(row):
        text += ("   " if after.left - before.right > _GAP else " ") + after.text.strip()
    begins = [max(0.0, piece.left - left) / width if width > 0 else 0.0 for piece in row]
    if len(row) == 1 and row[0].right > left + width:
        begins = [0.0]  # a title over several columns has the room of one
    at = tuple(round(min(1.0, begin), 4) for begin in begins)
    return _Line(text, tuple(piece.text.strip() for piece in row), at)


READERS = (Reader("pdf", read, endings=(".pdf",), signs=((1.0, re.compile(r"\A%PDF")),), unpacks=True),)
