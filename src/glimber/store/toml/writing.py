"""Writes edits: only what an edit touches changes in a file; comments, order and layout of the rest stay as they are."""

from __future__ import annotations

import codecs
from collections.abc import Callable, Collection, Mapping
from datetime import datetime
from pathlib import Path
from typing import Any, TypeAlias

import tomlkit
from tomlkit import items
from tomlkit.container import OutOfOrderTableProxy
from tomlkit.exceptions import TOMLKitError

from glimber.core.edit.edit import state_ids
from glimber.core.model.board import Board
from glimber.core.model.folio import Folio
from glimber.store.faults import Fault, FolioError, StoreError
from glimber.store.files import backup_path, write_atomically
from glimber.store.folder import FOLDERS, Opened, folio_files
from glimber.store.saving import Note, write_together
from glimber.store.saving import Part as FilePart
from glimber.store.toml.emit import are_rows, document_text, inline_text, key_text, wants_table
from glimber.store.toml.normal_form import Part, Plain, board_plain, parts_of, plain_of, to_plain
from glimber.store.toml.reading import read_files

TomlItem: TypeAlias = Any
"""A table, an array or a value of tomlkit: containers that share no type with what is done to them here."""
Edited = tuple[dict[str, bytes], tuple[str, ...], bool, tuple[Fault, ...]]
"""Texts of the files that change, names of those that go, whether they read back as they are, and what is wrong with them."""
Editor = Callable[[Path, Mapping[str, bytes], Mapping[str, Part], Mapping[str, Part]], Edited]


def save_folio(
    opened: Opened, new: Folio, now: datetime, edit: Editor | None = None, note: Note | None = None
) -> Opened:
    """Write the difference between ``opened.folio`` and ``new`` into the files it touches, and ``note`` into the history.

    All of it is written or nothing; each file is copied into backups/ under the date first. ``edit`` works texts out; where it
    is given and what it wrote reads back as ``new``, the folio returned is ``new`` itself, so that what was derived from it
    stays good, otherwise it is the one that was read. Raises StoreError when the folder cannot be written, ChangedOnDisk when
    a file to be written is no longer as it was read, FolioError for a value that is no good folio.
    """
    before, after = _differing(opened.folio, new)
    if edit is None:
        texts, gone, again, faults = _edited_and_read(opened.folder, opened.texts, before, after)
    else:
        texts, gone, same, faults = edit(opened.folder, opened.texts, before, after)
        again = Opened(new, opened.folder, _files(opened.texts, texts, gone)) if same else None
    if faults:
        raise FolioError(list(faults))
    parts = [FilePart(name, opened.texts.get(name), text) for name, text in texts.items()]
    parts += [FilePart(name, opened.texts.get(name), None) for name in gone]
    write_together(opened.folder, parts, now, note)
    return again or read_files(opened.folder, _files(opened.texts, texts, gone))


def edited_files(opened: Opened, new: Folio) -> dict[str, bytes | None]:
    """Return the files that saving a folio would change, with what they would hold; None for one that would go. Raises
    FolioError for a value that is no good folio."""
    texts, gone, _, faults = _edited_and_read(opened.folder, opened.texts, *_differing(opened.folio, new))
    if faults:
        raise FolioError(list(faults))
    return {**texts, **dict.fromkeys(gone)}


def _differing(old: Folio, new: Folio) -> tuple[dict[str, Part], dict[str, Part]]:
    """Return the parts of two folios that are not the same, before and after."""
    old_parts, new_parts = parts_of(old), parts_of(new)
    names = [name for name in {**old_parts, **new_parts} if old_parts.get(name) is not new_parts.get(name)]
    before = {name: old_parts[name] for name in names if name in old_parts}
    return before, {name: new_parts[name] for name in names if name in new_parts}


def edited_texts(
    folder: Path, texts: Mapping[str, bytes], before: Mapping[str, Part], after: Mapping[str, Part]
) -> Edited:
    """Return the files of the parts that differ, edited so that only what differs changes; nothing is written.

    What would be on disk is read as a whole first: a value that is no good folio comes back as its faults.
    """
    changed, gone, again, faults = _edited_and_read(folder, texts, before, after)
    if again is None:
        return changed, gone, False, faults
    read = parts_of(again.folio)
    same = all(name in read and plain_of(read[name]) == plain_of(part) for name, part in after.items())
    return changed, gone, same, ()


