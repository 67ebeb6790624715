"""The shapes of single configuration lines: a verb with keys and a command, a pair, keys and a command with a blank between."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from msgspec import Struct

from glimber.core.notation.keywords import key_named
from glimber.readers.evidence import evidence

TOKEN: Final = re.compile(r"\"(?:\\.|[^\"\\])*\"|'(?:\\.|[^'\\])*'|[^\s]+")
_VERB: Final = re.compile(
    r"^(?:[a-z]*(?:nore)?map!?|bind(?:sym|key|el|le|l|e|m|r|d|-key)?|key-?bind(?:ing)?|def_key|macro|hot-?key|shortcut|key)$",
    re.I,
)
_SURE_VERB: Final = re.compile(r"^(?:key)?bind(?:sym|key)?$|^key-?bind$|^map$", re.I)
_COPY: Final = re.compile(r"^c?p?copy[a-z]*map$", re.I)
_UNBIND: Final = re.compile(r"^(?:un[a-z]*map|unbind(?:sym|-key)?|[a-z]*unmap|delete-?key)$", re.I)
_SKIPPED: Final = re.compile(r"^(?:<(?:silent|expr|buffer|nowait|unique|script)>|-{1,2}[A-Za-z][\w-]*)$", re.I)
_WITH_VALUE: Final = frozenset({"-T", "-M", "-m", "--mode", "-t"})
PAIR: Final = re.compile(r"^(\"[^\"]+\"|'[^']+'|[^\s=:][^=:]*?|[=:])\s*(=|:)\s+?(.*)$|^([^\s=][^=]*?)\s*(=)\s*(.*)$")
_COLONS: Final = re.compile(r"^([A-Z][A-Z_]+):(\^?\S[^:\s]*):([A-Za-z][\w ()-]*)$")
_NAMED_KEY: Final = re.compile(r"KEY_(?:F\((\d+)\)|([A-Z]{2,}))$")
_COLON: Final = re.compile(r"^(?:[*•]\s+(?!:))?([^:=\"']+?)\s+:([A-Z]\w.*)$")
_INDEXED: Final = re.compile(r"^(?:key)?bind(?:ing)?s?\[([^\]]+)\]$")
"""The name of a command as an index: "bind[bar_toggle] = MOD+b"."""
_NAMES_KEYS: Final = re.compile(
    r"(?<=[a-z0-9])(?:Key|KeyBinding|Shortcut|Hotkey|HotKey|Accelerator|Accel)$|(?<=\w)[_-](?:key|shortcut|hotkey|accel)$|^key-(?=\w)"
)
_SEVERAL_VALUES: Final = re.compile(r"(?:\"[^\"]+\"|'[^']+'|\w+)(?:,\s*(?:\"[^\"]+\"|'[^']+'|\w+))+")
_QUOTED_NAME: Final = re.compile(r"\W?[A-Za-z_-]+")
_QUOTED_DIGIT: Final = re.compile(r"(?:'(?=\d')|\"(?=\d\"))(\d).")
"""A digit in quotes, which is a key; a bare one may be any number."""
_SIGNS: Final = ("=", ":")
_IN_MODE: Final = re.compile(r"([a-z]\w*)\s+\"(\w[\w -]*)\"\s+\"(\\\"(?=\")|[^\"]+)\"\s*=\s*\"([^\"]*)\"$", re.I)
"""A verb, the mode, the keys and what they do: ``bind "main" "Ctrl-F" = "page-down"``."""


class ConfigLine(Struct, frozen=True):
    """One line that may bind something: its number, its shape, and the parts of it; lines of one shape are judged together."""

    number: int
    form: str
    parts: tuple[str, ...]
    group: str | None
    note: str = ""


def form_of(
    body: str, number: int, group: str | None, repeated: frozenset[str] = frozenset(), of_keys: bool = False, note: str = ""
) -> ConfigLine:
    """Return which shape a line has, and its parts. ``repeated``: words that begin many lines of the file; ``of_keys``: it stands
    in a section of keys; ``note``: the comment behind it."""
    tokens = TOKEN.findall(body)
    in_mode = _IN_MODE.match(body)
    if in_mode is not None and _VERB.match(in_mode[1]):
        keys = f"<{in_mode[3]}>" if key_named(in_mode[3]) else {" ": "Space", '\\"': '"'}.get(in_mode[3], in_mode[3])
        return ConfigLine(number, f"verb {in_mode[1].lower()}", (keys, in_mode[4]), in_mode[2], note)
    if len(tokens) > 3 and _SURE_VERB.match(tokens[1]) and not _VERB.match(tokens[0]):
        tokens = tokens[1:]  # a program's name, then what it is to bind
        body = body.split(None, 1)[1]
    form, parts = (
        _with_colons(body, tokens)
        or _undone_or_copied(tokens)
        or _quoted_pair(tokens)
        or _with_verb(tokens, repeated)
        or _with_commas(body, tokens)
        or _set(body, of_keys)
        or ("blank", tuple(tokens))
    )
    return ConfigLine(number, form, parts, group, note)


_Form = tuple[str, tuple[str, ...]]


def _with_colons(body: str, tokens: Sequence[str]) -> _Form | None:
    colons = _COLONS.match(body)
    if colons is not None:
        return f"colons {colons[1].lower()}", (_NAMED_KEY.sub(_curses, colons[2]), colons[3])
    colon = _COLON.match(body)
    if colon is not None and not _VERB.match(tokens[0]):
        return "colon", (colon[1], colon[2])
    return None


def _undone_or_copied(tokens: Sequence[str]) -> _Form | None:
    verb = _verb(tokens)
    if _UNBIND.match(verb):
        return "unbind", tuple(tokens)
    if len(tokens) > 2 and _COPY.match(verb):
        return "copy", tuple(tokens[1:])
    return None


def _quoted_pair(tokens: Sequence[str]) -> _Form | None:
    verb = _verb(tokens)
    quoted = [token for token in tokens[1:3] if token[:1] in "\"'" and len(token) > 2]
    if len(quoted) == 2 and verb[:1] not in "\"'" and _QUOTED_NAME.fullmatch(verb):
        return f"quoted {verb.lower()}", (unquoted(quoted[0]), unquoted(quoted[1]))
    return None


def _with_verb(tokens: Sequence[str], repeated: frozenset[str]) -> _Form | None:
    if len(tokens) <= 2:
        return None
    verb = _verb(tokens)
    keyed = tokens[1][:1] in "\"'" and verb.isalpha() and evidence(unquoted(tokens[1])) == 2
    if (_VERB.match(verb) or keyed) and tokens[1] not in _SIGNS:
        return f"verb {verb.lower()}", tuple(_without_flags(tokens[1:]))
    if tokens[0] in repeated:
        return f"repeated {verb.lower()}", tuple(tokens[1:])
    return None


def _with_commas(body: str, tokens: Sequence[str]) -> _Form | None:
    """Return the parts of a line such as ``bind = MODIFIERS, KEY, what is done, with what``."""
    if len(tokens) <= 2 or tokens[1] != "=" or not _VERB.match(_verb(tokens)):
        return None
    held_text, *rest = (part.strip() for part in body.split("=", 1)[1].split(","))
    if len(rest) < 2:
        return None
    held = "+".join(re.findall(r"\$?\w+", held_text))
    return "commas", (f"{held}+{rest[0]}" if held else rest[0], " ".join(rest[1:]))


def _set(body: str, of_keys: bool) -> _Form | None:
    """Return the parts of a line that sets something: ``NAME = KEYS``, ``KEYS: COMMAND``."""
    pair = PAIR.match(body)
    if pair is None:
        return None
    left, right = (pair[1], pair[3]) if pair[2] else (pair[4], pair[6])
    named = _INDEXED.match(left)
    left = named[1] if named is not None else left
    now, *others = right.split(",")
    now = now.replace("\\t", " or ")
    if len(others) >= 2 and (evidence(now) or now == "none") and not of_keys:
        # keys now, keys it came with, what it is called
        return "pair of keys", (others[1].strip() or left, now)
    form = "pair of keys" if _NAMES_KEYS.search(left) else "pair with a list" if _is_list(right) else "pair"
    form = "pair among keys" if of_keys else form
    return form, (unquoted(left), _listed(right.rstrip(",;")))


def _verb(tokens: Sequence[str]) -> str:
    return tokens[0].rstrip(":")


def _without_flags(tokens: Sequence[str]) -> list[str]:
    found: list[str] = []
    skip = False
    for place, token in enumerate(tokens):
        if not found and token[:1] == "." and place + 1 < len(tokens) and tokens[place + 1].startswith("<"):
            continue  # the window it is bound in
        if skip:
            skip = False
        elif not found and token in _WITH_VALUE:
            skip = True
        elif not found and token.startswith("$") and not token.startswith("$mod") and place < len(tokens) - 2:
            continue  # what a script puts in front of every binding
        elif found or not _SKIPPED.match(token) or place == len(tokens) - 1:
            found.append(token)
    return found


def _listed(text: str) -> str:
    """Return a value in quotes, or a list of them as alternates."""
    text = re.sub(r"^@\w+ ", "", text.strip())
    if text in ('""', "''"):
        return ""
    if _is_list(text):
        return " or ".join(match[1] or match[2] for match in re.finditer(r"'([^']+)'|\"([^\"]+)\"", text))
    values = _SEVERAL_VALUES.fullmatch(text)
    if values is not None and ('"' in text or "'" in text):
        return " or ".join(unquoted(value) for value in re.split(r",\s*", text))
    digit = _QUOTED_DIGIT.fullmatch(text)
    return f"<{digit[1]}>" if digit is not None else unquoted(text)


def _is_list(text: str) -> bool:
    """Return True for texts in quotes within square brackets."""
    return text.startswith("[") and text.endswith("]") and (len(text) == 2 or text[1] in "'\"")


def unquoted(text: str) -> str:
    """Return a text without the quotes around it; a blank in quotes is the space bar."""
    text = text.strip()
    if text in ("' '", '" "'):
        return "Space"
    return text[1:-1] if len(text) > 2 and text[0] == text[-1] and text[0] in "\"'" else text


def _curses(match: re.Match[str]) -> str:
    """Return a key by the name that the curses library gives it."""
    return f"F{match[1]}" if match[1] else f"<{match[2].capitalize()}>"
