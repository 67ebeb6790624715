"""A trigger written as somebody else's file writes keys: its joiners, its names of modifiers, its letters, learned from what
stands there already. What comes out are proposals; whoever writes one reads it back before it counts.

>>> from glimber.core.notation.keys import parse_trigger as read
>>> respell(read("Ctrl+X Ctrl+S"), [("C-x C-f", read("Ctrl+X Ctrl+F"))])[0]
'C-x C-s'
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable
from collections.abc import Sequence as Many
from itertools import permutations
from typing import Final

from msgspec import Struct, field

from glimber.core.notation.keys import Chord, Sequence
from glimber.core.notation.keywords import GLYPHS, modifier_named

_WORD: Final = re.compile(r"([A-Za-z$][A-Za-z0-9_]*)(\s*[-+]\s*)(?=\S)")
_WRAPPED: Final = re.compile(r"<((?:[A-Za-z]+-)*(?:[A-Za-z0-9_]+|\S))>$")
_ANGLE: Final = re.compile(r"<([A-Za-z0-9_]+)>")
_STEPS: Final = (" then ", ", ", " ", "")
_SHORT: Final = {"Ctrl": "C", "Alt": "M", "Shift": "S", "Super": "s", "Hyper": "H"}
_IN_BRACKETS: Final = {"Ctrl": "C", "Alt": "A", "Shift": "S", "Super": "D"}
_ANGLED: Final = {
    "Ctrl": "Control",
    "Alt": "Alt",
    "Shift": "Shift",
    "Super": "Super",
    "Hyper": "Hyper",
    "AltGr": "Mod5",
}
_OF_GLYPHS: Final = {name: glyph for glyph, name in GLYPHS.items()}
_SIGN_NAMES: Final = {
    "+": "plus", "-": "minus", "=": "equal", ",": "comma", ".": "period", "/": "slash", "\\": "backslash", ";": "semicolon",
    ":": "colon", "'": "apostrophe", '"': "quotedbl", "`": "grave", "~": "asciitilde", "[": "bracketleft", "]": "bracketright",
    "{": "braceleft", "}": "braceright", "(": "parenleft", ")": "parenright", "<": "less", ">": "greater", "|": "bar", "@": "at",
    "#": "numbersign", "*": "asterisk", "?": "question", "!": "exclam", "&": "ampersand", "$": "dollar", "%": "percent",
    "^": "asciicircum", "_": "underscore",
}  # fmt: skip
_SYMBOLS: Final = {
    **_SIGN_NAMES, "PageUp": "Page_Up", "PageDown": "Page_Down", "Backspace": "BackSpace", "Enter": "Return", "Space": "space",
    "PrintScreen": "Print", "ScrollLock": "Scroll_Lock", "CapsLock": "Caps_Lock", "NumLock": "Num_Lock", "NumAdd": "KP_Add",
    "NumSubtract": "KP_Subtract", "NumMultiply": "KP_Multiply", "NumDivide": "KP_Divide", "NumDecimal": "KP_Decimal",
    "NumEnter": "KP_Enter", **{f"Num{n}": f"KP_{n}" for n in range(10)}, "VolumeUp": "XF86AudioRaiseVolume",
    "VolumeDown": "XF86AudioLowerVolume", "Mute": "XF86AudioMute", "PlayPause": "XF86AudioPlay", "Stop": "XF86AudioStop",
    "NextTrack": "XF86AudioNext", "PreviousTrack": "XF86AudioPrev", "BrightnessUp": "XF86MonBrightnessUp",
    "BrightnessDown": "XF86MonBrightnessDown",
}  # fmt: skip
"""Names of the X keysyms where they differ from ours; letters and digits are their own. Source: X11/keysymdef.h."""
_COMMON: Final = {"Escape": ("Esc", "esc"), "Delete": ("Del", "del"), "Insert": ("Ins", "ins"), "Enter": ("Return", "CR"),
                  "PageUp": ("Page Up", "PgUp"), "PageDown": ("Page Down", "PgDn"), "Backspace": ("BS",)}  # fmt: skip


class _Style(Struct):
    """A way of writing chords: ``form`` is joined, wrapped (``<C-s>``), angled (``<Primary>s``) or glyphs."""

    form: str
    joiner: str
    words: dict[str, str] = field(default_factory=dict)
    keys: dict[str, str] = field(default_factory=dict)
    lower: bool = False
    order: tuple[str, ...] = ()


def respell(new: Sequence, like: Iterable[tuple[str, Sequence]]) -> list[str]:
    """Spellings of a trigger, the most alike first. ``like``: spellings that stand there with what they mean, nearest first."""
    styles, joins = _learned(like, any(chord.modifiers for chord in new.chords))
    found: list[str] = []
    for style in [*styles, *(_guess(form) for form in ("joined", "angled", "wrapped", "short"))]:
        for step in [*joins, *(one for one in _STEPS if one and one not in joins)]:
            choices = [_chord(chord, style) for chord in new.chords]
            if all(choices):
                for place in range(max(map(len, choices))):
                    found.append(step.join(one[min(place, len(one) - 1)] for one in choices))
            if len(new.chords) == 1:
                break
    return list(dict.fromkeys(found))


def _learned(like: Iterable[tuple[str, Sequence]], held: bool) -> tuple[list[_Style], list[str]]:
    """Return the styles of what stands there, the nearest first, each knowing the words that any of its rows used."""
    styles: dict[tuple[str, str], _Style] = {}
    cases: dict[tuple[str, str], Counter[bool]] = {}
    joins: list[str] = []
    for text, trigger in like:
        parts, join = _split(text.strip(), len(trigger.chords))
        if not parts:
            continue
        if len(parts) > 1 and join not in joins:
            joins.append(join)
        for part, chord in zip(parts, trigger.chords, strict=True):
            read = _taken_apart(part, chord)
            if read is None:
                continue
            form, joiner, words, key = read
            style = styles.setdefault((form, joiner), _Style(form, joiner))
            for name, word in words:
                style.words.setdefault(name, word)
            style.keys.setdefault(chord.key, key)
            if len(words) > 1 and not style.order:
                style.order = tuple(name for name, _ in words)
            if len(key) == 1 and key.isalpha() and chord.modifiers:
                cases.setdefault((form, joiner), Counter())[key.islower()] += 1
    for which, style in styles.items():
        style.lower = cases.get(which, Counter({style.form != "joined": 1})).most_common(1)[0][0]
    # A chord without a modifier says nothing of how one is joined.
    return sorted(styles.values(), key=lambda style: held and not style.words), joins


def _split(text: str, count: int) -> tuple[list[str], str]:
    if count == 1:
        return [text], ""
    for join in _STEPS:
        parts = text.split(join) if join else _ANGLE.findall(text)
        if not join:
            parts = re.findall(r"<[^<>]+>|[^<>]", text)
        if len(parts) == count and all(parts):
            return parts, join
    return [], ""


def _taken_apart(text: str, chord: Chord) -> tuple[str, str, list[tuple[str, str]], str] | None:
    """Form, joiner, modifiers with their words, and the key's word; None where it is written in another way."""
    wrapped = _WRAPPED.match(text)
    if wrapped is not None and ("-" in wrapped[1] or not chord.modifiers):
        inner = wrapped[1].split("-") if not wrapped[1].endswith("-") else [*wrapped[1][:-2].split("-"), "-"]
        found = list(zip(_in_order(inner[:-1], chord, True), inner[:-1], strict=False))
        return ("wrapped", "-", found, inner[-1]) if len(found) == len(chord.modifiers) else None
    form, joiner, found, rest = _modifiers_before(text, len(chord.modifiers))
    if not rest or len(found) != len(chord.modifiers):
        return None
    if form == "joined" and any(len(word) == 1 for _, word in found):
        names = _in_order([word for _, word in found], chord, False)
        found = [(name, word) for name, (_, word) in zip(names, found, strict=True)]
    return (form, joiner, found, rest) if {name for name, _ in found} == set(chord.modifiers) else None


