"""Checks before an import: rows in doubt, keys that could not be read, and differences from the folio."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from glimber.core.edit.compare import Difference
    from glimber.readers.corrections import Corrections
    from glimber.readers.found import Found
    from glimber.ui.gather.views.model import Origin

Different = Literal["changed", "conflict", "renamed", "gone"]
CheckKind = Literal["doubt", "unread"] | Different


class Check(Struct, frozen=True):
    """One thing to look at: the command ``read_as`` it stands on the page and the ``name`` it goes by, its line, a message, the
    keys of the page and those of the folio, the labels of the two ways to decide, and whether it was decided."""

    kind: CheckKind
    read_as: str
    name: str
    line: int
    message: str
    page: tuple[str, ...] = ()
    own: tuple[str, ...] = ()
    ways: tuple[str, str] = ("import it", "leave it out")
    decided: bool = False


def checks_of(rows: Sequence[tuple[Difference, Origin]], found: Found, corrections: Corrections) -> list[Check]:
    """Return the checks of a source in the order of its lines; what the page no longer names comes last."""
    from glimber.readers.menus import NOT_DOUBTS

    doubts = {row.command.casefold(): row.doubt for row in found.rows if row.doubt and row.doubt not in NOT_DOUBTS}
    checks = []
    for one, origin in rows:
        read_as = origin.read_as or one.row.name
        decided = read_as.casefold() in corrections.decided
        doubt = doubts.get(read_as.casefold(), "")
        kind = one.kind
        if kind == "changed" or kind == "conflict" or kind == "renamed" or kind == "gone":
            checks.append(_difference(kind, one, origin, read_as, doubt, decided))
        elif doubt and kind != "yours":
            message = f"Line {origin.line}: {doubt}."
            checks.append(Check("doubt", read_as, one.row.name, origin.line, message, one.row.triggers, one.was, decided=decided))
    there = {row.command.casefold() for row in found.rows}
    for problem in found.problems:
        name = problem.command.casefold()
        if problem.command and name not in there and name not in corrections.keys:
            message = f"Line {problem.line}: {problem.text.removeprefix(f'{problem.command}: ')}"
            decided = name in corrections.dropped
            called, ways = corrections.name_of(problem.command), ("press its keys", "no shortcut")
            checks.append(Check("unread", problem.command, called, problem.line, message, ways=ways, decided=decided))
    return sorted(checks, key=lambda check: (check.line == 0, check.line))


def _difference(kind: Different, one: Difference, origin: Origin, read_as: str, doubt: str, decided: bool) -> Check:
    there, here = " or ".join(one.row.triggers) or "no key", " or ".join(one.was) or "no key"
    own = one.was
    ways = ("use the page's", "keep mine")
    if kind == "renamed":
        message, own, ways = f"The page gives {one.was[0]} this name, with the same keys.", (), ("rename mine", "keep my name")
    elif kind == "gone":
        message, ways = f"The page no longer names it. Yours has {here}.", ("remove mine", "keep mine")
    elif one.taken_by:
        message = f"The page says {there}, which is {one.taken_by} here."
    elif kind == "conflict":
        message = f"The page says {there} now. You changed it to {here}."
    else:
        message = f"The page says {there}. Yours is {here}."
    if doubt:
        message += f" And {doubt}."
    return Check(kind, read_as, one.row.name, origin.line, message, one.row.triggers, own, ways, decided)
