"""Setting what waits on the change sheet, always in this order: shown as a difference, a dated copy of what was there, written
whole, read again and compared, ticked on the sheet, and put back with one call.

A record is written before anything is touched. A process that is killed in between leaves every file old or new, never half;
the next call puts all places back (``recover``), so that either every place is set or none.
"""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path

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
from glimber.store.files import read_file, real, sweep, write_atomically
from glimber.store.folder import Opened
from glimber.store.inplace.places import DESKTOP, Place, places_of
from glimber.store.inplace.records import (
    BACK,
    BEGUN,
    DONE,
    Record,
    RecordedPlace,
    in_state,
    locked,
    new_record,
    prune,
    set_state,
    write_record,
)
from glimber.store.practice.log import Log
from glimber.writers.registry import write
from glimber.writers.wanted import Rewritten, Wanted


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
    """Return the edits of the change sheet with the program each is of; those of boards have None for both their keys."""
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
    """Return everything of a program that is different in a place: the keys its commands have there against those here."""
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
    places = _places_for(opened, into, program)
    sheet = [] if program is not None else of_sheet(opened.folio, changes, computer)
    on_board = {one.binding: one for _, one in sheet if one.old is None and one.new is None}
    left = {id: (one, "it is set on the board itself, in what makes its layers") for id, one in on_board.items()}
    open_ones = [(of, one) for of, one in sheet if one.binding not in on_board]
    steps: list[Step] = []
    already: dict[str, Wanted] = {}
    for place in places:
        before = place.read()
        of_place = [one for of, one in open_ones if place.program in (None, of)]
        wanted = of_place if program is None else of_program(opened.folio, program, place, before, computer)
        out = write(place.kind, before, wanted) if wanted else None
        if out is None:
            continue
        already |= {one.binding: one for one in out.already}
        for one, why in out.left:
            left.setdefault(one.binding, (one, f"{place.shown}: {why}"))
        if out.set:
            steps.append(Step(place, before, place.path is None or place.path.exists(), out))
    return _plan(opened, steps, already, left, open_ones)


def _places_for(opened: Opened, into: str | None, program: str | None) -> list[Place]:
    """Return the places that can be written, for all programs or for one. Raises StoreError where that one has none."""
    if program is not None and program not in opened.folio.programs:
        raise StoreError(f"{program} is not a program of this folio{did_you_mean(program, opened.folio.programs)}")
    places = [one for one in places_of(opened, into) if program is None or one.program in (None, program)]
    if program is not None and not places:
        name = opened.folio.programs[program].name
        raise StoreError(f"no linked source of {name} can be written; link one, or name a writer: --into line-editor")
    return places


def _plan(
    opened: Opened,
    steps: Sequence[Step],
    already: dict[str, Wanted],
    left: dict[str, tuple[Wanted, str]],
    open_ones: Sequence[tuple[str, Wanted]],
) -> Plan:
    """Return the plan of these steps; what no place took is left with the reason."""
    set_now = {one.binding for step in steps for one in step.out.set}
    for of, one in open_ones:
        if one.binding not in set_now | set(already):
            left.setdefault(one.binding, (one, _why_not_written(opened, of)))
    rest = tuple(reason for id, reason in left.items() if id not in set_now | set(already))
    return Plan(tuple(steps), tuple(one for id, one in already.items() if id not in set_now), rest)


def _why_not_written(opened: Opened, program: str) -> str:
    waiting = unagreed(opened.folder)
    if waiting:
        return f"{waiting[0]} came in a pack and was not agreed to: glimber agree"
    name = opened.folio.programs[program].name if program in opened.folio.programs else program
    return f"no linked source of {name} can be written"


def carry_out(opened: Opened, plan: Plan, log: Log, now: datetime) -> None:
    """Set a plan and tick it off. Raises StoreError: then what was set in this call was put back, and nothing was ticked."""
    settled = {one.binding for one, _ in plan.set} | {one.binding for one in plan.already}
    ticked = [change for change in open_changes(log.records(Change)) if change.binding in settled]
    if not plan.steps:
        tick(log, ticked, now)
        return
    with _alone():
        folder = _begin(opened, plan, ticked, now)
        done: list[Step] = []
        try:
            for step in plan.steps:
                step.place.write(step.before, step.out.data)
                done.append(step)
                _compare(step)
            set_state(folder, DONE)  # before the ticks: what is set and not ticked is found set, and ticked, the next time
            tick(log, ticked, now)
        except Exception as error:
            kept = _undo((step.place, step.out.data, step.before, step.there) for step in reversed(done))
            set_state(folder, BACK)
            if kept:
                raise StoreError(f"{error}. {_left(kept, folder)}") from error
            raise
        prune()


@contextmanager
def _alone() -> Iterator[None]:
    with locked() as mine:
        if not mine:
            raise StoreError("another Glimber is setting changes and does not end; nothing was set")
        yield


def _undo(steps: Iterable[tuple[Place, bytes, bytes, bool]]) -> list[Place]:
    """Put places back, as (place, what was set, what was there before, whether it was there at all).

    Returns:
        The places that were left as they are, since they no longer hold what was set.
    """
    kept = []
    for place, now, before, there in steps:
        try:
            place.put_back(now, before, there)
        except StoreError:
            kept.append(place)
    return kept


