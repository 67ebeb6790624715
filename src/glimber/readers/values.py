"""Keymaps in nested values, however written: lists of objects with keys and a command, or maps from one to the other."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping
from typing import Any, Final

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.core.notation.spelling import Ways
from glimber.readers.evidence import evidence
from glimber.readers.found import Found
from glimber.readers.heads import NAME_OF_KEYS

_KEYS: Final = ("keys", "key", "keybinding", "keybindings", "shortcut", "shortcuts", "accelerator", "hotkey", "binding", "chord",
                "linux", "trigger", "keystroke", "keystrokes", "bind", "bindkey", "on", "sequence", "kbd", "combo",
                "default", "suggested_key", "accept", "press")  # fmt: skip
_SURELY_KEYS: Final = frozenset({"keys", "key", "keybinding", "shortcut", "hotkey", "bind", "accept", "press"})
_COMMANDS: Final = ("description", "desc", "title", "label", "help", "command", "action", "name", "cmd", "run", "function", "id",
                    "do", "callback", "chars", "send")  # fmt: skip
_GROUPS: Final = ("context", "when", "mode", "selector", "group", "category", "section", "scope")
_MODS: Final = ("mods", "modifiers", "mod")
_PLAIN: Final = Ways(None, False)
_CASED: Final = Ways(None, True)
_SYSTEMS: Final = {"mac": "mac", "macos": "mac", "osx": "mac", "darwin": "mac", "win": "windows", "windows": "windows",
                   "win32": "windows", "pc": "windows", "linux": "linux"}  # fmt: skip
_BAR: Final = re.compile(r"(?<=[^\s|])\|(?=[^\s|])|\s+\|\s+")
_LABELS_FIRST: Final = ("name", "label", "title", "description", "command", "action", "id")
_LISTS_OF_KEYS: Final = frozenset({"bindings", "keybindings", "keys", "shortcuts", "inputs", "triggers", "hotkeys"})
_NO_KEYBOARD: Final = re.compile(r"(?i)\b(?:mouse|game_?pad|joystick|touch|controller)")
_LEAST_LETTERS: Final = 5
_LEAST_PAIRS: Final = 3
_IN_TURN: Final = ("keys", "sequence", "chord", "keystrokes")
"""Names of lists whose keys are struck one after the other."""
_PREFIXES: Final = frozenset({"prefix", "prefix_key", "leader", "leader_key"})
_NAMED_AFTER_KEYS: Final = re.compile(r"(?:kb|keys?|binds?|key_?bindings?|hot_?keys?|short_?cuts?)[_.-](?=[a-z])", re.I)
"""The beginning of a name that says that its value is keys: "kb_sync", in one map with settings of all kinds."""
DEEPEST: Final = 24


def read_values(
    value: object, found: Found, lines: Mapping[str, list[int]], group: str | None = None, name: str | None = None
) -> bool:
    """Add every binding in a nested value; return whether there was any. ``lines``: at which lines a word stands in the text,
    each used once; ``name``: what the value is assigned to."""
    before = found.candidates
    if isinstance(value, dict) and NAME_OF_KEYS.search(name or ""):
        rest = " ".join(word for word in re.split(r"[\W_]+", name or "") if word and not NAME_OF_KEYS.search(word))
        group = rest.capitalize() or group
        if _letters(value, found, _Lines(lines), group):
            return True
    _walk(value, found, _Lines(lines), group, 0)
    return found.candidates > before


def names_binding(value: Mapping[str, object]) -> bool:
    """Return True if some of the names of an object are those of keys, and some those of a command."""
    return any(True for _ in _own(value, _KEYS)) and any(True for _ in _own(value, _COMMANDS))


def _is_stem(text: str) -> bool:
    return evidence(_dashed(text)) > 0 or key_named(text, marked=True) is not None


def _after_prefix(value: dict[str, object], prefix: str, found: Found, lines: _Lines) -> dict[str, object]:
    """Add the maps whose keys are struck after a prefix; return the value without them."""
    stem, rest = _dashed(str(value[prefix])), dict[str, object]()
    found.head(f"{prefix}: {value[prefix]}", lines.of(prefix))
    for name, inner in value.items():
        if isinstance(inner, dict) and inner and all(
            isinstance(keys, str) and (len(keys) == 1 or evidence(_dashed(keys))) for keys in inner.values()
        ):
            for command, keys in inner.items():
                found.add(str(command), f"{stem} then {_dashed(keys)}", name, lines.of(str(command)), _CASED)
        elif name != prefix:
            rest[name] = inner
    return rest


class _Lines:
    """Line numbers of words in the text: the first line of a word that was not used yet, or the line a word carries itself.

    ``system``: the operating system that what is being read is for, where it stands under its name.
    """

    def __init__(self, lines: Mapping[str, list[int]]) -> None:
        self._lines, self._used = lines, dict[str, int]()
        self.system: str | None = None

    def of(self, *words: object) -> int:
        """Return the line of the first of these words, or of lists of them, that has one, 0 for none."""
        each = (one for word in words for one in (word if isinstance(word, list) else (word,)))
        return next((line for word in each if isinstance(word, str) and (line := self._line(word))), 0)

    def _line(self, word: str) -> int:
        own = getattr(word, "line", 0)
        at = self._lines.get(word)
        if own or not at:
            return int(own)
        used = self._used.get(word, 0)
        self._used[word] = used + 1
        return at[min(used, len(at) - 1)]


def words_at(text: str) -> dict[str, list[int]]:
    """At which lines each quoted or bare word of a text stands."""
    found: dict[str, list[int]] = {}
    for number, line in enumerate(text.splitlines(), start=1):
        for match in re.finditer(r"\"((?:\\.|[^\"\\])*)\"|'([^']*)'|([\w.:+<>-]+)", line):
            word = match[1] if match[1] is not None else match[2] if match[2] is not None else match[3]
            found.setdefault(word, []).append(number)
    return found


def _walk(value: object, found: Found, lines: _Lines, group: str | None, depth: int) -> None:
    if depth > DEEPEST:
        return
    if isinstance(value, list):
        if not _listed_pairs(value, found, lines, group):
            for item in value:
                _walk(item, found, lines, group, depth + 1)
    elif isinstance(value, dict):
        prefix = next((name for name in value if str(name).lower().replace("-", "_") in _PREFIXES), None)
        if prefix is not None and isinstance(value[prefix], str) and _is_stem(value[prefix]):
            value = _after_prefix(value, prefix, found, lines)
        if _object(value, found, lines, group) or _listed_keys(value, found, lines, group):
            return
        if _map(value, found, lines, group) or _unread(value, found, lines):
            return
        value = _without_named_keys(value, found, lines, group)
        context = _first(value, _GROUPS)
        if context is not None and isinstance(context[1], str):
            group = context[1]
        for name, inner in value.items():
            if not isinstance(inner, dict | list) or _is_taken_as_letters(name, inner, found, lines, group):
                continue
            if (bare := _keys_of_bare_objects(inner)) is not None:
                found.add(str(name), bare, group, lines.of(name), _PLAIN, lines.system)
                continue
            system = _SYSTEMS.get(str(name).lower())
            if system is None:
                _walk(inner, found, lines, group if context is not None else str(name), depth + 1)
                continue
            outer, lines.system = lines.system, system
            _walk(inner, found, lines, group, depth + 1)
            lines.system = outer


def _listed_pairs(value: list[object], found: Found, lines: _Lines, group: str | None) -> bool:
    """Add a list of lists of two texts, keys and a command on either side; return whether it was one."""
    pairs = [one for one in value if isinstance(one, list) and len(one) == 2 and all(isinstance(text, str) for text in one)]
    if len(pairs) < _LEAST_PAIRS or len(pairs) < len(value):
        return False
    looks = [[evidence(str(pair[side])) for pair in pairs] for side in (0, 1)]
    side = 0 if sum(looks[0]) >= sum(looks[1]) else 1
    if not _are_keys(looks[side]) or sum(look == 2 for look in looks[1 - side]) > 0.2 * len(pairs):
        return False
    for pair in pairs:
        found.add(str(pair[1 - side]), str(pair[side]), group, lines.of(pair[0], pair[1]), _CASED, lines.system)
    return True


def _listed_keys(value: dict[str, object], found: Found, lines: _Lines, group: str | None) -> bool:
    """Add an object with the name of a command and a list of objects that have its keys; return whether it was one.

    Objects of the list that are for a mouse or a pad of buttons are left out.
    """
    command = next((value[name] for name in _LABELS_FIRST if name in value and _says(value[name])), None)
    listed = next((its for name, its in value.items() if str(name).lower() in _LISTS_OF_KEYS and isinstance(its, list)), None)
    if command is None or not listed or not all(isinstance(one, dict) and any(True for _ in _own(one, _KEYS)) for one in listed):
        return False
    if any(True for one in listed for _ in _own(one, _COMMANDS)):
        return False  # the objects have commands of their own
    struck = [one for one in listed if not any(isinstance(text, str) and _NO_KEYBOARD.search(text) for text in one.values())]
    named = [(one, next(iter(_own(one, _KEYS)))) for one in struck]
    spelt = [_with_modifiers(_first(one, _MODS), _one_spelling(one[name], name)) for one, name in named if _is_keys(one[name])]
    context = _first(value, _GROUPS)
    of = str(context[1]) if context is not None and isinstance(context[1], str) else group
    name, line = _command(command), lines.of(command)
    if spelt:
        found.add(name, " or ".join(filter(None, spelt)), of, line, _CASED, lines.system)
    else:
        found.leave(name, line, "it is done with the mouse" if listed and not struck else "no keys are set for it")
    return True


def _keys_of_bare_objects(value: object) -> str | None:
    """Return the keys of an object, or of a list of them, with nothing but keys and modifiers under names that say so: what it
    is in names the command. None for anything else."""
    objects = value if isinstance(value, list) else [value]
    spelt = [_keys_of_bare_object(one) for one in objects if isinstance(one, dict)]
    return " or ".join(filter(None, spelt)) if spelt and len(spelt) == len(objects) and all(spelt) else None


def _keys_of_bare_object(value: dict[str, object]) -> str | None:
    keys, held = list(_own(value, _KEYS)), list(_own(value, _MODS))
    own = value[keys[0]] if len(keys) == 1 and len(keys) + len(held) == len(value) else None
    if not own or isinstance(own, dict) or not _is_keys(own):
        return None
    return _with_modifiers(_first(value, _MODS), _one_spelling(own, keys[0]))


def _first(value: dict[str, object], names: tuple[str, ...]) -> tuple[str, object] | None:
    low = {str(name).lower(): name for name in value}
    return next(((name, value[low[name]]) for name in names if name in low), None)


def _object(value: dict[str, object], found: Found, lines: _Lines, group: str | None) -> bool:
    """Return an object that has keys and a command."""
    keys = next(((name, value[name]) for name in _own(value, _KEYS) if _is_keys(value[name])), None)
    command = next(
        (value[name] for name in _own(value, _COMMANDS) if _says(value[name]) and name != (keys or [""])[0]), None
    )
    if command is None and keys is not None:
        command = _only_other_field(value, keys[0])
    if keys is None or command is None:
        return False
    if isinstance(command, str) and len(command) > 1 and command.startswith("-"):
        found.leave(f"{command}: {keys[1]}", lines.of(command), "it takes a binding away")
        return True
    if (by_system := _by_system(keys[1])) is not None:
        for system, its in by_system.items():
            found.add(_command(command), _one_spelling(its, keys[0]), group, lines.of(command, its), _ways(its), system)
        return True
    name = _command(command)
    line = lines.of(command, name, keys[1])
    text = _with_modifiers(_first(value, _MODS), _one_spelling(keys[1], keys[0]))
    if text:
        context = _first(value, _GROUPS)
        of = context[1] if context is not None and isinstance(context[1], str) else group
        found.add(name, text, of or None, line, _ways(text), lines.system)
    else:
        found.leave(name, line, "no keys are set for it")
    return True


def _unread(value: dict[str, object], found: Found, lines: _Lines) -> bool:
    """List an object of plain values that has a command and keys that cannot be read; return whether it was one."""
    names = [name for name in _own(value, _KEYS) if str(name).lower() in _SURELY_KEYS and isinstance(value[name], str)]
    commands = [name for name in _own(value, _COMMANDS) if isinstance(value[name], str) and value[name]]
    if not names or not commands or any(isinstance(inner, dict | list) for inner in value.values()):
        return False
    command, keys = str(value[commands[0]]), str(value[names[0]])
    found.leave(f"{command}: {keys}", lines.of(command, keys), "its keys are spelt in a way that is not known here")
    return True


def _only_other_field(value: dict[str, object], keys: str) -> str | None:
    """Return what an object sets beside its keys, where they are called by a word that no setting has a value of: "toggle
    full_screen" of ``{when: always, accept: F11, toggle: full_screen}``."""
    rest = [name for name in value if name != keys and str(name).lower() not in (*_GROUPS, *_MODS, "type")]
    if keys not in _SURELY_KEYS or len(rest) != 1 or not isinstance(value[rest[0]], str):
        return None
    return f"{rest[0]} {value[rest[0]]}"


