"""Triggers as they are spelt in the world: on pages, in tables, in settings; read into our notation.

>>> [str(trigger) for trigger in read_spelling("Ctrl+Y or ⇧⌃Z")]
['Ctrl+Y', 'Ctrl+Shift+Z']
>>> [str(trigger) for trigger in read_spelling("Ctrl + K, Ctrl + S")]
['Ctrl+K Ctrl+S']
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Final, Literal

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.notation.cleaning import MODS, cleaned
from glimber.core.notation.key_constants import with_key_names
from glimber.core.notation.keys import NotationError, Trigger, parse_trigger
from glimber.core.notation.keywords import GLYPHS, key_named, modifier_named
from glimber.core.notation.ranges import range_of
from glimber.core.notation.scan import Scan

LONGEST: Final = 400

_NOTHING: Final = frozenset(
    {"", "–", "—", "none", "n/a", "not bound", "unbound", "unassigned", "not assigned", "not set", "(none)", "disabled",
     "nicht belegt", "nicht definiert", "non défini", "aucun", "no definido", "ninguno", "nessuno", "brak"}
)
_POINTING: Final = (
    (re.compile(r"\b(?:left|right|middle|double|triple)?[ -]?click(?:ing|s)?\b|\bmouse(?:[ _-]?\d)?\b|"
                r"\bdrag(?:ging)?\b|\bbutton[ -]?\d\b|"
                r"\bpointer\b|\bBTN_(?:LEFT|RIGHT|MIDDLE|SIDE|EXTRA)\b|\bbtn\d(?:down|up|motion)\b|\bratón\b|\bmaus(?:taste)?\b|\bsouris\b|\bмыш\w+|\bhover\b|\bmb\d\b|<button\d>|"
                r"\b(?:left|right|middle|mouse) button\b|\b[lmr]mb\b", re.I), "it is done with the mouse"),
    (re.compile(r"\bwheel(?:[_-]?(?:up|down|left|right))?\b|\bscroll(?:ing)?\b(?![ _]?lock)|\bscroll (?:up|down)\b|"
                r"\bscroll(?:up|down)\b", re.I),
     "it is done with the wheel"),
    (re.compile(r"\bswipe\b|\bpinch\b|\btouch\b|\btrack ?pad\b|\b(?:two|three|four)[ -]finger", re.I), "it is done by touch"),
)  # fmt: skip
_ALTERNATES: Final = re.compile(
    r"\s*\n\s*|,?\s+(?:or|and|oder|und|ou|lub|nebo|eller|или|または)\s+|,\s+again\s+|\s+\|\|?\s+|\s+/\s+|(?<!\+)\s*;\s+|(?<![+\s]);$|(?<=>);"
    r"|(?<=>)\s+(?=<(?:\w+-)*Key(?:Press)?-)", re.I,
)  # fmt: skip
_THEN: Final = re.compile(
    r"(?:\s*(?<!\+),)?\s+(?:then|followed by)\s+|(?<=[A-Za-z0-9])\s*>\s*(?=[A-Za-z0-9]{1,3}(?:$|>|\s))", re.I
)
# A comma straight after a plus is the key itself, unless that plus is one: "Ctrl+, then S", "Ctrl++, Ctrl+S".
_COMMA: Final = re.compile(
    r"(?:(?<=\+\+)|(?<=^\+)|(?<=\s\+)|(?<![+,\s]))\s*,\s+(?=\S)|(?<=[A-Za-z0-9>]),(?=[A-Za-z0-9<])"
    rf"|(?:(?<=[^+,\s])|(?<=\+[+,])),(?=(?i:{MODS})\b)"
)
_NOTE: Final = re.compile(r"\s*\(([^()]*)\)")
_NAMED_SIGN: Final = re.compile(r"^(.*?)\b[^\W\d_]{2,} ?\(([^\w\s*†‡§¹²³])\)(?:\s+keys?)?\s*(\(.*\))?$", re.I)
"""Such as "Plus(+) Key", "Divide (÷) Key (number pad)"; not a footnote's sign, nor a letter, a note: "Ctrl+B (C)"."""
_LAST_OF_PAD: Final = re.compile(r"([0-9+*/.×÷−-]|enter)$", re.I)
_PAD_NOTE: Final = re.compile(r"num(?:ber|eric)?[ -]?(?:key)?pad|keypad|ten[ -]?key", re.I)
_ARGUMENT: Final = re.compile(r"(?<=\S)\s+<([a-z]{2,}(?:[ _-][a-z]+)*)>$")
"""What is typed after the keys: the name in "M-z <char>"."""
_CONDITION: Final = re.compile(
    r"\s+(?:with|while|when|on|in|to|for|at|if|again|after|before|during|until|from|twice)\b.*$", re.I | re.S
)
_JOINTS: Final = frozenset("/|-")
_EITHER: Final = re.compile(rf"\b({MODS})/({MODS})(?=\s*[+-])", re.I)
_ARROWS: Final = re.compile(r"^(.*?)\b(?:the )?(?:arrows?|cursor)(?:[ -]keys?)?$", re.I)
_FAMILIES: Final = (frozenset("Left Right Up Down Home End PageUp PageDown".split()), frozenset("0123456789"),
                    frozenset("+-=_*/<>[](){}.,;:"))  # fmt: skip


