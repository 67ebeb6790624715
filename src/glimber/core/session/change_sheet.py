"""The change sheet: what is to be set in each program and on each board, with old and new trigger, until it is ticked off."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Final

from msgspec import Struct

from glimber.core.model.describe import place_words
from glimber.core.model.folio import Folio
from glimber.core.notation.csvtext import csv_text
from glimber.core.notation.keys import NotationError, Spot, parse_trigger
from glimber.core.practice.tries import Change, format_moment, utc
from glimber.core.session.pending import open_changes

OLD: Final[Mapping[str, str]] = {
    "works": "leave it working",
    "dead": "let it do nothing",
    "reminds": "let it do the new one, as a reminder",
}


class Edit(Struct, frozen=True):
    """One line: a change with what it is about in words. ``where``: the program or the board; ``set_at`` where it is set
    there."""

    change: Change
    where: str
    set_at: str
    command: str
    old: str
    new: str
    then: str

    @property
    def done(self) -> bool:
        """Return True if it is set."""
        return self.change.applied is not None


def sheet_of(folio: Folio, changes: Iterable[Change], with_done: bool = False) -> list[Edit]:
    """Return the lines of the sheet, by program and board, oldest first; those that are set too where they are asked for."""
    changes = list(changes)
    lines = open_changes(changes)
    if with_done:
        lines += [one for one in changes if one.applied is not None and one.reverted is None and one.from_trigger is not None
                  and (one.to_trigger is not None or one.verdict == "retire")]  # fmt: skip
    found = [_edit(folio, change) for change in sorted(lines, key=lambda one: (utc(one.at), one.binding))]
    order = {where: place for place, where in enumerate(dict.fromkeys(one.where for one in found))}
    return sorted(found, key=lambda one: order[one.where])


def _edit(folio: Folio, change: Change) -> Edit:
    binding = folio.bindings.get(change.binding)
    command = folio.commands.get(change.command or "")
    program = folio.programs.get((change.command or "").partition("/")[0])
    where = program.name if program is not None else "elsewhere"
    set_at = (binding.set_at if binding is not None else None) or ""
    try:
        trigger = parse_trigger(change.to_trigger or change.from_trigger or "", folio.bundles)
        if isinstance(trigger, Spot):
            board = folio.boards.get(trigger.board)
            where = board.name if board is not None else trigger.board
    except NotationError:
        pass
    name = command.name if command is not None else change.binding
    new = _words(folio, change.to_trigger) if change.to_trigger else "nothing: it waits on the bench"
    other = folio.bindings.get(change.swap_with or "")
    taken = folio.command_of(other) if other is not None else None
    then = OLD[change.old_trigger] if taken is None else f"it does {taken.name} now"
    return Edit(change, where, set_at, name, _words(folio, change.from_trigger), new, then)


def _words(folio: Folio, text: str | None) -> str:
    try:
        return place_words(folio, parse_trigger(text or "", folio.bundles))
    except NotationError:
        return text or ""


def to_markdown(title: str, edits: Sequence[Edit]) -> str:
    """Return the sheet as Markdown: a list to tick off for each program and board."""
    lines = [f"# Changes to set: {title}", ""]
    if not edits:
        lines += ["Nothing waits to be set.", ""]
    where = None
    for edit in edits:
        if edit.where != where:
            where = edit.where
            lines += [f"## {_plain(where)}", ""]
        at = f" ({_plain(edit.set_at)})" if edit.set_at else ""
        why = f" — {_plain(edit.change.why)}" if edit.change.why else ""
        tick = "x" if edit.done else " "
        lines.append(
            f"- [{tick}] **{_plain(edit.command)}**{at}: {_plain(edit.old)} → {_plain(edit.new)}; the old one: {edit.then}{why}"
        )
    return "\n".join(lines) + "\n"


def _plain(text: str) -> str:
    """Return a text in which nothing is Markdown."""
    return "".join(f"\\{one}" if one in "\\`*_[]<>#|" else one for one in " ".join(text.split()))


def to_csv(edits: Sequence[Edit]) -> str:
    """Return the sheet as a table."""
    rows: list[list[str]] = [["where", "set at", "command", "old", "new", "the old one", "since", "set", "why"]]
    for edit in edits:
        change = edit.change
        since = format_moment(change.at)[:10]
        done = "" if change.applied is None else format_moment(change.applied)[:10]
        rows.append([edit.where, edit.set_at, edit.command, edit.old, edit.new, edit.then, since, done, change.why])
    return csv_text(rows)
