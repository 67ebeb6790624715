"""Pages without tables and lists: rows of elements that are alike, paragraphs that begin with keys, and keys as headings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.readers.element import Element
from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options
from glimber.readers.page_text import text_of, words_of
from glimber.readers.pairs import split_pair
from glimber.readers.table import Line, read_table

_LEAST: Final = 3
_MOST_OF: Final = 0.7
_MOST_CELLS: Final = 6
_HEADINGS: Final = frozenset({"h1", "h2", "h3", "h4", "h5", "h6", "dt", "summary"})
_MARKED: Final = frozenset({"code", "kbd", "b", "strong", "tt", "samp", "span", "em"})


def read_alike(root: Element, found: Found, options: Options) -> None:
    """Add what a page binds that has neither tables nor lists of keys."""
    lines = [line for parent in root.iter("div", "section", "article", "main", "body") for line in _rows_of(parent)]
    if len(lines) >= _LEAST and any(evidence(cell) == 2 for line in lines for cell in line.cells):
        read_table(lines, found, options, None)
    if found.has_rows:
        return
    # Headings that are keys need fewer that can be nothing else: hardly any other heading is spelt so.
    ways = ((_marked_paragraphs, _LEAST), (_pairs_in_lines, _LEAST), (_keys_as_headings, 1))
    read = [(list(way(root)), least) for way, least in ways]
    sound = [pairs for pairs, least in read if len(pairs) >= _LEAST and _sure(pairs) >= least]
    for command, keys, line in max(sound, key=len, default=[]):
        found.add(command, keys, None, line)


def _pairs_in_lines(root: Element) -> Iterator[tuple[str, str, int]]:
    """Yield commands and keys of paragraphs that are one each, or whose lines are: "<b>Ctrl-S</b> - Save sheet<br>"."""
    for run in _runs(root):
        pairs = [(pair, line) for line, text in run if (pair := split_pair(" ".join(text.split()))) is not None]
        sure = [evidence(keys) == 2 and evidence(command) < 2 for (command, keys), _ in pairs]
        # Where nearly all of them are pairs, letters among the keys are keys as well.
        throughout = sum(sure) >= _LEAST and len(pairs) >= _MOST_OF * len(run)
        for ((command, keys), line), is_sure in zip(pairs, sure, strict=True):
            if is_sure or (throughout and (len(keys) == 1 or evidence(keys))):
                yield command, keys, line


def _runs(root: Element) -> Iterator[list[tuple[int, str]]]:
    """Yield numbered texts that stand below each other: the lines of a paragraph, or the paragraphs of a block."""
    for paragraph in root.iter("p", "div"):
        if paragraph.find("br") is not None:
            lines = [text for text in words_of(paragraph).split("\n") if text.strip()]
            yield [(paragraph.sourceline or 0, text) for text in lines]
    for parent in root.iter("div", "section", "article", "main", "body"):
        texts = [(one.sourceline or 0, text_of(one)) for one in parent.iterchildren("p") if one.find("br") is None]
        yield [(line, text) for line, text in texts if text]


def _sure(pairs: Sequence[tuple[str, str, int]]) -> int:
    """Return how many have keys that can be nothing else."""
    return sum(evidence(keys) == 2 for _, keys, _ in pairs)


def _rows_of(parent: Element) -> list[Line]:
    """Return the children of an element as rows of a table, where most are of one kind and have the same number of cells."""
    children = [child for child in parent if isinstance(child.tag, str)]
    cells = [cells_of(child) for child in children]
    widths = [len(row) for row in cells if 1 < len(row) <= _MOST_CELLS]
    if len(widths) < _LEAST or len({child.tag for child in children}) > 2:
        return []
    usual = max(set(widths), key=widths.count)
    alike = [(child, row) for child, row in zip(children, cells, strict=True) if len(row) == usual]
    if len(alike) < _LEAST or len(alike) < 0.6 * len(children):
        return []
    return [Line(child.sourceline or 0, tuple(row)) for child, row in alike]


def cells_of(row: Element) -> list[str]:
    """Return the texts of an element's children; keys that are elements of their own within one are one chord."""
    if (row.text or "").strip():
        return []
    return [_cell(child) for child in row if isinstance(child.tag, str) and "".join(child.itertext()).strip()]


def _cell(cell: Element) -> str:
    caps = [" ".join("".join(one.itertext()).split()) for one in cell if isinstance(one.tag, str)]
    bare = not (cell.text or "").strip() and not any((one.tail or "").strip() for one in cell)
    if bare and len(caps) > 1 and all(_is_cap(cap) for cap in caps):
        return "+".join(caps)
    return text_of(cell)


def _is_cap(text: str) -> bool:
    return len(text) == 1 or modifier_named(text) is not None or key_named(text, marked=True) is not None


def _marked_paragraphs(root: Element) -> Iterator[tuple[str, str, int]]:
    """Yield the command, keys and line of paragraphs that begin with keys in type of their own."""
    for element in root.iter("p", "div"):
        pair = marked_pair(element)
        if pair is not None:
            yield *pair, element.sourceline or 0


def marked_pair(element: Element) -> tuple[str, str] | None:
    """Return the command and the keys of a text that begins with keys in type of their own; None for any other."""
    first = next((one for one in element if isinstance(one.tag, str)), None)
    if first is None or (element.text or "").strip() or first.tag not in _MARKED:
        return None
    keys = " ".join("".join(first.itertext()).split())
    rest = " ".join("".join(element.itertext()).split())[len(keys) :].strip(" :,–—-")
    is_pair = rest and rest[0] != "+" and (evidence(keys) == 2 or len(keys) == 1) and evidence(rest) < 2
    return (rest.rstrip("."), keys) if is_pair else None


def _keys_as_headings(root: Element) -> Iterator[tuple[str, str, int]]:
    """Yield the command, keys and line of headings that are keys, with the paragraph below them."""
    for element in root.iter(*_HEADINGS):
        keys, below = text_of(element), element.getnext()
        if evidence(keys) and below is not None and below.tag in ("p", "div"):
            words = text_of(below)
            if words:
                yield words.split(". ")[0].rstrip("."), keys, element.sourceline or 0
