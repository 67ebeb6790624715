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
from glimber.readers.mnemonics import without_mnemonic
from glimber.readers.reader import Reader
from glimber.readers.values import names_binding, read_values

_BINDS: Final = re.compile(r"map|bind|key|accel|short_?cut|hotkey", re.I)
_SETS: Final = re.compile(r"(?:set|add)_?(?:shortcut|accel|key)\w*$", re.I)
"""A call that sets the keys of the object before it: "self.zoom_in.setShortcut(…)"."""
_NAMES: Final = re.compile(r"(?:set)?_?(?:text|label|title|status_?tip)$|^Q?Action$|MenuItem$", re.I)
"""A call that names the object before it, or makes one of that name."""
_TRANSLATES: Final = frozenset(("_", "N_", "tr", "gettext", "pgettext", "i18n", "i18nc", "translate", "_translate", "t"))
_JOINS: Final = frozenset({"", "+", ".", "..", "&"})
"""Signs that join two texts in some language."""
_SAYS: Final = re.compile(r"doc$|desc(?:ription)?$|^group$", re.I)
_OF_MAC: Final = re.compile(r"(?i)\b(?:cmd|command)\b")
_KEYS_NAMED: Final = re.compile(r"(?:^|_)(?:short_?cuts?|accel\w*|(?:key_?)?sequence|key(?:s|binding)?|hot_?key)$", re.I)
_TOLD: Final = ("description", "desc", "label", "title", "text", "help", "help_text", "doc")
_GROUPED: Final = ("group", "category", "section", "context", "mode")
_MODES: Final = frozenset({"n", "i", "v", "x", "s", "o", "t", "c", "nv", "normal", "insert", "visual", "", "global"})
_LINE: Final = re.compile(r"^[ \t]*(?:[nivxsotcl]?(?:nore)?map!?)\s", re.M)
_SELVES: Final = frozenset("self this None null nil parent true false True False function lambda def async new void".split())
_HEAD_WORDS: Final = 5
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
        joined = _joined_texts(parts)
        if joined is not None:
            return joined
        if len(parts) == 2 and isinstance(parts[0], Name) and isinstance(parts[1], Text) and parts[0].name[0].isalpha():
            return {"function": f"{parts[0].name} {parts[1]}"}  # a function and what it is given, without brackets
        chord = chord_of(parts, self._held) if parts and not isinstance(parts[0], Group) else None
        if chord is not None:
            return Text(chord, parts[0].line)
        groups = [part for part in parts if isinstance(part, Group)]
        if groups and len(parts) <= 2 and parts[-1] is groups[-1]:
            inner = self._value_of_group(groups[-1])
            if not groups[-1].head or isinstance(inner, Text):
                return inner
            return {"function": groups[-1].head, **(inner if isinstance(inner, dict) else {})}
        name = _symbol(parts)
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
            return _value_of_call(group.head, values, [value for value in values if isinstance(value, Text)])
        return _value_in_brackets(values) if group.bracket == "(" else values

    # Calls

    def _call(self, item: Item, at: int, group: Group, described: str, after: Item | None) -> str | None:
        """Note a call for later; return the words it says of the next one, None where it says nothing."""
        if _MAKES_CHORD.search(group.head):
            return ""  # it is what a call is given
        arguments, named = self._arguments(group)
        last = _last(group.head)
        words = _texts_in(arguments)
        if _SAYS.search(last) and words and not any(evidence(word) == 2 for word in words):
            return words[0]
        decorated = at > 0 and isinstance(item.parts[0], Name) and item.parts[0].name == "@"
        defines = _defined(after) if decorated else ""
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
            if not isinstance(part, Group) or not _NAMES.search(_last(part.head)):
                continue
            texts = [value for one in part.items if isinstance(value := self._value(one.parts), Text) and value.strip()]
            owner = _owner(part.head) if "." in part.head or ">" in part.head else ""
            owner = _last(item.key) if item.key and _last(part.head)[:1].isupper() else owner
            owner = owner or (_last(item.key) if item.key else "")
            if texts and owner and evidence(texts[0]) < 2:
                self._called.setdefault(owner, _without_mnemonic(texts[0]))

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
                keys = " then ".join(map(_spelt, call.arguments))
            before = call.arguments[place - 1] if place else None
            if isinstance(before, list) and not self._with_modifiers(before, keys, call):
                continue
            command = self._command(call, place)
            if command:
                grouped = next((str(call.named[name]) for name in _GROUPED if isinstance(call.named.get(name), Text)), None)
                self._found.add(command, keys.replace("\\\\", "\\"), grouped or call.heading, call.group.line, _CASED)

    def _take_named(self, call: _Call) -> None:
        """Add what a call binds by an argument that is named as keys."""
        keys = next((text for name, value in call.named.items() if _KEYS_NAMED.search(name) and (text := _spelt(value))), "")
        if keys and (evidence(keys) or len(keys) == 1):
            command = self._command(call, -1)
            if command:
                self._found.add(command, keys, call.heading, call.group.line, _CASED)

    def _keys(self, call: _Call, place: int) -> str:
        """Return the text of an argument, with the modifiers in the list before it."""
        text = _spelt(call.arguments[place]) if place < len(call.arguments) else ""
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
        return self._held.get(str(name)) or (modifier_named(str(name)) if isinstance(name, str) else None)

    def _command(self, call: _Call, place: int) -> str:
        """Return what is bound: its description, a text after the keys, one before them, what is called, or the name
        of the object whose keys are set; the first that is there."""
        text = next((its for name in _TOLD if isinstance(its := call.named.get(name), Text) and its.strip()), None)
        after = _texts_in(call.arguments[place + 1 :])
        phrase = next((one for one in reversed(after) if " " in one.strip() and not _CONDITION.search(one)), None)
        last = after[-1] if after and not call.defines and not _CONDITION.search(after[-1]) else ""
        earlier = reversed(_texts_in(call.arguments[: max(place, 0)]))
        before = next((one for one in earlier if one.lower() not in _MODES and evidence(one) < 2), "")
        owner = _owner(call.group.head) if _SETS.search(_last(call.group.head)) else ""
        named = self._called.get(owner, owner)
        symbol = _called_in(call.arguments[place + 1 :]) or _called_in(call.arguments[: max(place, 0)])
        found = text or call.described or phrase or last or before or symbol or named or call.defines
        return re.sub(r"(?i)<cmd>|<cr>$|^:(?=\w)|^(?:self|this)\.", "", str(found)).strip()


