"""Reads key events as the command line takes them: one JSON list, or JSON Lines with many cases."""

from __future__ import annotations

import json
from collections.abc import Collection

from msgspec import Struct

from glimber.cli.common import standard_input
from glimber.core.engine.events import Event
from glimber.core.notation.nearest import did_you_mean
from glimber.store.faults import StoreError, json_problem
from glimber.store.files import LARGEST, expanded, read_given


class Case(Struct, frozen=True):
    """One list of events, with the binding it answers where the line names one."""

    events: list[Event]
    binding: str | None = None


class Cases(Struct, frozen=True):
    """``many``: the text was JSON Lines, so there is one answer a line."""

    cases: list[Case]
    many: bool


def read_text(source: str, largest: int = LARGEST) -> str:
    """Return the text of a file, or of standard input for ``-``. Raises StoreError."""
    data = standard_input(largest) if source == "-" else read_given(expanded(source), largest)
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError as error:
        raise StoreError(f"{source}: not UTF-8; expected JSON") from error


def read_cases(source: str, keys: Collection[str], what: str) -> Cases:
    """Return events from a file or standard input; keys must be among ``keys``. Raises StoreError naming line and event."""
    text = read_text(source)
    try:
        whole = json.loads(text)
    except (ValueError, RecursionError):
        whole = None
    if isinstance(whole, list) and (not whole or _is_event(whole[0])):
        return Cases([Case(_events(whole, keys, what, f"{source}: "))], many=False)
    cases = []
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        where = f"{source}:{number}: "
        try:
            value = json.loads(line)
        except (ValueError, RecursionError) as error:
            raise StoreError(f"{where}not JSON: {json_problem(error)}") from error
        binding = None
        if isinstance(value, dict):
            binding, value = value.get("binding"), value.get("events")
            if binding is not None and not isinstance(binding, str):
                raise StoreError(f"{where}binding is {binding!r}; expected an id in quotes")
        cases.append(Case(_events(value, keys, what, where), binding))
    if not cases:
        raise StoreError(f'{source}: no events; expected a JSON list such as [[0,"down","KeyS"],[70,"up","KeyS"]]')
    return Cases(cases, many=True)


LATEST_MS = 1e12


def _short(value: object) -> str:
    text = json.dumps(value)
    return text if len(text) <= 60 else f"{text[:50]}… ({len(text)} characters)"


def _is_event(value: object) -> bool:
    return isinstance(value, list) and len(value) == 3 and isinstance(value[1], str)


def _events(value: object, keys: Collection[str], what: str, where: str) -> list[Event]:
    if not isinstance(value, list):
        raise StoreError(f"{where}expected a list of events [t_ms, kind, key]")
    events: list[Event] = []
    for number, item in enumerate(value, start=1):
        here = f"{where}event {number}: "
        if not isinstance(item, list) or len(item) != 3:
            raise StoreError(f"{here}expected [t_ms, kind, key], found {_short(item)}")
        t, kind, key = item
        if isinstance(t, bool) or not isinstance(t, int | float) or not abs(t) <= LATEST_MS:
            raise StoreError(f"{here}time is {_short(t)}; expected milliseconds, at most {LATEST_MS:.0e}")
        if events and t < events[-1].t:
            raise StoreError(f"{here}time {t} is before the event before it; expected events in order")
        if kind not in ("down", "up", "turn", "front"):
            raise StoreError(f"{here}{_short(kind)} is not an event; expected down, up, turn or front")
        if kind == "front" and key is None:
            key = ""
        if not isinstance(key, str):
            raise StoreError(f"{here}key is {_short(key)}; expected a text")
        if kind != "front":
            _check_key(key, kind, keys, what, here)
        events.append(Event(t, kind, key))
    return events


def _check_key(key: str, kind: str, keys: Collection[str], what: str, here: str) -> None:
    name, _, way = key.partition(":")
    if kind == "turn" and way not in ("left", "right"):
        raise StoreError(f"{here}{key} is not a turn; expected knob:left or knob:right")
    if name not in keys:
        raise StoreError(f"{here}{name} is not a key of {what}{did_you_mean(name, keys)}")
