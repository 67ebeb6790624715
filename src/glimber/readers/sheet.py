"""Spreadsheets: ODS and XLSX, every sheet of them; refused where they would unpack to more than a list could need."""

from __future__ import annotations

import io
from typing import Final

from glimber.readers.found import Found, Options, StoppedError
from glimber.readers.table import Line, read_table
from glimber.readers.zipped import ZippedError, check_size

MOST_ROWS: Final = 200_000


def read(data: bytes, options: Options) -> Found:
    """Read every sheet of a spreadsheet."""
    found = Found(watch=options.watch)
    try:
        check_size(data)
    except ZippedError as error:
        return found.fail(f"not a spreadsheet that can be read: {error}")
    from python_calamine import CalamineWorkbook

    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        for name in book.sheet_names:
            rows = book.get_sheet_by_name(name).to_python(skip_empty_area=False)
            if len(rows) > MOST_ROWS:
                found.fail(f"sheet {name} has {len(rows)} rows; only the first {MOST_ROWS} were read")
            lines = [
                Line(number, tuple(_text(cell) for cell in row)) for number, row in enumerate(rows[:MOST_ROWS], start=1)
            ]
            read_table(lines, found, options, name if len(book.sheet_names) > 1 else None)
    except BaseException as error:  # a panic of the package is no Exception
        if isinstance(error, (KeyboardInterrupt, SystemExit, StoppedError)):
            raise
        return found.fail(f"not a spreadsheet that can be read: {error}")
    if not (found.rows or found.not_bindings or found.problems):
        found.fail("no rows with a command and its keys in it")
    return found


def _text(cell: object) -> str:
    return str(int(cell)) if isinstance(cell, float) and cell.is_integer() else str(cell)
