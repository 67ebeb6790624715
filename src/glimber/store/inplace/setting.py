"""Setting what waits on the change sheet, always in this order: shown as a difference, a dated copy of what was there, written
whole, read again and compared, ticked on the sheet, and put back with one call.

A record is written before anything is touched. A process that is killed in between leaves every file old or new, never half; the
next call finds what is set already and ticks it, or puts it back.
"""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterable, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any, Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.folio import Folio
from glimber.core.notation import keys as notation
from glimber.core.notation.nearest import did_you_mean
from glimber.core.practice.tries import Change
from glimber.core.session.pending import open_changes
from glimber.readers.registry import read
from glimber.store.agreements import unagreed
from glimber.store.change_log import tick
from glimber.store.faults import StoreError
from glimber.store.files import read_file, stamp_of, write_atomically
from glimber.store.folder import Opened
from glimber.store.inplace.places import DESKTOP, Place, places_of
from glimber.store.practice.log import Log
from glimber.writers.registry import write
from glimber.writers.wanted import Rewritten, Wanted

RECORD: Final = "record.json"
RECORDS_KEPT: Final = 50
BEGUN, DONE, BACK = "begun", "done", "back"


class Step(Struct, frozen=True):
    """The change to one place, and its contents before."""

    place: Place
    before: bytes
    there: bool
    out: Rewritten

    @property
    def diff(self) -> str:
        """The difference, as a unified diff with two lines around each change."""
        old, new = (text.decode("utf-8", "replace").splitlines(keepends=True) for text in (self.before, self.out.data))
        lines = difflib.unified_diff(old, new, self.place.shown, f"{self.place.shown} as it will be", n=2)
        return "".join(line if line.endswith("\n") else f"{line}\n" for line in lines)


class Plan(Struct, frozen=True):
    """``steps`` that change something, what is set ``already``, and what is ``left`` for the person with why."""

    steps: tuple[Step, ...]
    already: tuple[Wanted, ...]
    left: tuple[tuple[Wanted, str], ...]

    @property
    def diff(self) -> str:
        return "".join(step.diff for step in self.steps)

    @property
    def set(self) -> list[tuple[Wanted, Place]]:
        """Return what is set, each with its place."""
        return [(one, step.place) for step in self.steps for one in step.out.set]


def of_sheet(folio: Folio, changes: Iterable[Change], computer: str) -> list[tuple[str, Wanted]]:
    """The edits of the change sheet with the program each is of; those of boards have None for both their keys."""
    found = []
    for change in open_changes(changes):
        binding = folio.bindings.get(change.binding)
        if binding is not None and not binding.lives_on(computer):
            continue
        program = (change.command or "").partition("/")[0]
        old, new = _keys(folio, change.from_trigger), _keys(folio, change.to_trigger)
        one = _wanted(folio, change.binding, change.command, old, new, change.swap_with)
        found.append((program, replace(one, was=change.from_trigger or "", to=change.to_trigger or "")))
    return found


def of_program(folio: Folio, program: str, place: Place, before: bytes, computer: str) -> list[Wanted]:
    """Everything of a program that stands otherwise in a place: the keys its commands have there against those here."""
    rows = read(place.kind, before).rows if before.strip() else []
    there: dict[str, list[str]] = {}
    for row in rows:
        there.setdefault(row.command.casefold(), []).extend(row.triggers)
    found = []
    for binding in folio.programs[program].bindings:
        command = folio.command_of(binding)
        if command is None or not binding.lives_on(computer) or not isinstance(binding.trigger, notation.Sequence):
            continue
        here = {str(one.trigger) for one in folio.bindings_of.get(command.ref, ())}
        held = next((there[name.casefold()] for name in (command.name, *command.was) if name.casefold() in there), [])
        if str(binding.trigger) in held:
            continue
        other = next((one for one in held if one not in here), None)
        if other is not None:
            held.remove(other)
        found.append(_wanted(folio, binding.id, command.ref, _keys(folio, other), binding.trigger, None))
    return found


def _wanted(
    folio: Folio,
    id: str,
    ref: str | None,
    old: notation.Sequence | None,
    new: notation.Sequence | None,
    partner: str | None,
) -> Wanted:
    command = folio.commands.get(ref or "")
    group = folio.group_of(command)
    names = (command.name, *command.was) if command is not None else (id,)
    return Wanted(id, names, old, new, group.name if group is not None else None, partner)


