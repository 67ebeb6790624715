"""HTML pages: tables with spans, definition lists, lists and nested <kbd>, with headings as groups. Nothing is run or fetched."""

from __future__ import annotations

import re
from typing import Final

import lxml.html
from lxml import etree

from glimber.core.notation.keycodes import MODIFIER_ALIASES
from glimber.readers.element import Element
from glimber.readers.found import Found, Options, decoded, evidence, looks_like_keys
from glimber.readers.pairs import split_pair
from glimber.readers.plaintext import read_lines
from glimber.readers.reader import Reader
from glimber.readers.table import Line, read_table

MOST_SPAN: Final = 60
MOST_COLUMNS: Final = 120
_CONTROLS: Final = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff\ud800-\udfff]")
_OPEN: Final = "\x02"
_SHUT: Final = "\x03"
_JOINT: Final = re.compile(r"\s*(?:\+|-|/|,|;|\||>|→|&|or|and|then|to|…|–|—|,? or|followed by)?\s*", re.I)
_HEADINGS: Final = ("h1", "h2", "h3", "h4", "h5", "h6", "caption")
_SKIPPED: Final = ("script", "style", "template", "noscript", "nav", "svg")


def read(data: bytes, options: Options) -> Found:
    """Read the tables and lists of a page."""
    found = Found(watch=options.watch)
    text = _CONTROLS.sub(" ", decoded(data))
    text = re.sub(r"^\s*<\?xml[^>]*\?>", "", text)
    if not text.strip():
        return found.fail("the page is empty; expected a table or a list")
    parser = lxml.html.HTMLParser(no_network=True, remove_comments=True, remove_pis=True, huge_tree=False)
    try:
        root = lxml.html.document_fromstring(text, parser=parser)
    except (etree.LxmlError, ValueError) as error:
        return found.fail(f"not a page that can be read: {error}")
    for skipped in root.xpath("//" + "|//".join(_SKIPPED)):
        skipped.drop_tree()
    drop_other_systems(root)
    found.title = " ".join(" ".join(root.xpath("(//title|//h1)[1]//text()")).split())
    _walk(root, found, options)
    if not found.any:
        found.fail("no table and no list of keys in it")
    return found


def drop_other_systems(root: Element) -> None:
    """Of spans that stand side by side for several systems only the one for this system, or for any, is kept."""
    for element in list(root.iter("span", "kbd", "div", "p", "code")):
        told = f"{element.get('class') or ''} {element.get('id') or ''} {element.get('data-platform') or ''}"
        parent = element.getparent()
        if parent is None or not _MAC.search(told):
            continue
        others = [
            one for one in parent if one is not element and one.tag == element.tag and "".join(one.itertext()).strip()
        ]
        if any(not _MAC.search(f"{one.get('class') or ''} {one.get('id') or ''}") for one in others):
            element.drop_tree()


_MAC: Final = re.compile(r"(?:^|[\s_-])(?:mac|macos|osx|os-?x|apple|ios)(?:$|[\s_-]|text)|^mac", re.I)


def _walk(root: Element, found: Found, options: Options) -> None:
    group: str | None = None
    done: set[Element] = set()
    set_lines: list[tuple[int, str]] = []
    for element in root.iter():
        if not isinstance(element.tag, str) or element in done:
            continue
        if element.tag in _HEADINGS and element.tag != "caption":
            group = " ".join(_words(element).split()) or group
            set_lines.append((element.sourceline or 0, f"{group}:"))
        elif element.tag == "table" and not element.xpath(".//table"):
            caption = element.find("caption")
            read_table(_table(element), found, options, _words(caption).strip() if caption is not None else group)
            done.update(element.iter())
        elif element.tag == "pre":
            body = "".join(element.itertext()).expandtabs(8)
            set_lines += [((element.sourceline or 0) + place, line) for place, line in enumerate(body.split("\n"))]
            done.update(element.iter())
        elif element.tag == "dl":
            _definitions(element, found, group)
            done.update(element.iter())
        elif element.tag == "table":
            continue
        elif element.tag == "li" and not element.xpath(".//li|.//table|.//dl"):
            _item(element, found, group)
            done.update(element.iter())
    if any(not line.endswith(":") for _, line in set_lines):
        read_lines(set_lines, found, about=found.title or "page")