def _with_modifiers(held: tuple[str, object] | None, keys: str) -> str:
    if held is None or not keys:
        return keys
    modifiers = held[1] if isinstance(held[1], list) else re.split(r"[|+,\s]+", str(held[1]))
    named = ["Ctrl" if str(one) == "Mod" else str(one) for one in modifiers if str(one).strip() and str(one).lower() != "none"]
    return "+".join([*named, keys])


def _by_system(value: object) -> dict[str, str] | None:
    """Return the keys by operating system, where a value has them so."""
    named = {**_SYSTEMS, "default": "linux"}
    if not isinstance(value, dict) or not value or any(str(name).lower() not in named for name in value):
        return None
    return {named[str(name).lower()]: its for name, its in value.items() if isinstance(its, str) and its}


def _own(value: Mapping[str, object], names: tuple[str, ...]) -> Iterator[str]:
    low = {str(name).lower(): name for name in value}
    return (low[name] for name in names if name in low)


def _says(value: object) -> bool:
    return (isinstance(value, str) and bool(value.strip())) or (isinstance(value, dict | list) and bool(value))


def _command(value: object) -> str:
    if isinstance(value, dict):
        inner = next((value[name] for name in _own(value, (*_COMMANDS, "type")) if isinstance(value[name], str)), None)
        return inner or ", ".join(map(str, value))
    if isinstance(value, list):
        return " ".join(map(_command, value[:6]))
    return str(value)


