"""Keys replaced where they stand in a text, and nothing else: after every replacement the whole is read again by the reader of
its kind, and counts only where just the rows meant have changed, and changed to what was wanted.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import islice, pairwise, product
from typing import Final

from msgspec import Struct

from glimber.core.notation import keys as notation
from glimber.core.notation.respell import respell
from glimber.core.notation.spelling import NotKeysError, Ways, spell
from glimber.readers.found import Found, Row
from glimber.readers.registry import read
from glimber.writers.wanted import Rewritten, Wanted, pairs_of

MOST_PLACES: Final = 6
MOST_SPELLINGS: Final = 6
MOST_TRIED: Final = 60
Quote = Callable[[str], str]


_THEN: Final = " then "
_COMMA: Final = ", "


class _Piece(Struct, frozen=True):
    """Keys as they stand in the text, from ``start`` to ``end``, and what may stand there instead."""

    start: int
    end: int
    text: str


class _CannotSetError(Exception):
    """Why an edit stays on the sheet."""


class Format(Struct, frozen=True):
    """The way a kind of text is written.

    ``quote``: a text as it stands within its marks; ``quotes``: the ways in which a new one may be put in; ``blank``: what stands
    for no keys, None where a row cannot be without any; ``empty``: from where to where the keys of a row without any stand.
    """

    kind: str
    quote: Quote = str
    quotes: tuple[Quote, ...] = (str,)
    blank: str | None = None
    empty: Callable[[str, Found, Row], tuple[int, int] | None] = lambda text, found, row: None
    single: bool = False
    """True where keys can only be one chord."""


def rewrite(form: Format, data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Set what is wanted in a text of a format that there is a reader for."""
    text, encoding = _text_of(data)
    found = read(form.kind, data)
    done: list[Wanted] = []
    already: list[Wanted] = []
    left: list[tuple[Wanted, str]] = []
    for pair in pairs_of(wanted):
        open_ones = [one for one in pair if not _is_set(found, one)]
        already += [one for one in pair if one not in open_ones]
        if not open_ones:
            continue
        try:
            text, found = _set(form, text, encoding, found, open_ones)
        except _CannotSetError as error:
            left += [(one, str(error)) for one in open_ones]
        else:
            done += open_ones
    return Rewritten(text.encode(encoding) if done else data, tuple(done), tuple(already), tuple(left))


def _text_of(data: bytes) -> tuple[str, str]:
    """Return the text, and an encoding that gives the very same bytes back."""
    for encoding in ("utf-16",) if data.startswith((b"\xff\xfe", b"\xfe\xff")) else ("utf-8",):
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if text.encode(encoding) == data:
            return text, encoding
    return data.decode("latin-1"), "latin-1"


def rows_of(found: Found, one: Wanted) -> list[Row]:
    """Return the rows of a command: by its name, of its group where several are called so."""
    names = {name.casefold() for name in one.names}
    rows = [row for row in found.rows if row.command.casefold() in names]
    if len({row.group for row in rows}) > 1 and one.group is not None:
        rows = [row for row in rows if (row.group or "").casefold() == one.group.casefold()] or rows
    return rows


def _is_set(found: Found, one: Wanted) -> bool:
    rows = rows_of(found, one)
    held = {trigger for row in rows for trigger in row.triggers}
    if one.new is None:
        return bool(rows) and str(one.old) not in held
    return str(one.new) in held and (one.old is None or str(one.old) not in held)


def _set(form: Format, text: str, encoding: str, found: Found, pair: Sequence[Wanted]) -> tuple[str, Found]:
    """Return the text in which these are set, with how it reads then. Raises _CannotSetError."""
    like = _like(found)
    options = [list(islice(_options(form, text, found, one, like), MOST_TRIED)) for one in pair]
    sequence = next((one.new for one in pair if form.single and one.new is not None and len(one.new.chords) > 1), None)
    if sequence is not None:
        raise _CannotSetError(f"{sequence} is a sequence; only one chord can be set there")
    expected = [_changed(found, one) for one in pair]
    for chosen in islice(product(*options), MOST_TRIED):
        pieces = sorted(chosen, key=lambda one: one.start)
        if any(a.end > b.start for a, b in pairwise(pieces)):
            continue
        out, at = [], 0
        for piece in pieces:
            out += [text[at : piece.start], piece.text]
            at = piece.end
        changed = "".join([*out, text[at:]])
        try:
            again = read(form.kind, changed.encode(encoding))
        except UnicodeEncodeError:
            continue
        if _as_expected(found, again, expected):
            return changed, again
    one = pair[0]
    if one.new is None:
        raise _CannotSetError("it cannot be taken off its keys here without touching anything else")
    raise _CannotSetError(f"{one.new} cannot be written here so that it is read as that and nothing else changes")


def _like(found: Found) -> list[tuple[str, notation.Sequence]]:
    """Return what stands in the text with what it means, for whoever writes keys as they are written there."""
    like: list[tuple[str, notation.Sequence]] = []
    for row in found.rows[:2_000]:
        parts = [row.keys] if len(row.triggers) == 1 else row.keys.split(" or ")
        if row.keys and not row.remark and len(parts) == len(row.triggers):
            for part, text in zip(parts, row.triggers, strict=True):
                trigger = notation.parse_trigger(text)
                if isinstance(trigger, notation.Sequence):
                    like.append((part, trigger))
    return like


