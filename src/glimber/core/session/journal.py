"""The steps of a folio over restarts: what each save changed in the files, so that it can be taken back on another day.

A step keeps only the bytes that differ; beside them stands what each file held last. Steps of other hands (an editor, a
colleague's commit) are in the journal too, but are never taken back: going back lays the own steps' differences over what
there is.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Final

from msgspec import Struct, field
from msgspec.structs import replace

MOST_STEPS: Final = 400
MOST_BYTES: Final = 8_000_000
Files = Mapping[str, bytes]


class BrokenError(ValueError):
    """The files do not hold what the journal says they held; the message names the file."""


class Patch(Struct, frozen=True):
    """The difference in a file: from byte ``start`` on ``before`` was replaced by ``after``. None: the file was not there."""

    name: str
    start: int
    before: bytes | None
    after: bytes | None


class Entry(Struct, frozen=True):
    """One save: the edits in it by name, in which room, and what it changed; ``outside``: made by somebody else. ``steps``: the
    edits' numbers in the running program, which end with it."""

    id: int
    at: datetime
    room: str
    names: tuple[str, ...]
    patches: tuple[Patch, ...]
    outside: bool = False
    steps: frozenset[int] = frozenset()


class Journal(Struct, frozen=True):
    """Steps that can be taken back, the newest last, and those taken back; ``texts``: what the files of any step held last."""

    undo: tuple[Entry, ...] = ()
    redo: tuple[Entry, ...] = ()
    texts: Mapping[str, bytes] = field(default_factory=dict)
    last_id: int = 0

    # What happened

    def save(
        self, made: Mapping[int, str], reverted: Iterable[int], before: Files, after: Files, at: datetime, room: str
    ) -> Journal:
        """Record a save of edits that were ``made`` (number and name) or ``reverted`` since the last one. Raises BrokenError."""
        journal, left, new, state = self._current(before), set(reverted), dict(made), dict(before)
        while (entry := journal.newest()) is not None and entry.steps and entry.steps <= left:
            left -= entry.steps
            state = journal.state_after(entry.id, state)
            _reverse(state, entry)
            lower = tuple(one for one in journal.undo if one.id < entry.id)
            journal = replace(journal, undo=lower, redo=(*journal.redo, entry))
        while journal.redo and (entry := journal.redo[-1]).steps and entry.steps <= new.keys():
            new = {id: name for id, name in new.items() if id not in entry.steps}
            _apply(state, entry)
            again = replace(entry, id=journal.last_id + 1)
            journal = replace(journal, undo=(*journal.undo, again), redo=journal.redo[:-1], last_id=again.id)
        if new or left:
            names = (*new.values(), *(["part of an earlier step undone"] if left else []))
            journal = journal._add(names, state, after, at, room, frozenset(new))
        else:  # what others changed meanwhile, or how the text came out
            journal = journal._add((), state, after, at, room, frozenset(), outside=True)
        return journal._current(after)

    def resume(self, files: Files, at: datetime) -> Journal:
        """Record what changed in the files of the journal while nobody looked, at the beginning of another day."""
        there = {name: files[name] for name in self.texts if name in files}
        ours = frozenset[int]()
        fresh = replace(self, undo=tuple(replace(one, steps=ours) for one in self.undo),
                        redo=tuple(replace(one, steps=ours) for one in self.redo))  # fmt: skip
        return fresh._add(("changed outside Glimber",), self.texts, there, at, "", frozenset(), outside=True)._current(files)

    def see(self, before: Files, after: Files, at: datetime) -> Journal:
        """Record that somebody else changed the files."""
        seen = self._current(before)._add(("changed outside Glimber",), before, after, at, "", frozenset(), outside=True)
        return seen._current(after)

    def _current(self, files: Files) -> Journal:
        known = self.texts.keys() | {patch.name for entry in (*self.undo, *self.redo) for patch in entry.patches}
        return replace(self, texts={name: files[name] for name in known if name in files})

    def _add(
        self, names: tuple[str, ...], before: Files, after: Files, at: datetime, room: str, steps: frozenset[int],
        outside: bool = False,
    ) -> Journal:  # fmt: skip
        patches = tuple(patch_of(name, before.get(name), after.get(name)) for name in sorted(before.keys() | after.keys())
                        if before.get(name) != after.get(name))  # fmt: skip
        if not patches:
            return self
        entry = Entry(self.last_id + 1, at, room, names, patches, outside, steps)
        undo = (*self.undo, entry)[-MOST_STEPS:]
        while len(undo) > 1 and sum(map(_size, undo)) > MOST_BYTES:
            undo = undo[1:]
        return Journal(undo, self.redo if outside else (), self.texts, entry.id)

    def recalled(self, entry: Entry, step: int) -> Journal:
        """Record that an entry of an earlier day is an edit of the running program now, under a number."""
        ours = replace(entry, steps=frozenset({step}))
        return replace(self, undo=tuple(ours if one.id == entry.id else one for one in self.undo),
                       redo=tuple(ours if one.id == entry.id else one for one in self.redo))  # fmt: skip

    # What there was

    def newest(self) -> Entry | None:
        """Return the newest own entry."""
        return next((entry for entry in reversed(self.undo) if not entry.outside), None)

    def newest_id(self) -> int:
        """Return the number of the newest own entry; 0 where there is none."""
        entry = self.newest()
        return entry.id if entry is not None else 0

    def id_before(self, entry: Entry) -> int:
        """Return the number of the entry before one, of whoever; 0 where it is the first."""
        return max((one.id for one in self.undo if one.id < entry.id), default=0)

    def state_after(self, id: int, files: Files) -> dict[str, bytes]:
        """Return the files as they were right after an entry (0: before all), given what they hold now. Raises BrokenError."""
        state = dict(files)
        for entry in reversed(self.undo):
            if entry.id <= id:
                break
            _reverse(state, entry)
        return state

    def states_of(self, entry: Entry, files: Files) -> tuple[dict[str, bytes], dict[str, bytes]]:
        """Return the files before and after an entry of the undo or redo stack, given what they hold now. Raises BrokenError."""
        if any(one.id == entry.id for one in self.undo):
            after = self.state_after(entry.id, files)
            before = dict(after)
            _reverse(before, entry)
            return before, after
        before, after = dict(files), dict(files)
        _apply(after, entry)
        return before, after

    def runs_after(self, id: int) -> list[tuple[Entry, Entry]]:
        """Return the own entries after one, as first and last of each run that nothing from outside parts, the newest first."""
        runs: list[tuple[Entry, Entry]] = []
        going = False
        for entry in reversed(self.undo):
            if entry.id <= id:
                break
            if entry.outside:
                going = False
            elif going:
                runs[-1] = (entry, runs[-1][1])
            else:
                runs.append((entry, entry))
                going = True
        return runs