def _is_keys(value: object) -> bool:
    if isinstance(value, dict):
        by_system = _by_system(value) or {}
        return bool(by_system) and all(map(_is_keys, by_system.values()))
    if isinstance(value, list):
        return all(isinstance(item, str) for item in value) or all(_is_keys(item) for item in value if item)
    return isinstance(value, str) and (not value or evidence(_one_spelling(value, "")) > 0 or len(value) == 1)


def _ways(text: str) -> Ways | None:
    """Such files name a key, not a character; whether a letter that stands alone is struck with Shift, all of them tell."""
    return _PLAIN if len(text) != 1 else None


def _one_spelling(value: Any, name: str) -> str:
    """Return keys as one spelling: a list is a sequence under ``keys``, alternates elsewhere."""
    if isinstance(value, str):
        if value == " ":
            return "Space"
        pieces = _BAR.split(value)
        keys = all(evidence(piece) == 2 or len(piece) == 1 for piece in pieces)
        if 1 < len(pieces) == len(set(pieces)) and keys:
            return " or ".join(map(_dashed, pieces))
        return _dashed(value)
    parts = [_one_spelling(item, name) for item in value if item]
    parts = [part for part in parts if part.strip()]
    if len(parts) > 1 and all(modifier_named(part) for part in parts[:-1]) and modifier_named(parts[-1]) is None:
        return "+".join(parts)
    if len(parts) > 1 and (name.lower() in _IN_TURN or (name.lower() == "on" and all(len(part) == 1 for part in parts))):
        return " then ".join(parts)
    return " or ".join(parts)


