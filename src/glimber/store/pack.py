"""A pack: a whole folio in one file, to be shared or put by: its TOML files and icons zipped, the tries too if asked."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import Final

from glimber.readers.zipped import ZippedError, parts_of
from glimber.store.faults import FolioError, StoreError
from glimber.store.files import write_atomically
from glimber.store.folder import FOLDERS, folio_files
from glimber.store.toml.reading import read_files

TRIES: Final = "tries.jsonl"
_MOMENT: Final = (1980, 1, 1, 0, 0, 0)
_ICONS: Final = (".svg", ".png")


def pack_bytes(folder: Path, tries: bytes | None = None) -> bytes:
    """The pack of a folio's folder: the same folder gives the same bytes. Raises StoreError."""
    parts = folio_files(folder)
    icons = folder / "icons"
    if icons.is_dir():
        for path in sorted(icons.iterdir()):
            if path.suffix in _ICONS and path.is_file():
                parts[f"icons/{path.name}"] = path.read_bytes()
    if tries is not None:
        parts[TRIES] = tries
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name in sorted(parts):
            item = zipfile.ZipInfo(name, _MOMENT)
            item.compress_type = zipfile.ZIP_DEFLATED
            item.external_attr = 0o644 << 16
            packed.writestr(item, parts[name])
    return out.getvalue()


def unpack(data: bytes, folder: Path) -> bytes | None:
    """Lay a pack out in a folder that is new or empty; the tries it brings. Raises StoreError, FolioError.

    Nothing is written before everything in it has been read as a folio.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise StoreError(f"{folder}: already there and not empty; nothing was changed")
    try:
        parts = parts_of(data)
    except ZippedError as error:
        raise StoreError(f"not a pack that can be read: {error}; nothing was changed") from error
    tries = parts.pop(TRIES, None)
    strange = [name for name in parts if not _belongs(name)]
    if strange:
        raise StoreError(f"{strange[0]} has no place in a folio; nothing was changed")
    if "folio.toml" not in parts:
        raise StoreError("not a pack: it has no folio.toml; nothing was changed")
    try:
        read_files(folder, {name: data for name, data in parts.items() if name.endswith(".toml")})
    except FolioError as error:
        raise FolioError(error.faults) from error
    for name, part in parts.items():
        write_atomically(folder / name, part)
    return tries


def _belongs(name: str) -> bool:
    folder, _, file = name.rpartition("/")
    if not folder:
        return file == "folio.toml"
    if folder == "icons":
        return file.endswith(_ICONS)
    return folder in FOLDERS and file.endswith(".toml")