class Ways(Struct, frozen=True):
    """Readings that a single spelling leaves open and that are decided for a whole source.

    ``comma``: whether one with a blank stands between steps or between alternates, None by the look of each; ``capitals``:
    whether a bare capital is struck with Shift, None where the same spelling has small letters as well; ``blank``: chords with
    a blank between are alternates and no steps; ``held_capitals``: the modifiers, "Alt" or "Ctrl", that a capital is struck with
    Shift beside.
    """

    comma: Literal["steps", "alternates"] | None = None
    capitals: bool | None = None
    blank: Literal["alternates"] | None = None
    held_capitals: frozenset[str] = frozenset()


class Spelt(Struct, frozen=True):
    """The result of reading a spelling, and the part that was left out with the reason."""

    triggers: tuple[Trigger, ...]
    remarks: tuple[str, ...] = ()


class NotKeysError(ValueError):
    """The spelling is not a key binding; the message says why."""


def read_spelling(text: str, ways: Ways = Ways()) -> tuple[Trigger, ...]:
    """Return all triggers that a text spells; none where it says that there is none.

    Raises NotKeysError for what is done with the mouse, the wheel or by touch, NotationError where any of it cannot be read.
    """
    return spell(text, ways, whole=True).triggers


@lru_cache(maxsize=8192)  # a reader asks of the same cell whether it is keys, and then which
def spell(text: str, ways: Ways = Ways(), whole: bool = False) -> Spelt:
    """Return the triggers of a text as far as they can be read, with remarks on what was left out; with ``whole`` all of it must
    be.

    Raises NotKeysError, NotationError.
    """
    body = cleaned(text)
    if body.lower() in _NOTHING:
        return Spelt(())
    if len(body) > LONGEST:
        raise NotationError(body[:40], 0, f"keys, in at most {LONGEST} characters")
    if _is_typed(body):
        return Spelt((parse_trigger(body),))
    if len(body) > 1 and body[0] == '"' == body[-1]:
        body = body[1:-1]
    if len(body) == 1:
        return Spelt((_one(body, body, ways),))
    return _spell_parts(body, text, ways, whole)


def _spell_parts(body: str, text: str, ways: Ways, whole: bool) -> Spelt:
    """Return the triggers of a text that may have several; ``text`` is the whole of it, for errors."""
    found: list[Trigger] = []
    remarks: list[str] = []
    pointing: NotKeysError | None = None
    fault: NotationError | None = None
    head: list[str] = []
    parts = _parts(body, ways)
    if _has_both_cases(parts):
        ways = replace(ways, capitals=True)
    for part in parts:
        part, wheeled = _without_pointing_note(part)
        remarks += wheeled
        why = next((why for pattern, why in _POINTING if pattern.search(part)), None)
        if why is not None:
            pointing = NotKeysError(why)
            remarks.append(f"{part}: {why}")
            continue
        try:
            # A key in angle brackets stands for itself, without the modifiers of the one before.
            triggers, left = _alternates(part, text, ways, [] if part.startswith("<") else head)
        except NotationError as error:
            if whole:
                raise
            fault = error
            remarks.append(f"{part}: expected {error.expected}")
            continue
        if left:
            remarks.append(f"left out: {left}")
        found += [trigger for trigger in dict.fromkeys(triggers) if trigger not in found]
    if not found:
        raise fault or pointing or NotationError(text, 0, "keys")
    if whole and pointing is not None:
        raise pointing
    return Spelt(tuple(found), tuple(remarks))


def _has_both_cases(parts: list[str]) -> bool:
    """Return whether two alternates differ by a capital at their end alone: "^X-g or ^X-G"."""
    letters = {(part[:-1], part[-1]) for part in parts if len(part) > 1 and part[-1:].isalpha() and not part[-2].isalpha()}
    return any(letter.isupper() and (stem, letter.lower()) in letters for stem, letter in letters)


