"""The folio: the one value that everything works on. Frozen all through; an edit makes a new one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Annotated, Final, Literal

from msgspec import Meta, Struct, field

from glimber.core.model.board import Board
from glimber.core.notation.keys import Sent, Sequence, Spot, Trigger
from glimber.core.notation.legend import US, Legend

EVERYWHERE: Final = "everywhere"
"""Id of the program that is the desktop itself."""

Text = Annotated[str, Meta(min_length=1)]
Milliseconds = Annotated[int, Meta(gt=0, le=60_000)]
Policy = Literal["timer", "crossed", "eager"]
LearnState = Literal["known", "learn", "never"]
Mode = Literal["while", "switch", "once", "stay"]
Unbound = Literal["falls", "dead"]
CardKind = Literal["sheet", "keyboard", "board", "branch", "grid", "strip", "facing"]

INKS: Final = ("tide", "moss", "clay", "plum", "sand", "slate", "rose", "pine")
MARKS: Final = ("ring", "bar", "wedge", "pair", "cross", "wave", "square", "notch")


class Timing(Struct, frozen=True):
    """Limits of the key engine, in ms, and the hold policy."""

    hold_ms: Milliseconds = 200
    again_ms: Milliseconds = 180
    together_ms: Milliseconds = 50
    sequence_ms: Milliseconds = 1000
    policy: Policy = "crossed"


class Group(Struct, frozen=True):
    """A kind of commands, with its ink and mark."""

    id: str
    name: str
    ink: str = "slate"
    mark: str = "square"


class Command(Struct, frozen=True):
    """One thing a person wants done, by the exact name its program gives it. ``uses_per_day`` None: not known."""

    id: str
    program: str
    name: str
    label: str | None = None
    group: str | None = None
    context: str | None = None
    words: tuple[str, ...] = ()
    was: tuple[str, ...] = ()
    slow_way: tuple[str, ...] = ()
    uses_per_day: float | None = None
    careful: bool = False
    icon: str | None = None
    picture: str | None = None
    set_at: str | None = None
    learn: LearnState | None = None
    note: str | None = None
    """The source's explanation beside its name."""
    keys_of: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """Its keys on other systems of the same page, where they are others: system and triggers."""

    @property
    def ref(self) -> str:
        return f"{self.program}/{self.id}"

    @property
    def short(self) -> str:
        return self.label or self.name


class Wait(Struct, frozen=True):
    """A pause between steps, in ms."""

    wait_ms: int


Step = Sent | Wait


DOES: Final = ("command", "sends", "steps", "repeat_ms", "release", "enters", "mode", "leaves", "bundle")
"""The fields of a binding that make up what it does: what another thing put on its key takes the place of."""
BINDING_NOTES: Final = ("reason", "label", "icon", "picture", "set_at", "computers", "pinned", "share")
"""The fields of a binding that describe it, whatever it does. Documents, converters, normal forms and edits go by this
table and the one above; a test holds the classes to them."""


class Binding(Struct, frozen=True):
    """A trigger that carries out a command, or a spot that sends, enters a layer or leaves one.

    ``given_id`` tells whether the file states the id; a default one is written before its first try or edit.
    """

    id: str
    trigger: Trigger
    command: str | None = None
    sends: Sent | None = None
    steps: tuple[Step, ...] = ()
    repeat_ms: int | None = None
    release: tuple[Sent, ...] = ()
    enters: str | None = None
    mode: Mode | None = None
    leaves: bool = False
    bundle: str | None = None
    reason: str | None = None
    label: str | None = None
    icon: str | None = None
    picture: str | None = None
    set_at: str | None = None
    computers: tuple[str, ...] = ()
    pinned: bool = False
    share: float | None = None
    given_id: bool = False

    @property
    def spot(self) -> Spot:
        """The trigger of a spot binding; only a layer's own bindings may be asked."""
        if not isinstance(self.trigger, Spot):
            raise TypeError(f"binding {self.id} is not on a spot")
        return self.trigger

    def lives_on(self, computer: str | None) -> bool:
        return not self.computers or computer is None or computer in self.computers