def _edited_and_read(
    folder: Path, texts: Mapping[str, bytes], before: Mapping[str, Part], after: Mapping[str, Part]
) -> tuple[dict[str, bytes], tuple[str, ...], Opened | None, tuple[Fault, ...]]:
    """As ``edited_texts``, with the folio that was read of the files; None for it where that has faults."""
    changed: dict[str, bytes] = {}
    for name, part in after.items():
        old = plain_of(before[name]) if name in before else None
        plain = plain_of(part)
        if plain != old:
            target = _file_of(texts, name)
            changed[target] = _edited_bytes(texts.get(target), old or {}, plain)
    gone = tuple(_file_of(texts, name) for name in before if name not in after)
    try:
        return changed, gone, read_files(folder, _files(texts, changed, gone)), ()
    except FolioError as error:
        return changed, gone, None, tuple(error.faults)


def _files(texts: Mapping[str, bytes], changed: Mapping[str, bytes], gone: Collection[str]) -> dict[str, bytes]:
    """Return the files of a folio after an edit."""
    return {name: text for name, text in {**texts, **changed}.items() if name not in gone}


def keep_aside(opened: Opened, new: Folio, now: datetime) -> list[Path]:
    """Put what could not be saved beside the copies in backups/, so that it is not lost; where it was put. Raises StoreError."""
    old_plain, kept = to_plain(opened.folio), []
    for name, plain in to_plain(new).items():
        if plain == old_plain.get(name):
            continue
        before = opened.texts.get(_file_of(opened.texts, name))
        path = backup_path(opened.folder, f"unsaved-{name}", now)
        write_atomically(path, _edited_bytes(before, old_plain.get(name, {}), plain))
        kept.append(path)
    return kept


def restore(opened: Opened, earlier: Opened, now: datetime, note: Note | None = None) -> Opened:
    """Put the files back as they were at ``earlier``, byte for byte. Raises StoreError, ChangedOnDisk as ``save_folio``."""
    names = [name for name in {**opened.texts, **earlier.texts} if opened.texts.get(name) != earlier.texts.get(name)]
    parts = [FilePart(name, opened.texts.get(name), earlier.texts.get(name)) for name in names]
    write_together(opened.folder, parts, now, note)
    return earlier


def _file_of(texts: Mapping[str, bytes], name: str) -> str:
    """Return the file that holds a board or layout: its name need not be the id."""
    if name in texts:
        return name
    folder, _, file = name.partition("/")
    if folder in ("boards", "layouts"):
        id, field = file.removesuffix(".toml"), "id" if folder == "boards" else "board"
        for other, text in texts.items():
            if other.startswith(f"{folder}/") and tomlkit.parse(text.decode("utf-8-sig")).get(field) == id:
                return other
    return name


def _edited_bytes(data: bytes | None, old: Plain, new: Plain) -> bytes:
    """As ``edited``, on a file's bytes: its mark of UTF-8 and its line ends stay as they are."""
    text = (data or b"").decode("utf-8-sig")
    windows = "\r\n" in text and text.count("\n") == text.count("\r\n")
    out = edited(text.replace("\r\n", "\n") if windows else text, old, new)
    if windows:
        out = out.replace("\n", "\r\n")
    return (codecs.BOM_UTF8 if data is not None and data.startswith(codecs.BOM_UTF8) else b"") + out.encode()


def edited(text: str, old: Plain, new: Plain) -> str:
    """Return the TOML text with only the differences between two plain documents applied."""
    if not text.strip() and not old:
        return document_text(new)
    try:
        document = tomlkit.parse(text)
    except TOMLKitError as error:
        raise StoreError(f"the file cannot be edited: {error}") from error
    _apply(document, old, new)
    return tomlkit.dumps(document)