def _without_pointing_note(part: str) -> tuple[str, list[str]]:
    """Return keys without what a note in brackets says of the mouse: "Ctrl++ (Ctrl+Roll mouse wheel up)"; and a remark on it."""
    remarks = []
    for note in _NOTE.finditer(part):
        why = next((why for pattern, why in _POINTING if pattern.search(note[1])), None)
        if why is not None and note.start():
            part = part.replace(note[0], "")
            remarks.append(f"{note[1]}: {why}")
    return part, remarks


def without_argument(text: str) -> str:
    """Return keys without a name in angle brackets for what is typed after them; a key's name there is one of them."""
    match = _ARGUMENT.search(text)
    return text[: match.start()] if match is not None and key_named(match[1], marked=True) is None else text


def _is_typed(body: str) -> bool:
    """Return True for a text in quotes that is typed as it is, and no keys in quotes."""
    inner = body[1:-1]
    return len(body) > 1 and body[0] == '"' == body[-1] and ('"' in inner or not re.search(r"[+⌘⇧⌃⌥<]|^F\d", inner))


WHOLE_CHORD: Final = re.compile(rf"(?:(?:{MODS}|mod[1-5])[+-])+(?:\S*[^,\s]|,)|F\d{{1,2}}|KP_\w+", re.I)
"""A chord that is one word, so that a blank after it ends it."""


def is_whole(word: str) -> bool:
    """Return True for a word that is a chord, or a key by its name."""
    return WHOLE_CHORD.fullmatch(word) is not None or (len(word) > 1 and key_named(word.strip("<>")) is not None)


def _parts(body: str, ways: Ways) -> list[str]:
    """Return the alternates that a word or sign stands between; "Ctrl/Cmd+S" is two."""
    parts = []
    words = body.split()
    listed = any(word.endswith(";") and not word.endswith("+;") for word in words)
    apart = all((len(word) == 1 and word not in _JOINTS) or is_whole(word) for word in words)
    if ways.blank == "alternates" and apart and not listed:
        return words
    for part in _without_pointing(_ALTERNATES.split(body)):
        part = re.sub(r"^the\s+|\s+the$", "", (part or "").strip(), flags=re.I)
        part = re.sub(r"^(\S) key$", r"\1", part, flags=re.I)
        either = _EITHER.search(part)
        if either is not None:
            parts += [part[: either.start()] + either[n] + part[either.end() :] for n in (1, 2)]
        else:
            parts.append(part)
    return parts


def _without_pointing(parts: list[str]) -> list[str]:
    """Return the parts with those apart in which commas or slashes part what is done with the mouse from keys, "LMB, wheel down,
    Page Down" and "PgDn/wheel down", and those that are keys with slashes between: "?/F1"."""
    found: list[str] = []
    for part in parts:
        slashed = re.split(r"(?<=[^/])/(?=[^/])", part or "")
        if len(slashed) > 1 and any(len(piece) > 1 for piece in slashed) and all(map(_is_key_or_pointing, slashed)):
            found += slashed
            continue
        pieces = (part or "").split(", ")
        pointing = sum(any(pattern.search(piece) for pattern, _ in _POINTING) for piece in pieces)
        found += pieces if 0 < pointing < len(pieces) else [part]
    return found


def _is_key_or_pointing(text: str) -> bool:
    if any(pattern.search(text) for pattern, _ in _POINTING):
        return True
    return " " not in text and (len(text) == 1 or key_named(text) is not None)


def _alternates(part: str, text: str, ways: Ways, head: list[str]) -> tuple[list[Trigger], str]:
    """Return the triggers of one alternate, and what was left out of it. ``head``: the modifiers of the one before, which a bare
    key of the same family shares: "Ctrl+Shift+Left / Right"."""
    if not part:
        raise NotationError(text, 0, "a key on either side of the word or sign between two triggers")
    fault: NotationError | None = None
    for spelt, left in _variants(part):
        try:
            return _spelt(spelt, text, ways, head), left
        except NotationError as error:
            fault = fault or error
    assert fault is not None
    raise fault


def _variants(part: str) -> list[tuple[str, str]]:
    """Return the alternate as it stands; without its notes in brackets; without what follows as a condition; each with what was
    left."""
    found = [(part, "")]
    sign = _NAMED_SIGN.match(part)
    if sign is not None:
        pad = "Num " if _PAD_NOTE.search(sign[3] or "") else ""
        found.append((f"{sign[1]}{pad}{sign[2]}", ""))
    keys = without_argument(part)
    if keys != part:
        found.append((keys, part[len(keys) :].strip()))
    notes = " ".join(note.strip() for note in _NOTE.findall(part))
    bare = _NOTE.sub("", part).strip()
    if notes and bare:
        of_pad = _PAD_NOTE.search(notes) is not None
        found.append((_LAST_OF_PAD.sub(r"Num \1", bare), "") if of_pad else (bare, notes))
    condition = _CONDITION.search(bare)
    if condition is not None and condition.start():
        found.append((bare[: condition.start()].strip(), condition[0].strip()))
    return found


