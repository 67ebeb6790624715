"""A pack: a whole folio in one file, to be shared or put by: its TOML files and icons zipped, the tries too if asked."""

from __future__ import annotations

import contextlib
import io
import shutil
import tempfile
import zipfile
from collections.abc import Mapping
from pathlib import Path
from typing import Final

from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.practice.tries import Change, Record
from glimber.readers.zipped import ZippedError, parts_of
from glimber.store.agreements import ask_about
from glimber.store.faults import StoreError
from glimber.store.files import read_given, set_mode, write_atomically
from glimber.store.folder import FOLDERS, folio_files
from glimber.store.practice.location import is_server
from glimber.store.practice.server_address import without_password
from glimber.store.toml.reading import read_files

TRIES: Final = "tries.jsonl"
_MOMENT: Final = (1980, 1, 1, 0, 0, 0)
LARGEST_PACK: Final = 60_000_000
_ICONS: Final = (".svg", ".png")


class LaidOut(Struct, frozen=True):
    """The result of unpacking a folio: the number of practice records merged, and the lines that could not be read, with
    reasons."""

    merged: int = 0
    bad: list[dict[str, object]] = field(default_factory=list)
    asks: tuple[str, ...] = ()
    """Places outside the folio that it would read and write, and that nobody agreed to yet."""


def pack_bytes(folder: Path, tries: bytes | None = None) -> bytes:
    """Return the pack of a folio's folder: the same folder gives the same bytes. Raises StoreError."""
    parts = folio_files(folder)
    parts["folio.toml"] = without_password(parts["folio.toml"].decode("utf-8", "surrogateescape")).encode(
        "utf-8", "surrogateescape"
    )
    icons = folder / "icons"
    if icons.is_dir():
        for path in sorted(icons.iterdir()):
            if path.suffix in _ICONS and path.is_file():
                parts[f"icons/{path.name}"] = read_given(path)
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


def unpack(data: bytes, folder: Path) -> LaidOut:
    """Lay a pack out in a folder that is new or empty, its tries as well. Raises StoreError, FolioError; then nothing is there.

    Everything in it is read as a folio first; then it is laid out beside the folder, which gets its name at the very end.
    """
    try:
        if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
            raise StoreError(f"{folder}: already there and not empty; nothing was changed")
        parts = parts_of(data)
    except ZippedError as error:
        raise StoreError(f"not a pack that can be read: {error}; nothing was changed") from error
    except OSError as error:
        raise StoreError(f"{folder}: cannot be used ({error.strerror}); nothing was changed") from error
    tries = parts.pop(TRIES, None)
    strange = [name for name in parts if not _belongs(name)]
    if strange:
        raise StoreError(f"{strange[0]} has no place in a folio; nothing was changed")
    if "folio.toml" not in parts:
        raise StoreError("not a pack: it has no folio.toml; nothing was changed")
    settings = read_files(folder, {name: data for name, data in parts.items() if name.endswith(".toml")}).folio.settings
    laid_out = _lay_out(folder, parts, tries, settings.log)
    return replace(laid_out, asks=tuple(ask_about(folder, settings)))


def _lay_out(folder: Path, parts: Mapping[str, bytes], tries: bytes | None, log: str) -> LaidOut:
    made = [path for path in (folder, *folder.parents) if not path.exists()]
    unfinished = None
    try:
        folder.parent.mkdir(parents=True, exist_ok=True)
        unfinished = Path(tempfile.mkdtemp(prefix=".unpacking-", dir=folder.parent))
        for name, part in parts.items():
            write_atomically(unfinished / name, part)
        laid_out = _merge(unfinished, tries, log) if tries is not None else LaidOut()
        set_mode(unfinished, folder.stat().st_mode & 0o7777 if folder.exists() else 0o755)
        unfinished.replace(folder)  # over an empty folder too, and never over one that is not empty
    except BaseException as error:
        for path in [unfinished, *made] if unfinished is not None else made:
            shutil.rmtree(path, ignore_errors=True) if path == unfinished else _remove_if_empty(path)
        if isinstance(error, OSError):
            raise StoreError(f"{folder}: cannot be written ({error.strerror}); nothing was changed") from error
        raise
    return laid_out


def _remove_if_empty(folder: Path) -> None:
    with contextlib.suppress(OSError):
        folder.rmdir()


def _merge(folder: Path, tries: bytes, log: str) -> LaidOut:
    """Return the tries of a pack in the log it is laid out with; never in one on a server."""
    from glimber.store.practice.jsonl import parse_lines
    from glimber.store.practice.log import merge, open_log

    if is_server(log):
        raise StoreError("its practice would go to a server; unpack it without its tries")
    lines = parse_lines(tries.decode("utf-8", "replace"))
    with open_log(folder, log) as opened:
        merged = merge(opened, map(_closed, lines.records))
        opened.rest()
    return LaidOut(merged, lines.bad)


def _closed(record: Record) -> Record:
    """Return an open change as one that is set: what waits on somebody else's change sheet is not this person's to set."""
    is_open = isinstance(record, Change) and record.applied is None and record.reverted is None
    return replace(record, applied=record.at) if is_open and isinstance(record, Change) else record


def _belongs(name: str) -> bool:
    folder, _, file = name.rpartition("/")
    if not folder:
        return file == "folio.toml"
    if folder == "icons":
        return file.endswith(_ICONS)
    return folder in FOLDERS and file.endswith(".toml")
