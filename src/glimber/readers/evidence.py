"""Evidence that a text is keys, and the operating systems that keys are for."""

from __future__ import annotations

import re
from typing import Final

from glimber.core.notation.cleaning import as_chord
from glimber.core.notation.key_constants import with_key_names
from glimber.core.notation.keys import NotationError, Trigger
from glimber.core.notation.keys import Sequence as KeySequence
from glimber.core.notation.keywords import key_named, modifier_named
from glimber.core.notation.spelling import NotKeysError, Spelt, is_whole, may_be_keys, spell, without_argument

_STRONG_NAMES: Final = re.compile(
    r"(?i)^(?:f[0-9]{1,2}|esc|escape|pg ?up|pg ?dn|page[ _-]?up|page[ _-]?down|backspace|enter|return|ctrl|del|ins|spacebar|"
    r"[←→↑↓⏎⌫⇥]|arrow ?(?:up|down|left|right)|(?:up|down|left|right) arrow(?: key)?|num(?:pad)? ?[0-9+*/.-]|caps lock|"
    r"print ?screen|xf86\w+|<(?:return|enter|space|tab|home|end|up|down|left|right|insert|delete)>|\S key)$"
)
_SURE_KEYS: Final = frozenset("Escape PageUp PageDown Backspace CapsLock NumLock".split())
_JOINS: Final = frozenset("and or then the key keys arrow arrows cursor page und oder et ou".split())
_SIGNS_ALONE: Final = re.compile(r"[•·…]|(?:[^\w\s]\s*){2,}")
_LISTED: Final = re.compile(
    r"\^[@\[\]\\^_?](?: [^\w\s])?|[^\w\s](?:(?:, ?| or | and | / |(?<!/)/(?!/)|\s)[^\w\s])*|[←↑→↓⇧⌘⌥⌃ ]+\S?"
)
_NO_KEYS: Final = re.compile(r"\(\s?[A-Za-z]{2,}[^()]*$|-?\d+\.\d+$|%[A-Za-z%]$|<<\w+>>$")
"""The beginning of words in brackets, which do not end here; a number such as 1.5; a placeholder, "%s"; an event that is no
key, "<<Cut>>"."""
_IS_POINTING: Final = re.compile(
    r"\b(?:ctrl|shift|alt|mouse\d?|click|button|btn_(?:left|right|middle|side|extra)|wheel|wheel_\w+)\b", re.I
)
_CONDITION: Final = re.compile(r"left out: [a-z]+\b")
_EITHER: Final = re.compile(r" or (?=\S)|, (?=\S)")
_WORD: Final = re.compile(r"[^\W\d_]{3,}\d?")
_SYSTEM: Final = r"(mac(?:os)?|os ?x|pc|win(?:dows)?|linux)"
_ALTERNATES: Final = re.compile(r" or | / |(?<=[^+,]),(?:(?=\S)| (?=\w+\+))")
_OF_MAC: Final = re.compile(r"(?i)\b(?:cmd|command|meta)\b")
_ONLY_MAC: Final = re.compile(r"(?i)\b(?:cmd|command)\b ?[-+]|⌘")
_CTRL: Final = re.compile(r"(?i)\b(?:control|ctrl)\b")
_SIGNS_OF_SYSTEMS: Final = {
    "linux": re.compile(r"linux|unix|\bx11\b", re.I), "mac": re.compile(r"\bmac(?: ?os)?\b|\bos ?x\b|\bdarwin\b", re.I),
    "windows": re.compile(r"\bwin(?:dows)?\b|\bpc\b", re.I),
}  # fmt: skip
_OF_SYSTEM: Final = re.compile(rf"\s*([^()]+?)\s*\((?:on )?{_SYSTEM}\)\s*(?:[/,;|]\s*|or\s+|$)", re.I)
_BESIDE: Final = re.compile(rf"\s*\((?:also |or )?([^()]+?) on {_SYSTEM}\)$", re.I)


def alternates(keys: str) -> str:
    """Return keys after a sign such as "=" with blanks between: alternates, where one is no letter and none comes twice.

    "h ?" and "^x ESCAPE" are alternates; "g g", "G I" and "C-x C-s" are steps.
    """
    words = keys.split()
    bare = [word for word in words if (len(word) == 1 and not word.isalnum()) or (len(word) > 2 and key_named(word))]
    whole = all(len(word) == 1 or "-" in word or "^" in word or key_named(word) is not None for word in words)
    return " or ".join(words) if 1 < len(words) == len(set(words)) and bare and whole else keys


def looks_like_keys(text: str) -> bool:
    """Return True if a text is spelt like keys rather than like a command."""
    return evidence(text) > 0


