"""Places where changes can be set: linked sources with a writer, the person's inputrc, the desktop's settings."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Final

from msgspec import Struct

from glimber.core.model.folio import EVERYWHERE, Source
from glimber.readers.process import read_apart
from glimber.store.agreements import refuse_unagreed
from glimber.store.faults import StoreError
from glimber.store.files import expanded, read_given, read_if_there, real, replace_if_unchanged
from glimber.store.folder import Opened
from glimber.store.system.sources import asked, path_of, read_source
from glimber.writers.registry import kinds

DESKTOP: Final = "gsettings"
LINE_EDITOR: Final = "line-editor"
_HEAD_BYTES: Final = 100_000


class Place(Struct, frozen=True):
    """``kind`` of its writer, ``program`` whose commands are set there (None: any), ``path`` of its file (None: the desktop)."""

    kind: str
    program: str | None
    path: Path | None

    @property
    def shown(self) -> str:
        return "the desktop's settings" if self.path is None else str(self.path)

    def brief(self, folder: Path) -> str:
        """As a person would say it who has the folio in ``folder`` open: within it, or from their home."""
        if self.path is None:
            return self.shown
        for root, lead in ((folder.resolve(), ""), (Path.home(), "~/")):
            with suppress(ValueError):
                return f"{lead}{self.path.resolve().relative_to(root)}"
        return self.shown

    def read(self) -> bytes:
        """Return what is set there now; nothing where there is no file yet. Raises StoreError."""
        if self.path is None:
            return read_source(Source("desktop", system=DESKTOP), Path())[1]
        return read_if_there(self.path) or b""

    def write(self, before: bytes, after: bytes) -> None:
        """Put what differs in place; what is there must be as it was. Raises StoreError; then nothing was changed there."""
        if self.path is None:
            _set_keys(before, after)
            return
        replace_if_unchanged(self.path, before, after)

    def put_back(self, now: bytes, before: bytes, was_there: bool) -> None:
        """As it was before something was set. Raises StoreError."""
        if self.path is not None and not was_there:
            with suppress(FileNotFoundError):
                real(self.path).unlink()  # never the link that leads to it: that was there before
        else:
            self.write(now, before)


def inputrc() -> Path:
    """Return the file the line editor reads: INPUTRC, or .inputrc in the home folder. Source: the Readline manual, "Init
    File"."""
    return expanded(os.environ.get("INPUTRC") or "~/.inputrc")


def places_of(opened: Opened, into: str | None = None) -> list[Place]:
    """Return the places that the linked sources of a folio are, those of one writer where it is named; what cannot be read, or
    has no writer, is none. The desktop's settings and the person's inputrc are also there where they are asked for by name.

    Raises StoreError for a writer that does not exist.
    """
    if into is not None and into not in kinds():
        raise StoreError(f"{into} is not a writer; expected one of {', '.join(kinds())}")
    found = list(dict.fromkeys(_linked(opened)))
    if into == DESKTOP and not any(one.kind == DESKTOP for one in found):
        found.append(Place(DESKTOP, EVERYWHERE, None))
    if into == LINE_EDITOR and not any(one.kind == LINE_EDITOR for one in found):
        found.append(Place(LINE_EDITOR, None, inputrc()))
    return [one for one in found if into in (None, one.kind)]


def _linked(opened: Opened) -> Iterator[Place]:
    for source in opened.folio.settings.sources.values():
        try:
            refuse_unagreed(source, opened.folder)
        except StoreError:
            continue
        if source.system == DESKTOP:
            yield Place(DESKTOP, source.program or EVERYWHERE, None)
        elif source.system == LINE_EDITOR:
            yield Place(LINE_EDITOR, source.program, inputrc())
        elif (path := path_of(source, opened.folder)) is not None:
            try:
                kind = read_apart(path.name, _head(read_given(path))).kind
            except StoreError:
                continue
            if kind in kinds():
                yield Place(kind, source.program, path)


def _head(data: bytes) -> bytes:
    """Return the first whole lines of a text, by which its kind is known; what is short or no lines, whole."""
    end = data.rfind(b"\n", 0, _HEAD_BYTES) + 1
    return data if len(data) <= _HEAD_BYTES or not end or data[:1] in b"{[<" else data[:end]


def _set_keys(before: bytes, after: bytes) -> None:
    """Set every key of the desktop whose line differs; where one cannot be set, those before it get their old values again."""
    pairs = zip(before.decode().splitlines(), after.decode().splitlines(), strict=True)
    differing = [(old, new) for old, new in pairs if old != new]
    done: list[str] = []
    for old, new in differing:
        schema, key, value = new.split(" ", 2)
        try:
            if current(schema, key) != old.split(" ", 2)[2].strip():
                raise StoreError(f"{schema} {key} was changed by somebody else meanwhile")
            asked(("gsettings", "set", schema, key, value))
        except StoreError as error:
            for earlier in done:
                with suppress(StoreError):
                    asked(("gsettings", "set", *earlier.split(" ", 2)))
            raise StoreError(f"the desktop's settings: {error}; nothing was set there") from error
        done.append(old)


def current(schema: str, key: str) -> str:
    """Return the value of a key of the desktop now. Raises StoreError."""
    return asked(("gsettings", "get", schema, key)).decode("utf-8", "replace").strip()