def _left(kept: Sequence[Place], folder: Path) -> str:
    names = " and ".join(place.shown for place in kept)
    return f"{names} was changed meanwhile and stays as it is; what was there before is in {folder}"


def recover() -> list[str]:
    """Put back whatever a killed process had set in part, and delete the temporary files that it left beside the places.

    Nothing is done while another process is setting changes. Raises StoreError.

    Returns:
        A sentence for each interrupted setting, for the person to read.
    """
    if next(in_state(BEGUN), None) is None:
        return []
    messages = []
    with locked(0) as mine:
        for folder, record in list(in_state(BEGUN)) if mine else []:
            try:
                messages.append(_undone(folder, record))
            except (StoreError, OSError) as error:
                messages.append(f"A setting that was cut short cannot be undone: {error}. What was there before is in {folder}.")
            set_state(folder, BACK)
    return messages


def _undone(folder: Path, record: Record) -> str:
    """Undo what a record says was set in part; a sentence about it. Raises StoreError, OSError."""
    steps = list(_steps_of(folder, record))
    kept = _undo((place, after, before, there) for place, before, after, there, now in steps if now == after != before)
    changed = [*kept, *(place for place, before, after, _, now in steps if now not in (before, after))]
    for place, *_ in steps:
        if place.path is not None:
            sweep(real(place.path).parent)
    names = " and ".join(place.shown for place, *_ in steps)
    return f"Setting {names} was cut short and was undone." + (f" {_left(changed, folder)}." if changed else "")


def _steps_of(folder: Path, record: Record) -> Iterator[tuple[Place, bytes, bytes, bool, bytes]]:
    """Yield each place of a record, what it held before and after, whether it was there, and what it holds now."""
    for number, one in enumerate(record.places):
        place = Place(one.kind, None, None if one.path is None else Path(one.path))
        before, after = read_file(folder / f"{number}-before"), read_file(folder / f"{number}-after")
        now = place.read()
        if place.kind == DESKTOP:
            before, after = _lines_now(now, before, after)
        yield place, before, after, one.there, now


def _compare(step: Step) -> None:
    """Check that the place now holds what was written. Raises StoreError."""
    now = step.place.read()
    lines = (
        (set(step.out.data.splitlines()) - set(now.splitlines())) if step.place.path is None else now != step.out.data
    )
    if lines:
        raise StoreError(f"{step.place.shown}: reads differently from what was written; it was put back")


def _begin(opened: Opened, plan: Plan, ticked: Sequence[Change], now: datetime) -> Path:
    """Write down what is to be set, and what is there before."""
    folder = new_record(now)
    places = []
    for number, step in enumerate(plan.steps):
        write_atomically(folder / f"{number}-before", step.before)
        write_atomically(folder / f"{number}-after", step.out.data)
        path = None if step.place.path is None else str(step.place.path)
        places.append(RecordedPlace(step.place.kind, path, step.there))
    ids = [one.id for one in ticked]
    write_record(folder, Record(str(opened.folder.resolve()), now.isoformat(), BEGUN, places, ids))
    return folder


class PutBack(Struct, frozen=True):
    """The result of putting changes back: the places, and the bindings whose edits wait on the sheet again."""

    places: tuple[str, ...]
    bindings: tuple[str, ...]
    diff: str


def set_back(opened: Opened, log: Log) -> PutBack:
    """Undo what was set last. Raises StoreError, with nothing changed, where there is nothing or it was changed since."""
    with _alone():
        own = str(opened.folder.resolve())
        found = next(((folder, record) for folder, record in in_state(DONE) if record.folio == own), None)
        if found is None:
            raise StoreError("nothing that was set is on record for this folio")
        folder, record = found
        steps = list(_steps_of(folder, record))
        for number, (place, before, after, _, now) in enumerate(steps):
            if now not in (before, after):
                copy = folder / f"{number}-before"
                raise StoreError(f"{place.shown}: was changed since it was set; what was there before is in {copy}")
        for place, before, _, there, now in steps:
            if now != before or not there:
                place.put_back(now, before, there)
        changes = [one for one in log.records(Change) if one.id in record.changes]
        tick(log, changes, None)
        set_state(folder, BACK)
    diff = "".join(Step(place, now, True, Rewritten(before)).diff for place, before, _, _, now in steps)
    return PutBack(tuple(place.shown for place, *_ in steps), tuple(one.binding for one in changes), diff)


def _lines_now(now: bytes, before: bytes, after: bytes) -> tuple[bytes, bytes]:
    """Return the desktop's listing before and after, as it would be with everything else as it is now."""
    pairs = [(a, b) for a, b in zip(before.splitlines(), after.splitlines(), strict=True) if a != b]
    back, forth = {b: a for a, b in pairs}, dict(pairs)
    lines = now.splitlines(keepends=True)
    old = b"".join(back.get(line.rstrip(b"\n"), line.rstrip(b"\n")) + b"\n" for line in lines)
    new = b"".join(forth.get(line.rstrip(b"\n"), line.rstrip(b"\n")) + b"\n" for line in lines)
    return old, new

