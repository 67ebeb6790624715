"""The files of a folio as typed documents: fields, types and ranges.

References and triggers are resolved later, in ``convert``. Parts that mean the same in a file and in memory (timing, keys, tour
stops) are the core's own classes; ``shape`` checks a document against these declarations.
"""

from __future__ import annotations

from typing import Annotated, Any, Final, Literal

from msgspec import Meta, Struct

from glimber.core.model.board import Key, Knob, Point
from glimber.core.model.folio import (
    BINDING_NOTES,
    CardKind,
    KeyTiming,
    LearnState,
    Milliseconds,
    Mode,
    Text,
    Timing,
    TourStop,
    Unbound,
)

FORMATS: Final = {
    "folio": "glimber-folio",
    "program": "glimber-program",
    "layout": "glimber-layout",
    "board": "glimber-board",
    "card": "glimber-card",
    "run": "glimber-run",
}
VERSION: Final = 1
MOST_USES_A_DAY: Final = 100_000

Positive = Annotated[float, Meta(gt=0, le=1_000_000)]
Modifier = Literal["Ctrl", "Alt", "AltGr", "Shift", "Super", "Hyper"]
Paper = Literal["A3", "A4", "A5", "A6", "Letter", "Legal", "index", "strip", "screen", "large-screen"]


class Document(Struct, frozen=True, kw_only=True):
    """A table of a folio's file."""


class SourceDoc(Document, frozen=True, kw_only=True):
    path: Text | None = None
    system: Literal["gsettings", "line-editor"] | None = None
    running: Text | None = None
    program: Text | None = None
    column: Text | None = None
    watch: bool = False


class FolioDoc(Document, frozen=True, kw_only=True):
    format: str
    title: Text
    keyboard: Text = "full-105"
    xkb: Text = "us"
    log: Text = "practice.db"
    working_days: Annotated[float, Meta(gt=0, le=7)] = 5
    target_ms: Positive = 1500
    horizon_weeks: Positive = 8
    recovery_s: Positive = 2.5
    careful_recovery_s: Positive = 10.0
    sure: Annotated[float, Meta(ge=0.5, lt=1)] = 0.8
    least_gain_s: Annotated[float, Meta(ge=0)] = 30.0
    away: Literal["none", "left", "right"] = "none"
    timing: Timing = Timing()
    bundles: dict[str, Annotated[tuple[Modifier, ...], Meta(min_length=1)]] = {}
    sources: dict[str, SourceDoc] = {}
    abbreviations: dict[Text, Text] = {}


class GroupDoc(Document, frozen=True, kw_only=True):
    name: Text
    ink: Literal["tide", "moss", "clay", "plum", "sand", "slate", "rose", "pine"] = "slate"
    mark: Literal["ring", "bar", "wedge", "pair", "cross", "wave", "square", "notch"] = "square"


class BindingDoc(Document, frozen=True, kw_only=True):
    """Fields that any binding may have, whatever it does."""

    id: Text | None = None
    reason: Text | None = None
    label: Text | None = None
    icon: Text | None = None
    picture: Text | None = None
    set_at: Text | None = None
    computers: tuple[Text, ...] = ()
    pinned: bool = False
    share: Annotated[float, Meta(ge=0, le=1)] | None = None

    def notes(self) -> dict[str, Any]:
        """Return the fields that are kept as they are, whatever the binding does."""
        return {name: getattr(self, name) for name in BINDING_NOTES}


class ShortcutDoc(BindingDoc, frozen=True, kw_only=True):
    """One of a command's ``[[…bindings]]``."""

    trigger: Text


class CommandDoc(Document, frozen=True, kw_only=True):
    name: Text
    label: Text | None = None
    group: Text | None = None
    context: Text | None = None
    words: tuple[Text, ...] = ()
    was: tuple[Text, ...] = ()
    shortcut: Text | None = None
    slow_way: tuple[Text, ...] = ()
    uses_per_day: Annotated[float, Meta(ge=0, le=MOST_USES_A_DAY)] | None = None
    careful: bool = False
    icon: Text | None = None
    picture: Text | None = None
    set_at: Text | None = None
    learn: LearnState | None = None
    note: Text | None = None
    keys_of: dict[Literal["linux", "windows", "mac"], Text | tuple[Text, ...]] = {}
    bindings: tuple[ShortcutDoc, ...] = ()


class StemDoc(Document, frozen=True, kw_only=True):
    name: Text
    stays_open: bool = False
    closes: Text | tuple[Text, ...] | dict[Text, str] | None = None
    slow_way: tuple[Text, ...] = ()


class ProgramDoc(Document, frozen=True, kw_only=True):
    format: str
    name: Text
    contexts: tuple[Text, ...] = ()
    windows: tuple[Text, ...] = ()
    picture: Text | None = None
    groups: dict[str, GroupDoc] = {}
    commands: dict[str, CommandDoc] = {}
    stems: dict[str, StemDoc] = {}
    defaults: dict[str, tuple[Text, ...]] = {}


class SpotDoc(BindingDoc, frozen=True, kw_only=True):
    """The action of one gesture of a key, where it is more than a trigger in text."""

    does: Text | None = None
    sends: Text | None = None
    steps: tuple[Any, ...] = ()
    repeat_ms: Milliseconds | None = None
    release: tuple[Text, ...] = ()
    enters: Text | None = None
    mode: Mode | None = None
    leaves: bool = False
    bundle: Text | None = None


class LayerDoc(Document, frozen=True, kw_only=True):
    id: Text
    name: Text
    unbound: Unbound = "falls"
    front: Text | None = None
    timing: dict[str, KeyTiming] = {}
    keys: dict[str, Any] = {}


class LayoutDoc(Document, frozen=True, kw_only=True):
    format: str
    board: Text
    layers: Annotated[tuple[LayerDoc, ...], Meta(min_length=1)]


class HomesDoc(Document, frozen=True, kw_only=True):
    left: Point | None = None
    right: Point | None = None


class BoardDoc(Document, frozen=True, kw_only=True):
    format: str
    id: Text
    name: Text
    homes: HomesDoc = HomesDoc()
    keys: tuple[Key, ...] = ()
    knobs: tuple[Knob, ...] = ()
    stand_in: dict[str, Text] = {}


class CardDoc(Document, frozen=True, kw_only=True):
    format: str
    title: Text
    kind: CardKind
    board: Text | None = None
    layers: tuple[Text, ...] = ()
    beside: Text | None = None
    keys: tuple[Text, ...] = ()
    program: Text | None = None
    context: Text | None = None
    groups: tuple[Text, ...] = ()
    find: Text | None = None
    weakest: Annotated[int, Meta(gt=0)] | None = None
    most_used: Annotated[int, Meta(gt=0)] | None = None
    changed_since: Text | None = None
    run: Text | None = None
    paper: Paper = "A5"
    landscape: bool = True
    shows: tuple[Text, ...] = ("labels", "holds", "legend")
    tour: tuple[TourStop, ...] = ()


class RunDoc(Document, frozen=True, kw_only=True):
    format: str
    name: Text
    commands: tuple[Text, ...]
    slow_way: tuple[Text, ...] = ()


KINDS: Final[dict[str, type[Document]]] = {
    "folio": FolioDoc,
    "program": ProgramDoc,
    "layout": LayoutDoc,
    "board": BoardDoc,
    "card": CardDoc,
    "run": RunDoc,
}
