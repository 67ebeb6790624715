"""Source code that binds keys: maps and lists of bindings in it, and calls that are given keys. Nothing of it is run.

The same call many times tells which of its arguments has the keys: then single letters and signs are keys there, too. A call
that stands alone must carry keys that can be nothing else, or a name that says that it binds.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections import defaultdict
from collections.abc import Sequence
from typing import Final

from msgspec import Struct

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.core.notation.spelling import Ways
from glimber.readers.code import Group, Item, Name, Part, Text, parse
from glimber.readers.config import led
from glimber.readers.config import read as read_config
from glimber.readers.constant_rows import read_constant_rows
from glimber.readers.constants import chord_of
from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.lisp import is_lisp, read_lisp
from glimber.readers.object_keys import take_object_keys
from glimber.readers.reader import Reader
from glimber.readers.script_values import (
    SELVES,
    bare_label,
    called_name,
    chosen_by_system,
    defined_name,
    joined_texts,
    last_name,
    spelt_keys,
    symbol_of,
    value_in_brackets,
    value_of_call,
)
from glimber.readers.values import names_binding, read_values

_BINDS: Final = re.compile(r"map|bind|key|accel|short_?cut|hotkey", re.I)
_SETS: Final = re.compile(r"(?:set|add)_?(?:shortcut|accel|key)\w*$", re.I)
"""A call that sets the keys of the object before it: "self.zoom_in.setShortcut(…)"."""
_NAMES: Final = re.compile(r"(?:set)?_?(?:text|label|title|status_?tip)$|^Q?Action$|MenuItem$", re.I)
"""A call that names the object before it, or makes one of that name."""
_SAYS: Final = re.compile(r"doc$|desc(?:ription)?$|^group$", re.I)
_KEYS_NAMED: Final = re.compile(r"(?:^|_)(?:short_?cuts?|accel\w*|(?:key_?)?sequence|key(?:s|binding)?|hot_?key)$", re.I)
_TOLD: Final = ("description", "desc", "label", "title", "text", "help", "help_text", "doc")
_GROUPED: Final = ("group", "category", "section", "context", "mode")
_MODES: Final = frozenset({"n", "i", "v", "x", "s", "o", "t", "c", "nv", "normal", "insert", "visual", "", "global"})
_LINE: Final = re.compile(r"^[ \t]*(?:[nivxsotcl]?(?:nore)?map!?)\s", re.M)
_HEAD_WORDS: Final = 5
_OWN_MODIFIER: Final = frozenset({"modkey", "mainmod", "mymod"})
"""Names of the modifier that somebody chose for all their keys; where it is not set in the same file it is usually Super."""
_CASED: Final = Ways(None, True)
_MOST_ARGUMENTS: Final = 5
_MAKES_CHORD: Final = re.compile(r"(?:KeyStroke|KeySequence|KeyCombination|KeyGesture)$")
_ALL_KEYS: Final = 8
MANY: Final = 3
"""So many calls of one name are taken together."""


class _Call(Struct, frozen=True):
    """A call: its arguments in order, those that are named, and what stands around it."""

    group: Group
    arguments: list[object]
    named: dict[str, object]
    heading: str | None
    described: str = ""
    """Words that the call before it says."""
    defines: str = ""
    """The function that is defined right after it, where it decorates one."""


def read(data: bytes, options: Options) -> Found:
    """Read a script or a source file."""
    text = decoded(data)
    found = Found(watch=options.watch)
    if not text.strip():
        return found.fail("the file is empty; expected calls or lines that bind keys")
    if len(_LINE.findall(text)) > text.count("(") / 2 and _LINE.search(text):
        return read_config(data, options)
    found.mod = "Ctrl"
    if is_lisp(text):
        read_lisp(text, found)
    elif not read_constant_rows(text, found):
        _Reading(led(text), found).run()
    if not found.any:
        found.fail("no call in it binds keys")
    return found


_CONDITION: Final = re.compile(r"&&|\|\||[!=]=|\w_\w+ & ")
"""A text that says when a binding holds, in the program's own terms."""