def _are_all_keys(values: Sequence[object]) -> bool:
    return all(isinstance(one, Text) and (evidence(one) or len(one) == 1) for one in values)


def _texts_in(values: Sequence[object]) -> list[Text]:
    return [one for one in values if isinstance(one, Text) and one.strip()]


def _joined_texts(parts: Sequence[Part]) -> Text | None:
    """Return the text of texts one after another, with nothing or a sign between that joins them; None for anything else."""
    texts = [part for part in parts if isinstance(part, Text)]
    others = [part for part in parts if not isinstance(part, Text)]
    if not texts or not all(isinstance(part, Name) and part.name in _JOINS for part in others):
        return None
    return Text("".join(texts), texts[0].line)


def _value_in_brackets(values: list[object]) -> object:
    """Return the one value, or the text that several texts come to; the values themselves else."""
    texts = [value for value in values if isinstance(value, Text)]
    if len(values) == 1 or not texts or len(texts) < len(values):
        return values[0] if len(values) == 1 else values
    # Toolkits that write "<Control>r" take a chord, or several for the same action.
    joint = " or " if all(evidence(text) == 2 for text in texts) and any("<" in text for text in texts) else " then "
    return Text(joint.join(texts), texts[0].line)


def _value_of_call(head: str, values: Sequence[object], texts: Sequence[Text]) -> object:
    """Return the text that a call comes to: a translation, a text with a note, one of several by the system; else None."""
    if head.rsplit(".", 1)[-1].rsplit(":", 1)[-1] in _TRANSLATES and texts:
        return _without_mnemonic(texts[-1] if len(texts) <= 2 else texts[0])
    if len(values) == 1 and texts:
        return texts[0]
    if texts and len(texts) == len(values) and all(evidence(text) == 2 for text in texts):
        return next((text for text in texts if not _OF_MAC.search(text)), texts[0])
    return None


def _called_in(arguments: Sequence[object]) -> str:
    """Return the name of the first function that is given, where it says more than the object itself."""
    functions = (one.get("function") for one in arguments if isinstance(one, dict))
    return next((name for name in functions if isinstance(name, str) and _last(name) not in _SELVES), "")


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


def _spelt(value: object) -> str:
    """Return keys as one text; several in a list are alternates."""
    if isinstance(value, Text):
        return value
    texts = [one for one in value if isinstance(one, Text)] if isinstance(value, list) else []
    alike = texts and len(texts) == len(value if isinstance(value, list) else ()) and all(evidence(text) for text in texts)
    return " or ".join(texts) if alike else ""


def _is_record(group: Group) -> bool:
    """Return True for a row of a table in braces, such as { "j", "Down one row", act }."""
    if group.bracket != "{" or group.statements or len(group.items) < 2 or group.items[0].key is not None:
        return False
    return all(isinstance(part, Text) for part in group.items[0].parts) and bool(group.items[0].parts)


def _symbol(parts: Sequence[Part]) -> str:
    """Return the name of what is called or referred to; the first call inside of a function without a name."""
    if parts and isinstance(parts[0], Name) and parts[0].name == "lambda":
        colon = next((at for at, part in enumerate(parts) if isinstance(part, Name) and part.name == ":"), 0)
        parts = parts[colon + 1 :] if colon else parts
    for part in parts:
        if isinstance(part, Name) and (part.name[0].isalpha() or part.name[0] in "_$") and part.name not in _SELVES:
            return part.name
    for part in parts:
        if isinstance(part, Group):
            inner = next((one.head for one in part.walk() if one.head and one is not part and one.head not in _SELVES), "")
            if inner:
                return inner
    return ""


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


def _defined(item: Item | None) -> str:
    """Return the name of the function an item defines; where it has none to speak of, the first sentence of its text."""
    parts = item.parts if item is not None else []
    names = [part.name for part in parts if isinstance(part, Name)]
    name = names[names.index("def") + 1] if "def" in names and names[-1] != "def" else ""
    if not names or "def" not in names or name.strip("_"):
        return name
    return next((part.strip().split(". ")[0].split("\n")[0].rstrip(".") for part in parts if isinstance(part, Text)), "")


def _last(name: str) -> str:
    return re.split(r"\.|::|->|\?\.", name)[-1]


def _owner(head: str) -> str:
    """Return the object whose method is called: "zoom_in" of "self.zoom_in.setShortcut"."""
    parts = re.split(r"\.|::|->|\?\.", head)
    return parts[-2] if len(parts) > 1 and parts[-2] not in _SELVES else ""


def _without_mnemonic(text: Text) -> Text:
    return Text(without_mnemonic(text).rstrip(".… "), text.line)


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
