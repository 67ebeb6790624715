"""Writes edits: only what an edit touches changes in a file; comments, order and layout of the rest stay as they are."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Mapping, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

import tomlkit
from tomlkit import items
from tomlkit.exceptions import TOMLKitError

from glimber.core.edit import state_ids
from glimber.core.folio import Folio
from glimber.store.faults import StoreError
from glimber.store.plain import to_plain
from glimber.store.reading import FOLDERS, Opened, folio_files, read_files

BACKUPS_KEPT = 200


class ChangedOnDisk(StoreError):
    """A file to be saved has changed since it was read; nothing was written."""


def save_folio(opened: Opened, new: Folio, now: datetime) -> Opened:
    """Write the difference between ``opened.folio`` and ``new`` into the files it touches.

    Each file is copied into backups/ under the date first and then replaced atomically. Raises StoreError when the
    folder cannot be written, ChangedOnDisk when a file to be written is no longer as it was read.
    """
    old_plain, new_plain = to_plain(opened.folio), to_plain(new)
    texts: dict[str, bytes] = {}
    for name, plain in new_plain.items():
        target = _file_of(opened, name)
        if plain == old_plain.get(name):
            continue
        before = opened.texts.get(target)
        texts[target] = edited(before.decode("utf-8-sig") if before else "", old_plain.get(name, {}), plain).encode()
    gone = [_file_of(opened, name) for name in old_plain if name not in new_plain]
    _check_unchanged(opened, [*texts, *gone])
    files = {name: text for name, text in {**opened.texts, **texts}.items() if name not in gone}
    again = read_files(opened.folder, files)  # what will be on disk must be a good folio before it is written
    for name in [*texts, *gone]:
        back_up(opened.folder, name, now)
    for name, text in texts.items():
        write_atomically(opened.folder / name, text)
    for name in gone:
        (opened.folder / name).unlink(missing_ok=True)
    return again


def _file_of(opened: Opened, name: str) -> str:
    """The file that holds a board or layout: its name need not be the id."""
    if name in opened.texts:
        return name
    folder, _, file = name.partition("/")
    if folder in ("boards", "layouts"):
        id, field = file.removesuffix(".toml"), "id" if folder == "boards" else "board"
        for other, text in opened.texts.items():
            if other.startswith(f"{folder}/") and tomlkit.parse(text.decode("utf-8-sig")).get(field) == id:
                return other
    return name


def _check_unchanged(opened: Opened, names: Sequence[str]) -> None:
    for name in names:
        path = opened.folder / name
        try:
            now = path.read_bytes() if path.exists() else None
        except OSError as error:
            raise StoreError(f"{path}: cannot be read ({error.strerror}); nothing was changed") from error
        if now != opened.texts.get(name):
            raise ChangedOnDisk(
                f"{name} was changed on disk since it was read; nothing was saved. Read it again first."
            )


def edited(text: str, old: Mapping[str, Any], new: Mapping[str, Any]) -> str:
    """The TOML text with only the differences between two plain documents applied."""
    try:
        document = tomlkit.parse(text)
    except TOMLKitError as error:
        raise StoreError(f"the file cannot be edited: {error}") from error
    _apply(document, old, new)
    return tomlkit.dumps(document)


def _apply(table: Any, old: Mapping[str, Any], new: Mapping[str, Any]) -> None:
    for name in [name for name in old if name not in new]:
        if name in table:
            table.remove(name)
    for name, value in new.items():
        before = old.get(name)
        if value == before and name in table:
            continue
        if value == before and name not in table:
            continue  # said in another way, such as a shortcut for one binding
        here = table.get(name)
        if isinstance(value, dict) and isinstance(before, dict) and isinstance(here, dict):
            _apply(here, before, value)
        elif _are_rows(value) and _are_rows(before) and isinstance(here, list) and len(here) == len(before or []):
            _apply_rows(here, before or [], value)
        elif name in table:
            table[name] = _item(value, inline=isinstance(table, items.InlineTable) or not isinstance(here, items.AoT))
        else:
            table.add(name, _item(value, inline=isinstance(table, items.InlineTable) or not _wants_table(name)))


def _are_rows(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and all(isinstance(row, dict) for row in value)


def _apply_rows(array: Any, old: list[Any], new: list[Any]) -> None:
    for here, before, after in zip(array, old, new, strict=False):
        _apply(here, before, after)
    for row in new[len(old) :]:
        array.append(_item(row, inline=not isinstance(array, items.AoT)))
    for _ in range(len(old) - len(new)):
        array.pop()


_TABLES = ("commands", "groups", "stems", "defaults", "timing", "bundles", "sources", "keys", "layers", "bindings", "tour",
           "knobs", "homes", "stand_in")  # fmt: skip


def _wants_table(name: str) -> bool:
    return name in _TABLES


def _item(value: Any, inline: bool) -> Any:
    """A tomlkit item: dicts as inline tables or tables, lists of dicts as arrays of inline tables or of tables."""
    if isinstance(value, dict):
        table: Any = tomlkit.inline_table() if inline else tomlkit.table()
        for name, entry in value.items():
            table.add(name, _item(entry, inline=inline or not isinstance(entry, dict | list) or not _wants_table(name)))
        return table
    if _are_rows(value) and not inline:
        rows = tomlkit.aot()
        for row in value:
            rows.append(_item(row, inline=False))
        return rows
    if isinstance(value, list):
        array = tomlkit.array()
        for entry in value:
            array.append(_item(entry, inline=True))
        return array
    return tomlkit.item(value)


def keep_ids(opened: Opened, ids: set[str], now: datetime) -> Opened:
    """Write the default ids among ``ids`` into the files: done before a binding's first try or first edit."""
    if all(opened.folio.bindings[id].given_id for id in ids if id in opened.folio.bindings):
        return opened
    return save_folio(opened, state_ids(opened.folio, ids), now)


