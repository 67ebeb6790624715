"""The tally on disk: a plain JSON file of this person on this computer, beside no folio and in no pack.

``{"format": "glimber-tally/1", "folio": …, "days": {"2026-11-27": {"sounding-s": [12, 1]}}, "menus": {"2026-11-27":
{"shoalwright/add-sounding": [2.1, 3.4]}}, "missed": {"shoalwright/add-sounding": "2026-11-27"}}``: times struck, and of those
undone at once; the seconds that choosing a command in a menu took, each time ("" for entries that are none of the folio);
commands chosen by menu since their key was struck last. ``"others": [["shoalwright", "File", "Print chart", [2.5]]]`` has
entries that are not in the folio, by program, menus and name, where the person wants their names kept. It may be looked at,
edited and deleted by hand; whoever writes it reads what is there first.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import re
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from datetime import date
from math import inf
from pathlib import Path
from typing import Any, Final

from glimber.core.practice.tally import Entry, Tally
from glimber.store.faults import StoreError
from glimber.store.files import read_if_there, set_mode, write_atomically

FORMAT: Final = "glimber-tally/1"
_PRIVATE: Final = 0o600


def tally_file(folder: Path) -> Path:
    """Return where the tally of a folio is: the person's folder for the data of programs."""
    from platformdirs import user_data_path

    whole = str(folder.resolve())
    slug = re.sub(r"[^A-Za-z0-9]+", "-", folder.resolve().name).strip("-")[:40] or "folio"
    return user_data_path("glimber") / "tally" / f"{slug}-{hashlib.sha256(whole.encode()).hexdigest()[:10]}.json"


def read_tally(folder: Path) -> Tally:
    """Return what was counted of a folio; nothing where nothing was. Raises StoreError for a file that cannot be read as
    one."""
    path = tally_file(folder)
    data = read_if_there(path)
    if data is None:
        return Tally()
    try:
        return _tally(json.loads(data))
    except (ValueError, TypeError, KeyError, AttributeError) as error:
        raise StoreError(
            f"{path}: cannot be read as a tally ({error}); mend it, or forget it: glimber tally forget"
        ) from error


def _tally(found: object) -> Tally:
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise ValueError(f"expected format {FORMAT}")
    days: dict[str, dict[str, tuple[int, int]]] = {}
    for day, rows in found["days"].items():
        date.fromisoformat(day)
        days[day] = {}
        for id, (struck, undone) in rows.items():
            if type(struck) is not int or type(undone) is not int or not 0 <= undone <= struck:
                raise ValueError(f"{id} on {day}: expected times struck and of those undone, as whole numbers")
            days[day][id] = (struck, undone)
    return Tally(days, _menus(found.get("menus", {})), _missed(found.get("missed", {})), _others(found.get("others", [])))


def _menus(found: dict[str, dict[str, list[float]]]) -> dict[str, dict[str, tuple[float, ...]]]:
    menus: dict[str, dict[str, tuple[float, ...]]] = {}
    for day, rows in found.items():
        date.fromisoformat(day)
        menus[day] = {}
        for ref, times in rows.items():
            menus[day][ref] = _seconds(times, f"{ref} on {day}")
    return menus


def _seconds(times: list[float], what: str) -> tuple[float, ...]:
    if not all(isinstance(one, (int, float)) and 0 <= one < inf for one in times):
        raise ValueError(f"{what}: expected seconds")
    return tuple(map(float, times))


def _others(found: list[list[Any]]) -> dict[Entry, tuple[float, ...]]:
    others: dict[Entry, tuple[float, ...]] = {}
    for *entry, times in found:
        if len(entry) < 2 or not all(isinstance(part, str) for part in entry):
            raise ValueError("others: expected a program, menus, a name and seconds")
        others[tuple(entry)] = _seconds(times, " > ".join(entry))
    return others


def _missed(found: dict[str, str]) -> dict[str, str]:
    for day in found.values():
        date.fromisoformat(day)
    return dict(found)


def change_tally(folder: Path, change: Callable[[Tally], Tally]) -> Tally:
    """Change the tally as it is on disk now, nobody else writing meanwhile; the tally then. Raises StoreError."""
    path = tally_file(folder)
    with _alone(path):
        after = change(read_tally(folder))
        days = {day: {id: list(row) for id, row in sorted(rows.items())} for day, rows in sorted(after.days.items())}
        menus = {day: {ref: list(times) for ref, times in sorted(rows.items())} for day, rows in sorted(after.menus.items())}
        text = f'{{"format": "{FORMAT}", "folio": {json.dumps(str(folder.resolve()))}, "days": {_lines(days)}'
        if menus:
            text += f', "menus": {_lines(menus)}, "missed": {json.dumps(dict(sorted(after.missed.items())))}'
        if after.others:
            text += f', "others": {json.dumps([[*entry, list(times)] for entry, times in sorted(after.others.items())])}'
        text += "}\n"
        write_atomically(path, text.encode())
        set_mode(path, _PRIVATE)
    return after


def _lines(days: Mapping[str, object]) -> str:
    """Write days one a line, so that a person can read and edit them."""
    lines = ",\n  ".join(f"{json.dumps(day)}: {json.dumps(rows)}" for day, rows in days.items())
    return f"{{\n  {lines}\n}}"


def forget_tally(folder: Path) -> None:
    """Throw away everything that was counted. Raises StoreError."""
    path = tally_file(folder)
    with _alone(path):
        try:
            path.unlink(missing_ok=True)
        except OSError as error:
            raise StoreError(f"{path}: cannot be deleted ({error.strerror})") from error


@contextmanager
def _alone(path: Path) -> Iterator[None]:
    try:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        with path.with_suffix(".lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield
    except OSError as error:
        raise StoreError(f"{path}: cannot be written ({error.strerror})") from error
