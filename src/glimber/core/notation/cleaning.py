"""Spellings of keys as they are written, brought into one form before they are taken apart."""

from __future__ import annotations

import re
from typing import Final

from glimber.core.notation.key_constants import with_key_names
from glimber.core.notation.keywords import key_named

MODS: Final = r"(?:ctrl|control|cmd|command|alt|option|opt|shift|super|win|meta|⌘|⌥|⌃)"
_FIRST_COMMA: Final = re.compile(r"^, (?=\S)")
_COMMA_LAST: Final = re.compile(r"(?<=\S), ,$")
"""The comma as the last of several keys: "g, ,"."""
_LAST_COMMA: Final = re.compile(r"(?<=\w),$|(?<=\w>)\s*,$|(?<=\w[+-][^\w\s,]),$")
_BARS: Final = re.compile(r"(?:[\w^+-]+\|)+[\w^+-]+")
"""Alternates with bars between and no blank: "q|Esc|Ctrl-C"."""
_FILLED_ARROWS: Final = str.maketrans("▲▼◀▶◄►", "↑↓←→←→")
_PREFIX: Final = re.compile(r"^(?:(?:press|pressing|hit|type|use|the|default:|keys?:)\s+)+", re.I)
_OTHER_SYSTEM: Final = re.compile(
    r"(?:Command|Cmd|Option|⌘|⌥)(?:\s*\+\s*(?:Command|Cmd|Option|⌘|⌥))*\s+(?=(?:Ctrl|Control|Alt|Strg)\b)", re.I
)
_AFTER_ESCAPE: Final = re.compile(
    r"(?<![\w+-])(ESC|Esc)[-+](?=\S)|(?<![\w+<-])(ESC(?:APE)?|Esc(?:ape)?)(?=[^\w\s+,;:|/)>-](?:[\s,]|$)|>$)"
)
"""Escape is no modifier: "ESC-v" and "Esc+v" are Escape, then v; "ESCAPE<" is Escape, then that sign."""
_GLUED: Final = re.compile(
    r"\^[A-Z](?=\^[A-Z]|[A-Za-z0-9?$*](?:[\s,]|$))|\^[a-z](?=\^[a-z](?:\^|$))|(?<![\w^<+-])([a-z]{1,2}|[A-Z])(?=(?:\^[A-Za-z@\]\\_[]|<[A-Za-z][\w-]*>)$)|"
    r"^([a-jl-z]|[a-z]{2})(?=(?:Enter|Return|Tab|Space|Esc|Left|Right|Up|Down|Home|End|PgUp|PgDn|PageUp|PageDown|Del|Bksp)$)"
)
"""A letter before a key that is written in another way is struck before it: "g^C", "g<Tab>", "gEnter"."""
_SHORT_SHIFT: Final = re.compile(r"(?<![\w+-])SH-(?=[A-Z]{2,})")
"""Shift before a key by its old short name: "SH-DEL"."""
_GLUED_MODIFIERS: Final = re.compile(
    r"(?<![\w+-])(?:(?=[A-Z0-9]*[CM])([CMSA45]{2,4})-(?=\S)|([CMSA]{2,4})\+(?=\S)|([CMSA])\+(?=[a-z0-9](?!\w)|[A-Z_]{2}|F\d|[^\w\s]))"
)
"""Modifiers by letters: "CM-r", "CS+HOME", "C+n"; "A+B" may be two keys that are struck together."""
_BY_LETTER: Final = {"4": "Super-", "5": "AltGr-"}
_SENT: Final = re.compile(r"(?<!\w)(?:ESC-|\^\[)\[([ABCDHF])(?=[\s,]|$)")
_ARROW_OF: Final = {"A": "Up", "B": "Down", "C": "Right", "D": "Left", "H": "Home", "F": "End"}
"""The keys whose codes are written as a terminal sends them: "ESC-[D". Source: console_codes(4)."""
_DASHED_STEP: Final = re.compile(r"(?<!\S)(\^[A-Z])-(?=[^\s^-]|(?<=\^[XC]-)\^)|(?<!\S)(\^[a-z])-(?=\^[a-z](?:[\s,]|$))")
_PLUS_APART: Final = re.compile(rf"^((?:{MODS})(?:[+-](?:{MODS}))*)\s+([+-])$", re.I)
"""The plus or minus as a key, a blank before it: "Ctrl-Alt +"."""
_PLUS_BETWEEN: Final = re.compile(rf"(\b(?:{MODS})[+-](?!{MODS}\b)\w+) \+ (?=(?:{MODS})[+-]\S)", re.I)
"""A plus between two chords, which are struck one after the other: "Ctrl-X + Ctrl-E"."""
_DASH_APART: Final = re.compile(rf"\b({MODS}) [-–] (?!(?:or|and|then|to)\b)(?=\w|[+\[\]/.])", re.I)
"""A dash with blanks around it that joins a modifier and a key: "Ctrl - S"."""
_OR_IN_BRACKETS: Final = re.compile(r"\s*\(or ([^()]+)\)", re.I)
_NAMED_DIGIT: Final = re.compile(r"(?<=[+-])(?:zero|one|two|three|four|five|six|seven|eight|nine) ?\(([0-9])\)", re.I)
"""A digit by name with its sign in brackets: "Ctrl+Zero (0)"."""
_CAP_IN_BRACKETS: Final = re.compile(r"^\[([A-Za-z0-9])\]$")
"""A letter on its cap: "[Q]"."""
_BRACKETED_MODIFIERS: Final = re.compile(r"^(?:\[[SCMA]\] ?)+(?=[^\[\s])")
"""Modifiers by letters in brackets before a key: "[S][C]u"."""
_CAPITAL_TOO: Final = re.compile(r"^([a-z])\s?\((?!\1)((?i:\1))\)$")
"""A letter, and in brackets its capital: "a(A)"."""
_VARIABLE: Final = re.compile(r"\$\{(\w+)\}")
_JOIN_ALONE: Final = re.compile(r"\n\s*(?:or|and|oder|und|ou|et|o|y|e|u|en|of|lub|i|или|и|または|或)\s*(?=\n)", re.I)
"""A line that only joins the keys above and below it; in some languages by a word that is spelt like a key."""
_QUOTED_CHORD: Final = re.compile(rf"(['\"‘“])((?:(?:{MODS})[+-])+[A-Za-z0-9]\w*)['\"’”]", re.I)
_QUOTED_KEY: Final = re.compile(r"(?<=[\w+] )['\"‘“]([^\w\s])['\"’”]|(?<=\w\+)['\"‘“]([^\w\s])['\"’”]")
_CURSOR_KEY: Final = re.compile(r"\b(left|right|up|down)\s+cursor(?:\s+key)?$", re.I)
_ESCAPE_OF_TERMINALS: Final = re.compile(r"\^\[\s*(?=(?:\^?[^\s\[O]|[\[O])$)")
"""The control character that Escape sends, before one more key: "^[ m", "^[^H"."""