def _modifiers_before(text: str, most: int) -> tuple[str, str, list[tuple[str, str]], str]:
    """Return the form, the joiner, the modifiers with their words, and what is left, of a chord not wrapped as a whole."""
    found: list[tuple[str, str]] = []
    if text.startswith("<"):
        while (match := _ANGLE.match(text)) is not None and text != match[0]:
            found.append((modifier_named(match[1]) or "", match[1]))
            text = text[match.end() :]
        return "angled", "", found, text
    if text[0] in GLYPHS:
        while len(text) > 1 and text[0] in GLYPHS:
            found.append((GLYPHS[text[0]], text[0]))
            text = text[1:].lstrip("+ ")
        return "glyphs", "", found, text
    joiner = ""
    while (match := _WORD.match(text)) is not None and len(found) < most:
        found.append((modifier_named(match[1]) or "", match[1]))
        joiner, text = match[2], text[match.end() :]
    return "joined", joiner, found, text


def _in_order(words: Many[str], chord: Chord, brackets: bool) -> tuple[str, ...]:
    """Return which modifier each word is: by its name, or by its letter."""
    letters = _IN_BRACKETS if brackets else _SHORT
    of = {letter: name for name, letter in letters.items()}
    named = [modifier_named(word) if len(word) > 1 else of.get(word) or of.get(word.upper()) for word in words]
    for order in permutations(chord.modifiers):
        if all(name in (None, one) for name, one in zip(named, order, strict=False)):
            return order
    return chord.modifiers


