"""A process of its own that takes a spreadsheet apart: one that is made to use up all memory ends it, and nothing else.

The bytes come on standard input; each sheet goes out as one line of JSON, ``[name, rows there were, rows]``, and a fault as
``{"fault": …}``.
"""

from __future__ import annotations

import io
import json
import resource
import sys
from typing import Final

MOST_ROWS: Final = 200_000
MOST_CELLS: Final = 5_000_000
MOST_MEMORY: Final = 2_000_000_000
MOST_SECONDS: Final = 60


def main() -> None:
    """Read the one, write the other."""
    data = sys.stdin.buffer.read()
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        _write_sheets(data)
    except BaseException as error:  # a panic of the package is no Exception
        if isinstance(error, (KeyboardInterrupt, SystemExit)):
            raise
        print(json.dumps({"fault": str(error)[:300] or type(error).__name__}))


def _write_sheets(data: bytes) -> None:
    from python_calamine import CalamineWorkbook

    book = CalamineWorkbook.from_filelike(io.BytesIO(data))
    for name in book.sheet_names:
        sheet = book.get_sheet_by_name(name)
        if sheet.total_height * sheet.total_width > MOST_CELLS:
            fault = f"sheet {name} reaches over {sheet.total_height} rows and {sheet.total_width} columns"
            print(json.dumps({"fault": f"{fault}; expected a list"}))
            continue
        rows = sheet.to_python(skip_empty_area=False)
        print(json.dumps([name, len(rows), [[_text(cell) for cell in row] for row in rows[:MOST_ROWS]]]))


def _text(cell: object) -> str:
    return str(int(cell)) if isinstance(cell, float) and cell.is_integer() else str(cell)


if __name__ == "__main__":
    main()
