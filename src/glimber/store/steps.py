"""The journal of a folio's steps in the person's own state folder: it outlives the program, and goes into no pack."""

from __future__ import annotations

import zlib
from pathlib import Path
from typing import Final

import msgspec

from glimber.core.session.journal import Journal
from glimber.store.cache.folio_cache import of_folder

FORMAT: Final = b"glimber-steps/1\n"
MOST_UNPACKED: Final = 200_000_000


def steps_file(folder: Path) -> Path:
    """Return the file that has the journal of a folio."""
    from platformdirs import user_state_path

    return user_state_path("glimber") / "steps" / of_folder(folder)


def load_steps(folder: Path) -> Journal:
    """Return the journal of a folio; an empty one where there is none, or none that can be read."""
    try:
        data = steps_file(folder).read_bytes()
        if not data.startswith(FORMAT):
            return Journal()
        unpacker = zlib.decompressobj()
        plain = unpacker.decompress(data[len(FORMAT) :], MOST_UNPACKED)
        return msgspec.msgpack.decode(plain, type=Journal)
    except (OSError, zlib.error, msgspec.MsgspecError, ValueError):
        return Journal()


def save_steps(folder: Path, journal: Journal) -> None:
    """Keep the journal of a folio. Raises StoreError where it cannot be written."""
    from glimber.store.files import write_atomically

    write_atomically(steps_file(folder), FORMAT + zlib.compress(msgspec.msgpack.encode(journal), 1), mode=0o600)
