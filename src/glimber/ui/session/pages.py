"""Pages as values: what a room wants laid over itself, with the rows that stand on it and what can be done there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct

if TYPE_CHECKING:
    from PySide6.QtCore import QRectF
    from PySide6.QtGui import QPainter


class Inks(Struct, frozen=True):
    """The colours of a page: paper for what could be printed, the panel's for everything else."""

    text: str
    quiet: str
    line: str
    chip: str
    front: str
    bar: str
    added: str
    removed: str


class PageRow(Protocol):
    """A row. ``value`` is what its action gets; None: the row has none and is passed over."""

    @property
    def value(self) -> object: ...

    @property
    def height(self) -> int: ...

    @property
    def spoken(self) -> str: ...

    def put(self, painter: QPainter, box: QRectF, ink: Inks) -> None: ...


class PageAction(Struct, frozen=True):
    """One thing that can be done: its key ("Enter", "Space", "Del" or a letter), its words, and what does it.

    ``run`` gets the value of the row in front. ``of_row``: only where that row has one. ``leaves``: the page goes away first.
    """

    key: str
    words: str
    run: Callable[[object], object]
    of_row: bool = False
    leaves: bool = True


class Page(Struct, frozen=True):
    """The contents of a page. ``rows`` are asked for again whenever something was done and the page stays.

    ``paper``: drawn as a sheet that could be printed.
    """

    title: str
    rows: Callable[[], Sequence[PageRow]]
    actions: tuple[PageAction, ...] = ()
    about: str = ""
    paper: bool = False
