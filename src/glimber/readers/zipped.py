"""Zip files from anywhere: opened only within limits, and never trusted in what they call their parts."""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from typing import Final

MOST_BYTES: Final = 60_000_000
MOST_PARTS: Final = 5_000


# A damaged directory makes the library raise what a missing check happens to raise.
_DAMAGED: Final = (
    zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, struct.error, EOFError, ValueError, LookupError, OSError, RuntimeError,
)  # fmt: skip


class ZippedError(ValueError):
    """A zip file that is damaged, too large or not to be trusted."""


def check_size(data: bytes) -> None:
    """Raises ZippedError for what is no zip file, or would unpack to more than 60 MB or 5,000 parts."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            items = packed.infolist()
    except _DAMAGED as error:
        raise ZippedError(str(error)) from error
    size = sum(item.file_size for item in items)
    if size > MOST_BYTES:
        raise ZippedError(f"it would unpack to {size // 1_000_000} MB; expected at most {MOST_BYTES // 1_000_000} MB")
    if len(items) > MOST_PARTS:
        raise ZippedError(f"it has {len(items)} parts; expected at most {MOST_PARTS}")


def parts_of(data: bytes) -> dict[str, bytes]:
    """Return the files in a zip file by name. Raises ZippedError; for a name that leads out of its folder too."""
    check_size(data)
    found: dict[str, bytes] = {}
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            for item in packed.infolist():
                if item.is_dir():
                    continue
                name = item.filename
                steps = name.split("/")
                if "\\" in name or name.startswith("/") or any(step in ("", ".", "..") for step in steps):
                    raise ZippedError(f"{name!r} would be put outside its folder")
                with packed.open(item) as part:
                    found[name] = part.read(MOST_BYTES + 1)
                if len(found[name]) > item.file_size:
                    raise ZippedError(f"{name} is longer than it says")
    except _DAMAGED as error:
        if isinstance(error, ZippedError):
            raise
        raise ZippedError(str(error)) from error
    return found
