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

from glimber.core.notation.keywords import modifier_named
from glimber.core.notation.spelling import Ways
from glimber.readers.call_keys import (
    MANY,
    MODES,
    are_all_keys,
    common_names,
    named_as_keys,
    place_of_keys,
    texts_in,
)
from glimber.readers.code import BLOCK, Group, Item, Name, Part, Text, parse
from glimber.readers.code_conditions import read_conditions
from glimber.readers.config import led
from glimber.readers.config import read as read_config
from glimber.readers.constant_rows import read_constant_rows
from glimber.readers.constants import chord_of, modifiers_of
from glimber.readers.declared_keys import read_declared_keys
from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.help_texts import read_help_blocks, read_help_tables, read_help_texts
from glimber.readers.lisp import is_lisp, read_lisp
from glimber.readers.object_keys import take_object_keys
from glimber.readers.reader import Reader
from glimber.readers.script_values import (
    SELVES,
    Label,
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
_TIP: Final = re.compile(r"status_?tip$", re.I)
_SAYS: Final = re.compile(r"doc$|desc(?:ription)?$|^group$", re.I)
_KEYS_NAMED: Final = re.compile(r"(?:^|_)(?:short_?cuts?|accel\w*|(?:key_?)?sequence|key(?:s|binding)?|hot_?key)$", re.I)
_TOLD: Final = ("description", "desc", "label", "title", "text", "help", "help_text", "doc")
_GROUPED: Final = ("group", "category", "section", "context", "mode")
_LINE: Final = re.compile(r"^[ \t]*(?:[nivxsotcl]?(?:nore)?map!?)\s", re.M)
_HEAD_WORDS: Final = 5
_AT_THE_TOP: Final = re.compile(r"\s*(?:#|//|/\*|\*|--|;|%)")
_LEAST_AT_THE_TOP: Final = 5
"""Lines of comment from which on the top of a source is its licence and title."""
_REMARK: Final = re.compile(r"copyright|\(c\)|authors?:|licen[cs]e|spdx|(?:tr|translators?|todo|fixme|note|xxx|hack)\b:?", re.I)
"""A comment about the source itself, and no heading of what follows."""
_OWN_MODIFIER: Final = frozenset({"modkey", "mainmod", "mymod"})
"""Names of the modifier that somebody chose for all their keys; where it is not set in the same file it is usually Super."""
_CASED: Final = Ways(None, True)
_IDENTIFIER: Final = re.compile(r"[a-z][a-z0-9]*(?:[-_.][a-z0-9]+)+")
_HANDS_OVER: Final = frozenset({"SLOT", "SIGNAL", "G_CALLBACK", "partial"})
"""Calls that only hand over the function they are given."""
_MAKES_CHORD: Final = re.compile(r"(?:KeyStroke|KeySequence|KeyCombination|KeyGesture)$")


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
        read_declared_keys(text, found)
        if not found.any:  # else calls are parts of what was declared
            _Reading(led(text), found).run()
        read_conditions(text, found)
        read_help_blocks(text, found)
        read_help_tables(text, found, options)
        if not found.any:
            read_help_texts(text, found)
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
        self._called: dict[str, list[Text]] = defaultdict(list)
        """The labels of each object in order: a name may stand for one object after another."""
        self._values: dict[int, object] = {}
        """Values of groups by identity: each group is asked for once by everything that encloses it."""
        self._calls: dict[str, list[_Call]] = defaultdict(list)
        begins = _first_line_of_code(text)
        self._headings = [one for one in comments if _is_heading(one.text) and one.line >= begins]
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
        if group.statements or group.bracket == BLOCK or (not keyed and group.bracket != "["):
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
        held = modifiers_of(parts, self._held) if len(parts) > 1 else []
        if held:
            return [Text(one, parts[0].line) for one in held]
        groups = [part for part in parts if isinstance(part, Group)]
        if groups and groups[-1].bracket == BLOCK:
            name = symbol_of(parts)
            return {"function": name} if name else None
        if groups and len(parts) <= 2 and parts[-1] is groups[-1]:
            inner = self._value_of_group(groups[-1])
            if not groups[-1].head or isinstance(inner, Text):
                return inner
            if last_name(groups[-1].head) in _HANDS_OVER and groups[-1].items:
                return {"function": symbol_of(groups[-1].items[0].parts)}
            return {"function": groups[-1].head, **(inner if isinstance(inner, dict) else {})}
        name = symbol_of(parts)
        return {"function": name} if name else None

    def _value_of_group(self, group: Group) -> object:
        if id(group) not in self._values:
            self._values[id(group)] = self._evaluate(group)
        return self._values[id(group)]

    def _evaluate(self, group: Group) -> object:
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
        words = texts_in(arguments)
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
            label = next((text for text in texts if isinstance(text, Label)), texts[0] if texts else None)
            tip = _TIP.search(last_name(part.head)) is not None
            if label is not None and owner and evidence(label) < 2 and not (tip and owner in self._called):
                self._called[owner].append(bare_label(label))

    def _label_of(self, owner: str, line: int) -> str:
        """Return the label that an object has at a line: the last one before it, else the first; its name where it has none."""
        labels = self._called.get(owner, [])
        before = [label for label in labels if label.line <= line]
        return before[-1] if before else labels[0] if labels else owner

    def _take(self, calls: Sequence[_Call]) -> None:
        """Add what the calls of one name bind."""
        binds = _BINDS.search(calls[0].group.head) is not None
        place = place_of_keys([[self._keys(call, place) for place in range(len(call.arguments))] for call in calls], binds)
        if place is None:
            named = named_as_keys([call.named for call in calls])
            for call in calls:
                self._take_named(call, named)
            return
        common = common_names([call.arguments for call in calls])
        for call in calls:
            keys = self._keys(call, place)
            if not keys or not (binds or len(calls) >= MANY or evidence(keys) == 2):
                continue
            if call.defines and are_all_keys(call.arguments):
                keys = " then ".join(map(spelt_keys, call.arguments))
            before = call.arguments[place - 1] if place else None
            if isinstance(before, list) and not self._with_modifiers(before, keys, call):
                continue
            command = self._command(call, place, common)
            if command:
                grouped = next((str(call.named[name]) for name in _GROUPED if isinstance(call.named.get(name), Text)), None)
                self._found.add(command, keys.replace("\\\\", "\\"), grouped or call.heading, call.group.line, _CASED)

    def _take_named(self, call: _Call, also: str) -> None:
        """Add what a call binds by an argument that is named as keys, or ``also`` has them in other calls of its name."""
        keys = next((text for name, value in call.named.items()
                     if (name == also or _KEYS_NAMED.search(name)) and (text := spelt_keys(value))), "")  # fmt: skip
        if keys and (evidence(keys) or len(keys) == 1):
            command = self._command(call, -1)
            if command:
                self._found.add(command, keys, call.heading, call.group.line, _CASED)

    def _keys(self, call: _Call, place: int) -> str:
        """Return the text of an argument, with the modifiers in the list before it."""
        text = spelt_keys(call.arguments[place]) if place < len(call.arguments) else ""
        beside = [call.arguments[at] for at in (place - 1, place + 1) if text and 0 <= at < len(call.arguments)]
        held = [modifier for value in beside for modifier in self._modifiers_in(value)]
        return "+".join([*held, text])

    def _with_modifiers(self, before: list[object], keys: str, call: _Call) -> bool:
        unknown = [one for one in before if self._modifier_in(one) is None]
        if unknown and len(unknown) == len(before) and not all(isinstance(one, dict) for one in before):
            return True  # a list of something else
        if unknown:
            self._found.fail(f"{keys}: modifiers that are not known here", call.group.line)
        return not unknown

    def _modifiers_in(self, value: object) -> list[str]:
        if isinstance(value, dict) and len(value) == 1 and "function" in value:
            return modifiers_of([Name(str(value["function"]), 0)], self._held)
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

    def _command(self, call: _Call, place: int, common: frozenset[str] = frozenset()) -> str:
        """Return what is bound: its description, a text after the keys, one before them, what is called, or the name
        of the object whose keys are set; the first that is there. ``common``: names that other calls are given, too."""
        text = next((its for name in _TOLD if isinstance(its := call.named.get(name), Text) and its.strip()), None)
        after = texts_in(call.arguments[place + 1 :])
        phrase = next((one for one in reversed(after) if " " in one.strip() and not _CONDITION.search(one)), None)
        last = after[-1] if after and not call.defines and not _CONDITION.search(after[-1]) else ""
        if place < 0 and after and not _IDENTIFIER.fullmatch(after[0]):
            phrase = after[0]
        elif place > 0 and isinstance(call.arguments[place - 1], Label) and evidence(str(call.arguments[place - 1])) < 2:
            phrase = Text(str(call.arguments[place - 1]), call.group.line)  # a label, its keys, and what it says of itself
        earlier = reversed(texts_in(call.arguments[: max(place, 0)]))
        before = next((one for one in earlier if one.lower() not in MODES and evidence(one) < 2), "")
        owner = _owner(call.group.head) if _SETS.search(last_name(call.group.head)) else ""
        named = self._label_of(owner, call.group.line)
        own = [value if isinstance(value, dict) and value.get("function") not in common else None for value in call.arguments]
        own = [None if self._modifiers_in(value) else value for value in own]
        symbol = called_name(own[place + 1 :]) or called_name(own[: max(place, 0)])
        found = text or call.described or phrase or last or before or symbol or named or call.defines
        return re.sub(r"(?i)<cmd>|<cr>$|^:(?=\w)|^(?:self|this)\.", "", str(found)).strip()


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
            if not item.key or len(item.parts) != 1:
                continue
            value = item.parts[0]
            held = [modifier_named(value.strip("+-"))] if isinstance(value, Text) else modifiers_of(item.parts, {})
            if held and held[0] is not None:
                found[item.key] = held[0]
    return found


def _owner(head: str) -> str:
    """Return the object whose method is called: "zoom_in" of "self.zoom_in.setShortcut"."""
    parts = re.split(r"\.|::|->|\?\.", head)
    return parts[-2] if len(parts) > 1 and parts[-2] not in SELVES else ""


def _first_line_of_code(text: str) -> int:
    """Return the line after the comment at the top of a source, which is about the source; 1 where it has hardly any."""
    head = 0
    for number, line in enumerate(text.splitlines(), start=1):
        if line.strip() and not _AT_THE_TOP.match(line):
            return number if head >= _LEAST_AT_THE_TOP else 1
        head += bool(line.strip())
    return 1


def _is_heading(text: str) -> bool:
    short = bool(text) and len(text.split()) <= _HEAD_WORDS and text[0].isupper()
    return short and not text.endswith((";", "{", ")")) and _REMARK.match(text) is None


READERS = (
    Reader(
        "script",
        read,
        endings=(".lua", ".el", ".vim", ".scm", ".lisp", ".js", ".py", ".ts", ".jsx", ".tsx", ".mjs", ".java", ".kt", ".cs",
                 ".cpp", ".cc", ".c", ".h", ".hpp", ".rb", ".go", ".rs", ".swift", ".dart", ".qml", ".hs"),
        signs=(
            (
                0.75,
                re.compile(
                    r"\b(?:map|bind|\w*set_?key|key)\w*\s*\(\s*[\"'{\[]|\((?:global-set-key|define-key|keymap-set|"
                    r"gtk_accel_path|bind-key)\b|keymap\.set\(",
                    re.I,
                ),
            ),
        ),
    ),
)  # fmt: skip