def patch_of(name: str, before: bytes | None, after: bytes | None) -> Patch:
    """Return what differs between two contents of a file, without the bytes they begin and end with alike."""
    if before is None or after is None:
        return Patch(name, 0, before, after)
    start = _alike(before, after)
    most = min(len(before), len(after)) - start
    end = _alike(before[::-1][:most], after[::-1][:most])
    return Patch(name, start, before[start : len(before) - end], after[start : len(after) - end])


def _alike(one: bytes, other: bytes) -> int:
    """Return how many bytes two texts begin with alike: by halves, as comparing parts is quick and bytes one by one are not."""
    low, high = 0, min(len(one), len(other))
    while low < high:
        middle = (low + high + 1) // 2
        if one[low:middle] == other[low:middle]:
            low = middle
        else:
            high = middle - 1
    return low


def _reverse(state: dict[str, bytes], entry: Entry) -> None:
    for patch in entry.patches:
        _replace(state, patch.name, patch.start, patch.after, patch.before)


def _apply(state: dict[str, bytes], entry: Entry) -> None:
    for patch in entry.patches:
        _replace(state, patch.name, patch.start, patch.before, patch.after)


def _replace(state: dict[str, bytes], name: str, start: int, old: bytes | None, new: bytes | None) -> None:
    text = state.get(name)
    if old is None or new is None:
        if text != old:
            raise BrokenError(f"{name} is not what it was")
        if new is None:
            state.pop(name, None)
        else:
            state[name] = new
        return
    if text is None or text[start : start + len(old)] != old:
        raise BrokenError(f"{name} is not what it was")
    state[name] = text[:start] + new + text[start + len(old) :]


def _size(entry: Entry) -> int:
    return sum(len(patch.before or b"") + len(patch.after or b"") for patch in entry.patches)
