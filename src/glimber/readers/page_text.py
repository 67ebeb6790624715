"""The text of elements of a page: blanks folded, line breaks kept, key caps beside each other joined, tables as a grid."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Final

from msgspec import Struct

from glimber.core.notation.keycodes import MODIFIER_ALIASES
from glimber.readers.element import Element

OPEN: Final = "\x02"
SHUT: Final = "\x03"
MOST_SPAN: Final = 60
MOST_COLUMNS: Final = 120
_DEEPEST: Final = 60
_HARD_BLANK: Final = "\xa0"
_BLANKS: Final = re.compile(r"[^\S\xa0]+")
_SHORT: Final = re.compile(r"\S{1,12}")
_MOST_STEPS: Final = 4


def text_of(element: Element) -> str:
    """Return the text of an element in one line."""
    return " ".join(words_of(element).split())


def cell_of(element: Element) -> str:
    """Return the text of a cell; key caps beside each other are one chord where the first is a modifier, and keys each on a
    line further in than the one above are struck one after the other."""
    lines = "".join(_pieces(element, False)).rstrip().split("\n")
    words = [_blanks_folded(line).strip() for line in lines]
    return " then ".join(words) if _is_staircase(lines) else "\n".join(words).strip()


def _is_staircase(lines: Sequence[str]) -> bool:
    """Return True for at most four keys, each indented by more hard blanks than the one above."""
    depths = [len(line) - len(line.lstrip(_HARD_BLANK)) for line in lines]
    deeper = all(upper < lower for upper, lower in pairwise(depths))
    return 1 < len(lines) <= _MOST_STEPS and depths[0] == 0 and deeper and all(_SHORT.fullmatch(line.strip()) for line in lines)


def _blanks_folded(text: str) -> str:
    return re.sub(r"[ \t\xa0]+", " ", text)


def span_of(value: str | None) -> int:
    """Return how many rows or columns a cell fills; 1 for anything that is no number."""
    return min(MOST_SPAN, int(value)) if value is not None and re.fullmatch(r"0*[1-9][0-9]{0,6}", value) else 1


class GridRow(Struct, frozen=True):
    """A row of a table: its line in the page, the text of its cells, the places that a cell which spans several ``filled``,
    whether it has heads only, and the places of cells that are ``keyed``: all of their text stands in ``<kbd>``."""

    line: int
    cells: tuple[str, ...]
    filled: frozenset[int]
    is_head: bool
    keyed: frozenset[int] = frozenset()


def grid_of(table: Element) -> Iterator[GridRow]:
    """Yield the rows of a table with a text in every place; a cell that spans rows or columns stands in each of them."""
    waiting: dict[int, tuple[int, str]] = {}  # column -> how many rows a cell from above still fills, and its text
    for row in table.iter("tr"):
        own = list(row.iter("td", "th"))
        is_head = bool(own) and all(cell.tag == "th" for cell in own)
        cells, filled, below, keyed = list[str](), set[int](), dict[int, tuple[int, str]](), set[int]()
        while (own or len(cells) in waiting) and len(cells) < MOST_COLUMNS:
            if len(cells) in waiting:
                left, text = waiting[len(cells)]
                if left > 1:
                    below[len(cells)] = (left - 1, text)
                filled.add(len(cells))
                cells.append(text)
                continue
            cell = own.pop(0)
            text, deep = cell_of(cell), span_of(cell.get("rowspan"))
            if "".join(cell.xpath(".//kbd[not(ancestor::kbd)]//text()")).strip() and not cell.xpath(
                ".//text()[normalize-space() and not(ancestor::kbd)]"
            ):
                keyed.add(len(cells))
            for place in range(min(span_of(cell.get("colspan")), MOST_COLUMNS - len(cells))):
                if deep > 1:
                    below[len(cells)] = (deep - 1, text)
                if place:
                    filled.add(len(cells))
                cells.append(text)
        waiting = below
        yield GridRow(row.sourceline or 0, tuple(cells), frozenset(filled), is_head, frozenset(keyed))


def words_of(element: Element, marked: bool = False) -> str:
    """Return all text within an element, blanks folded, line breaks kept; ``marked``: key caps stand between two signs."""
    return _blanks_folded("".join(_pieces(element, marked)))


def _pieces(element: Element, marked: bool) -> list[str]:
    """Return the texts within an element, with hard blanks as they are."""
    out: list[str] = []
    if element is not None:
        _walk(element, out, marked, 0)
    return out


def _walk(node: Element, out: list[str], marked: bool, depth: int) -> None:
    if depth > _DEEPEST:
        return
    if node.text:
        out.append(_BLANKS.sub(" ", node.text))
    before = None
    for child in node:
        if not isinstance(child.tag, str):
            continue
        if child.tag == "kbd" and _joins(before):
            while out and not out[-1].strip():
                out.pop()
            out.append("+")
        if child.tag == "br":
            out.append("\n")
        outer = marked and child.tag == "kbd" and not any(above.tag == "kbd" for above in child.iterancestors())
        out.append(OPEN if outer else "")
        _walk(child, out, marked, depth + 1)
        out.append(SHUT if outer else "")
        if child.tail:
            out.append(_BLANKS.sub(" ", child.tail))
        before = child


def _joins(before: Element) -> bool:
    """Return True if a key cap right after this element belongs to its chord."""
    if before is None or before.tag != "kbd" or (before.tail or "").strip():
        return False
    return " ".join("".join(before.itertext()).split()).lower() in MODIFIER_ALIASES
