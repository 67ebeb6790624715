"""PDF: its text in lines, with the gaps between columns as blanks, then read as plain text."""

from __future__ import annotations

import io
import logging
import re
from itertools import pairwise
from typing import Final

from glimber.readers.found import Found, Options, StoppedError
from glimber.readers.plaintext import read_text
from glimber.readers.reader import Reader

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

    lines: list[str] = []
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
    if not any(line.strip() for line in lines):
        return found.fail("no text in it; a picture of a page cannot be read")
    read_text("\n".join(lines), found)
    return found


def _lines_of(page: object) -> list[str]:
    """The lines of a page from top to bottom; pieces beside each other are one line with blanks between."""
    from pdfminer.layout import LTTextLine

    pieces: list[tuple[float, float, float, str]] = []

    def walk(item: object, depth: int = 0) -> None:
        if isinstance(item, LTTextLine):
            text = item.get_text().strip("\n")
            if text.strip():
                pieces.append((-item.y0, item.x0, item.x1, text))
        elif depth < 8 and hasattr(item, "__iter__"):
            for inner in item:
                walk(inner, depth + 1)

    walk(page)
    pieces.sort()
    found: list[str] = []
    row: list[tuple[float, float, float, str]] = []
    for piece in [*pieces, (1e9, 0.0, 0.0, "")]:
        if row and abs(piece[0] - row[0][0]) > _SAME_LINE:
            row.sort(key=lambda one: one[1])
            text = row[0][3].rstrip()
            for before, after in pairwise(row):
                text += ("   " if after[1] - before[2] > _GAP else " ") + after[3].strip()
            found.append(text)
            row = []
        row.append(piece)
    return found


READERS = (Reader("pdf", read, endings=(".pdf",), signs=((1.0, re.compile(r"\A%PDF")),), unpacks=True),)