class _Reading:
    def __init__(self, text: str, found: Found) -> None:
        self._root, comments = parse(text)
        self._found = found
        self._held = _modifiers_named(self._root)
        self._called: dict[str, str] = {}
        self._calls: dict[str, list[_Call]] = defaultdict(list)
        self._headings = [one for one in comments if _is_heading(one.text)]
        for one in self._headings:
            found.head(one.text, one.line)

    def run(self) -> None:
        self._walk(self._root)
        for calls in self._calls.values():
            self._take(calls)
        take_object_keys(self._root, self._found, self._heading)

    def _heading(self, line: int) -> str | None:
        """Return the heading above a line."""
        place = bisect_left(self._headings, line, key=lambda one: one.line)
        return self._headings[place - 1].text if place else None

    # Values

    def _walk(self, group: Group) -> None:
        described = ""
        for place, item in enumerate(group.items):
            after = group.items[place + 1] if place + 1 < len(group.items) else None
            for at, part in enumerate(item.parts):
                if not isinstance(part, Group):
                    continue
                if self._binds_inside(part, item.key):
                    continue
                if part.head or (part.bracket == "(" and part.items) or _is_record(part):
                    spoken = self._call(item, at, part, described, after)
                    described = spoken or ("" if spoken is None else described)
                self._walk(part)
            self._note_name(item)

    def _binds_inside(self, group: Group, name: str | None) -> bool:
        """Read a list or a map of bindings, which is assigned to a name; return whether it was one."""
        keyed = any(item.key for item in group.items)
        if group.statements or (not keyed and group.bracket != "["):
            return False
        value = self._value_of_group(group)
        return isinstance(value, dict | list) and read_values(value, self._found, {}, self._heading(group.line), name)

    def _value(self, parts: Sequence[Part]) -> object:
        """Return texts, lists and maps as they are, chords of constants as texts, and of anything else the name it has."""
        joined = joined_texts(parts)
        if joined is not None:
            return joined
        if len(parts) == 2 and isinstance(parts[0], Name) and isinstance(parts[1], Text) and parts[0].name[0].isalpha():
            return {"function": f"{parts[0].name} {parts[1]}"}  # a function and what it is given, without brackets
        chosen = chosen_by_system(parts)
        if chosen is not None:
            return chosen
        chord = chord_of(parts, self._held) if parts and not isinstance(parts[0], Group) else None
        if chord is not None:
            return Text(chord, parts[0].line)
        groups = [part for part in parts if isinstance(part, Group)]
        if groups and len(parts) <= 2 and parts[-1] is groups[-1]:
            inner = self._value_of_group(groups[-1])
            if not groups[-1].head or isinstance(inner, Text):
                return inner
            return {"function": groups[-1].head, **(inner if isinstance(inner, dict) else {})}
        name = symbol_of(parts)
        return {"function": name} if name else None

    def _value_of_group(self, group: Group) -> object:
        items = [item for item in group.items if item.parts or item.key]
        keyed = {item.key: self._value(item.parts) for item in items if item.key is not None}
        if keyed:
            return keyed if not group.head or group.bracket == "{" or names_binding(keyed) else None
        if _MAKES_CHORD.search(group.head) and len(items) > 1:
            chord = chord_of([part for item in items for part in item.parts], self._held)
            if chord is not None:
                return Text(chord, group.line)
        values = [self._value(item.parts) for item in items]
        if group.head:
            return value_of_call(group.head, values, [value for value in values if isinstance(value, Text)])
        return value_in_brackets(values) if group.bracket == "(" else values

    # Calls

    def _call(self, item: Item, at: int, group: Group, described: str, after: Item | None) -> str | None:
        """Note a call for later; return the words it says of the next one, None where it says nothing."""
        if _MAKES_CHORD.search(group.head):
            return ""  # it is what a call is given
        arguments, named = self._arguments(group)
        last = last_name(group.head)
        words = _texts_in(arguments)
        if _SAYS.search(last) and words and not any(evidence(word) == 2 for word in words):
            return words[0]
        decorated = at > 0 and isinstance(item.parts[0], Name) and item.parts[0].name == "@"
        defines = defined_name(after) if decorated else ""
        calls = self._calls[last or group.bracket]
        if not described and calls and len(arguments) > 1 and calls[-1].arguments[1:] == arguments[1:]:
            described = calls[-1].described  # another key for the same: the first one's description is its, too
        calls.append(_Call(group, arguments, named, self._heading(group.line), described, defines))
        return None if words else ""

    def _arguments(self, group: Group) -> tuple[list[object], dict[str, object]]:
        """Return the arguments of a call in order and by name, those of a table that is handed over among the latter."""
        arguments = [self._value(one.parts) for one in group.items if one.parts and one.key is None]
        named = {one.key: self._value(one.parts) for one in group.items if one.key is not None}
        for value in arguments:
            if isinstance(value, dict) and "function" not in value:
                named |= {name: its for name, its in value.items() if name not in named}
        return arguments, named

    def _note_name(self, item: Item) -> None:
        """Remember what an object is called: by a call of its own, or by the one that makes it."""
        for part in item.parts:
            if not isinstance(part, Group) or not _NAMES.search(last_name(part.head)):
                continue
            texts = [value for one in part.items if isinstance(value := self._value(one.parts), Text) and value.strip()]
            owner = _owner(part.head) if "." in part.head or ">" in part.head else ""
            owner = last_name(item.key) if item.key and last_name(part.head)[:1].isupper() else owner
            owner = owner or (last_name(item.key) if item.key else "")
            if texts and owner and evidence(texts[0]) < 2:
                self._called.setdefault(owner, bare_label(texts[0]))

    def _take(self, calls: Sequence[_Call]) -> None:
        """Add what the calls of one name bind."""
        binds = _BINDS.search(calls[0].group.head) is not None
        place = _keys_of([[self._keys(call, place) for place in range(len(call.arguments))] for call in calls], binds)
        if place is None:
            for call in calls:
                self._take_named(call)
            return
        for call in calls:
            keys = self._keys(call, place)
            if not keys or not (binds or len(calls) >= MANY or evidence(keys) == 2):
                continue
            if call.defines and _are_all_keys(call.arguments):
                keys = " then ".join(map(spelt_keys, call.arguments))
            before = call.arguments[place - 1] if place else None
            if isinstance(before, list) and not self._with_modifiers(before, keys, call):
                continue
            command = self._command(call, place)
            if command:
                grouped = next((str(call.named[name]) for name in _GROUPED if isinstance(call.named.get(name), Text)), None)
                self._found.add(command, keys.replace("\\\\", "\\"), grouped or call.heading, call.group.line, _CASED)

    def _take_named(self, call: _Call) -> None:
        """Add what a call binds by an argument that is named as keys."""
        keys = next((text for name, value in call.named.items() if _KEYS_NAMED.search(name) and (text := spelt_keys(value))), "")
        if keys and (evidence(keys) or len(keys) == 1):
            command = self._command(call, -1)
            if command:
                self._found.add(command, keys, call.heading, call.group.line, _CASED)

    def _keys(self, call: _Call, place: int) -> str:
        """Return the text of an argument, with the modifiers in the list before it."""
        text = spelt_keys(call.arguments[place]) if place < len(call.arguments) else ""
        held = self._modifiers_in(call.arguments[place - 1]) if text and place else []
        return "+".join([*held, text])

    def _with_modifiers(self, before: list[object], keys: str, call: _Call) -> bool:
        unknown = [one for one in before if self._modifier_in(one) is None]
        if unknown and len(unknown) == len(before) and not all(isinstance(one, dict) for one in before):
            return True  # a list of something else
        if unknown:
            self._found.fail(f"{keys}: modifiers that are not known here", call.group.line)
        return not unknown

    def _modifiers_in(self, value: object) -> list[str]:
        if not isinstance(value, list):
            return []
        found = [self._modifier_in(one) for one in value]
        return [name for name in found if name is not None]

    def _modifier_in(self, value: object) -> str | None:
        if isinstance(value, Text):
            return modifier_named(value)
        name = value.get("function") if isinstance(value, dict) else None
        named = self._held.get(str(name)) or (modifier_named(str(name)) if isinstance(name, str) else None)
        return named or ("Super" if str(name).lower() in _OWN_MODIFIER else None)

    def _command(self, call: _Call, place: int) -> str:
        """Return what is bound: its description, a text after the keys, one before them, what is called, or the name
        of the object whose keys are set; the first that is there."""
        text = next((its for name in _TOLD if isinstance(its := call.named.get(name), Text) and its.strip()), None)
        after = _texts_in(call.arguments[place + 1 :])
        phrase = next((one for one in reversed(after) if " " in one.strip() and not _CONDITION.search(one)), None)
        last = after[-1] if after and not call.defines and not _CONDITION.search(after[-1]) else ""
        earlier = reversed(_texts_in(call.arguments[: max(place, 0)]))
        before = next((one for one in earlier if one.lower() not in _MODES and evidence(one) < 2), "")
        owner = _owner(call.group.head) if _SETS.search(last_name(call.group.head)) else ""
        named = self._called.get(owner, owner)
        symbol = called_name(call.arguments[place + 1 :]) or called_name(call.arguments[: max(place, 0)])
        found = text or call.described or phrase or last or before or symbol or named or call.defines
        return re.sub(r"(?i)<cmd>|<cr>$|^:(?=\w)|^(?:self|this)\.", "", str(found)).strip()


