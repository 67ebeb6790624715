"""Spreadsheets: ODS and XLSX, every sheet of them, taken apart by a process of its own within limits."""

from __future__ import annotations

import json
import subprocess
import sys
import threading
from typing import Final

from glimber.readers.found import Found, Options
from glimber.readers.reader import Reader
from glimber.readers.sheetrows import MOST_ROWS
from glimber.readers.source_page import Block, rows_of
from glimber.readers.table import Line, read_table
from glimber.readers.zipped import ZippedError, check_size

_WATCHED_EVERY_S: Final = 0.1
_LONGEST_S: Final = 90.0


def read(data: bytes, options: Options) -> Found:
    """Read every sheet of a spreadsheet."""
    found = Found(watch=options.watch)
    try:
        check_size(data)
    except ZippedError as error:
        return found.fail(f"not a spreadsheet that can be read: {error}")
    sheets, fault = _sheets(data, options)
    named = len(sheets) > 1
    for name, there, rows in sheets:
        if there > len(rows):
            found.fail(f"sheet {name} has {there} rows; only the first {MOST_ROWS} were read")
        lines = [Line(number, tuple(row)) for number, row in enumerate(rows, start=1)]
        if options.page:
            found.page += [Block("heading", (name,), 0, 2)] if named else []
            found.page += rows_of((line.number, line.cells, False) for line in lines)
        read_table(lines, found, options, name if named else None)
    if fault:
        return found.fail(f"not a spreadsheet that can be read: {fault}")
    if not found.any:
        found.fail("no rows with a command and its keys in it")
    return found


def _sheets(data: bytes, options: Options) -> tuple[list[tuple[str, int, list[list[str]]]], str]:
    """Name, number of rows and rows of each sheet, and what was wrong. Raises StoppedError when the watcher does."""
    child = subprocess.Popen([sys.executable, "-m", "glimber.readers.sheetrows"], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
                             stderr=subprocess.DEVNULL)  # fmt: skip
    out: list[bytes] = []
    talk = threading.Thread(target=lambda: out.append(child.communicate(data)[0]), daemon=True)
    talk.start()
    waited = 0.0
    try:
        while talk.is_alive():
            talk.join(_WATCHED_EVERY_S)
            waited += _WATCHED_EVERY_S
            if options.watch is not None:
                options.watch(0)
            if waited > _LONGEST_S:
                break
    finally:
        if talk.is_alive():
            child.kill()
            talk.join()
    if child.returncode != 0 or not out:
        return [], "it asks for more memory or time than a list could need, or is damaged"
    answers: list[object] = [json.loads(line) for line in out[0].splitlines()]
    faults = [one["fault"] for one in answers if isinstance(one, dict)]
    return [(one[0], one[1], one[2]) for one in answers if isinstance(one, list)], "; ".join(faults)


READERS = (Reader("spreadsheet", read, endings=(".ods", ".xlsx"), unpacks=True),)
