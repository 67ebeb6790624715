"""Commands to learn: those that are not sorted yet, each with a proposal, and how often as four words."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from types import MappingProxyType
from typing import Final

from msgspec import Struct

from glimber.core.edit.commands import edit_command
from glimber.core.model.folio import Command, Folio, LearnState
from glimber.core.model.open_sets import slow_way_steps
from glimber.core.stats.belief import everybody_knows
from glimber.core.stats.ledger import Ledger
from glimber.core.stats.usage import stakes_of

OFTEN: Final = MappingProxyType({"all day": 60.0, "daily": 5.0, "weekly": 0.7, "rarely": 0.1})
"""Uses on a working day that each word stands for."""
QUICK_MS: Final = 1500.0
_EVERYBODY: Final = frozenset(
    "copy cut paste undo redo save open print quit find select-all new close help exit".split()
)


class ToSort(Struct, frozen=True):
    """A command to be sorted, with what is proposed and why; None where nothing is."""

    command: Command
    proposed: LearnState | None
    why: str = ""


def to_sort(folio: Folio, ledger: Ledger | None = None, program: str | None = None) -> list[ToSort]:
    """Return the commands with a binding that nobody has sorted: those proposed to be learnt first, by seconds a week; those
    that are likely known last."""
    known = _clean_at_once(ledger) if ledger is not None else frozenset[str]()
    rows = ledger.rows.values() if ledger is not None else ()
    counted = {row.command.ref for row in rows if row.at_work is not None and row.at_work.enough}
    commands = [command for ref, command in folio.commands.items()
                if command.learn is None and ref in folio.bindings_of and program in (None, command.program)]  # fmt: skip
    found = [_proposed(folio, command, known, counted) for command in commands]
    stake = {one.command.ref: one.week_s or one.uses_week * 0.5 for one in stakes_of(folio, commands, sort=False)}
    rank = {"learn": 0, None: 1, "never": 2, "known": 3}
    group = {ref: place for place, ref in enumerate(folio.commands)}
    return sorted(found, key=lambda one: (rank[one.proposed], -stake[one.command.ref] if one.proposed == "learn" else 0.0,
                                          group[one.command.ref]))  # fmt: skip


def _proposed(folio: Folio, command: Command, known: Collection[str], counted: Collection[str]) -> ToSort:
    triggers = [binding.trigger for binding in folio.bindings_of[command.ref]]
    if command.ref in known:
        return ToSort(command, "known", "struck clean the first time")
    if any(everybody_knows(trigger) for trigger in triggers) or command.name.strip(" .…").casefold() in _EVERYBODY:
        return ToSort(command, "known", "most people know it")
    if command.ref in counted or slow_way_steps(folio, command):
        return ToSort(command, "learn", "you use it" if command.ref in counted else "its menu takes longer")
    return ToSort(command, None)


def _clean_at_once(ledger: Ledger) -> frozenset[str]:
    """Return commands whose binding was struck clean and quickly at its very first try."""
    found = set[str]()
    for row in ledger.rows.values():
        first = row.tries[0] if row.count else None
        if first is not None and first.outcome == "hit" and (first.recall_ms or QUICK_MS) < QUICK_MS:
            found.add(row.command.ref)
    return frozenset(found)


def sort_commands(folio: Folio, refs: Iterable[str], learn: LearnState) -> Folio:
    """Return the folio with commands sorted."""
    for ref in refs:
        folio = edit_command(folio, ref, learn=learn)
    return folio


def use_often(folio: Folio, ref: str, word: str) -> Folio:
    """Return the folio with a command used as often as a word says."""
    return edit_command(folio, ref, uses_per_day=OFTEN[word])