def evidence(text: str) -> int:
    """Return how much a text looks like keys: 0 not at all, 1 it may be, 2 it carries a modifier or a key's own name."""
    named = as_chord(with_key_names(text.strip()))
    body = without_argument(named)
    if len(body) > 4 and body[0] in "'\"" and body[-1] == body[0] and is_whole(body[1:-1]):
        return 2  # a chord in the quotes of a program's text
    if not body or len(body) > 120 or body.startswith(("# ", "•", "·")) or _NO_KEYS.match(body):
        return 0
    if body.endswith(")"):
        _, left, others = other_systems("", body)
        body = left or others[0][1]
    noted = _before_note(body)
    if not may_be_keys(noted or body) or (_SIGNS_ALONE.fullmatch(body) and not _LISTED.fullmatch(body)):
        return 0
    try:
        spelt: Spelt = spell(body)
    except NotKeysError:
        return 2 if _IS_POINTING.search(body) else 0
    except NotationError:
        return 0
    return 2 if named != text.strip() and spelt.triggers else _evidence_of(spelt, body, bool(noted))


def _evidence_of(spelt: Spelt, body: str, noted: bool) -> int:
    """Return the evidence of a text that can be spelt; ``noted``: a note stands after its keys."""
    conditional = any(_CONDITION.match(remark) for remark in spelt.remarks)
    if not spelt.triggers or (conditional and not noted):
        return 0
    if any(is_strong(trigger) for trigger in spelt.triggers) or _STRONG_NAMES.match(body):
        return 2
    return int(not conditional and _has_only_names_of_keys(body))


def _has_only_names_of_keys(text: str) -> bool:
    words = (word for word in _WORD.findall(text) if word.lower() not in _JOINS)
    return all(key_named(word, marked=True) is not None or modifier_named(word) is not None for word in words)


def _before_note(body: str) -> str:
    """Return keys, several with "or" between, with a note after them, which is no sentence: "Ctrl+B" of "Ctrl+B (on the chart)";
    otherwise empty."""
    head, opened, note = body.rpartition("(")
    head = head.rstrip()
    whole = opened and note.endswith(")") and ")" not in note[:-1] and "(" not in head
    pieces = _EITHER.split(head.replace(" + ", "+")) if whole else [""]
    return head if all(len(piece.split()) == 1 for piece in pieces) else ""


def is_strong(trigger: Trigger) -> bool:
    """Return True if a trigger carries a modifier other than Shift, or a key with a name of its own."""
    if not isinstance(trigger, KeySequence):
        return False
    return any((chord.modifiers and chord.modifiers != ("Shift",)) or re.fullmatch(r"F\d+|Num\w+", chord.key) or
               (chord.modifiers and len(chord.key) > 1) or chord.key in _SURE_KEYS for chord in trigger.chords)  # fmt: skip


# Systems


def split_mac_alternates(keys: str) -> tuple[str, str]:
    """Split alternates into this computer's and a Mac's: each of the Mac's is one of ours with Cmd for Ctrl, or there is one with
    Cmd for each of ours with Ctrl.

    >>> split_mac_alternates("command+k or ctrl+k"), split_mac_alternates("meta+i, alt+i")
    (('ctrl+k', 'command+k'), ('meta+i, alt+i', ''))
    >>> split_mac_alternates("Ctrl + Shift + F / Command + Option + F")
    ('Ctrl + Shift + F', 'Command + Option + F')
    """
    if not _OF_MAC.search(keys) and "⌘" not in keys:
        return keys, ""
    parts = _ALTERNATES.split(keys)
    mac = [part for part in parts if _OF_MAC.search(part) or "⌘" in part]
    rest = [part for part in parts if part not in mac]
    other = {_CTRL.sub("cmd", part).lower() for part in rest}
    alike = bool(mac) and all(_OF_MAC.sub("cmd", part).lower() in other for part in mac)
    one_each = len(mac) == len(rest) and all(map(_ONLY_MAC.search, mac)) and all(map(_CTRL.search, rest))
    return (" or ".join(rest), " or ".join(mac)) if alike or one_each else (keys, "")


def other_systems(command: str, keys: str) -> tuple[str, str, list[tuple[str, str]]]:
    """Part off the keys of systems that are named beside them: the command, what is left of the keys, and system and keys.

    "Cmd+S (mac) / Ctrl+S (pc)" has no keys left; "Save (Cmd+S on macOS)" and "Ctrl+S (Cmd+S on macOS)" have those of one
    system beside.
    """
    others: list[tuple[str, str]] = []
    place = 0
    if ")" not in keys and ")" not in command:
        return command, keys, []
    for match in _OF_SYSTEM.finditer(keys):
        if match.start() != place:
            break
        place = match.end()
        others.append((systems_named(match[2])[0], match[1]))
    if len(others) > 1 and place == len(keys):
        return command, "", others
    for text in (command, keys):
        beside = _BESIDE.search(text)
        if beside is not None and evidence(beside[1]):
            bare = text[: beside.start()].rstrip()
            own = [(systems_named(beside[2])[0], beside[1])]
            return (bare, keys, own) if text is command else (command, bare, own)
    return command, keys, []


def systems_named(text: str) -> list[str]:
    """Return the ids of the systems that a text names: "Windows / Linux" names two."""
    return [system for system, sign in _SIGNS_OF_SYSTEMS.items() if sign.search(text)]
