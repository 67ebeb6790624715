"""A folio's folder: which files it has, and a folio as it was read from them. Nothing here parses."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct

from glimber.core.model.folio import Folio
from glimber.store.faults import Fault, StoreError
from glimber.store.files import read_file

FOLDERS = {"boards": "board", "programs": "program", "layouts": "layout", "cards": "card", "runs": "run"}
MOST_FILES = 2_000
JOURNAL = ".glimber-saving.json"
"""Beside folio.toml while several files are written together, and after a kill in the middle of that."""


class Opened(Struct, frozen=True):
    """A folio as read: the value, the folder, what every file held, and faults that leave the rest usable."""

    folio: Folio
    folder: Path
    texts: Mapping[str, bytes]
    faults: tuple[Fault, ...] = ()


def folio_files(folder: Path) -> dict[str, bytes]:
    """Return the TOML files of a folio by name within it. Raises StoreError for a folder that is none."""
    try:
        there, is_folder = folder.exists(), folder.is_dir()
        if not there:
            raise StoreError(f"{folder}: there is no such folder; make one with: glimber new {folder}")
        if not is_folder:
            raise StoreError(f"{folder}: expected the folder of a folio, found a file")
        if not (folder / "folio.toml").exists():
            raise StoreError(f"{folder}: not a folio, it has no folio.toml; make one with: glimber new {folder}")
        names = ["folio.toml"]
        for sub in FOLDERS:
            if (folder / sub).is_dir():
                names += sorted(f"{sub}/{path.name}" for path in (folder / sub).glob("*.toml"))
    except (OSError, ValueError) as error:
        raise StoreError(f"{folder}: cannot be read ({getattr(error, 'strerror', None) or error})") from error
    if len(names) > MOST_FILES:
        raise StoreError(f"{folder}: {len(names)} files; expected a folio of at most {MOST_FILES}")
    found = {}
    for name in names:
        try:
            found[name] = read_file(folder / name)
        except FileNotFoundError:
            continue  # removed since it was listed
    if "folio.toml" not in found:
        raise StoreError(f"{folder}: not a folio any more, its folio.toml was taken away just now")
    return found
