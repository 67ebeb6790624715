"""An HTML page as blocks: what a reader of it would see, without anything fetched, run or laid out by it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from copy import deepcopy
from typing import Final

from msgspec.structs import replace

from glimber.readers.element import Element
from glimber.readers.page_text import cell_of, grid_of, text_of
from glimber.readers.source_page import MOST_BLOCKS, Block, rows_of

_HEADINGS: Final = {f"h{level}": level for level in range(1, 7)}
_WHOLE: Final = frozenset({"p", "figcaption", "blockquote", "summary", "address", "dt", "dd"})
_INSIDE: Final = "self::p or self::table or self::ul or self::ol or self::dl or self::pre or self::div or self::section or " \
                 "self::h1 or self::h2 or self::h3 or self::h4 or self::h5 or self::h6"  # fmt: skip

_STRUCK: Final = ("\ufdd0", "\ufdd1")
"""Two characters that no text has: Unicode keeps them for use within programs."""
_MARK: Final = re.compile("([\ufdd0\ufdd1])")


def blocks_of(root: Element, struck: Sequence[Element] = ()) -> list[Block]:
    """Return the blocks of a page's tree; the text of ``struck`` elements is noted as such."""
    if struck:
        places = [root.getroottree().getpath(element) for element in struck]
        root = deepcopy(root)
        for place in places:
            for element in root.xpath(place):
                element.text = _STRUCK[0] + (element.text or "")
                element.tail = _STRUCK[1] + (element.tail or "")
    found: list[Block] = []
    for block in _blocks(root):
        found.append(_with_struck(block) if struck else block)
        if len(found) >= MOST_BLOCKS:
            break
    return found


def _with_struck(block: Block) -> Block:
    """Return the block with marks taken out of its cells, and what stood between them noted as struck."""
    ranges: list[tuple[int, int, int]] = []
    cells = []
    for place, cell in enumerate(block.cells):
        text, start = "", None
        for part in _MARK.split(cell):
            if part == _STRUCK[0]:
                start = len(text)
            elif part == _STRUCK[1]:
                if start is not None and text[start:].strip():
                    ranges.append((place, start, len(text.rstrip())))
                start = None
            else:
                text += part
        cells.append(text)
    return replace(block, cells=tuple(cells), struck=tuple(ranges))


def _blocks(root: Element) -> Iterator[Block]:
    done: set[Element] = set()
    for element in root.iter():
        tag = element.tag
        if not isinstance(tag, str) or element in done or tag in ("head", "title"):
            continue
        line = element.sourceline or 0
        if tag in _HEADINGS:
            yield from _text("heading", text_of(element), line, _HEADINGS[tag])
        elif tag == "table" and not element.xpath(".//table"):
            caption = element.find("caption")
            if caption is not None:
                yield from _text("heading", text_of(caption), caption.sourceline or line, 4)
            yield from rows_of(_rows(element))
        elif tag == "pre":
            lines = "".join(element.itertext()).expandtabs(8).rstrip("\n").split("\n")
            yield from (Block("line", (text.rstrip(),), line + place) for place, text in enumerate(lines))
        elif tag == "dl":
            yield from rows_of(_pairs(element))
        elif tag == "li" and not element.xpath(f"descendant::*[{_INSIDE} or self::li]"):
            yield from _text("item", text_of(element), line)
        elif tag in _WHOLE or (tag in ("div", "section", "li", "body", "main") and not element.xpath(f"*[{_INSIDE}]")):
            yield from _text("text", text_of(element), line)
        else:
            continue
        done.update(element.iter())


def _text(kind: str, text: str, line: int, level: int = 0) -> Iterator[Block]:
    if text:
        yield Block("heading" if kind == "heading" else "item" if kind == "item" else "text", (text,), line, level)


def _rows(table: Element) -> Iterator[tuple[int, list[str], bool]]:
    """Yield the rows of a table; what spans several cells stands in the first of them."""
    for row in grid_of(table):
        yield row.line, ["" if place in row.filled else cell for place, cell in enumerate(row.cells)], row.is_head


def _pairs(element: Element) -> Iterator[tuple[int, list[str], bool]]:
    """Yield a list of definitions as rows of terms and their descriptions; the line is that of the first term."""
    terms: list[Element] = []
    for child in element.iter("dt", "dd"):
        if child.tag == "dt":
            terms.append(child)
            continue
        yield (terms[0] if terms else child).sourceline or 0, [" or ".join(map(cell_of, terms)), text_of(child)], False
        terms = []
    for term in terms:
        yield term.sourceline or 0, [cell_of(term), ""], False
