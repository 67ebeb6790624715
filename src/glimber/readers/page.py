"""HTML pages: tables with spans, definition lists, lists and nested <kbd>, with headings as groups. Nothing is run or fetched."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Final

import lxml.html
from lxml import etree

from glimber.readers.bracketed_keys import LETTER_BEHIND, keys_in_brackets
from glimber.readers.element import Element
from glimber.readers.evidence import evidence, looks_like_keys
from glimber.readers.found import PROSE, Found, Options, decoded
from glimber.readers.labelled import records_in
from glimber.readers.page_alike import cells_of, marked_pair, read_alike
from glimber.readers.page_blocks import blocks_of
from glimber.readers.page_text import OPEN, SHUT, cell_of, grid_of, text_of, words_of
from glimber.readers.pairs import split_pair
from glimber.readers.plaintext import ENOUGH, IN_WORDS, read_lines
from glimber.readers.prose import bindings_in
from glimber.readers.reader import Reader
from glimber.readers.table import Line, read_table

_CONTROLS: Final = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff\ud800-\udfff]")
_JOINT: Final = re.compile(r"\s*(?:\+|-|/|,|;|\||>|→|&|or|and|then|to|…|–|—|,? or|followed by)?\s*", re.I)
_HEADINGS: Final = ("h1", "h2", "h3", "h4", "h5", "h6", "caption")
_NEARLY_ALL: Final = 0.8
_SEVERAL: Final = 2
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
        root = lxml.html.document_fromstring(_CALL.sub(lambda match: match[2], text), parser=parser)
    except (etree.LxmlError, ValueError) as error:
        return found.fail(f"not a page that can be read: {error}")
    for skipped in root.xpath("//" + "|//".join(_SKIPPED)):
        skipped.drop_tree()
    others = elements_of_other_systems(root)
    if options.page:
        found.page = blocks_of(root, others)
    for element in others:
        if element.getparent() is not None:
            element.drop_tree()
    found.title = " ".join(" ".join(root.xpath("(//title|//h1)[1]//text()")).split())
    _walk(root, found, options)
    if not found.has_rows:
        read_alike(root, found, options)
    if not found.any:
        found.fail("no table and no list of keys in it")
    return found


def elements_of_other_systems(root: Element) -> list[Element]:
    """Return the elements that are for another system, of those that stand side by side for several."""
    found: list[Element] = []
    for element in root.iter("span", "kbd", "div", "p", "code"):
        text = f"{element.get('class') or ''} {element.get('id') or ''} {element.get('data-platform') or ''}"
        parent = element.getparent()
        if parent is None or not _MAC.search(text):
            continue
        others = [
            one for one in parent if one is not element and one.tag == element.tag and "".join(one.itertext()).strip()
        ]
        if any(not _MAC.search(f"{one.get('class') or ''} {one.get('id') or ''}") for one in others):
            found.append(element)
    return found


_CALL: Final = re.compile(r"\b(?:translate|gettext|i18n|tr|_)\(([\"'])([^\"'<>]*)\1\)")
"""The text of a page that is yet to be translated."""
_EMPTY_BRACKETS: Final = re.compile(r"\(\s*\)|\[\s*\]")
"""What is left where keys stood in brackets."""
_BLOCKS: Final = frozenset("p div section article table ul ol dl pre blockquote h1 h2 h3 h4 h5 h6 form nav".split())
_MAC: Final = re.compile(r"(?:^|[\s_-])(?:mac|macos|osx|os-?x|apple|ios)(?:$|[\s_-]|text)|^mac", re.I)


def _walk(root: Element, found: Found, options: Options) -> None:
    walk = _Walk(found, options, _named_terms(root))
    done: set[Element] = set()
    for element in root.iter():
        if isinstance(element.tag, str) and element not in done and walk.take(element):
            done.update(element.iter())
    walk.finish()


class _Walk:
    """A page element by element: the group that was named last, and the lines and texts that are read as a whole at the end."""

    def __init__(self, found: Found, options: Options, named: Mapping[Element, tuple[str, str]]) -> None:
        self._found, self._options, self._named = found, options, named
        self._group: str | None = None
        self._known: dict[Element, bool] = {}
        self._set_lines: list[tuple[int, str]] = []
        self._texts: list[tuple[int, str]] = []

    def take(self, element: Element) -> bool:
        """Read an element; return whether all that is in it was read with it."""
        found, line = self._found, element.sourceline or 0
        if element.tag in _HEADINGS and element.tag != "caption":
            self._group = text_of(element) or self._group
            self._set_lines.append((line, f"{self._group}:"))
        elif element.tag == "table" and not element.xpath(".//table"):
            caption = element.find("caption")
            lines = [Line(row.line, row.cells, row.is_head, row.keyed) for row in grid_of(element)]
            read_table(lines, found, self._options, words_of(caption).strip() if caption is not None else self._group)
            return True
        elif element.tag == "pre":
            body = "".join(element.itertext()).expandtabs(8)
            self._set_lines += [(line + place, text) for place, text in enumerate(body.split("\n"))]
            return True
        elif element.tag == "dl":
            _definitions(element, found, self._group, self._named)
            return True
        elif element.tag == "li" and not element.xpath(".//li|.//table|.//dl"):
            _item(element, found, self._group, _has_keys_throughout(element.getparent(), self._known))
            return True
        elif element.tag == "p" or (element.tag in ("div", "section", "article") and _is_text(element)):
            words = words_of(element)
            self._texts += [(line, text) for text in words.split("\n")]
            for command, keys in bindings_in(words, self._group):
                found.add(command, keys, self._group, line, IN_WORDS)
        return False

    def finish(self) -> None:
        """Read what was set in lines, and sentences that tell of several keys."""
        for record in records_in(self._texts):
            self._found.add(record.command, record.keys, None, record.line)
        if any(not line.endswith(":") for _, line in self._set_lines):
            read_lines(self._set_lines, self._found, about=self._found.title or "page")


def _is_text(element: Element) -> bool:
    """Return True for a block that is a paragraph: it has text of its own, and no block in it has any."""
    if not (element.text or "").strip() and not any((child.tail or "").strip() for child in element):
        return False
    return not any(name.tag in _BLOCKS and "".join(name.itertext()).strip() for name in element.iterdescendants())


def _has_keys_throughout(parent: Element, known: dict[Element, bool]) -> bool:
    """Return True for a list nearly all of whose items are a command and keys, and several of these surely are keys."""
    if parent not in known:
        items = list(parent.iterchildren("li"))
        pairs = [marked_pair(item) or split_pair(_words_of_item(item)) for item in items]
        looks = [evidence(pair[1]) for pair in pairs if pair is not None]
        known[parent] = (
            sum(look > 0 for look in looks) >= _NEARLY_ALL * len(items) and looks.count(2) >= max(_SEVERAL, ENOUGH * len(items))
        )
    return known[parent]


def _pair_of_item(element: Element, words: str, throughout: bool) -> tuple[str, str] | None:
    """Return the command and the keys of a list item, by its marks or by its words; None where it is prose."""
    pair, marked = split_pair(words), marked_pair(element)
    looks = [evidence(one[1]) if one is not None else 0 for one in (pair, marked)]
    longer = pair is not None and marked is not None and looks[0] == 2 and len(pair[1]) > len(marked[1])
    if marked is not None and looks[1] >= looks[0] and (throughout or looks[1] == 2) and not longer:
        return marked
    return pair if looks[0] >= (1 if throughout else 2) else None


def _words_of_item(element: Element, marked: bool = False) -> str:
    """Return the words of a list item, with a gap between elements that are all there is in it."""
    words = " ".join(words_of(element, marked=marked).split())
    cells = cells_of(element) if not any((child.tail or "").strip() for child in element) else []
    return "   ".join(cells) if len(cells) > 1 and OPEN not in words else words


def _item(element: Element, found: Found, group: str | None, throughout: bool) -> None:
    """A list item counts where it has key caps or reads as a pair; others are prose of the page. ``throughout``: its list is one
    of keys, so that letters alone are keys as well."""
    line = element.sourceline or 0
    words = _words_of_item(element, marked=True)
    caps = list(re.finditer(f"{OPEN}([^{OPEN}{SHUT}]*){SHUT}", words))
    sentences = bindings_in(words.replace(OPEN, "").replace(SHUT, ""), group)
    if len(sentences) > 1 or (sentences and sentences[0][0][-1] > "\u2fff"):  # several, or without spaces
        for command, keys in sentences:
            found.add(command, keys, group, line, IN_WORDS)
    elif caps:
        # Caps that belong together have nothing between them but joints and words such as "or"; what comes later is prose.
        end = caps[0].end()
        for cap in caps[1:]:
            if not _JOINT.fullmatch(words[end : cap.start()]):
                break
            end = cap.end()
        keys = words[caps[0].start() : end].replace(OPEN, "").replace(SHUT, "")
        rest = _EMPTY_BRACKETS.sub("", f"{words[: caps[0].start()]} {words[end:]}".replace(OPEN, "").replace(SHUT, ""))
        command = re.sub(r"^[\s:+,–—-]+|[\s:+,–—-]+$", "", " ".join(rest.split()))
        if command:
            found.add(command, keys, group, line)
        else:
            found.leave(keys, line, "no command beside these keys")
    elif (pair := _pair_of_item(element, words, throughout)) is not None:
        found.add(*pair, group, line)
    elif throughout and (behind := LETTER_BEHIND.fullmatch(words)) is not None:
        found.add(behind[1], behind[2], group, line)
    elif sentences:
        for command, keys in sentences:
            found.add(command, keys, group, line, IN_WORDS)
    elif words:
        found.leave(words, line, f"{PROSE} of the page")


def _named_terms(root: Element) -> dict[Element, tuple[str, str]]:
    """Return name and keys of the terms of a page that are commands with their keys in brackets behind."""
    terms = list(root.iter("dt"))
    lines = [(place, " ".join(text_of(term).split())) for place, term in enumerate(terms)]
    return {terms[place]: named for place, named in keys_in_brackets(lines).items()}


def _definitions(element: Element, found: Found, group: str | None, named: Mapping[Element, tuple[str, str]]) -> None:
    terms: list[Element] = []
    for child in element.iter("dt", "dd"):
        if child.tag == "dt":
            if terms and terms[-1].getnext() is not child:
                terms = []
            terms.append(child)
            continue
        for one in terms:
            if one in named:
                found.add(*named[one], group, one.sourceline or 0, note=text_of(child))
        terms = [one for one in terms if one not in named]
        term = " or ".join(cell_of(one) for one in terms)
        plain = text_of(child)
        if terms and (any(one.xpath(".//kbd") for one in terms) or looks_like_keys(term)):
            found.add(plain, term, group, terms[0].sourceline or 0)
        elif terms and (child.xpath(".//kbd") or looks_like_keys(plain)):
            found.add(text_of(terms[0]), cell_of(child), group, terms[0].sourceline or 0)
        elif terms:
            text = text_of(terms[0])
            found.leave(f"{text}: {plain}", terms[0].sourceline or 0, "neither side is spelt like keys")
        terms = []


READERS = (
    Reader(
        "html",
        read,
        endings=(".html", ".htm", ".xhtml"),
        signs=(
            (0.9, re.compile(r"<(?:!doctype html|html|table|dl|kbd|ul|body)\b", re.I)),
            (0.6, re.compile(r"\A\s*<(?:h[1-6]|div|p|section|article|main|ol|span)\b[^>]*>", re.I)),
        ),
    ),
)