_ONE_EACH: Final = re.compile(r"[^\s/](?:/[^\s/]){1,3}")
"""Single keys with slashes between, such as "d/D" or "{/}": alternates, though each could be a step of its own."""
_KEY_FIRST: Final = re.compile(r"([^\s-]+|-)((?:-(?:alt|ctrl|control|shift|super|meta|cmd))+)", re.I)
"""A chord with its modifiers last: "y-ctrl"."""


def _spelt(part: str, text: str, ways: Ways, head: list[str]) -> list[Trigger]:
    part = _modifiers_first(part)
    several, ways = _several(part, ways)
    if several:
        return [_one(member, text, ways) for member in several]
    pieces = [piece.strip() for piece in _COMMA.split(part)]
    if len(pieces) > 1 and _comma_is(pieces, ways) == "alternates":
        mixed = _mixes_case(pieces) if ways.capitals is None else ways.capitals
        return [one for piece in pieces for one in _spelt(piece, text, replace(ways, comma="steps", capitals=mixed), head)]
    try:
        found = _steps(pieces, text, ways)
    except NotationError:
        several = _slashed(part) or _arrows(part)
        if not several:
            raise
        return [one for piece in several for one in _spelt(piece, text, ways, head)]
    return [_parsed(_with_head(found, head), text)]


def _with_head(found: list[str], head: list[str]) -> list[str]:
    """Return the chords, a bare one with the modifiers of the one before where both are of a family; ``head`` is what it
    leaves."""
    if head and len(found) == 1 and any(found[0] in family and head[-1] in family for family in _FAMILIES):
        found = ["+".join([*head[:-1], found[0]])]
    parts = found[0].split("+") if len(found) == 1 else []
    head[:] = parts if len(parts) > 1 and all(parts) else []
    return found


def _modifiers_first(part: str) -> str:
    """Return a chord whose modifiers stand behind its key, the usual way round."""
    turned = _KEY_FIRST.fullmatch(part)
    if turned is None or modifier_named(turned[1]) is not None:
        return part
    return f"{turned[2][1:].replace('-', '+')}+{turned[1]}"


def _several(part: str, ways: Ways) -> tuple[list[str], Ways]:
    """Return the keys of a range, or those with slashes between that are one each, and how they are to be read; none for anything
    else."""
    if _ONE_EACH.fullmatch(part):
        pieces = part.split("/")
        return pieces, replace(ways, capitals=True) if ways.capitals is None and _mixes_case(pieces) else ways
    ranged = range_of(part)
    return (ranged, ways) if len(ranged) > 1 else ([], ways)


def _one(text: str, whole: str, ways: Ways) -> Trigger:
    return _parsed(_steps([text], whole, ways), whole)


def _steps(pieces: list[str], whole: str, ways: Ways) -> list[str]:
    chords: list[str] = []
    for piece in pieces:
        for step in _THEN.split(piece) if "<" not in piece or " then " in piece else [piece]:
            chords += Scan(step.strip(), whole, bool(ways.capitals), ways.held_capitals).run()
    return chords


def _parsed(chords: list[str], whole: str) -> Trigger:
    try:
        return parse_trigger(" ".join(chords))
    except NotationError as error:
        raise NotationError(whole, 0, error.expected) from None


_TERSE: Final = re.compile(r"(?:\^\S|<?(?:[CMSA]-)+(?:<\w+>|\S|[A-Z][a-z]+)>?)(?: \S| <?(?:[CMSA]-)+\S>?)*")
"""Chords in the spelling of terminals, such as "^A" or "C-x b": their steps are parted by blanks, and a comma by no means."""


def _comma_is(pieces: list[str], ways: Ways) -> str:
    """Return whether a comma parts "steps" or "alternates", by the look of what it parts."""
    if len(pieces) == 2 and pieces[0] == pieces[1]:
        return "steps"  # the same key twice, in whatever source
    if ways.comma is not None:
        return ways.comma
    first, rest = pieces[0], pieces[1:]
    held = _held(first)
    if all(_TERSE.fullmatch(piece) for piece in pieces):
        return "alternates"
    if len(pieces) > 3 or not held or _mixes_case(pieces):
        return "alternates"
    if any(len(piece) > 1 and key_named(piece, marked=True) is not None for piece in rest):
        return "alternates"
    if all(_held(piece) for piece in pieces) and not frozenset.intersection(*map(_held, pieces)):
        return "alternates"  # no step of a sequence has wholly other modifiers
    same_key = {piece.rsplit("+", 1)[-1].lower() for piece in pieces}
    if len(same_key) == 1 and any(_held(piece) != held for piece in rest):
        return "alternates"  # the same key with the modifiers of two systems
    return "steps"