def _row(found: Found, one: Wanted) -> Row:
    rows = rows_of(found, one)
    if not rows:
        raise _CannotSetError(f"nothing there is called {one.names[0]}")
    if one.old is None:
        bare = [row for row in rows if not row.triggers]
        if len(bare) != 1:
            held = " or ".join(rows[0].triggers)
            raise _CannotSetError(
                f"line {rows[0].line} has {held} for it already" if held else "several rows are called so"
            )
        return bare[0]
    those = [row for row in rows if str(one.old) in row.triggers]
    if not those:
        held = " or ".join(trigger for row in rows for trigger in row.triggers) or "no keys"
        raise _CannotSetError(f"line {rows[0].line} has {held} for it, not {one.old}")
    if len(those) > 1:
        raise _CannotSetError(f"lines {' and '.join(str(row.line) for row in those)} have {one.old} for it")
    return those[0]


def _options(
    form: Format, text: str, found: Found, one: Wanted, like: Sequence[tuple[str, notation.Sequence]]
) -> Iterator[_Piece]:
    """Yield every place where the keys of an edit may stand, with each way to write the new ones; the likeliest first."""
    row = _row(found, one)
    if one.old is None or not row.keys:
        there = form.empty(text, found, row)
        if there is None or one.new is None:
            raise _CannotSetError(f"line {row.line}: there are no keys that could be replaced")
        for spelling in _spellings(form, one.new, like):
            yield from (_Piece(*there, quote(spelling)) for quote in form.quotes)
        return
    piece = _piece_of(row, one, found.ways)
    if piece is None:
        raise _CannotSetError(f"line {row.line}: {one.old} is not there as a word of its own")
    before, old_text, after = piece
    if one.new is not None:
        spellings = _spellings(form, one.new, [(old_text, one.old), *like])
    elif form.blank is not None and not before and not after:
        spellings = [form.blank]
    else:
        raise _CannotSetError(f"line {row.line}: a row cannot be left without keys here; take it out by hand")
    lead, length = len(form.quote(before)), len(form.quote(old_text))
    places = [start + lead for start in _places(text, row.line, form.quote(row.keys))]
    if not places:  # a reader may have put keys together that stand one by one, or a plus where a blank stands
        for plus in ("+", " "):
            old = old_text.replace("+", plus)
            places = list(_places(text, row.line, form.quote(old)))
            if places:
                spellings, length = [one.replace("+", plus) for one in spellings], len(form.quote(old))
                break
    for start in places:
        for spelling in spellings:
            for quote in form.quotes:
                yield _Piece(start, start + length, quote(spelling))


def _spellings(form: Format, trigger: notation.Sequence, like: Sequence[tuple[str, notation.Sequence]]) -> list[str]:
    """Return the ways to write keys, the likeliest first. A word between steps is for people, and a comma stands between them in
    few programs: where nothing there has either, the first is not written and the second is tried last."""
    found = respell(trigger, like)
    if form.kind != "csv":
        found = [one for one in found if _THEN not in one or any(_THEN in text for text, _ in like)]
        if not any(_COMMA in text for text, _ in like):
            found.sort(key=lambda one: _COMMA in one)
    return found[:MOST_SPELLINGS]


def _piece_of(row: Row, one: Wanted, ways: Ways) -> tuple[str, str, str] | None:
    """Return the keys of a row as what stands before the wanted one, it, and what stands after it."""
    if len(row.triggers) <= 1:
        return "", row.keys, ""
    keys = row.keys
    cuts = [0, *(at for at in range(1, len(keys)) if (keys[at - 1] in " ,/|;\n") != (keys[at] in " ,/|;\n")), len(keys)]
    for i, start in enumerate(cuts):
        for end in reversed(cuts[i + 1 :]):
            try:
                spelt = spell(keys[start:end], ways)
            except (NotKeysError, notation.NotationError):
                continue
            inner = keys[start:end]
            if tuple(map(str, spelt.triggers)) == (str(one.old),) and inner == inner.strip(" ,/|;\n"):
                return keys[:start], inner, keys[end:]
    return None


def _places(text: str, line: int, what: str) -> Iterator[int]:
    """Return where a text stands: in its line and the few after it first, then anywhere."""
    lines = text.splitlines(keepends=True)
    start = sum(map(len, lines[: max(0, line - 1)]))
    end = start + sum(map(len, lines[max(0, line - 1) : line + 6]))
    near: list[int] = []
    at = text.find(what, start)
    while 0 <= at < end and len(near) < MOST_PLACES:
        near.append(at)
        at = text.find(what, at + 1)
    yield from near
    if not near and text.count(what) == 1:
        yield text.find(what)


def _changed(found: Found, one: Wanted) -> tuple[int, tuple[str, ...]]:
    """Return which row is to change, and its triggers then."""
    row = _row(found, one)
    place = next(i for i, other in enumerate(found.rows) if other is row)
    new = () if one.new is None else (str(one.new),)
    if one.old is None:
        return place, new
    triggers = [part for trigger in row.triggers for part in (new if trigger == str(one.old) else (trigger,))]
    return place, tuple(triggers)


def _as_expected(before: Found, after: Found, expected: Sequence[tuple[int, tuple[str, ...]]]) -> bool:
    """Return True if just the rows meant differ, and differ as wanted. A row without keys may be gone altogether."""
    wanted = dict(expected)
    rows = [(row.command, wanted.get(place, row.triggers), row.line) for place, row in enumerate(before.rows)]
    now = [(row.command, row.triggers, row.line) for row in after.rows]
    bare = {(command, (), line) for command, triggers, line in rows if not triggers}
    gone = [one for one in rows if one not in bare or one in now]
    return now in (rows, gone) and len(after.problems) <= len(before.problems)