def _are_all_keys(values: Sequence[object]) -> bool:
    return all(isinstance(one, Text) and (evidence(one) or len(one) == 1) for one in values)


def _texts_in(values: Sequence[object]) -> list[Text]:
    return [one for one in values if isinstance(one, Text) and one.strip()]


def _keys_of(calls: Sequence[Sequence[str]], binds: bool) -> int | None:
    """Return which argument has the keys, from the arguments of all calls of one name as texts; None where none has."""
    best: tuple[int, int] | None = None
    for place in range(_MOST_ARGUMENTS):
        strong = _strong_keys([call[place] for call in calls if place < len(call) and call[place]], binds)
        if strong is not None and (best is None or strong > best[0]):
            best = (strong, place)
    return None if best is None else best[1]


def _strong_keys(values: Sequence[str], binds: bool) -> int | None:
    """Return how many of the values of an argument only keys look like; None where it does not have the keys."""
    if not values or all(value.lower() in _MODES for value in values):
        return None
    looks = [evidence(value) or int(len(value) == 1 or key_named(value, marked=True) is not None) for value in values]
    share, strong = sum(look > 0 for look in looks) / len(looks), sum(look == 2 for look in looks)
    many = len(looks) >= MANY or strong == len(looks)
    enough = strong >= 1 if binds else strong >= max(1, 0.2 * len(looks)) and many
    different = len(set(values)) >= 0.6 * len(values)
    nearly_all = share >= 0.95 and len(values) >= _ALL_KEYS and different and strong > 0
    return strong if share >= 0.6 and (enough or nearly_all) else None


