"""Source code as a tree of brackets: calls with what they are given, lists and maps, names and texts. Nothing of it is run.

The grammar is what languages with brackets share: texts in quotes, comments, names with dots, brackets of three kinds, commas
between items, and ":", "=" or "=>" between an item's key and its value. What differs from one to the next (comments, texts over
several lines, where a statement ends) is decided by the source itself.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from msgspec import Struct, field

DEEPEST: Final = 60
BLOCK: Final = "do"
"""The bracket of a block between words, from "function", "if", "do" or "repeat" to "end" or "until", as Lua writes them."""
_CLOSING: Final = {"(": ")", "[": "]", "{": "}", BLOCK: "end"}
_BEGINS_BLOCK: Final = frozenset({"function", "if", "do", "repeat"})
_ENDS_BLOCK: Final = frozenset({"end", "until"})
_OF_COMMENTS: Final = {
    "//": re.compile(r"^[ \t]*(?://|/\*)|[;{][ \t]*$|^[ \t]*\}", re.M),
    "#": re.compile(r"^[ \t]*(?:#|def |class \w+.*:|from \S+ import|@\w)|:[ \t]*$", re.M),
    "--": re.compile(r"^[ \t]*(?:--|local\s+\w|end\b|function\b.*\)[ \t]*$)|\bthen[ \t]*$|\.\.", re.M),
}
"""Lines that are typical of the languages with each sign for comments."""
_TOKEN: Final = re.compile(
    r"""(?P<blank>[ \t\r\f]+)|(?P<line>\n)
    |(?P<text>[rRbBuUfF]{0,2}(?:\"\"\"(?:\\.|[^\\])*?\"\"\"|'''(?:\\.|[^\\])*?''')
      |[rRbBuUfFL@$]{0,2}\"(?:\\.|[^\"\\\n])*\"|[rRbBuUfFL]{0,2}'(?:\\.|[^'\\\n])*'|`(?:\\.|[^`\\])*`|\[\[[^\]]*\]\])
    |(?P<name>[A-Za-z_$][\w$]*(?:(?:\.|::|->|\?\.)[A-Za-z_$][\w$]*)*)
    |(?P<number>\d[\w.]*)
    |(?P<open>[(\[{])|(?P<close>[)\]}])
    |(?P<key>=>|==+|!=+|<=|>=|:=|\+=|::|\.\.|&&|\|\||[=:])
    |(?P<comma>[,;])
    |(?P<sign>.)""",
    re.X | re.S,
)
_PREFIX: Final = re.compile(r"^[A-Za-z@$]{0,2}(?=[\"'`])")
_ESCAPED: Final = re.compile(r"\\(.)", re.S)
_SIGNS_OF: Final = {"n": "\n", "t": "\t", "r": "", "e": "\x1b", "0": "\0"}
_REGEX: Final = re.compile(r"/(?![/*])(?:\\.|\[(?:\\.|[^\]\\\n])*\]|[^/\\\n\[])+/[a-z]*")
_BEFORE_REGEX: Final = frozenset("(,=:[!&|?{};\n")


class Text(str):
    """A text in quotes, with the line it stands at."""

    line: int

    def __new__(cls, value: str, line: int) -> Text:
        text = super().__new__(cls, value)
        text.line = line
        return text


class Name(Struct, frozen=True):
    """A name, with dots where it has them; a number or an operator is one too."""

    name: str
    line: int


class Item(Struct):
    """One item between two commas: its parts in order, and the key before a colon or an equals sign, where there is one."""

    parts: list[Part] = field(default_factory=list)
    key: str | None = None


class Group(Struct):
    """The contents of a pair of brackets: ``head`` is the name straight before them, a called function or a constructor."""

    bracket: str
    head: str
    line: int
    items: list[Item] = field(default_factory=list)
    statements: bool = False
    """Its items end with a line or a semicolon: a block, and no list or map."""

    def groups(self) -> Iterator[Group]:
        """Return the groups right inside, in order."""
        return (part for item in self.items for part in item.parts if isinstance(part, Group))

    def walk(self) -> Iterator[Group]:
        """Return this group and all inside it, in the order of the source."""
        waiting = [self]
        while waiting:
            group = waiting.pop()
            yield group
            waiting += reversed(list(group.groups()))


Part = Text | Name | Group


class Comment(Struct, frozen=True):
    """A comment of a line of its own."""

    text: str
    line: int


def parse(text: str) -> tuple[Group, list[Comment]]:
    """Return the whole source as one group without a bracket, and its comments; what is not closed ends with the source."""
    return _Parser(text).run()


class _Parser:
    def __init__(self, text: str) -> None:
        self._text = text
        self._comment = max(_OF_COMMENTS, key=lambda sign: len(_OF_COMMENTS[sign].findall(text)))
        self._comments: list[Comment] = []
        self._has_blocks = self._comment == "--" and re.search(r"\bfunction\b[^\n]*\(", text) is not None and "end" in text

    def run(self) -> tuple[Group, list[Comment]]:
        root = Group("", "", 1)
        stack, item = [root], _begun(root)
        line, place, before = 1, 0, "\n"
        text = self._text
        while place < len(text):
            skipped = self._skipped(place, line, before)
            if skipped is not None:
                line += text.count("\n", place, skipped)
                place = skipped
                continue
            match = _TOKEN.match(text, place)
            assert match is not None
            kind, token = match.lastgroup, match[0]
            place = match.end()
            if kind == "text" and token.startswith("[[") and self._comment != "--":
                kind, token, place = "open", "[", match.start() + 1
            item = self._add(stack, item, (str(kind), token, line), place)
            line += token.count("\n")
            if kind != "blank":
                before = "\n" if kind == "line" and before in "\n;{}" else token[-1] if kind != "line" else before
        return root, self._comments

    def _add(self, stack: list[Group], item: Item, token_at: tuple[str, str, int], place: int) -> Item:
        """Add a token to the item or the groups that are open; return the item that the next one belongs to."""
        group = stack[-1]
        kind, token, line = token_at
        if kind == "name" and self._has_blocks and token in _ENDS_BLOCK:
            return self._close(stack, _CLOSING[BLOCK], item)
        begins = kind == "name" and self._has_blocks and token in _BEGINS_BLOCK
        if kind == "open" or begins:
            inner = Group(BLOCK, "", line) if begins else Group(token, _head(item), line)
            item.parts.append(inner)
            if len(stack) < DEEPEST:
                stack.append(inner)
                return _begun(inner)
        elif kind == "close":
            return self._close(stack, token, item)
        elif kind == "comma" or (kind == "line" and _ends(group, item, self._text, place)):
            group.statements |= token != ","
            return _begun(group)
        elif kind == "key" and item.key is None and token in ("=", ":", "=>", ":="):
            item.key = _key_of(item, token)
            if item.key is None:
                item.parts.append(Name(token, line))
        elif kind == "text":
            item.parts.append(Text(_unquoted(token), line))
        elif kind in ("name", "number", "key", "sign"):
            item.parts.append(Name(token, line))
        return item

    def _skipped(self, place: int, line: int, before: str) -> int | None:
        """Return the place after a comment or a pattern that begins here; None where there is none."""
        text = self._text
        if text.startswith("/*", place) and self._comment == "//":
            end = text.find("*/", place)
            return len(text) if end < 0 else end + 2
        if text.startswith("--[[", place) and self._comment == "--":
            end = text.find("]]", place)
            return len(text) if end < 0 else end + 2
        if text.startswith(self._comment, place):
            end = text.find("\n", place)
            end = len(text) if end < 0 else end
            if not text[text.rfind("\n", 0, place) + 1 : place].strip():
                self._comments.append(Comment(text[place:end].strip("-/#; \t!<*"), line))
            return end
        if text[place] == "/" and self._comment == "//" and before in _BEFORE_REGEX:
            pattern = _REGEX.match(text, place)
            return None if pattern is None else pattern.end()
        return None

    def _close(self, stack: list[Group], token: str, item: Item) -> Item:
        """Close the innermost bracket of this kind; one that closes none is passed over."""
        for depth in range(len(stack) - 1, 0, -1):
            if _CLOSING[stack[depth].bracket] == token:
                del stack[depth:]
                outer = stack[-1].items[-1]
                block = token == "}" and stack[-1].bracket in ("", "{") and outer.key is None
                return _begun(stack[-1]) if block else outer
        return item


def _begun(group: Group) -> Item:
    if group.items and not group.items[-1].parts and group.items[-1].key is None:
        return group.items[-1]
    group.items.append(Item())
    return group.items[-1]


def _head(item: Item) -> str:
    """Return the name straight before a bracket; a name in words of code before it is none."""
    last = item.parts[-1] if item.parts else None
    return last.name if isinstance(last, Name) and (last.name[0].isalpha() or last.name[0] in "_$") else ""


def _key_of(item: Item, sign: str) -> str | None:
    """Take the parts before a colon or an equals sign as the key of an item: one text, name or [name], or the last of several
    texts in brackets, ("sheet", "save"); before an equals sign a type or a word such as "local" may stand."""
    part = item.parts[-1] if item.parts else None
    if isinstance(part, Group) and part.bracket == "[" and part.items and part.items[0].parts:
        part = part.items[0].parts[0]
    if isinstance(part, Group) and _is_tuple_of_texts(part):
        part = [item for item in part.items if item.parts][-1].parts[0]
    if part is None or isinstance(part, Group) or (sign != "=" and len(item.parts) > 1):
        return None
    item.parts.clear()
    return part if isinstance(part, Text) else part.name


def _is_tuple_of_texts(group: Group) -> bool:
    """Return True for texts in round brackets that nothing is called with."""
    items = [item for item in group.items if item.parts]
    single = all(item.key is None and len(item.parts) == 1 and isinstance(item.parts[0], Text) for item in items)
    return group.bracket == "(" and not group.head and len(items) > 1 and single


def _ends(group: Group, item: Item, text: str, place: int) -> bool:
    """Return True where a line's end is the end of a statement: in blocks and outside of brackets, unless it goes on."""
    if group.bracket not in ("", "{", BLOCK) or not (item.parts or item.key):
        return False
    last = item.parts[-1] if item.parts else None
    if last is None or (isinstance(last, Name) and not (last.name[0].isalnum() or last.name[0] in "_$")):
        return False
    return re.match(r"\s*[.?+|&)\]}:=]", text[place : place + 80]) is None


def _unquoted(token: str) -> str:
    raw = token[:2].lower().strip("\"'`")
    token = _PREFIX.sub("", token)
    for mark in ('"""', "'''", "[["):
        if token.startswith(mark):
            return token[len(mark) : -len(mark)]
    body = token[1:-1]
    return body if "r" in raw else _ESCAPED.sub(lambda match: _SIGNS_OF.get(match[1], match[1]), body)
