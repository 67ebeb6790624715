"""Reads a folio from disk: all errors of all files at once, or one good value."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from functools import cache
from importlib import resources
from pathlib import Path
from typing import TypeVar

from msgspec import Struct, field

from glimber.core.model.board import Board
from glimber.core.model.folio import Folio, Layout, Program, Settings
from glimber.core.notation.keys import is_slug
from glimber.core.notation.legend import US, Legend
from glimber.core.notation.nearest import did_you_mean
from glimber.store.faults import Fault, FolioError
from glimber.store.folder import FOLDERS, Opened, folio_files
from glimber.store.saving import tidy
from glimber.store.toml.convert import board_of, card_of, program_of, run_of, settings_of
from glimber.store.toml.convert_layout import Known, layout_of
from glimber.store.toml.documents import BoardDoc, CardDoc, FolioDoc, LayoutDoc, ProgramDoc, RunDoc
from glimber.store.toml.ids import Ids
from glimber.store.toml.parse import Page, parse_document

Document = TypeVar("Document", bound=Struct)


@cache
def shipped_board_ids() -> tuple[str, ...]:
    """Return ids of the boards that come with Glimber."""
    folder = resources.files("glimber.core.model") / "boards"
    return tuple(sorted(item.name.removesuffix(".toml") for item in folder.iterdir() if item.name.endswith(".toml")))


def shipped_board_text(id: str) -> str:
    return (resources.files("glimber.core.model") / "boards" / f"{id}.toml").read_text("utf-8")


@cache
def shipped_board(id: str) -> Board:
    page, doc = parse_document(f"boards/{id}.toml", shipped_board_text(id).encode(), "board")
    board = board_of(page, doc) if doc is not None else None  # type: ignore[arg-type]
    if page.faults or board is None:
        raise FolioError(page.faults)
    return board


def open_folio(folder: str | os.PathLike[str], lenient: bool = False) -> Opened:
    """Read a folio. Raises FolioError with every fault, StoreError for a folder that is no folio.

    ``lenient``: parts with a fault that has an audit code are left out and the faults returned with the rest.
    """
    path = Path(folder)
    tidy(path)
    return read_files(path, folio_files(path), lenient)


def read_files(folder: Path, files: Mapping[str, bytes], lenient: bool = False) -> Opened:
    """Read a folio from the contents of its files."""
    reader = _Reader(files)
    folio = reader.read()
    faults = [fault for page in reader.pages for fault in page.faults]
    hard = [fault for fault in faults if fault.code is None]
    if folio is None or hard or (faults and not lenient):
        raise FolioError(faults)
    return Opened(folio, folder, dict(files), tuple(sorted(faults)))


class _Reader(Struct):
    """Reads all files of a folio, with the faults of each on its page."""

    files: Mapping[str, bytes]
    pages: list[Page] = field(default_factory=list)
    ids: Ids = field(default_factory=Ids)

    def read(self) -> Folio | None:
        docs = {name: self._document(name) for name in self.files}
        read = self._settings(docs)
        settings = read or self._salvaged()
        if settings is None:
            return None  # what the other files refer to is not known: only their own faults are reported
        bundles = settings.bundles
        own = self._boards(docs)
        boards = {**{id: shipped_board(id) for id in self._needed(docs, settings, own)}, **own}
        if settings.keyboard not in boards:
            known = [*own, *shipped_board_ids()]
            page = self._page("folio.toml")
            page.fault(("keyboard",), f"{settings.keyboard} is not a board{did_you_mean(settings.keyboard, known)}")
        programs: dict[str, Callable[[], Program]] = {}
        commands: list[str] = []
        for name, doc in self._of(docs, ProgramDoc):
            programs[_stem(name)] = program_of(self._page(name), doc, _stem(name), bundles, self.ids)
            commands += [f"{_stem(name)}/{slug}" for slug in doc.commands]
        broken = [_stem(name) for name in docs if name.startswith("programs/") and docs[name] is None]
        known_refs = Known(boards, commands, [*programs, *broken], bundles, [*boards, *shipped_board_ids()])
        waiting = self._layouts(docs, known_refs)
        if broken:
            # Commands of a program that could not be read are not unknown: only the program's own faults are reported.
            self._forget_references(broken)
        finished = {id: make() for id, make in programs.items()}
        layouts = {id: make() for id, make in waiting.items() if id in boards}
        # A card's layers are only looked for where every layout could be read: what a card says is not wrong because of them.
        whole = len(layouts) == sum(name.startswith("layouts/") for name in docs)
        runs = {
            _stem(name): run_of(self._page(name), doc, _stem(name), known_refs) for name, doc in self._of(docs, RunDoc)
        }
        cards = {
            _stem(name): card_of(self._page(name), doc, _stem(name), known_refs, layouts, runs, whole)
            for name, doc in self._of(docs, CardDoc)
        }
        if read is None or settings.keyboard not in boards:
            return None
        return Folio(settings, boards, frozenset(own), finished, layouts, cards, runs, self._legend(settings))

    def _document(self, name: str) -> object:
        kind = "folio" if name == "folio.toml" else FOLDERS[name.partition("/")[0]]
        page, doc = parse_document(name, self.files[name], kind)
        if name != "folio.toml" and not is_slug(_stem(name)):
            page.faults.append(Fault(name, 0, "the file's name is not usable as an id; use letters, digits, - and _"))
        self.pages.append(page)
        return doc

    def _page(self, name: str) -> Page:
        return next(page for page in self.pages if page.file == name)

    def _of(self, docs: Mapping[str, object], kind: type[Document]) -> list[tuple[str, Document]]:
        return [(name, doc) for name, doc in docs.items() if isinstance(doc, kind)]

    def _settings(self, docs: Mapping[str, object]) -> Settings | None:
        doc = docs.get("folio.toml")
        return settings_of(self._page("folio.toml"), doc) if isinstance(doc, FolioDoc) else None

    def _salvaged(self) -> Settings | None:
        """Return what other files refer to in a folio.toml that has faults; None where even that cannot be read."""
        plain = self._page("folio.toml").plain
        bundles = plain.get("bundles", {}) if plain else None
        if not isinstance(bundles, dict) or not all(isinstance(one, list) for one in bundles.values()):
            return None
        keyboard = plain.get("keyboard")
        known = keyboard if keyboard in shipped_board_ids() else "full-105"
        return Settings("", known, bundles={name: tuple(map(str, one)) for name, one in bundles.items()})

    def _legend(self, settings: Settings) -> Legend:
        """Return what the ordinary keyboard prints; the system's keyboard data is only asked where it is not the usual
        layout."""
        if settings.xkb == US.name:
            return US
        from glimber.store.system.xkb import UnknownLayoutError, legend_of

        try:
            return legend_of(settings.xkb)
        except UnknownLayoutError as error:
            self._page("folio.toml").fault(("xkb",), str(error))
            return US

    def _boards(self, docs: Mapping[str, object]) -> dict[str, Board]:
        boards: dict[str, Board] = {}
        for name, doc in self._of(docs, BoardDoc):
            page = self._page(name)
            if doc.id in boards:
                page.fault(("id",), f"board {doc.id!r} is there twice; every board needs its own id")
            boards[doc.id] = board_of(page, doc)
        return boards

    def _needed(self, docs: Mapping[str, object], settings: Settings, own: Mapping[str, Board]) -> list[str]:
        """Shipped boards that something refers to: all of them need not be read."""
        layouts = [doc.board for _, doc in self._of(docs, LayoutDoc)]
        wanted = [settings.keyboard, *layouts, *(doc.board for _, doc in self._of(docs, CardDoc))]
        return [id for id in shipped_board_ids() if id in wanted and id not in own]

    def _layouts(self, docs: Mapping[str, object], known: Known) -> dict[str, Callable[[], Layout]]:
        waiting: dict[str, Callable[[], Layout]] = {}
        for name, doc in self._of(docs, LayoutDoc):
            page = self._page(name)
            if doc.board in waiting:
                page.fault(("board",), f"{doc.board} has two layouts; expected one file for each board")
                continue
            waiting[doc.board] = layout_of(page, doc, known, self.ids)
        return waiting

    def _forget_references(self, programs: list[str]) -> None:
        for page in self.pages:
            page.faults = [
                fault
                for fault in page.faults
                if fault.code != "unknown-reference" or not any(fault.text.startswith(f"{id}/") for id in programs)
            ]


def _stem(name: str) -> str:
    return name.rpartition("/")[2].removesuffix(".toml")