class Stem(Struct, frozen=True):
    """The shared first steps of several sequences. ``closes``: the keys that end a set that stays open, each with what it does,
    such as finish or cancel; empty where that is not given."""

    trigger: Sequence
    name: str
    stays_open: bool = False
    closes: tuple[tuple[str, str], ...] = ()
    slow_way: tuple[str, ...] = ()
    """The dialog that a set which stays open takes the place of, step by step: for those of its commands that have none."""

    @property
    def ends(self) -> str:
        """Return the keys that close it, in words: "Enter (finish) or Escape (cancel)"."""
        keys = (f"{key} ({what})" if what else key for key, what in self.closes)
        return " or ".join(keys) or "Escape"


class Program(Struct, frozen=True, dict=True, weakref=True):
    """A program: its commands with their shortcuts, and the set it came with."""

    id: str
    name: str
    contexts: tuple[str, ...] = ()
    groups: Mapping[str, Group] = field(default_factory=dict)
    commands: Mapping[str, Command] = field(default_factory=dict)
    bindings: tuple[Binding, ...] = ()
    stems: tuple[Stem, ...] = ()
    defaults: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    windows: tuple[str, ...] = ()
    """The window classes it is known by while it is in front; without any its own id and name."""
    picture: str | None = None
    """Its icon, a file within the folio, drawn on its cards."""

    @cached_property
    def by_ref(self) -> Mapping[str, Command]:
        """Its commands by ``program/command``."""
        return {command.ref: command for command in self.commands.values()}


class KeyTiming(Struct, frozen=True):
    """Limits for one key of a layer; None leaves the folio's own."""

    hold_ms: Milliseconds | None = None
    again_ms: Milliseconds | None = None
    together_ms: Milliseconds | None = None
    policy: Policy | None = None


class Layer(Struct, frozen=True, dict=True):
    """One full meaning of a board's keys. ``unset`` has the keys set to fall through or to be dead one by one."""

    id: str
    name: str
    unbound: Unbound = "falls"
    front: str | None = None
    timing: Mapping[str, KeyTiming] = field(default_factory=dict)
    unset: Mapping[str, Unbound] = field(default_factory=dict)
    bindings: tuple[Binding, ...] = ()

    @cached_property
    def by_key(self) -> Mapping[str, Mapping[str, Binding]]:
        """Key (or pair joined by ``&``) -> gesture -> binding."""
        found: dict[str, dict[str, Binding]] = {}
        for binding in self.bindings:
            found.setdefault(binding.spot.key, {})[binding.spot.gesture] = binding
        return found


class Layout(Struct, frozen=True):
    """The layers of one board, base first."""

    board: str
    layers: tuple[Layer, ...]

    @property
    def base(self) -> Layer:
        return self.layers[0]

    def layer(self, id: str) -> Layer | None:
        return next((layer for layer in self.layers if layer.id == id), None)


class TourStop(Struct, frozen=True):
    """One part of a card that is walked through, with its explanation."""

    keys: tuple[Text, ...]
    text: Text


class Card(Struct, frozen=True):
    """The specification of one reference card. ``beside``: the layer that a facing card sets against its own,
    ``BOARD:LAYER``."""

    id: str
    title: str
    kind: CardKind
    board: str | None = None
    layers: tuple[str, ...] = ()
    beside: str | None = None
    keys: tuple[str, ...] = ()
    program: str | None = None
    context: str | None = None
    groups: tuple[str, ...] = ()
    find: str | None = None
    weakest: int | None = None
    most_used: int | None = None
    changed_since: str | None = None
    run: str | None = None
    paper: str = "A5"
    landscape: bool = True
    shows: tuple[str, ...] = ("labels", "holds", "legend")
    tour: tuple[TourStop, ...] = ()


class Run(Struct, frozen=True):
    """A task run: an ordered list of commands drilled as one."""

    id: str
    name: str
    commands: tuple[str, ...]
    slow_way: tuple[str, ...] = ()


