"""Corrections of what was read, as a person makes them on the page: each can be offered to all other rows like the first one.

Rows are named by their command as it was read, without regard to case.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Final

from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.notation.keys import NotationError
from glimber.core.notation.spelling import NotKeysError, spell
from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Row, for_this_system
from glimber.readers.sureness import SURE

_TOKEN: Final = re.compile(r"[^\s+,/()<>]+")
_LONGEST_CHANGE: Final = 60


class Corrections(Struct, frozen=True):
    """A person's corrections of rows: ``keys``, ``names``, those that are no shortcut, and those that were decided."""

    keys: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    names: Mapping[str, str] = field(default_factory=dict)
    dropped: frozenset[str] = frozenset()
    decided: frozenset[str] = frozenset()

    def with_keys(self, keys: Mapping[str, tuple[str, ...]]) -> Corrections:
        """Rows have these keys; that decides them."""
        folded = {name.casefold(): triggers for name, triggers in keys.items()}
        return self._decide(folded, keys={**self.keys, **folded})

    def with_names(self, names: Mapping[str, str]) -> Corrections:
        """Rows have other names; that decides them."""
        folded = {old.casefold(): new for old, new in names.items()}
        return self._decide(folded, names={**self.names, **folded})

    def drop(self, names: Sequence[str]) -> Corrections:
        """Rows are no shortcuts."""
        folded = {name.casefold() for name in names}
        return self._decide(folded, dropped=self.dropped | folded)

    def restore(self, name: str) -> Corrections:
        """A row that was dropped is one again, and as it was read."""
        return replace(self, dropped=self.dropped - {name.casefold()}, decided=self.decided - {name.casefold()})

    def decide(self, names: Sequence[str]) -> Corrections:
        """Return the corrections with rows decided: they need no more checking."""
        return self._decide({name.casefold() for name in names})

    def _decide(self, decided: Iterable[str], **changes: object) -> Corrections:
        """Make changes and note what they decide; a row that is given something is dropped no more."""
        names = frozenset(decided)
        made: Corrections = replace(self, **changes)
        dropped = made.dropped if "dropped" in changes else made.dropped - names
        return replace(made, decided=made.decided | names, dropped=dropped)

    def name_of(self, name: str) -> str:
        """Return the name that a row goes by."""
        return self.names.get(name.casefold(), name)


def corrected(found: Found, corrections: Corrections) -> list[Row]:
    """Return the rows to import on this computer: without what was dropped, with the corrections of the others.

    A line that could not be read is a row once its keys were given.
    """
    rows = []
    for row in for_this_system(found):
        name = row.command.casefold()
        if name not in corrections.dropped:
            rows.append(replace(row, command=corrections.name_of(row.command), triggers=corrections.keys.get(name, row.triggers)))
    there = {row.command.casefold() for row in found.rows}
    unread = {one.command: one.line for one in found.not_bindings} | {one.command: one.line for one in found.problems}
    for command, line in unread.items():
        name = command.casefold()
        if command and name in corrections.keys and name not in there | corrections.dropped:
            rows.append(Row(corrections.name_of(command), corrections.keys[name], None, line))
    return rows


# What is like a row that was corrected


def like_dropped(rows: Sequence[Row], name: str) -> list[str]:
    """Return the other rows in doubt for the same reason as one that was no shortcut."""
    reasons = {row.doubt for row in rows if row.command.casefold() == name.casefold()} - {""}
    return _others(row.command for row in rows if row.doubt in reasons and row.command.casefold() != name.casefold())


def like_renamed(rows: Sequence[Row], old: str, new: str) -> dict[str, str]:
    """Return the names of other rows that lose at their beginning or end what one lost: "Sheet list 14" became "Sheet list".

    A number stands for any number, what is in brackets for anything in brackets.
    """
    changed = _what_went(old, new)
    if changed is None:
        return {}
    pattern, found = changed, dict[str, str]()
    for row in rows:
        left = pattern.sub("", row.command).strip()
        if left and left != row.command and row.command.casefold() != old.casefold():
            found[row.command] = left
    return found


def _what_went(old: str, new: str) -> re.Pattern[str] | None:
    if not new or old == new or len(old) - len(new) > _LONGEST_CHANGE:
        return None
    if old.startswith(new):
        return re.compile(rf"{_widened(old[len(new) :])}\Z")
    if old.endswith(new):
        return re.compile(rf"\A{_widened(old[: -len(new)])}")
    return None


def _widened(text: str) -> str:
    """Return a pattern for texts like one: any number for a number, anything in brackets for what is in them."""
    if re.fullmatch(r"\s*\([^()]*\)\s*", text):
        return r"\s*\([^()]*\)\s*"
    return r"\s*" + re.sub(r"\d+", r"\\d+", re.escape(text.strip())).replace(r"\ ", r"\s+") + r"\s*"


def turned(row: Row) -> tuple[str, tuple[str, ...]] | None:
    """Return the name and the triggers of a row whose command and keys stand the other way round; None where they cannot."""
    try:
        triggers = tuple(map(str, spell(row.command).triggers))
    except (NotationError, NotKeysError):
        return None
    return (row.keys, triggers) if triggers and row.keys.strip() else None


def like_turned(rows: Sequence[Row], name: str) -> list[str]:
    """Return the other rows whose command is spelt like keys, while their keys are not."""
    return _others(
        row.command for row in rows
        if row.command.casefold() != name.casefold() and evidence(row.command) and row.sure < SURE and turned(row) is not None
    )  # fmt: skip


def like_keyed(found: Found, name: str, trigger: str) -> dict[str, tuple[str, ...]]:
    """Return the triggers of other rows and problems in which the same word stands for a key.

    "Ctrl+Querty" was corrected to Ctrl+Q: then "Alt+Querty" is Alt+Q.
    """
    texts = {row.command: row.keys for row in found.rows if row.keys}
    texts |= {problem.command: problem.keys for problem in found.problems if problem.keys}
    own = next((keys for command, keys in texts.items() if command.casefold() == name.casefold()), "")
    key = trigger.rpartition("+")[2] or "+"
    for word in dict.fromkeys(_TOKEN.findall(own)):
        if _spelt(own, word, key) == (trigger,):
            wanted = re.compile(rf"(?<![\w]){re.escape(word)}(?![\w])")
            others = {command: _spelt(keys, word, key) for command, keys in texts.items()
                      if command.casefold() != name.casefold() and wanted.search(keys)}  # fmt: skip
            return {command: triggers for command, triggers in others.items() if triggers}
    return {}


def _spelt(keys: str, word: str, key: str) -> tuple[str, ...]:
    """Return the triggers of keys with one word replaced by a key; none where they cannot be read so either."""
    text = re.sub(rf"(?<![\w]){re.escape(word)}(?![\w])", lambda _: key, keys)
    try:
        return tuple(map(str, spell(text).triggers))
    except (NotationError, NotKeysError):
        return ()


def _others(names: Iterable[str]) -> list[str]:
    return list(dict.fromkeys(names))