def _dashed(text: str) -> str:
    """Return a step whose modifiers and key have blanks, dashes or underlines between is one chord."""
    words = text.split()
    if (
        len(words) > 1
        and all(modifier_named(word) for word in words[:-1])
        and (len(words[-1]) == 1 or key_named(words[-1], True))
    ):
        return "+".join(words)
    return text


def _map(value: dict[str, object], found: Found, lines: _Lines, group: str | None) -> bool:
    """Return a map from keys to commands, or from commands to keys; whether it was one."""
    items = [(name if isinstance(name, str) else str(name), inner) for name, inner in value.items() if inner is not None]
    if not items:
        return False
    left = [evidence(_one_spelling(name, "")) if len(name) < 60 else 0 for name, _ in items]
    right = [evidence(_one_spelling(inner, "")) if _flat(inner) else 0 for _, inner in items]
    if _are_keys(left) and sum(left) >= sum(right):
        for (name, inner), look in zip(items, left, strict=True):
            if isinstance(inner, dict) and not _first(inner, _COMMANDS):
                _stem(name, inner, found, lines, group)
            elif look and _says(inner):
                found.add(_command(inner), _one_spelling(name, ""), group, lines.of(name), _CASED, lines.system)
            else:
                found.leave(f"{name}: {_command(inner)}", lines.of(name), "it binds no key")
        return True
    if _are_keys(right):
        for (name, inner), look in zip(items, right, strict=True):
            if look or inner in ("", []):
                spelt = _one_spelling(inner, "")
                found.add(name, spelt, group, lines.of(name, inner), _ways(spelt), lines.system)
            else:
                found.leave(f"{name}: {inner}", lines.of(name), "it binds no key")
        return True
    return False


