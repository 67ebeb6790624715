"""The last ledger of a folio, kept among the person's caches: shown at once at the start, then weighed again."""

from __future__ import annotations

from pathlib import Path

import msgspec

from glimber.core.decide.summary import Summary
from glimber.store.cache.folio_cache import cache_file, of_folder
from glimber.store.faults import StoreError


def _file(folder: Path) -> Path:
    return cache_file(f"ledger-{of_folder(folder)}.json")


def load_snapshot(folder: Path) -> Summary | None:
    """Return the last summary; None where there is none or it is of another version."""
    try:
        return msgspec.json.decode(_file(folder).read_bytes(), type=Summary)
    except (OSError, msgspec.MsgspecError, ValueError):
        return None


def save_snapshot(folder: Path, summary: Summary) -> None:
    """Keep a summary; a cache that cannot be written is only slower."""
    from glimber.store.files import write_atomically

    try:
        write_atomically(_file(folder), msgspec.json.encode(summary))
    except StoreError:
        return