def _apply(table: TomlItem, old: Plain, new: Plain) -> None:
    gone: list[tuple[object, TomlItem]] = []
    for name in [name for name in old if name not in new and name in table]:
        gone.append((old[name], table[name]))
        del table[name]
    for name, value in new.items():
        before = old.get(name)
        if value == before:
            continue  # untouched, even where the file says it in another way, such as a shortcut for one binding
        if name not in table:
            carried = next((pair for pair in gone if pair[0] == value), None)
            if carried is not None:
                gone.remove(carried)  # the same thing under another name: it keeps its comment and its layout
            _put(table, name, carried[1] if carried else _item(value, inline=not wants_table(name)))
            continue
        here = table.get(name)
        both_tables = isinstance(value, dict) and isinstance(here, dict)
        if both_tables and isinstance(before, dict) and not isinstance(here, items.InlineTable):
            _apply(here, before, value)
        elif are_rows(value) and are_rows(before) and isinstance(here, items.AoT | items.Array):
            _apply_rows(here, before, value)
        else:
            table[name] = _in_place_of(here, _item(_merged(here, before, value), inline=True))


def _put(table: TomlItem, name: str, item: TomlItem) -> None:
    """Add an entry; a table whose parts stand apart in the file takes it like a dict."""
    if isinstance(table, OutOfOrderTableProxy):
        table[name] = item
    else:
        table.add(name, item)


def _in_place_of(here: object, item: TomlItem) -> TomlItem:
    """Return the new item with the comment behind the old one."""
    if isinstance(here, items.Item):
        item.trivia.comment, item.trivia.comment_ws = here.trivia.comment, here.trivia.comment_ws
    return item


def _merged(here: object, before: object, value: object) -> object:
    """Return what a line is to say: the file's own words, in its own order, with the difference put in."""
    if not (isinstance(here, dict) and isinstance(before, dict) and isinstance(value, dict)):
        return value
    if "id" in before and "id" in value and before["id"] != value["id"]:
        return value  # another binding: it is written whole
    out = {name: entry for name, entry in here.items() if name not in before or name in value}
    for name, entry in value.items():
        if entry != before.get(name):
            out[name] = _merged(out.get(name), before.get(name), entry)
    return out


def _apply_rows(array: TomlItem, old: list[Plain], new: list[Plain]) -> None:
    on_lines = isinstance(array, items.Array)
    for place, (here, before, after) in enumerate(zip(array, old, new, strict=False)):
        if not on_lines:
            _apply(here, before, after)
        elif before != after:
            array[place] = _item(_merged(here, before, after), inline=True)
    for row in new[len(old) :]:
        array.append(_item(row, inline=on_lines))
    for _ in range(len(old) - len(new)):
        array.pop()


def _item(value: object, inline: bool) -> TomlItem:
    """Return a tomlkit item: on one line, or dicts as tables and lists of dicts as arrays of tables."""
    if not inline and isinstance(value, dict):
        if len(value) > 1 and not any(map(wants_table, value)):
            # As one text: an entry added to a table of tomlkit takes time in proportion to the table.
            entries = "".join(f"{key_text(name)} = {inline_text(entry)}\n" for name, entry in value.items())
            return items.Table(tomlkit.parse(entries), items.Trivia(), False)
        table = tomlkit.table()
        for name, entry in value.items():
            table.add(name, _item(entry, inline=not wants_table(name)))
        return table
    if not inline and are_rows(value):
        rows = tomlkit.aot()
        for row in value:
            rows.append(_item(row, inline=False))
        return rows
    return tomlkit.parse(f"it = {inline_text(value)}\n").item("it")


def keep_ids(opened: Opened, ids: set[str], now: datetime) -> Opened:
    """Write the default ids among ``ids`` into the files: done before a binding's first try or first edit."""
    if all(opened.folio.bindings[id].given_id for id in ids if id in opened.folio.bindings):
        return opened
    return save_folio(opened, state_ids(opened.folio, ids), now)


def board_text(board: Board) -> str:
    """Return a board as the TOML of its file."""
    return edited("", {}, board_plain(board))


def new_folio(folder: Path, title: str, board: str | None) -> None:
    """Make the folder of an empty folio, with a layout of a board or without any. Raises StoreError when something is already
    there or it cannot be made."""
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise StoreError(f"{folder}: already there and not empty; nothing was changed")
    layout = (
        f'format = "glimber-layout/1"\nboard = "{board}"\n\n[[layers]]\nid = "base"\nname = "Base"\nunbound = "falls"\n'
    )
    everywhere = 'format = "glimber-program/1"\nname = "Everywhere"          # the desktop itself\n'
    files = {
        "folio.toml": f'format = "glimber-folio/1"\ntitle = {tomlkit.item(title).as_string()}\nkeyboard = "full-105"\n',
        **({f"layouts/{board}.toml": layout} if board is not None else {}),
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
