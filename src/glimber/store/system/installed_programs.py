"""The desktop's data on an installed program: its entry, its icon, and the English texts behind a translation of it.

Sources: "Desktop Entry Specification", "Icon Theme Specification" (hicolor, the theme that every other falls back to), "The
Format of GNU MO Files" in the manual of GNU gettext.
"""

from __future__ import annotations

import configparser
import os
import shlex
import struct
from collections.abc import Iterator, Mapping
from contextlib import suppress
from pathlib import Path
from typing import Final

from msgspec import Struct

from glimber.core.edit.commands import set_picture
from glimber.core.model.folio import Folio
from glimber.store.faults import StoreError
from glimber.store.files import read_given, write_atomically
from glimber.store.system.desktop_files import data_folder

LARGEST_ICON: Final = 500_000
_LARGEST_ENTRY, _LARGEST_CATALOGUE = 200_000, 8_000_000
_MAGIC: Final = 0x950412DE
_PLAIN_LOCALES: Final = ("", "C", "POSIX")


class DesktopEntry(Struct, frozen=True):
    """An installed program. ``id``: its entry's name without ``.desktop``; ``icon``: a name or a path, as the entry has it."""

    id: str
    name: str
    command: str
    window_class: str
    icon: str


def data_folders() -> list[Path]:
    """Return the folders for data of programs, the person's own first."""
    others = os.environ.get("XDG_DATA_DIRS") or "/usr/local/share:/usr/share"
    return [data_folder(), *(Path(one) for one in others.split(":") if one)]


def entry_named(name: str) -> DesktopEntry | None:
    """Return the entry of a program by any of its names: its title, its command, its windows' class, or the entry's own."""
    wanted = name.casefold()
    weakest: DesktopEntry | None = None
    for entry in _entries():
        if wanted in (entry.name.casefold(), entry.command.casefold(), entry.window_class.casefold(), entry.id.casefold()):
            return entry
        if weakest is None and entry.id.casefold().rpartition(".")[2] == wanted:
            weakest = entry
    return weakest


def _entries() -> Iterator[DesktopEntry]:
    for folder in data_folders():
        for path in sorted((folder / "applications").glob("*.desktop")):
            parser = configparser.RawConfigParser(delimiters=("=",), comment_prefixes=("#",), strict=False, interpolation=None)
            parser.optionxform = str  # type: ignore[assignment,method-assign]  # keys are told apart by capitals
            try:
                parser.read_string(read_given(path, _LARGEST_ENTRY).decode("utf-8", "replace"))
                own = parser["Desktop Entry"]
            except (StoreError, configparser.Error, KeyError):
                continue
            if own.get("Type", "Application") == "Application":
                yield DesktopEntry(path.stem, own.get("Name", ""), _program_of(own.get("Exec", "")),
                                   own.get("StartupWMClass", ""), own.get("Icon", ""))  # fmt: skip


def _program_of(command: str) -> str:
    """Return the program's file name in the command of an entry."""
    with suppress(ValueError):
        for part in shlex.split(command):
            if "=" not in part and part != "env":
                return Path(part).name
    return ""


def icon_file(icon: str) -> Path | None:
    """Return the file of an icon: a drawing, otherwise the largest picture; None where there is none that a card can show."""
    if not icon:
        return None
    if icon.startswith("/"):
        return _usable(Path(icon))
    found = [path for folder in data_folders() for path in _of_theme(folder, icon)]
    return next((path for path in sorted(found, key=_size_of, reverse=True) if _usable(path) is not None), None)


def _of_theme(folder: Path, icon: str) -> Iterator[Path]:
    for suffix in (".svg", ".png"):
        yield from (folder / "icons" / "hicolor").glob(f"*/apps/{_literal(icon)}{suffix}")
        yield from (folder / "pixmaps").glob(f"{_literal(icon)}{suffix}")


def _literal(name: str) -> str:
    """Return a name as a pattern that only it fits."""
    return "".join(f"[{char}]" if char in "*?[" else char for char in name.replace("/", ""))


def _size_of(path: Path) -> int:
    """Return the size of an icon by its folder: drawings before pictures, larger ones first."""
    if path.suffix == ".svg":
        return 100_000 - ("symbolic" in path.parts)
    size = path.parent.parent.name.partition("x")[0]
    return int(size) if size.isdigit() else 0


def _usable(path: Path) -> Path | None:
    try:
        return path if path.suffix in (".svg", ".png") and 0 < path.stat().st_size <= LARGEST_ICON else None
    except OSError:
        return None


def with_icon(folio: Folio, folder: Path, program: str) -> Folio:
    """Return the folio whose program has its icon from the desktop, copied into the folio's folder, where it has none yet.

    Without an entry or an icon, and where the file cannot be written, the folio stays as it is: a card does without.
    """
    here = folio.programs.get(program)
    entry = entry_named(here.name) or entry_named(program) if here is not None and here.picture is None else None
    source = icon_file(entry.icon) if entry is not None else None
    if source is None:
        return folio
    place = f"icons/{program}{source.suffix}"
    with suppress(StoreError, OSError):
        if not (folder / place).exists():
            data = read_given(source, LARGEST_ICON)
            (folder / place).parent.mkdir(exist_ok=True)
            write_atomically(folder / place, data)
        return set_picture(folio, program, place)
    return folio


# Translations


def english_of(names: tuple[str, ...]) -> Mapping[str, str]:
    """Return the English texts by what a program shows in the person's language, mnemonics left in; nothing where it is English.

    ``names``: what the program's catalogue may be called.
    """
    locale = next((value for key in ("LC_ALL", "LC_MESSAGES", "LANG") if (value := os.environ.get(key))), "")
    languages = (os.environ.get("LANGUAGE") or locale).split(":")
    if locale.partition(".")[0] in _PLAIN_LOCALES and not os.environ.get("LANGUAGE"):
        return {}
    for folder in data_folders():
        for language in filter(None, languages):
            plain = language.partition(".")[0]
            for one in dict.fromkeys((plain, plain.partition("@")[0], plain.partition("_")[0])):
                for name in names:
                    path = folder / "locale" / _literal(one) / "LC_MESSAGES" / f"{_literal(name)}.mo"
                    if path.is_file():
                        with suppress(StoreError, ValueError, struct.error):
                            return {shown: english for english, shown in _messages(read_given(path, _LARGEST_CATALOGUE))}
    return {}


def _messages(data: bytes) -> Iterator[tuple[str, str]]:
    """Yield the texts of a catalogue with their translations, without their contexts; of plurals the first."""
    order = "<" if struct.unpack_from("<I", data)[0] == _MAGIC else ">"
    magic, _, count, texts, translations = struct.unpack_from(f"{order}5I", data)
    if magic != _MAGIC:
        raise ValueError("not a catalogue of messages")
    for place in range(count):
        both = []
        for table in (texts, translations):
            length, at = struct.unpack_from(f"{order}2I", data, table + 8 * place)
            both.append(data[at : at + length].split(b"\0")[0].decode("utf-8", "replace"))
        english, shown = both[0].rpartition("\x04")[2], both[1]
        if english and shown:
            yield english, shown