def _without_named_keys(value: dict[str, object], found: Found, lines: _Lines, group: str | None) -> dict[str, object]:
    """Add the entries of a map whose names begin with the same word for keys, among others; return the others."""
    stems = Counter(match[0] for name in value if (match := _NAMED_AFTER_KEYS.match(str(name))) is not None)
    rest = dict(value)
    for stem in (stem for stem, count in stems.items() if count >= _LEAST_LETTERS):
        named = {name: inner for name, inner in value.items() if str(name).startswith(stem) and isinstance(inner, str) and inner}
        looks = [evidence(_one_spelling(inner, "")) or len(str(inner)) == 1 for inner in named.values()]
        if len(named) < _LEAST_LETTERS or 2 not in looks or sum(map(bool, looks)) < 0.8 * len(looks):
            continue
        for (name, inner), look in zip(named.items(), looks, strict=True):
            del rest[name]
            if look:
                spelt = _one_spelling(inner, "")
                found.add(str(name).removeprefix(stem), spelt, group, lines.of(name, inner), _ways(spelt), lines.system)
            else:
                found.leave(f"{name}: {inner}", lines.of(name), "it binds no key")
    return rest


def _is_taken_as_letters(name: object, inner: object, found: Found, lines: _Lines, group: str | None) -> bool:
    """Add a map below a name of keys where it is one from letters to phrases; return whether it was."""
    return isinstance(inner, dict) and NAME_OF_KEYS.search(str(name)) is not None and _letters(inner, found, lines, group)


def _letters(value: dict[str, object], found: Found, lines: _Lines, group: str | None) -> bool:
    """Add the bindings of a map that is called after keys, from single characters and keys by name to phrases; return whether it
    was one."""
    items = [(str(name).strip() or str(name), inner) for name, inner in value.items()]
    keys = {name for name, _ in items if len(name) == 1 or evidence(name)}
    phrases = {inner for _, inner in items if isinstance(inner, str) and evidence(inner) == 0 and len(inner) > 2}
    if len(items) < _LEAST_LETTERS or min(len(keys), len(phrases)) < 0.6 * len(items):
        return False
    for name, inner in items:
        if name in keys and isinstance(inner, str) and (inner in phrases or len(inner) > 2):
            found.add(_command(inner), _one_spelling(name, ""), group, lines.of(name, inner), _CASED, lines.system)
        else:
            found.leave(f"{name}: {_command(inner)}", lines.of(name, inner), "it binds no key")
    return True


def _are_keys(looks: list[int]) -> bool:
    """Return whether enough of the names, or of the values, of a map look like keys."""
    alike = sum(look > 0 for look in looks) >= max(1, round(0.6 * len(looks)))
    return alike and sum(look == 2 for look in looks) >= max(1, 0.2 * len(looks))


def _flat(value: object) -> bool:
    return isinstance(value, str) or (isinstance(value, list) and all(isinstance(item, str) for item in value))


def _stem(stem: str, value: dict[str, object], found: Found, lines: _Lines, group: str | None) -> None:
    for name, inner in value.items():
        keys = f"{_dashed(stem)} then {_dashed(str(name))}"
        if isinstance(inner, dict) and not _first(inner, _COMMANDS):
            _stem(keys, inner, found, lines, group)
        elif _says(inner):
            found.add(_command(inner), keys, group, lines.of(str(name)), _CASED)