def write_atomically(path: Path, data: bytes) -> None:
    """Replace a file so that at any moment either the old or the new one is whole. Raises StoreError."""
    temporary = None
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=path.parent, prefix=".saving-", delete=False) as file:
            temporary = Path(file.name)
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        temporary.chmod(path.stat().st_mode & 0o777 if path.exists() else 0o644)
        temporary.replace(path)
        directory = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(directory)
        finally:
            os.close(directory)
    except OSError as error:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink()
        raise StoreError(f"{path}: cannot be written ({error.strerror}); nothing was changed there") from error


def back_up(folder: Path, name: str, now: datetime) -> None:
    """Copy a file into backups/ under the moment it was replaced; the newest 200 copies are kept."""
    source = folder / name
    if not source.exists():
        return
    stamp = now.strftime("%Y-%m-%d-%H%M%S")
    target = folder / "backups" / f"{stamp}-{name.replace('/', '-')}"
    number = 1
    while target.exists():
        number += 1
        target = target.with_name(f"{stamp}-{number}-{name.replace('/', '-')}")
    write_atomically(target, source.read_bytes())
    with contextlib.suppress(OSError):
        for old in sorted((folder / "backups").iterdir())[:-BACKUPS_KEPT]:
            old.unlink()


def new_folio(folder: Path, title: str, board: str) -> None:
    """Make the folder of an empty folio. Raises StoreError when something is already there or it cannot be made."""
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise StoreError(f"{folder}: already there and not empty; nothing was changed")
    layout = (
        f'format = "glimber-layout/1"\nboard = "{board}"\n\n[[layers]]\nid = "base"\nname = "Base"\nunbound = "falls"\n'
    )
    everywhere = 'format = "glimber-program/1"\nname = "Everywhere"          # the desktop itself\n'
    files = {
        "folio.toml": f'format = "glimber-folio/1"\ntitle = {tomlkit.item(title).as_string()}\nkeyboard = "full-105"\n',
        f"layouts/{board}.toml": layout,
        "programs/everywhere.toml": everywhere,
    }
    try:
        for sub in (*FOLDERS, "icons", "backups"):
            (folder / sub).mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StoreError(f"{folder}: cannot be made ({error.strerror})") from error
    for name, text in files.items():
        write_atomically(folder / name, text.encode())


def reopen(opened: Opened) -> Opened:
    """Read the folder again. Raises FolioError or StoreError; the old value stays good."""
    return read_files(opened.folder, folio_files(opened.folder))
