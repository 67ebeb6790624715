"""A folio's folder: which files it has, and a folio as it was read from them. Nothing here parses."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from glimber.core.folio.folio import Folio
from glimber.store.faults import Fault, StoreError

FOLDERS = {"boards": "board", "programs": "program", "layouts": "layout", "cards": "card", "runs": "run"}


@dataclass(frozen=True)
class Opened:
    """A folio as read: the value, the folder, what every file held, and faults that leave the rest usable."""

    folio: Folio
    folder: Path
    texts: Mapping[str, bytes]
    faults: tuple[Fault, ...] = ()


def folio_files(folder: Path) -> dict[str, bytes]:
    """The TOML files of a folio by name within it. Raises StoreError for a folder that is none."""
    if not folder.exists():
        raise StoreError(f"{folder}: there is no such folder; make one with: glimber new {folder}")
    if not folder.is_dir():
        raise StoreError(f"{folder}: expected the folder of a folio, found a file")
    top = folder / "folio.toml"
    if not top.exists():
        raise StoreError(f"{folder}: not a folio, it has no folio.toml; make one with: glimber new {folder}")
    names = ["folio.toml"]
    for sub in FOLDERS:
        if (folder / sub).is_dir():
            names += sorted(f"{sub}/{path.name}" for path in (folder / sub).glob("*.toml"))
    found = {}
    for name in names:
        try:
            found[name] = (folder / name).read_bytes()
        except FileNotFoundError:
            continue  # removed since it was listed
        except OSError as error:
            raise StoreError(f"{folder / name}: cannot be read ({error.strerror}); check its permissions") from error
    return found
