"""The files of a folio as pydantic documents: shapes, types and ranges. References and triggers are checked later."""

from __future__ import annotations

from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field

from glimber.core.folio.folio import INKS, MARKS, SAID

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

Positive = Annotated[float, Field(gt=0, le=1_000_000, allow_inf_nan=False)]
UsesADay = Annotated[float, Field(ge=0, le=MOST_USES_A_DAY, allow_inf_nan=False)]
Number = Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)]
Size = Annotated[float, Field(gt=0, le=100, allow_inf_nan=False)]
Milliseconds = Annotated[int, Field(gt=0, le=60_000)]
Text = Annotated[str, Field(min_length=1)]
Point = Annotated[list[Number], Field(min_length=2, max_length=2)]
Policy = Literal["timer", "crossed", "eager"]
Unbound = Literal["falls", "dead"]
Modifier = Literal["Ctrl", "Alt", "AltGr", "Shift", "Super", "Hyper"]
Finger = Literal[
    "left-little", "left-ring", "left-middle", "left-index", "left-thumb",
    "right-little", "right-ring", "right-middle", "right-index", "right-thumb",
]  # fmt: skip


class Document(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, defer_build=True)


class TimingDoc(Document):
    hold_ms: Milliseconds = 200
    again_ms: Milliseconds = 180
    together_ms: Milliseconds = 50
    sequence_ms: Milliseconds = 1000
    policy: Policy = "crossed"


class SourceDoc(Document):
    path: Text | None = None
    system: Literal["gsettings", "line-editor"] | None = None
    program: Text | None = None
    column: Text | None = None
    watch: bool = False


class FolioDoc(Document):
    format: str
    title: Text
    keyboard: Text = "full-105"
    xkb: Text = "us"
    log: Text = "practice.db"
    working_days: Annotated[float, Field(gt=0, le=7)] = 5
    target_ms: Positive = 1500
    horizon_weeks: Positive = 8
    recovery_s: Positive = 2.5
    careful_recovery_s: Positive = 10.0
    sure: Annotated[float, Field(ge=0.5, lt=1)] = 0.8
    least_gain_s: Annotated[float, Field(ge=0)] = 30.0
    away: Literal["none", "left", "right"] = "none"
    timing: TimingDoc = TimingDoc()
    bundles: dict[str, Annotated[list[Modifier], Field(min_length=1)]] = {}
    sources: dict[str, SourceDoc] = {}
    abbreviations: dict[Text, Text] = {}


class GroupDoc(Document):
    name: Text
    ink: Literal[INKS] = "slate"  # type: ignore[valid-type]
    mark: Literal[MARKS] = "square"  # type: ignore[valid-type]


class BindingDoc(Document):
    """What any binding may say of itself."""

    id: Text | None = None
    reason: Text | None = None
    label: Text | None = None
    icon: Text | None = None
    picture: Text | None = None
    set_at: Text | None = None
    computers: list[Text] = []
    pinned: bool = False
    share: Annotated[float, Field(ge=0, le=1)] | None = None


def said_in(doc: BindingDoc) -> dict[str, Any]:
    """What a document says of a binding, whatever it does."""
    values = {name: getattr(doc, name) for name in SAID}
    return {name: tuple(value) if isinstance(value, list) else value for name, value in values.items()}


class ShortcutDoc(BindingDoc):
    """One of a command's ``[[…bindings]]``."""

    trigger: Text


class CommandDoc(Document):
    name: Text
    label: Text | None = None
    group: Text | None = None
    context: Text | None = None
    words: list[Text] = []
    was: list[Text] = []
    shortcut: Text | None = None
    slow_way: list[Text] = []
    uses_per_day: UsesADay | None = None
    careful: bool = False
    icon: Text | None = None
    picture: Text | None = None
    set_at: Text | None = None
    bindings: list[ShortcutDoc] = []


class StemDoc(Document):
    name: Text
    stays_open: bool = False
    closes: Text | None = None


class ProgramDoc(Document):
    format: str
    name: Text
    contexts: list[Text] = []
    windows: list[Text] = []
    groups: dict[str, GroupDoc] = {}
    commands: dict[str, CommandDoc] = {}
    stems: dict[str, StemDoc] = {}
    defaults: dict[str, list[Text]] = {}


class SpotDoc(BindingDoc):
    """What one gesture of a key does, where it is more than a trigger in text."""

    does: Text | None = None
    sends: Text | None = None
    steps: list[Any] = []
    repeat_ms: Milliseconds | None = None
    release: list[Text] = []
    enters: Text | None = None
    mode: Literal["while", "switch", "once", "stay"] | None = None
    leaves: bool = False
    bundle: Text | None = None


class KeyTimingDoc(Document):
    hold_ms: Milliseconds | None = None
    again_ms: Milliseconds | None = None
    together_ms: Milliseconds | None = None
    policy: Policy | None = None


class LayerDoc(Document):
    id: Text
    name: Text
    unbound: Unbound = "falls"
    front: Text | None = None
    timing: dict[str, KeyTimingDoc] = {}
    keys: dict[str, Any] = {}


class LayoutDoc(Document):
    format: str
    board: Text
    layers: Annotated[list[LayerDoc], Field(min_length=1)]


class KeyDoc(Document):
    id: Text
    x: Number
    y: Number
    w: Size = 1.0
    h: Size = 1.0
    angle: Number = 0.0
    pivot: Point | None = None
    finger: Finger | None = None
    home: bool = False
    reach: Literal["easy", "stretch", "avoid"] | None = None
    mirror: Text | None = None
    print: str | None = None


class KnobDoc(Document):
    id: Text
    x: Number
    y: Number
    w: Size = 1.0
    print: str | None = None


class HomesDoc(Document):
    left: Point | None = None
    right: Point | None = None


class BoardDoc(Document):
    format: str
    id: Text
    name: Text
    homes: HomesDoc = HomesDoc()
    keys: list[KeyDoc] = []
    knobs: list[KnobDoc] = []
    stand_in: dict[str, Text] = {}


class TourDoc(Document):
    keys: list[Text]
    text: Text


class CardDoc(Document):
    format: str
    title: Text
    kind: Literal["board", "branch", "grid", "strip", "facing"]
    board: Text | None = None
    layers: list[Text] = []
    beside: Text | None = None
    keys: list[Text] = []
    program: Text | None = None
    context: Text | None = None
    groups: list[Text] = []
    find: Text | None = None
    weakest: Annotated[int, Field(gt=0)] | None = None
    changed_since: Text | None = None
    run: Text | None = None
    paper: Literal["A3", "A4", "A5", "A6", "Letter", "Legal", "index", "strip", "screen", "large-screen"] = "A5"
    landscape: bool = True
    shows: list[Literal["labels", "icons", "reasons", "legend", "holds", "prints", "grip", "blanks", "weak-blanks"]] = [
        "labels",
        "holds",
        "legend",
    ]
    tour: list[TourDoc] = []


class RunDoc(Document):
    format: str
    name: Text
    commands: list[Text]
    slow_way: list[Text] = []


KINDS: Final[dict[str, type[Document]]] = {
    "folio": FolioDoc,
    "program": ProgramDoc,
    "layout": LayoutDoc,
    "board": BoardDoc,
    "card": CardDoc,
    "run": RunDoc,
}