def _guess(form: str) -> _Style:
    if form == "short":
        return _Style("joined", "-", dict(_SHORT), lower=True)
    if form == "wrapped":
        return _Style("wrapped", "-", dict(_IN_BRACKETS), lower=True)
    return _Style(form, "+" if form == "joined" else "", lower=form == "angled")


def _chord(chord: Chord, style: _Style) -> list[str]:
    """Return a chord in a style, once for every way its key may be called; none where the style cannot say it."""
    if chord.by_place or any(name not in _ANGLED for name in chord.modifiers):
        return []
    known = set(chord.modifiers) <= set(style.order)
    order = [name for name in style.order if name in chord.modifiers] if known else chord.modifiers
    words = [_word(name, style) for name in order]
    found = []
    for key in _keys(chord, style):
        if style.form == "wrapped":
            bare = len(key) == 1 and not words
            found.append(key if bare else f"<{style.joiner.join([*words, key])}>")
        elif style.form == "angled":
            found.append("".join(f"<{word}>" for word in words) + key)
        else:
            found.append((style.joiner or ("+" if style.form == "joined" else "")).join([*words, key]))
    return found


def _word(name: str, style: _Style) -> str:
    if name in style.words:
        return style.words[name]
    known = list(style.words.values())
    if style.form == "glyphs":
        return _OF_GLYPHS.get(name, name)
    if style.form == "wrapped":
        return _IN_BRACKETS.get(name, name)
    if style.form == "angled":
        return _ANGLED[name]
    if known and all(len(word) == 1 for word in known):
        return _SHORT.get(name, name)
    if known and all(word.islower() for word in known):
        return name.lower()
    return name.upper() if known and all(word.isupper() for word in known) else name


def _keys(chord: Chord, style: _Style) -> list[str]:
    key = chord.key
    if key in style.keys:
        known = style.keys[key]
        return [known, known.swapcase()] if len(known) == 1 and known.isalpha() else [known]
    if len(key) == 1 and key.isalpha():
        if not chord.modifiers:
            return [key]
        return [key.lower(), key.upper()] if style.lower else [key.upper(), key.lower()]
    symbol = _SYMBOLS.get(key)
    if style.form == "angled":
        return [one for one in (symbol, key) if one]
    plain = [key.lower(), key] if style.words and all(w.islower() for w in style.words.values()) else [key, key.lower()]
    return [*plain, *_COMMON.get(key, ()), *([symbol] if symbol else [])]
