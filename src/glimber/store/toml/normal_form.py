"""From core values to plain documents, in one normal form: what a saved edit is compared and written with."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import asdict, fields

from glimber.core.model.board import Board, Key
from glimber.core.model.folio import (
    BINDING_NOTES,
    Binding,
    Card,
    Command,
    Folio,
    Layer,
    Layout,
    Program,
    Run,
    Settings,
    Timing,
    Wait,
)
from glimber.core.notation.keys import Spot
from glimber.store.toml.documents import FORMATS, VERSION

Plain = dict[str, Any]


Part = Settings | Board | Program | Layout | Card | Run
"""The contents of one file of a folio."""


def parts_of(folio: Folio) -> dict[str, Part]:
    """Return what each file of a folio says, by its name within it, without the boards that come with Glimber."""
    found: dict[str, Part] = {"folio.toml": folio.settings}
    found |= {f"boards/{id}.toml": folio.boards[id] for id in sorted(folio.own_boards)}
    found |= {f"programs/{id}.toml": program for id, program in folio.programs.items()}
    found |= {f"layouts/{id}.toml": layout for id, layout in folio.layouts.items()}
    found |= {f"cards/{id}.toml": card for id, card in folio.cards.items()}
    found |= {f"runs/{id}.toml": run for id, run in folio.runs.items()}
    return found


def plain_of(part: Part) -> Plain:
    """Return one file in its normal form."""
    if isinstance(part, Settings):
        return settings_plain(part)
    if isinstance(part, Board):
        return board_plain(part)
    if isinstance(part, Program):
        return program_plain(part)
    if isinstance(part, Layout):
        return layout_plain(part)
    return card_plain(part) if isinstance(part, Card) else run_plain(part)


def to_plain(folio: Folio) -> dict[str, Plain]:
    """Return every file of a folio in its normal form, by its name within it."""
    return {name: plain_of(part) for name, part in parts_of(folio).items()}


def _format(kind: str) -> str:
    return f"{FORMATS[kind]}/{VERSION}"


def _number(value: object) -> object:
    return int(value) if isinstance(value, float) and value.is_integer() else value


def _kept(items: Mapping[str, object], defaults: Mapping[str, object] | None = None) -> Plain:
    """Return the items that say something: not None, not empty, not the default."""
    defaults = defaults or {}
    out = {}
    for name, value in items.items():
        if isinstance(value, tuple):
            value = list(value)
        if value is None or value == [] or value == {} or (name in defaults and value == defaults[name]):
            continue
        if value is False and name not in defaults:
            continue
        out[name] = _number(value)
    return out


def settings_plain(settings: Settings) -> Plain:
    normal = Settings(settings.title)
    tables = ("timing", "bundles", "sources", "abbreviations")
    own = {name: value for name, value in asdict(settings).items() if name not in tables}
    defaults = {name: getattr(normal, name) for name in own if name not in ("title", "keyboard", "xkb", "log")}
    timing = asdict(settings.timing)
    return {
        "format": _format("folio"),
        **_kept(own, defaults),
        **_kept(
            {
                "timing": _kept(timing, asdict(Timing())),
                "abbreviations": dict(settings.abbreviations),
                "bundles": {name: list(modifiers) for name, modifiers in settings.bundles.items()},
                "sources": {
                    id: _kept({name: value for name, value in asdict(source).items() if name != "id"})
                    for id, source in settings.sources.items()
                },
            }
        ),
    }


def board_plain(board: Board) -> Plain:
    defaults = {f.name: f.default for f in fields(Key) if f.name in ("w", "h", "angle")}
    return {
        "format": _format("board"),
        "id": board.id,
        "name": board.name,
        **_kept({"homes": {hand: [_number(v) for v in point] for hand, point in board.homes.items()}}),
        **_kept({"keys": [_part(key, defaults) for key in board.keys]}),
        **_kept({"knobs": [_part(knob, {"w": 1.0}) for knob in board.knobs]}),
        **_kept({"stand_in": dict(board.stand_in)}),
    }


def _part(part: Struct, defaults: Mapping[str, object]) -> Plain:
    plain = _kept(asdict(part), defaults)
    if "pivot" in plain:
        plain["pivot"] = [_number(value) for value in plain["pivot"]]
    return plain


def program_plain(program: Program) -> Plain:
    bindings: dict[str, list[Binding]] = {}
    for binding in program.bindings:
        bindings.setdefault(str(binding.command).partition("/")[2], []).append(binding)
    return {
        "format": _format("program"),
        "name": program.name,
        **_kept({"contexts": program.contexts, "windows": program.windows, "picture": program.picture}),
        **_kept({"groups": {g.id: {"name": g.name, "ink": g.ink, "mark": g.mark} for g in program.groups.values()}}),
        **_kept({"commands": {id: _command(c, bindings.get(id, [])) for id, c in program.commands.items()}}),
        **_kept({"stems": {str(s.trigger): _kept({"name": s.name, "stays_open": s.stays_open, "closes": _closing_keys(s.closes),
                                                  "slow_way": s.slow_way}) for s in program.stems}}),
        **_kept({"defaults": {id: list(triggers) for id, triggers in program.defaults.items()}}),
    }  # fmt: skip


def _closing_keys(closes: tuple[tuple[str, str], ...]) -> str | list[str] | Plain:
    """Return the keys that close a set as they are written: with what they do where that is given, else one or a list."""
    if any(what for _, what in closes):
        return dict(closes)
    return closes[0][0] if len(closes) == 1 else [key for key, _ in closes]


def _command(command: Command, bindings: list[Binding]) -> Plain:
    plain = _kept({name: value for name, value in asdict(command).items() if name not in ("id", "program", "keys_of")})
    rows = [_shortcut(binding) for binding in bindings]
    if rows and set(rows[0]) == {"trigger"}:
        plain["shortcut"] = rows.pop(0)["trigger"]
    if command.keys_of:
        plain["keys_of"] = {system: keys[0] if len(keys) == 1 else list(keys) for system, keys in command.keys_of}
    return plain | ({"bindings": rows} if rows else {})


def _shortcut(binding: Binding) -> Plain:
    notes = {name: getattr(binding, name) for name in BINDING_NOTES}
    return _kept({"id": binding.id if binding.given_id else None, "trigger": str(binding.trigger), **notes})


def layout_plain(layout: Layout) -> Plain:
    return {
        "format": _format("layout"),
        "board": layout.board,
        "layers": [_layer(layer) for layer in layout.layers],
    }


def _layer(layer: Layer) -> Plain:
    keys: Plain = {}
    for binding in layer.bindings:
        gestures = keys.setdefault(binding.spot.key, {})
        gestures[binding.spot.gesture] = spot_plain(binding)
    for key, gestures in keys.items():
        if set(gestures) == {"tap"} and isinstance(gestures["tap"], str):
            keys[key] = gestures["tap"]
    timing = {key: _kept(asdict(t)) for key, t in layer.timing.items()}
    return {
        "id": layer.id,
        "name": layer.name,
        "unbound": layer.unbound,
        **_kept({"front": layer.front, "timing": timing, "keys": {**keys, **layer.unset}}),
    }


def spot_plain(binding: Binding) -> str | Plain:
    """Return what a gesture's value says: a trigger in text where that is all there is to say, otherwise a table."""
    plain = _kept(
        {
            "id": binding.id if binding.given_id else None,
            "does": binding.command,
            "sends": None if binding.sends is None else str(binding.sends),
            "steps": [{"wait_ms": s.wait_ms} if isinstance(s, Wait) else str(s) for s in binding.steps],
            "repeat_ms": binding.repeat_ms,
            "release": [str(sent) for sent in binding.release],
            "enters": binding.enters,
            "mode": binding.mode,
            "leaves": binding.leaves,
            "bundle": binding.bundle,
            **{name: getattr(binding, name) for name in BINDING_NOTES},
        }
    )
    return plain["sends"] if set(plain) == {"sends"} else plain


def card_plain(card: Card) -> Plain:
    own = {name: value for name, value in asdict(card).items() if name not in ("id", "tour")}
    defaults = {"paper": "A5", "landscape": True, "shows": ["labels", "holds", "legend"]}
    tour = [{"keys": list(stop.keys), "text": stop.text} for stop in card.tour]
    return {"format": _format("card"), **_kept(own, defaults), **_kept({"tour": tour})}


def run_plain(run: Run) -> Plain:
    return {
        "format": _format("run"),
        "name": run.name,
        "commands": list(run.commands),
        **_kept({"slow_way": run.slow_way}),
    }


def is_spot(binding: Binding) -> bool:
    return isinstance(binding.trigger, Spot)
