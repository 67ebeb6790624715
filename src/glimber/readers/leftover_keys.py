"""Keys that a source has and no row: each is listed, so that none is lost in silence."""

from __future__ import annotations

import re
from html import unescape
from typing import TYPE_CHECKING, Final

from glimber.readers.found import NotBinding

if TYPE_CHECKING:
    from collections.abc import Iterator

    from glimber.readers.found import Found

WHY: Final = "keys without a command"
_CHORD: Final = re.compile(
    r"(?<![\w+-])(?:(?:Ctrl|Control|Alt|Shift|Super)(?: ?\+ ?|-)){1,3}(?:F\d{1,2}|[A-Za-z0-9])(?![\w+-])"
)
"""What is nothing but a chord wherever it stands."""
_IN_LINE: Final = re.compile(r"(?i)</?(?:a|b|code|em|font|i|kbd|span|strong|tt|u|var)\b[^<>]*>")
_UNSEEN: Final = re.compile(r"<(head|script|style|template)\b|<!--")
_TAG: Final = re.compile(r"<[^<>]*>")
_LONGEST: Final = 200


def leftover_keys(found: Found, text: str, is_page: bool, most: int) -> list[NotBinding]:
    """Return the lines of a source with chords that are in no list of ``found``, at most so many.

    ``is_page``: tags are no text of it, nor is what it does not show. A source of which nothing could be read, with the reason
    why, has no lines that were left over.
    """
    if found.problems and not found.rows:
        return []
    told = {one.line for group in (found.rows, found.not_bindings, found.problems, found.headings) for one in group}
    told |= found.joined | {line for line, _ in found.elsewhere}
    known: set[str] | None = None
    left: list[NotBinding] = []
    if is_page:
        text = _shown(text)
    for number, line in enumerate(text.splitlines(), start=1):
        if number in told or not ("+" in line or "-" in line):
            continue
        shown = unescape(_TAG.sub(" ", _IN_LINE.sub("", line))) if is_page else line
        chords = set(_chords(shown))
        if chords and known is None:
            known = _known(found)
        if chords and not chords <= (known or set()):
            left.append(NotBinding(" ".join(shown.split())[:_LONGEST], number, WHY))
            if len(left) >= most:
                break
    return left


def _shown(page: str) -> str:
    """Return a page without what it does not show, each line where it was."""
    lower, kept, at, open_ended = page.lower(), list[str](), 0, set[str]()
    if len(lower) != len(page):  # some capitals have two small letters: places would not agree
        lower = page
    for one in _UNSEEN.finditer(lower):
        end = f"</{one[1]}>" if one[1] else "-->"
        if one.start() < at or end in open_ended:
            continue
        close = lower.find(end, one.end())
        if close < 0:
            open_ended.add(end)  # nothing ends it: looked for once, however often it begins
            continue
        kept += [page[at : one.start()], "\n" * page.count("\n", one.start(), close)]
        at = close + len(end)
    return "".join((*kept, page[at:]))


def _known(found: Found) -> set[str]:
    """The chords that some list has, on whichever line: a row goes on over several."""
    texts = [f"{row.keys} ; {row.command} ; {row.note} ; {row.remark} ; {' ; '.join(row.triggers)}" for row in found.rows]
    texts += [f"{one.text} ; {one.command}" for one in found.not_bindings]
    texts += [f"{one.text} ; {one.keys}" for one in found.problems]
    return {chord for text in texts for chord in _chords(text)}


def _chords(text: str) -> Iterator[str]:
    """Each chord of a text, spelt in one way."""
    return (re.sub(r"[^a-z0-9]", "", one[0].lower()).replace("control", "ctrl") for one in _CHORD.finditer(text))