_TRANSLATION: Final = re.compile(r"([\w\s,~@!:]*)<Key(?:Press|Down|Up|Release)?>\s*(\w+)", re.I)
"""An event of a translation table: "Shift ~Ctrl <KeyPress> Prior"; "~" is for a modifier that must not be held.

Source: X Toolkit Intrinsics, appendix B.
"""
_CAMEL_CHORD: Final = re.compile(r"((?:Ctrl|Control|Alt|Shift|Meta|Super|Cmd)+)-?([A-Z][A-Za-z0-9]*|[0-9])")
"""Modifiers written into the name of the key: "CtrlShiftUp", "AltG"."""
_TK_CAPITAL: Final = re.compile(r"<((?:(?:Control|Command|Option|Key|KeyPress)-)+)([A-Z])>")
"""An event of Tk with a capital, which is struck with Shift. Source: Tk, bind(n)."""
_SIDES: Final = frozenset({"ShiftL", "ShiftR", "ControlL", "ControlR", "AltL", "AltR", "MetaL", "MetaR", "SuperL", "SuperR"})


def _of_translation(match: re.Match[str]) -> str:
    held = [name for sign, name in re.findall(r"([~@!]*)(\w+)", match[1]) if not sign.strip("!")]
    return "+".join([*(name for name in held if name.lower() not in ("none", "any")), match[2]])


