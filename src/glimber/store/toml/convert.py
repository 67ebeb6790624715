"""From checked documents to core values: triggers are parsed, ids and references resolved, with faults at their lines."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping

from msgspec.structs import asdict, replace

from glimber.core.edit.commands import step_fault
from glimber.core.model.board import Board
from glimber.core.model.card_options import OPTION_OF
from glimber.core.model.folio import (
    Binding,
    Card,
    Command,
    Group,
    Layout,
    Program,
    Run,
    Settings,
    Source,
    Stem,
)
from glimber.core.notation.keycodes import CODES, MODIFIERS
from glimber.core.notation.keys import (
    Sequence,
    Spot,
    is_slug,
    parse_sent,
    parse_trigger,
)
from glimber.core.notation.nearest import did_you_mean
from glimber.store.practice.location import file_problem
from glimber.store.toml.convert_layout import Known, known_key
from glimber.store.toml.documents import (
    BoardDoc,
    CardDoc,
    CommandDoc,
    FolioDoc,
    ProgramDoc,
    RunDoc,
    ShortcutDoc,
)
from glimber.store.toml.ids import Ids
from glimber.store.toml.locate import Path
from glimber.store.toml.parse import Page


def settings_of(page: Page, doc: FolioDoc) -> Settings:
    for name in doc.bundles:
        if name in MODIFIERS or not is_slug(name) or not name[0].isalpha():
            page.fault(("bundles", name), f"{name!r} cannot name a bundle; expected a word that is no modifier")
    problem = file_problem(doc.log)
    if problem is not None:
        page.fault(("log",), f"log is {problem}")
    for id, source in doc.sources.items():
        if sum(one is not None for one in (source.path, source.system, source.running)) != 1:
            page.fault(("sources", id), "expected one of path, system and running")
    return Settings(
        doc.title, doc.keyboard, doc.xkb, doc.log, doc.working_days, doc.target_ms, doc.horizon_weeks,
        doc.recovery_s, doc.careful_recovery_s, doc.sure, doc.least_gain_s, doc.away,
        doc.timing,
        dict(doc.bundles),
        {id: Source(id, **asdict(source)) for id, source in doc.sources.items()},
        {word.casefold(): short for word, short in doc.abbreviations.items()},
    )  # fmt: skip


def board_of(page: Page, doc: BoardDoc) -> Board:
    if not is_slug(doc.id):
        page.fault(("id",), f"id {doc.id!r} is not usable; expected letters, digits, -, _ and . only")
    seen: dict[str, int] = {}
    parts = [(("keys", place), key.id) for place, key in enumerate(doc.keys)]
    parts += [(("knobs", place), knob.id) for place, knob in enumerate(doc.knobs)]
    for path, id in parts:
        if not is_slug(id):
            page.fault((*path, "id"), f"{id!r} cannot be a key; expected a code such as KeyS or a word")
        if id in seen:
            page.fault((*path, "id"), f"{id} is on the board twice, first at line {seen[id]}")
        seen.setdefault(id, page.line(path))
    for place, key in enumerate(doc.keys):
        if key.mirror is not None and key.mirror not in seen:
            page.fault(
                ("keys", place, "mirror"), f"{key.mirror} is not a key of {doc.id}{did_you_mean(key.mirror, seen)}"
            )
    for key_id, code in doc.stand_in.items():
        if key_id not in seen:
            page.fault(("stand_in", key_id), f"{key_id} is not a key of {doc.id}{did_you_mean(key_id, seen)}")
        if code not in CODES:
            page.fault(("stand_in", key_id), f"{code} is not a place on a keyboard{did_you_mean(code, CODES)}")
    return Board(
        doc.id,
        doc.name,
        doc.keys,
        doc.knobs,
        {hand: point for hand, point in asdict(doc.homes).items() if point is not None},
        dict(doc.stand_in),
    )


def program_of(page: Page, doc: ProgramDoc, id: str, bundles: Collection[str], ids: Ids) -> Callable[[], Program]:
    """Reads all but the default ids, which are given out by the returned function once every file is read."""
    commands: dict[str, Command] = {}
    waiting: list[tuple[str, Binding]] = []
    for slug, entry in doc.commands.items():
        at: Path = ("commands", slug)
        if not is_slug(slug):
            page.fault(at, f"{slug!r} cannot be an id; expected letters, digits, -, _ and . only")
        if entry.group is not None and entry.group not in doc.groups:
            page.fault((*at, "group"), f"{entry.group} is not a group of {doc.name}{did_you_mean(entry.group, doc.groups)}",
                       "unknown-reference", f"{id}/{slug}")  # fmt: skip
        if entry.context is not None and entry.context not in doc.contexts:
            page.fault((*at, "context"), f"{entry.context!r} is not a context of {doc.name}"
                       f"{did_you_mean(entry.context, doc.contexts)}", "unknown-reference", f"{id}/{slug}")  # fmt: skip
        _slow_way(page, (*at, "slow_way"), entry.slow_way)
        for system, triggers in _keys_of(entry):
            for text in triggers:
                page.attempt((*at, "keys_of", system), lambda text=text: parse_trigger(text))  # type: ignore[misc]
        commands[slug] = _command(id, slug, entry, doc)
        waiting += [(slug, binding) for binding in _shortcuts(page, at, f"{id}/{slug}", entry, bundles, ids)]
    for slug, triggers in doc.defaults.items():
        if slug not in doc.commands:
            page.fault(("defaults", slug), f"{slug} is not a command of {doc.name}{did_you_mean(slug, doc.commands)}",
                       "unknown-reference", f"{id}/{slug}")  # fmt: skip
        for place, text in enumerate(triggers):
            page.attempt(("defaults", slug, place), lambda text=text: parse_trigger(text, bundles))  # type: ignore[misc]
    stems = []
    for text, stem in doc.stems.items():
        trigger = page.attempt(("stems", text), lambda text=text: parse_sent(text, bundles))  # type: ignore[misc]
        closes = _closing_keys(stem.closes)
        for key, _ in closes:
            page.attempt(("stems", text, "closes"), lambda key=key: parse_sent(key, bundles))  # type: ignore[misc]
        if isinstance(trigger, Sequence):
            _slow_way(page, ("stems", text, "slow_way"), stem.slow_way)
            stems.append(Stem(trigger, stem.name, stem.stays_open, closes, stem.slow_way))

    def finished() -> Program:
        bindings = tuple(b if b.given_id else replace(b, id=ids.default(slug)) for slug, b in waiting)
        groups = {key: Group(key, **asdict(group)) for key, group in doc.groups.items()}
        defaults = dict(doc.defaults)
        return Program(id, doc.name, doc.contexts, groups, commands, bindings, tuple(stems), defaults,
                       doc.windows, doc.picture)  # fmt: skip

    return finished


def _command(program: str, slug: str, entry: CommandDoc, doc: ProgramDoc) -> Command:
    return Command(
        slug, program, entry.name, entry.label, entry.group if entry.group in doc.groups else None,
        entry.context if entry.context in doc.contexts else None, entry.words, entry.was, entry.slow_way,
        entry.uses_per_day, entry.careful, entry.icon, entry.picture, entry.set_at, entry.learn, entry.note,
        _keys_of(entry),
    )  # fmt: skip


def _keys_of(entry: CommandDoc) -> tuple[tuple[str, tuple[str, ...]], ...]:
    return tuple((system, (keys,) if isinstance(keys, str) else keys) for system, keys in entry.keys_of.items())


def _shortcuts(
    page: Page, at: Path, ref: str, entry: CommandDoc, bundles: Collection[str], ids: Ids
) -> Iterable[Binding]:
    rows: list[tuple[Path, ShortcutDoc]] = []
    if entry.shortcut is not None:
        rows.append(((*at, "shortcut"), ShortcutDoc(trigger=entry.shortcut)))
    rows += [((*at, "bindings", place), row) for place, row in enumerate(entry.bindings)]
    for path, row in rows:
        here = path if path[-1] == "shortcut" else (*path, "trigger")
        trigger = page.attempt(here, lambda row=row: parse_trigger(row.trigger, bundles))  # type: ignore[misc]
        if isinstance(trigger, Spot):
            page.fault(here, f"{trigger} is a spot; write it in layouts/{trigger.board}.toml with does = {ref!r}")
            continue
        if row.id is not None:
            ids.give(page, (*path, "id"), row.id)
        if trigger is None:
            continue
        yield Binding(row.id or "", trigger, ref, given_id=row.id is not None, **row.notes())


def _closing_keys(closes: str | tuple[str, ...] | Mapping[str, str] | None) -> tuple[tuple[str, str], ...]:
    """Return the keys that close a set, each with what it does: from one key, a list, or a table of both."""
    if isinstance(closes, Mapping):
        return tuple(closes.items())
    keys = (closes,) if isinstance(closes, str) else closes or ()
    return tuple((key, "") for key in keys)


def _slow_way(page: Page, at: Path, steps: Iterable[str]) -> None:
    for place, step in enumerate(steps):
        fault = step_fault(step)
        if fault is not None:
            page.fault((*at, place), fault)


def card_of(
    page: Page,
    doc: CardDoc,
    id: str,
    known: Known,
    layouts: dict[str, Layout],
    runs: Collection[str],
    whole: bool = True,
) -> Card:
    """Return a card of its document. ``whole``: every layout could be read, so a layer that is not found is not there."""
    references: list[tuple[Path, str | None, Collection[str], str]] = [
        (("board",), doc.board, known.board_ids, "board"),
        (("program",), doc.program, known.programs, "program"),
        (("run",), doc.run, runs, "task run"),
    ]
    for path, value, among, what in references:
        if value is not None and value not in among:
            page.fault(path, f"{value} is not a {what}{did_you_mean(value, among)}", "unknown-reference", f"card {id}")
    _check_layers(page, doc, id, layouts, whole)
    for place, shown in enumerate(doc.shows):
        if shown not in OPTION_OF:
            expected = f"expected one of {', '.join(OPTION_OF)}{did_you_mean(shown, OPTION_OF)}"
            page.fault(("shows", place), f"{shown} cannot be shown on a card; {expected}")
    board = known.boards.get(doc.board) if doc.board else None
    for place, key in enumerate(doc.keys):
        known_key(page, ("keys", place), (key,), board, f"card {id}")
    for place, stop in enumerate(doc.tour):
        for key_place, key in enumerate(stop.keys):
            known_key(page, ("tour", place, "keys", key_place), (key,), board, f"card {id}")
    return Card(id, **{name: value for name, value in asdict(doc).items() if name != "format"})


def _check_layers(page: Page, doc: CardDoc, id: str, layouts: dict[str, Layout], whole: bool) -> None:
    """Note the layers of a card, and the one it is set against, that are not there."""
    layout = layouts.get(doc.board) if doc.board else None
    for place, layer in enumerate(doc.layers):
        names = [one.id for one in layout.layers] if layout else []
        if layer not in names and (layout is not None or whole):
            page.fault(("layers", place), f"{layer} is not a layer of {doc.board}{did_you_mean(layer, names)}",
                       "unknown-reference", f"card {id}")  # fmt: skip
    if doc.beside is not None and whole:
        there = [f"{id}:{layer.id}" for id, layout in layouts.items() for layer in layout.layers]
        if doc.beside not in there:
            hint = did_you_mean(doc.beside, there)
            page.fault(("beside",), f"{doc.beside} is not a layer of a board, written BOARD:LAYER{hint}",
                       "unknown-reference", f"card {id}")  # fmt: skip


def run_of(page: Page, doc: RunDoc, id: str, known: Known) -> Run:
    for place, ref in enumerate(doc.commands):
        if ref not in known.commands:
            page.fault(("commands", place), f"{ref} is not a command{did_you_mean(ref, known.commands)}",
                       "unknown-reference", f"run {id}")  # fmt: skip
    _slow_way(page, ("slow_way",), doc.slow_way)
    commands = tuple(ref for ref in doc.commands if ref in known.commands)
    return Run(id, doc.name, commands, doc.slow_way)