class Source(Struct, frozen=True):
    """A linked file, system or running program that shortcuts are read from. ``running``: the program's name on the
    accessibility bus."""

    id: str
    path: str | None = None
    system: str | None = None
    running: str | None = None
    program: str | None = None
    column: str | None = None
    watch: bool = False


class Settings(Struct, frozen=True):
    """The contents of folio.toml. Times in ms unless their name says otherwise."""

    title: str
    keyboard: str = "full-105"
    xkb: str = "us"
    log: str = "practice.db"
    working_days: float = 5
    target_ms: float = 1500
    horizon_weeks: float = 8
    recovery_s: float = 2.5
    careful_recovery_s: float = 10.0
    sure: float = 0.8
    least_gain_s: float = 30.0
    away: Literal["none", "left", "right"] = "none"
    timing: Timing = Timing()
    bundles: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    sources: Mapping[str, Source] = field(default_factory=dict)
    abbreviations: Mapping[str, str] = field(default_factory=dict)


class Folio(Struct, frozen=True, dict=True, weakref=True):
    """All that a person has entered, apart from the practice log."""

    settings: Settings
    boards: Mapping[str, Board] = field(default_factory=dict)
    own_boards: frozenset[str] = frozenset()
    programs: Mapping[str, Program] = field(default_factory=dict)
    layouts: Mapping[str, Layout] = field(default_factory=dict)
    cards: Mapping[str, Card] = field(default_factory=dict)
    runs: Mapping[str, Run] = field(default_factory=dict)
    legend: Legend = US

    @property
    def keyboard(self) -> Board:
        return self.boards[self.settings.keyboard]

    @property
    def bundles(self) -> Mapping[str, tuple[str, ...]]:
        return self.settings.bundles

    def all_bindings(self) -> Iterator[Binding]:
        """Program shortcuts first, then spots, each in file order."""
        for program in self.programs.values():
            yield from program.bindings
        for layout in self.layouts.values():
            for layer in layout.layers:
                yield from layer.bindings

    @cached_property
    def bindings(self) -> Mapping[str, Binding]:
        return {binding.id: binding for binding in self.all_bindings()}

    @cached_property
    def commands(self) -> Mapping[str, Command]:
        """By ``program/command``."""
        found: dict[str, Command] = {}
        for program in self.programs.values():
            found |= program.by_ref
        return found

    @cached_property
    def bindings_of(self) -> Mapping[str, tuple[Binding, ...]]:
        """Bindings by the command they carry out, in folio order."""
        found: dict[str, list[Binding]] = {}
        for binding in self.all_bindings():
            if binding.command is not None:
                found.setdefault(binding.command, []).append(binding)
        return {ref: tuple(bindings) for ref, bindings in found.items()}

    @cached_property
    def by_trigger(self) -> Mapping[Spot, Binding]:
        """The binding of each spot."""
        return {b.trigger: b for b in self.all_bindings() if isinstance(b.trigger, Spot)}

    def command_of(self, binding: Binding) -> Command | None:
        return self.commands.get(binding.command) if binding.command else None

    def group_of(self, command: Command | None) -> Group | None:
        if command is None or command.group is None:
            return None
        return self.programs[command.program].groups.get(command.group)

    def bench(self) -> list[Command]:
        """Return commands without a binding, in folio order."""
        return [command for ref, command in self.commands.items() if ref not in self.bindings_of]

    def sent_by(self, binding: Binding) -> Sent | None:
        """Return what a binding makes the computer see: what it says, or else its command's first shortcut."""
        if isinstance(binding.trigger, Spot):
            if binding.sends is not None or binding.command is None or binding.steps:
                return binding.sends
            others = self.bindings_of[binding.command]
            return next((other.trigger for other in others if not isinstance(other.trigger, Spot)), None)
        return binding.trigger

    def drillable(self, computer: str | None = None) -> list[Binding]:
        """Bindings a prompt can ask for: those that carry out a command and live on this computer."""
        return [b for b in self.all_bindings() if b.command is not None and b.lives_on(computer)]