def as_chord(body: str) -> str:
    """Rewrite an event of a translation table, or a chord whose modifiers are part of its key's name, with plus signs.

    >>> as_chord("Shift ~Ctrl <KeyPress> Prior"), as_chord("CtrlShiftUp"), as_chord("Uphold")
    ('Shift+Prior', 'Ctrl+Shift+Up', 'Uphold')
    """
    body = _NAMED_DIGIT.sub(r"\1", body)
    translated = _TRANSLATION.fullmatch(body)
    if translated is not None:
        return _of_translation(translated)
    match = _CAMEL_CHORD.fullmatch(body)
    if match is None or body in _SIDES or (len(match[2]) > 1 and key_named(match[2]) is None):
        return body
    return "+".join([*re.findall(r"[A-Z][a-z]+", match[1]), match[2]])


def _with_shift(match: re.Match[str]) -> str:
    """Return an event with a capital as one with Shift; where its small letter stands beside it, both are for the same key."""
    both = f"<{match[1]}{match[2].lower()}>" in match.string
    return match[0] if both else f"<{match[1]}Shift-{match[2]}>"


def _parted_modifiers(match: re.Match[str]) -> str:
    """Return modifiers by letters that stand together, each by itself: "CM-r" is "C-M-r"."""
    letters = match[1] or match[2] or match[3]
    return "".join(_BY_LETTER.get(one, f"{one}-") for one in letters) if len(set(letters)) == len(letters) else match[0]


def _held_in_brackets(match: re.Match[str]) -> str:
    return re.sub(r"\[(\w)\] ?", r"\1-", match[0])


def cleaned(text: str) -> str:
    """Return a spelling in the form that is taken apart: modifiers by letter parted, signs by their names, one kind of blank."""
    body = " ".join(re.sub(r"[\u00a0\u2007\u202f\u200b\ufeff]", " ", text).split(" ")).strip().translate(_FILLED_ARROWS)
    body = body.replace("|", " or ") if _BARS.fullmatch(body) else body
    if len(body) > 1:
        body = body.replace("`", "") if body.count("`") > 1 else body
        body = _TK_CAPITAL.sub(_with_shift, as_chord(body))
    body = with_key_names(re.sub(r"[ \t]+", " ", _OTHER_SYSTEM.sub("", body)))
    body = re.sub(r"\s+(?:or|and)(?:\s+the)?\s*\n\s*", "\n", body)
    body = _CAP_IN_BRACKETS.sub(r"\1", _BRACKETED_MODIFIERS.sub(_held_in_brackets, body))
    body = _CAPITAL_TOO.sub(r"\1 or \2", body)
    body = _VARIABLE.sub(r"$\1", _JOIN_ALONE.sub("\n", body))
    body = _QUOTED_CHORD.sub(r"\2", _QUOTED_KEY.sub(lambda one: one[1] or one[2], body))
    body = _ESCAPE_OF_TERMINALS.sub("Esc ", _CURSOR_KEY.sub(r"\1", body))
    body = _FIRST_COMMA.sub("<comma> ", body)
    body = _COMMA_LAST.sub(" or <comma>", body)
    body = _LAST_COMMA.sub("", body) if len(body) > 2 else body
    body = _SENT.sub(lambda match: _ARROW_OF[match[1]], _DASHED_STEP.sub(lambda match: f"{match[1] or match[2]} ", body))
    body = _PLUS_BETWEEN.sub(r"\1 ", body)
    body = _DASH_APART.sub(r"\1+", _PLUS_APART.sub(r"\1+\2", body))
    body = _SHORT_SHIFT.sub("Shift-", body)
    body = _OR_IN_BRACKETS.sub(r" or \1", _GLUED_MODIFIERS.sub(_parted_modifiers, body))
    body = _GLUED.sub(lambda match: f"{match[0]} ", _AFTER_ESCAPE.sub(lambda match: f"{match[1] or match[2]} ", body))
    return _PREFIX.sub("", body).strip() if len(body) > 5 else body.strip()