def _item(element: Element, found: Found, group: str | None) -> None:
    """A list item counts where it has key caps or reads as a pair; others are prose of the page."""
    line = element.sourceline or 0
    words = " ".join(_words(element, marked=True).split())
    caps = list(re.finditer(f"{_OPEN}([^{_OPEN}{_SHUT}]*){_SHUT}", words))
    if caps:
        # Caps that belong together have nothing between them but joints and words such as "or"; what comes later is prose.
        end = caps[0].end()
        for cap in caps[1:]:
            if not _JOINT.fullmatch(words[end : cap.start()]):
                break
            end = cap.end()
        keys = words[caps[0].start() : end].replace(_OPEN, "").replace(_SHUT, "")
        rest = f"{words[: caps[0].start()]} {words[end:]}".replace(_OPEN, "").replace(_SHUT, "")
        command = re.sub(r"^[\s:+,–—-]+|[\s:+,–—-]+$", "", " ".join(rest.split()))
        if command:
            found.add(command, keys, group, line)
        else:
            found.leave(keys, line, "no command beside these keys")
    elif (pair := split_pair(words)) is not None and evidence(pair[1]) == 2:
        found.add(*pair, group, line)
    elif words:
        found.leave(words, line, "prose of the page")


def _definitions(element: Element, found: Found, group: str | None) -> None:
    terms: list[Element] = []
    for child in element.iter("dt", "dd"):
        if child.tag == "dt":
            if terms and terms[-1].getnext() is not child:
                terms = []
            terms.append(child)
            continue
        term = " or ".join(_keys_of(one) for one in terms)
        plain = " ".join(_words(child).split())
        if terms and (any(one.xpath(".//kbd") for one in terms) or looks_like_keys(term)):
            found.add(plain, term, group, terms[0].sourceline or 0)
        elif terms and (child.xpath(".//kbd") or looks_like_keys(plain)):
            found.add(" ".join(_words(terms[0]).split()), _keys_of(child), group, terms[0].sourceline or 0)
        elif terms:
            told = " ".join(_words(terms[0]).split())
            found.leave(f"{told}: {plain}", terms[0].sourceline or 0, "neither side is spelt like keys")
        terms = []


def _table(element: Element) -> list[Line]:
    """The cells of a table as a grid, spans filled in."""
    lines: list[Line] = []
    waiting: dict[int, tuple[int, str]] = {}  # column -> how many rows a cell from above still fills, and its text
    for row in element.iter("tr"):
        below: dict[int, tuple[int, str]] = {}
        cells: list[str] = []
        own = list(row.iter("td", "th"))
        marked = bool(own) and all(cell.tag == "th" for cell in own)
        while (own or len(cells) in waiting) and len(cells) < MOST_COLUMNS:
            if len(cells) in waiting:
                left, text = waiting[len(cells)]
                if left > 1:
                    below[len(cells)] = (left - 1, text)
                cells.append(text)
                continue
            cell = own.pop(0)
            text, rows = _keys_of(cell), _span(cell.get("rowspan"))
            for _ in range(min(_span(cell.get("colspan")), MOST_COLUMNS - len(cells))):
                if rows > 1:
                    below[len(cells)] = (rows - 1, text)
                cells.append(text)
        waiting = below
        lines.append(Line(row.sourceline or 0, tuple(cells), marked))
    return lines


def _span(value: str | None) -> int:
    """Return how many rows or columns a cell fills; 1 for anything that is no number."""
    return min(MOST_SPAN, int(value)) if value is not None and re.fullmatch(r"0*[1-9][0-9]{0,6}", value) else 1


def _keys_of(element: Element) -> str:
    """The text of a cell; key caps beside each other are one chord where the first is a modifier."""
    return re.sub(r"[ \t]*\n[ \t]*", "\n", _words(element)).strip()


def _words(element: Element, marked: bool = False) -> str:
    """All text within an element, blanks folded, line breaks kept; ``marked``: key caps stand between two signs."""
    if element is None:
        return ""
    out: list[str] = []

    def walk(node: Element, depth: int = 0) -> None:
        if depth > 60:
            return
        if node.text:
            out.append(re.sub(r"\s+", " ", node.text))
        before = None
        for child in node:
            if not isinstance(child.tag, str):
                continue
            if child.tag == "kbd" and before is not None and before.tag == "kbd" and not (before.tail or "").strip():
                first = " ".join("".join(before.itertext()).split()).lower()
                if first in MODIFIER_ALIASES:
                    while out and not out[-1].strip():
                        out.pop()
                    out.append("+")
            if child.tag == "br":
                out.append("\n")
            outer = marked and child.tag == "kbd" and not any(above.tag == "kbd" for above in child.iterancestors())
            out.append(_OPEN if outer else "")
            walk(child, depth + 1)
            out.append(_SHUT if outer else "")
            if child.tail:
                out.append(re.sub(r"\s+", " ", child.tail))
            before = child

    walk(element)
    return "".join(out)


READERS = (
    Reader(
        "html",
        read,
        endings=(".html", ".htm", ".xhtml"),
        signs=((0.9, re.compile(r"<(?:!doctype html|html|table|dl|kbd|ul|body)\b", re.I)),),
    ),
)
