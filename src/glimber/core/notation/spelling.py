"""Triggers as they are spelt in the world: on pages, in tables, in settings; read into our notation.

>>> [str(trigger) for trigger in read_spelling("Ctrl+Y or ⇧⌃Z")]
['Ctrl+Y', 'Ctrl+Shift+Z']
>>> [str(trigger) for trigger in read_spelling("Ctrl + K, Ctrl + S")]
['Ctrl+K Ctrl+S']
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Final

from glimber.core.notation.keycodes import CODES, KEY_ALIASES, MODIFIER_ALIASES
from glimber.core.notation.keys import NotationError, Sequence, Trigger, parse_trigger

MOST_IN_A_RANGE: Final = 40

_NOTHING: Final = frozenset(
    {"", "-", "–", "—", "none", "n/a", "not bound", "unbound", "unassigned", "not assigned", "not set"}
)
_POINTING: Final = (
    (re.compile(r"\b(?:left|right|middle|double|triple)?[ -]?click(?:ing)?\b|\bmouse\b|\bdrag(?:ging)?\b|\bbutton ?\d\b|"
                r"\bpointer\b|\bhover\b", re.I), "it is done with the mouse"),
    (re.compile(r"\bwheel\b|\bscroll(?:ing)?\b(?! ?lock)|\bscroll (?:up|down)\b", re.I), "it is done with the wheel"),
    (re.compile(r"\bswipe\b|\bpinch\b|\btouch\b|\btrack ?pad\b|\b(?:two|three|four)[ -]finger", re.I), "it is done by touch"),
)  # fmt: skip

_GLYPHS: Final = {
    "⌘": "Super", "❖": "Super", "⊞": "Super", "⇧": "Shift", "⌃": "Ctrl", "⌥": "Alt", "✦": "Hyper",
}  # fmt: skip
_LETTER_MODIFIERS: Final = {"C": "Ctrl", "M": "Alt", "A": "Alt", "S": "Shift", "s": "Super", "H": "Hyper"}

_PAD: Final = r"(?:num(?:eric|ber)?[ _-]?(?:pad|key ?pad)?|key ?pad|kp)"
_PAD_SIGNS: Final = {
    "+": "NumAdd", "plus": "NumAdd", "add": "NumAdd", "-": "NumSubtract", "−": "NumSubtract", "minus": "NumSubtract",
    "subtract": "NumSubtract", "*": "NumMultiply", "×": "NumMultiply", "multiply": "NumMultiply", "/": "NumDivide",
    "÷": "NumDivide", "divide": "NumDivide", ".": "NumDecimal", "decimal": "NumDecimal", "enter": "NumEnter",
}  # fmt: skip
_WORDS: Final = (
    (re.compile(r"\bpage[ _-]up\b", re.I), "PageUp"),
    (re.compile(r"\bpage[ _-]down\b", re.I), "PageDown"),
    (re.compile(r"\bback[ _-]space\b", re.I), "Backspace"),
    (re.compile(r"\bspace[ _-]?bar\b", re.I), "Space"),
    (re.compile(r"\bprint[ _-]screen\b|\bprt ?sc(?:r|n)?\b", re.I), "PrintScreen"),
    (re.compile(r"\bcaps[ _-]lock\b", re.I), "CapsLock"),
    (re.compile(r"\bnum[ _-]lock\b", re.I), "NumLock"),
    (re.compile(r"\bscroll[ _-]lock\b", re.I), "ScrollLock"),
    (re.compile(r"\bvolume[ _-]up\b", re.I), "VolumeUp"),
    (re.compile(r"\bvolume[ _-]down\b", re.I), "VolumeDown"),
    (re.compile(r"\b(?:(left|right|up|down)[ _-]arrow|arrow[ _-](left|right|up|down))(?:[ _-]key)?\b", re.I), None),
    (re.compile(r"\b(?:windows|win|super|command|cmd|option|alt|shift|ctrl|control)[ _-]key\b", re.I), None),
)  # fmt: skip
_RANGE: Final = re.compile(r"^(.*?)(\d+|[A-Za-z])\s*(?:…|\.{2,3}|–|—|\bto\b|\bthrough\b)\s*(.*?)(\d+|[A-Za-z])$")
_ALTERNATES: Final = re.compile(r"\s+or\s+|\s+\|\s+|\s+/\s+|\s*;\s*|\n", re.I)
# A comma straight after a plus is the key itself, unless that plus is one: "Ctrl+, then S", "Ctrl++, Ctrl+S".
_STEPS: Final = re.compile(r"\s*(?:(?<!\+)|(?<=\+\+)),?\s+then\s+|(?:(?<!\+)|(?<=\+\+))\s*,\s+(?=\S)", re.I)


_SPLIT: Final = re.compile(r"[\s+,/|;<>\[\]`()]+|(?<=\w)-(?=\w)|[…⌘⇧⌃⌥❖⊞✦]+")
_WORDS_OF_KEYS: Final = frozenset(
    "or then to through key keys page up down left right arrow lock num numeric number pad keypad numpad back space bar print "
    "screen caps scroll volume plus minus add subtract multiply divide decimal click double triple middle mouse wheel drag "
    "button swipe pinch touch trackpad finger two three four".split()
)


def may_be_keys(text: str) -> bool:
    """Whether every word of a text could be part of a spelling: a quick look, before it is read in earnest."""
    words = [word for word in _SPLIT.split(text) if word]
    signs = any(character in _GLYPHS for character in text)  # "⌘+," has no word at all
    return (bool(words) or signs) and all(_may_be(word) for word in words)


def _may_be(word: str) -> bool:
    lower = word.lower()
    return (
        len(word) <= 3
        or lower in KEY_ALIASES
        or lower in MODIFIER_ALIASES
        or lower in _WORDS_OF_KEYS
        or word in CODES
        or lower.startswith(("kp_", "f1", "f2", "num", "page_", "xf86"))
    )


class NotKeysError(ValueError):
    """What is spelt is not a key binding; the message says why."""


@lru_cache(maxsize=4096)  # a reader asks of the same cell whether it is keys, and then which
def read_spelling(text: str) -> tuple[Trigger, ...]:
    """All triggers that a text spells; none where it says that there is none.

    Raises NotKeysError for what is done with the mouse, the wheel or by touch, NotationError for what cannot be read.
    """
    body = " ".join(text.replace("\u00a0", " ").replace("`", "").split(" ")).strip()
    if body.lower() in _NOTHING:
        return ()
    for pattern, why in _POINTING:
        if pattern.search(body):
            raise NotKeysError(why)
    found: list[Trigger] = []
    for part in _ALTERNATES.split(body):
        for spelt in _range_of(part.strip()):
            trigger = _sequence(spelt, text)
            if trigger not in found:
                found.append(trigger)
    return tuple(found)


def _range_of(text: str) -> list[str]:
    """The members of a range such as "Ctrl+1 … Ctrl+9"; the text itself where it is none."""
    match = _RANGE.match(text)
    if match is None:
        return [text]
    head, first, again, last = match.groups()
    if again.strip() and re.sub(r"\s", "", again).lower() != re.sub(r"\s", "", head).lower():
        return [text]
    if first.isdigit() and last.isdigit():
        numbers = range(int(first), int(last) + 1)
        names = [str(number) for number in numbers[: MOST_IN_A_RANGE + 1]]
    elif first.isalpha() and last.isalpha() and first.isupper() == last.isupper():
        names = [chr(code) for code in range(ord(first), ord(last) + 1)]
    else:
        return [text]
    return [head + name for name in names] if 1 < len(names) <= MOST_IN_A_RANGE else [text]


def _sequence(text: str, whole: str) -> Trigger:
    if not text:
        raise NotationError(whole, 0, "a key on either side of the word or sign between two triggers")
    if len(text) > 1 and text[0] == '"' == text[-1]:
        return parse_trigger(text)
    chords: list[str] = []
    for step in _STEPS.split(text):
        chords += [_chord(word) for word in _joined(step).split()]
    try:
        found = parse_trigger(" ".join(chords))
    except NotationError as error:
        raise NotationError(whole, max(0, whole.find(text)), error.expected) from None
    if not isinstance(found, Sequence):
        raise NotationError(whole, 0, "keys")
    return found


def _joined(step: str) -> str:
    """Key names of several words made one, blanks round plus signs taken out."""
    step = re.sub(rf"(?<![\w[]){_PAD}[ _-]*([0-9])(?![0-9])", r"Num\1", step, flags=re.I)
    step = re.sub(
        rf"(?<![\w[]){_PAD}[ _-]*(\+|-|−|\*|×|/|÷|\.|plus|add|minus|subtract|multiply|divide|decimal|enter)(?=\s|$)",
        lambda match: _PAD_SIGNS[match.group(1).lower()], step, flags=re.I,
    )  # fmt: skip
    for pattern, name in _WORDS:
        step = pattern.sub(lambda match, name=name: name or _named(match), step)  # type: ignore[misc]
    step = re.sub(r"\s*\+\s*\+\s*$", "++", step)
    return re.sub(r"(?<!\+)\s*\+\s*(?=[^\s+])", "+", step)


def _named(match: re.Match[str]) -> str:
    groups = [group for group in match.groups() if group]
    return groups[0].capitalize() if groups else re.split(r"[ _-]", match.group())[0]


def _chord(word: str) -> str:
    """One chord's spelling in the notation's: glyphs, angle brackets, carets and letter prefixes."""
    modifiers: list[str] = []
    while len(word) > 1 and word[0] in _GLYPHS:
        modifiers.append(_GLYPHS[word[0]])
        word = word[1:].removeprefix("+")
        if not word:  # "⌘+" leaves the key out; the notation says what it expected there
            return "+".join([*modifiers, ""])
    while (match := re.match(r"<([A-Za-z0-9_]+)>\+?(?=.)", word)) is not None:
        name = match.group(1)
        if name.lower() not in MODIFIER_ALIASES:
            break
        modifiers.append(MODIFIER_ALIASES[name.lower()])
        word = word[match.end() :]
    if (match := re.fullmatch(r"<([A-Za-z0-9_]+)>", word)) is not None:
        word = match.group(1)
    if len(word) == 2 and word[0] == "^":
        modifiers.append("Ctrl")
        word = word[1]
    match = re.match(r"((?:[CMAsSH]-)+)(.+)$", word)
    if match is not None:
        modifiers += [_LETTER_MODIFIERS[letter] for letter in match.group(1)[::2]]
        word = match.group(2)
        if word.startswith("<") and word.endswith(">") and len(word) > 2:
            word = word[1:-1]
    if re.fullmatch(r"\[[^\]]{2,}\]", word) and word[1:-1].lower() in KEY_ALIASES:
        word = word[1:-1]  # a key cap drawn with brackets
    return "+".join([*modifiers, word])