def _held(piece: str) -> frozenset[str]:
    """Return the modifiers in a piece, for a look."""
    names = [modifier_named(word) for word in re.split(r"[\s+<>\[\]-]+", piece) if len(word) > 1]
    signs = [GLYPHS[char] for char in piece if char in GLYPHS]
    letters = ["Ctrl" for _ in re.findall(r"(?<!\w)(?:\^(?=\S)|C-)", piece)] + [
        "Alt" for _ in re.findall(r"(?<!\w)[MA]-", piece)
    ]
    return frozenset([name for name in names if name] + signs + letters)


def _mixes_case(pieces: list[str]) -> bool:
    """Return True if there are small letters and capitals alone among them."""
    letters = [piece for piece in pieces if len(piece) == 1 and piece.isalpha()]
    return any(letter.isupper() for letter in letters) and any(letter.islower() for letter in letters)


def _slashed(part: str) -> list[str]:
    """Return what slashes stand between: "Home/End", "Ctrl+Left/Right", "Page Up/Down", "Left/Right arrow keys"."""
    bare = re.sub(r"[ -]?(?:arrow[ -]?)?keys?$|[ -]arrows?$", "", part, flags=re.I)
    pieces = [piece.strip() for piece in re.split(r"(?<![+/])/(?=\S)", bare)]
    if len(pieces) < 2 or not all(pieces):
        return []
    first = pieces[0]
    joined = re.match(r"^(.*[+-])(?=[^+-])", first)
    head, key = (joined[1], first[joined.end() :]) if joined is not None else ("", first)
    page = "Page " if re.match(r"page\s", key, re.I) else ""
    found = [first]
    for piece in pieces[1:]:
        bare_key = piece if not re.fullmatch(r"up|down", piece, re.I) else page + piece
        alone = not _held(piece) or modifier_named(piece) is not None
        found.append(head + bare_key if head and alone else bare_key)
    return found


def _arrows(part: str) -> list[str]:
    """Return all four, where arrow keys are named without saying which."""
    match = _ARROWS.match(part)
    if match is None or key_named(part) is not None:
        return []
    return [f"{match[1]}{name}" for name in ("Left", "Right", "Up", "Down")]


_WORDS_OF_KEYS: Final = frozenset(
    "or and oder und ou et lub nebo eller или または then to through key keys page up down left right arrow arrows cursor lock "
    "num numeric number pad "
    "keypad numpad back "
    "space bar print screen caps scroll volume plus minus add subtract multiply divide decimal equal comma period slash "
    "click double triple middle mouse wheel drag button swipe pinch touch trackpad finger two three four press the with on "
    "bild auf ab hoch runter pfeil links rechts re av pag page précédente suivante flèche freccia seta "
    "keypress semicolon backslash bracket grave tilde apostrophe quote hyphen".split()
)
_SPLIT: Final = re.compile(r"[\s+,/|;<>\[\]`()⟨⟩]+|\$\{|(?<=\w)\}|(?<=\w)-(?=\S)|[…⌘⇧⌃⌥❖⊞✦]+")


def may_be_keys(text: str) -> bool:
    """Return True if every word of a text could be part of a spelling: a quick look, before it is read in earnest."""
    words = [word for word in _SPLIT.split(with_key_names(text)) if word]
    signs = any(not character.isalnum() and not character.isspace() for character in text)  # "⌘+," has no word at all
    return (bool(words) or signs) and all(_may_be(word) for word in words)


def _may_be(word: str) -> bool:
    lower = word.lower()
    return (
        len(word) <= 3
        or key_named(word, marked=True) is not None
        or modifier_named(word) is not None
        or lower in _WORDS_OF_KEYS
        or lower.startswith(("kp_", "xf86"))
        or re.fullmatch(r"(?:\^[A-Za-z@\\\]_^?])+", word) is not None
        or re.fullmatch(r"F?\d\.{2,3}F?\d{1,2}|(?i:mouse\d|wheel_\w+)", word) is not None
        or (word[0] == "^" and word.isupper() and key_named(word[1:], marked=True) is not None)
    )
