"""The demo's days of practice made ahead: when the checkout is set up, so that nobody waits for them when it is opened.

``python -m glimber.demo.prepared`` makes them. They are known from those of older code by what they were made from; where
there are none that fit, the demo makes its days when it is opened.
"""

from __future__ import annotations

import gzip
import hashlib
import json
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from msgspec.structs import replace

import glimber
from glimber.core.model.folio import Folio
from glimber.core.practice.tries import Change, Record, Round, Try
from glimber.store.files import write_atomically
from glimber.store.practice.jsonl import parse_lines, to_json

FILE: Final = Path(__file__).with_name("practice.jsonl.gz")
AT: Final = datetime(2026, 1, 5, 12, tzinfo=UTC)
"""The moment they are made for; opened at another one they are moved by whole days."""


def made_from() -> str:
    """Return what the days depend on: the demo's folio and everything of the code that plays them."""
    root = Path(glimber.__file__).parent
    parts = ("core/practice", "core/engine", "core/model", "core/notation", "core/stats", "standin", "demo")
    files = [path for part in parts for path in sorted((root / part).rglob("*")) if path.suffix in (".py", ".toml")]
    digest = hashlib.sha256()
    for path in files:
        digest.update(str(path.relative_to(root)).encode() + b"\0" + path.read_bytes())
    return digest.hexdigest()


def prepare(folio: Folio, records: list[Record]) -> None:
    """Keep the days, made for ``AT``. Raises StoreError."""
    lines = [json.dumps({"made_from": made_from(), "bindings": len(folio.bindings)}), *map(to_json, records)]
    write_atomically(FILE, gzip.compress("\n".join(lines).encode(), mtime=0))


def prepared(now: datetime, computer: str) -> list[Record] | None:
    """Return the days up to yesterday, as they would be made now; None where there are none that fit the code."""
    try:
        head, _, body = gzip.decompress(FILE.read_bytes()).decode().partition("\n")
        if json.loads(head)["made_from"] != made_from():
            return None
    except (OSError, ValueError, KeyError, EOFError):
        return None
    found = parse_lines(body)
    return None if found.bad else list(_moved(found.records, now, computer))


def _moved(records: list[Record], now: datetime, computer: str) -> Iterator[Record]:
    days = timedelta(days=(now.astimezone(UTC).date() - AT.date()).days)
    for one in records:
        if isinstance(one, Round):
            yield replace(
                one, began=one.began + days, ended=None if one.ended is None else one.ended + days, computer=computer
            )
        elif isinstance(one, Change):
            applied = None if one.applied is None else one.applied + days
            yield replace(one, at=one.at + days, applied=applied, computer=computer)
        elif isinstance(one, Try):
            yield replace(one, at=one.at + days, computer=computer)
        else:
            yield replace(one, at=one.at + days)


def main() -> None:
    """Make them, unless those that are there fit."""
    from importlib import resources

    from glimber.demo.days import practise
    from glimber.store.toml.reading import open_folio

    if prepared(AT, "bridge") is None:
        with resources.as_file(resources.files("glimber.demo") / "folio") as folder:
            folio = open_folio(folder).folio
        prepare(folio, practise(folio, AT, "bridge"))


if __name__ == "__main__":
    main()