def _keys(folio: Folio, text: str | None) -> notation.Sequence | None:
    try:
        found = notation.parse_trigger(text or "", folio.bundles)
    except notation.NotationError:
        return None
    return found if isinstance(found, notation.Sequence) else None


def plan_setting(
    opened: Opened, changes: Iterable[Change], computer: str, into: str | None = None, program: str | None = None
) -> Plan:
    """Return what would be set where. ``into``: only by this writer; ``program``: all of its bindings instead of the sheet's
    edits.

    Nothing is changed. Raises StoreError.
    """
    if program is not None and program not in opened.folio.programs:
        raise StoreError(f"{program} is not a program of this folio{did_you_mean(program, opened.folio.programs)}")
    sheet = [] if program is not None else of_sheet(opened.folio, changes, computer)
    places = places_of(opened, into)
    if program is not None and not any(one.program in (None, program) for one in places):
        name = opened.folio.programs[program].name
        raise StoreError(f"no linked source of {name} can be written; link one, or name a writer: --into line-editor")
    steps: list[Step] = []
    already: dict[str, Wanted] = {}
    left: dict[str, tuple[Wanted, str]] = {}
    for one in (one for _, one in sheet if one.old is None and one.new is None):
        left[one.binding] = one, "it is set on the board itself, in what makes its layers"
    open_ones = [(of, one) for of, one in sheet if one.binding not in left]
    for place in places:
        before = place.read()
        if program is not None:
            wanted = (
                of_program(opened.folio, program, place, before, computer) if place.program in (None, program) else []
            )
        else:
            wanted = [one for of, one in open_ones if place.program in (None, of)]
        if not wanted:
            continue
        out = write(place.kind, before, wanted)
        already |= {one.binding: one for one in out.already}
        for one, why in out.left:
            left.setdefault(one.binding, (one, f"{place.shown}: {why}"))
        if out.set:
            steps.append(Step(place, before, place.path is None or place.path.exists(), out))
    settled = {one.binding for step in steps for one in step.out.set} | set(already)
    for of, one in open_ones:
        if one.binding not in settled:
            name = opened.folio.programs[of].name if of in opened.folio.programs else of
            waiting = unagreed(opened.folder)
            unagreed_why = f"{waiting[0]} came in a pack and was not agreed to: glimber agree" if waiting else None
            left.setdefault(one.binding, (one, unagreed_why or f"no linked source of {name} can be written"))
    rest = tuple(reason for id, reason in left.items() if id not in settled)
    set_now = {one.binding for step in steps for one in step.out.set}
    return Plan(tuple(steps), tuple(one for id, one in already.items() if id not in set_now), rest)


def carry_out(opened: Opened, plan: Plan, log: Log, now: datetime) -> None:
    """Set a plan and tick it off. Raises StoreError: then what was set in this call was put back, and nothing was ticked."""
    settled = {one.binding for one, _ in plan.set} | {one.binding for one in plan.already}
    ticked = [change for change in open_changes(log.records(Change)) if change.binding in settled]
    if plan.steps:
        folder = _begin(opened, plan, ticked, now)
        done: list[Step] = []
        try:
            for step in plan.steps:
                step.place.write(step.before, step.out.data)
                done.append(step)
                _compare(step)
            tick(log, ticked, now)
        except StoreError:
            for step in reversed(done):
                step.place.put_back(step.out.data, step.before, step.there)
            _note(folder, BACK)
            raise
        _note(folder, DONE)
        _prune()
    else:
        tick(log, ticked, now)


def _compare(step: Step) -> None:
    """Check that the place now holds what was written. Raises StoreError."""
    now = step.place.read()
    lines = (
        (set(step.out.data.splitlines()) - set(now.splitlines())) if step.place.path is None else now != step.out.data
    )
    if lines:
        raise StoreError(f"{step.place.shown}: reads otherwise than it was written; it was put back")


# The records: what was there before, by date


def records_folder() -> Path:
    """Return where the copies are: the person's folder for the state of programs; they are the person's files and not the
    folio's."""
    from platformdirs import user_state_path

    return user_state_path("glimber") / "set"