def _is_record(group: Group) -> bool:
    """Return True for a row of a table in braces, such as { "j", "Down one row", act }."""
    if group.bracket != "{" or group.statements or len(group.items) < 2 or group.items[0].key is not None:
        return False
    return all(isinstance(part, Text) for part in group.items[0].parts) and bool(group.items[0].parts)


def _modifiers_named(root: Group) -> dict[str, str]:
    """Return the variables that are set to the name of a modifier."""
    found = {}
    for group in root.walk():
        for item in group.items:
            if item.key and len(item.parts) == 1 and isinstance(item.parts[0], Text):
                name = modifier_named(item.parts[0].strip("+-"))
                if name is not None:
                    found[item.key] = name
    return found


def _owner(head: str) -> str:
    """Return the object whose method is called: "zoom_in" of "self.zoom_in.setShortcut"."""
    parts = re.split(r"\.|::|->|\?\.", head)
    return parts[-2] if len(parts) > 1 and parts[-2] not in SELVES else ""


def _is_heading(text: str) -> bool:
    return bool(text) and len(text.split()) <= _HEAD_WORDS and text[0].isupper() and not text.endswith((";", "{", ")"))


READERS = (
    Reader(
        "script",
        read,
        endings=(".lua", ".el", ".vim", ".scm", ".lisp", ".js", ".py", ".ts", ".jsx", ".tsx", ".mjs", ".java", ".kt", ".cs",
                 ".cpp", ".cc", ".c", ".h", ".hpp", ".rb", ".go", ".rs", ".swift", ".dart", ".hs"),
        signs=(
            (
                0.75,
                re.compile(
                    r"\b(?:map|bind|set_?key|key)\w*\s*\(\s*[\"'{\[]|\((?:global-set-key|define-key|keymap-set|"
                    r"gtk_accel_path|bind-key)\b|keymap\.set\(",
                    re.I,
                ),
            ),
        ),
    ),
)  # fmt: skip
