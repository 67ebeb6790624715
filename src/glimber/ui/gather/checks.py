"""What is to be looked at before it is imported: rows in doubt, keys that could not be read, and what differs from the folio."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Final, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from glimber.core.edit.compare import Difference
    from glimber.readers.corrections import Corrections
    from glimber.readers.found import Found
    from glimber.ui.gather.views.model import Origin

CheckKind = Literal["doubt", "unread", "changed", "conflict", "renamed", "gone"]
_DIFFERENT: Final = ("changed", "conflict", "renamed", "gone")


class Check(Struct, frozen=True):
    """One thing to look at: the command ``read_as`` it stands on the page and the ``name`` it goes by, its line, what there is
    to say, the keys of the page and those of the folio, what the two ways to decide are called, and whether it was decided."""

    kind: CheckKind
    read_as: str
    name: str
    line: int
    said: str
    page: tuple[str, ...] = ()
    own: tuple[str, ...] = ()
    ways: tuple[str, str] = ("import it", "leave it out")
    decided: bool = False


def checks_of(rows: Sequence[tuple[Difference, Origin]], found: Found, corrections: Corrections) -> list[Check]:
    """Return the checks of a source in the order of its lines; what the page no longer names comes last."""
    doubts = {row.command.casefold(): row.doubt for row in found.rows if row.doubt}
    checks = []
    for one, origin in rows:
        read_as = origin.read_as or one.row.name
        decided = read_as.casefold() in corrections.decided
        doubt = doubts.get(read_as.casefold(), "")
        if one.kind in _DIFFERENT:
            checks.append(_difference(one, origin, read_as, doubt, decided))
        elif doubt and one.kind != "yours":
            said = f"Line {origin.line}: {doubt}."
            checks.append(Check("doubt", read_as, one.row.name, origin.line, said, one.row.triggers, one.was, decided=decided))
    there = {row.command.casefold() for row in found.rows}
    for problem in found.problems:
        name = problem.command.casefold()
        if problem.command and name not in there and name not in corrections.keys:
            said = problem.text.removeprefix(f"{problem.command}: ")
            decided = name in corrections.dropped
            called, ways = corrections.name_of(problem.command), ("press its keys", "no shortcut")
            said = f"Line {problem.line}: {said}"
            checks.append(Check("unread", problem.command, called, problem.line, said, ways=ways, decided=decided))
    return sorted(checks, key=lambda check: (check.line == 0, check.line))


def _difference(one: Difference, origin: Origin, read_as: str, doubt: str, decided: bool) -> Check:
    there, here = " or ".join(one.row.triggers) or "no key", " or ".join(one.was) or "no key"
    own = one.was
    ways = ("use the page's", "keep mine")
    if one.kind == "renamed":
        said, own, ways = f"The page calls {one.was[0]} so, with the same keys.", (), ("rename mine", "it is another command")
    elif one.kind == "gone":
        said, ways = f"The page no longer names it. Yours has {here}.", ("remove mine", "keep mine")
    elif one.taken_by:
        said = f"The page says {there}, which is {one.taken_by} here."
    elif one.kind == "conflict":
        said = f"The page says {there} now. You changed it to {here}."
    else:
        said = f"The page says {there}. Yours is {here}."
    if doubt:
        said += f" And {doubt}."
    kind: CheckKind = "changed" if one.kind == "changed" else "conflict" if one.kind == "conflict" else (
        "renamed" if one.kind == "renamed" else "gone")  # fmt: skip
    return Check(kind, read_as, one.row.name, origin.line, said, one.row.triggers, own, ways, decided)