def _begin(opened: Opened, plan: Plan, ticked: Sequence[Change], now: datetime) -> Path:
    folder = records_folder() / stamp_of(now)
    number = 1
    while folder.exists():
        number += 1
        folder = records_folder() / f"{stamp_of(now)}-{number}"
    try:
        folder.mkdir(parents=True, mode=0o700)
    except OSError as error:
        raise StoreError(f"{folder}: cannot be made ({error.strerror}); nothing was set") from error
    places = []
    for number, step in enumerate(plan.steps):
        write_atomically(folder / f"{number}-before", step.before)
        write_atomically(folder / f"{number}-after", step.out.data)
        path = None if step.place.path is None else str(step.place.path)
        places.append({"kind": step.place.kind, "path": path, "there": step.there})
    record = {"folio": str(opened.folder.resolve()), "at": now.isoformat(), "state": BEGUN, "places": places,
              "changes": [one.id for one in ticked]}  # fmt: skip
    write_atomically(folder / RECORD, json.dumps(record, indent=1).encode())
    return folder


def _note(folder: Path, state: str) -> None:
    record = _record(folder)
    write_atomically(folder / RECORD, json.dumps({**record, "state": state}, indent=1).encode())


def _record(folder: Path) -> dict[str, Any]:
    try:
        found = json.loads(read_file(folder / RECORD))
    except (OSError, ValueError, StoreError) as error:
        raise StoreError(f"{folder / RECORD}: cannot be read ({error})") from error
    if not isinstance(found, dict):
        raise StoreError(f"{folder / RECORD}: expected a record of what was set")
    return found


def records_of(opened: Opened) -> list[tuple[Path, dict[str, Any]]]:
    """Return what was set of a folio and can be put back, the newest first."""
    folder = records_folder()
    if not folder.is_dir():
        return []
    found = []
    for one in sorted(folder.iterdir(), reverse=True):
        try:
            record = _record(one)
        except StoreError:
            continue
        if record.get("folio") == str(opened.folder.resolve()) and record.get("state") in (BEGUN, DONE):
            found.append((one, record))
    return found


class PutBack(Struct, frozen=True):
    """The result of putting changes back: the places, and the bindings whose edits wait on the sheet again."""

    places: tuple[str, ...]
    bindings: tuple[str, ...]
    diff: str


def set_back(opened: Opened, log: Log) -> PutBack:
    """Put back what was set last. Raises StoreError, with nothing changed, where there is nothing or it was changed since."""
    records = records_of(opened)
    if not records:
        raise StoreError("nothing that was set is on record for this folio")
    folder, record = records[0]
    steps = []
    for number, one in enumerate(record["places"]):
        place = Place(one["kind"], None, None if one["path"] is None else Path(one["path"]))
        before, after = read_file(folder / f"{number}-before"), read_file(folder / f"{number}-after")
        now = place.read()
        if place.kind == DESKTOP:
            before, after = _lines_now(now, before, after)
        if now not in (before, after):
            raise StoreError(
                f"{place.shown}: was changed since it was set; what was there before is in {folder / f'{number}-before'}"
            )
        steps.append((place, now, before, bool(one["there"])))
    for place, now, before, there in steps:
        if now != before or not there:
            place.put_back(now, before, there)
    changes = [one for one in log.records(Change) if one.id in record["changes"]]
    tick(log, changes, None)
    _note(folder, BACK)
    diff = "".join(Step(place, now, True, Rewritten(before)).diff for place, now, before, _ in steps)
    return PutBack(tuple(place.shown for place, *_ in steps), tuple(one.binding for one in changes), diff)


def _lines_now(now: bytes, before: bytes, after: bytes) -> tuple[bytes, bytes]:
    """The desktop's listing before and after, as it would be with everything else as it is now."""
    pairs = [(a, b) for a, b in zip(before.splitlines(), after.splitlines(), strict=True) if a != b]
    back, forth = {b: a for a, b in pairs}, dict(pairs)
    lines = now.splitlines(keepends=True)
    old = b"".join(back.get(line.rstrip(b"\n"), line.rstrip(b"\n")) + b"\n" for line in lines)
    new = b"".join(forth.get(line.rstrip(b"\n"), line.rstrip(b"\n")) + b"\n" for line in lines)
    return old, new


def _prune() -> None:
    """The newest 50 records stay."""
    import shutil

    for old in sorted(records_folder().iterdir())[:-RECORDS_KEPT]:
        shutil.rmtree(old, ignore_errors=True)
