"""Finds the line of a key path in a TOML text: tomllib forgets lines once it has parsed.

Only texts that tomllib has accepted are scanned, so the scanner need not know what is wrong TOML.
"""

from __future__ import annotations

import re
from collections.abc import Mapping

Path = tuple[str | int, ...]

_BARE = re.compile(r"[A-Za-z0-9_-]+")
_SCALAR = re.compile(r"[^,\]}\n#]+")


class Locator:
    """Lines of every key path of a TOML text."""

    def __init__(self, text: str) -> None:
        self.lines: Mapping[Path, int] = _Scanner(text).scan()

    def line(self, path: Path) -> int:
        """Line of the path, or of the nearest enclosing one; 1 where nothing of it is in the text."""
        for length in range(len(path), 0, -1):
            if path[:length] in self.lines:
                return self.lines[path[:length]]
        return 1


class _Scanner:
    def __init__(self, text: str) -> None:
        self.text, self.at, self.line = text, 0, 1
        self.found: dict[Path, int] = {}
        self.counts: dict[Path, int] = {}

    def scan(self) -> dict[Path, int]:
        table: Path = ()
        while self._blank(newlines=True):
            if self._peek("[["):
                self._skip(2)
                line = self.line
                keys = self._keys()
                self._skip(2)
                array = self._under(keys[:-1]) + keys[-1:]
                self.counts[array] = self.counts.get(array, -1) + 1
                table = (*array, self.counts[array])
                self.found.setdefault(array, line)
                self.found[table] = line
            elif self._peek("["):
                self._skip(1)
                line = self.line
                table = self._under(self._keys())
                self._skip(1)
                self.found.setdefault(table, line)
            else:
                self._pair(table)
        return self.found

    def _under(self, keys: Path) -> Path:
        """Return the path of a header, with the index of the newest element at every array of tables on the way."""
        path: Path = ()
        for key in keys:
            path = (*path, key)
            if path in self.counts:
                path = (*path, self.counts[path])
        return path

    def _pair(self, table: Path) -> None:
        line = self.line
        keys = self._keys()
        path = table
        for key in keys:
            path = (*path, key)
            self.found.setdefault(path, line)
        self._blank()
        self._skip(1)  # the equals sign
        self._blank()
        self._value(path)

    def _value(self, path: Path) -> None:
        self.found.setdefault(path, self.line)
        if self._peek('"') or self._peek("'"):
            self._string()
        elif self._peek("["):
            self._skip(1)
            index = 0
            while self._blank(newlines=True) and not self._peek("]"):
                self.found[(*path, index)] = self.line
                self._value((*path, index))
                index += 1
                self._blank(newlines=True)
                if self._peek(","):
                    self._skip(1)
            self._skip(1)
        elif self._peek("{"):
            self._skip(1)
            while self._blank(newlines=True) and not self._peek("}"):
                self._pair(path)
                self._blank(newlines=True)
                if self._peek(","):
                    self._skip(1)
            self._skip(1)
        else:
            match = _SCALAR.match(self.text, self.at)
            self._skip(len(match.group()) if match else 1)

    def _keys(self) -> Path:
        keys: list[str] = []
        while True:
            self._blank()
            if self._peek('"') or self._peek("'"):
                keys.append(self._string())
            else:
                match = _BARE.match(self.text, self.at)
                keys.append(match.group() if match else "")
                self._skip(max(1, len(keys[-1])))
            self._blank()
            if not self._peek("."):
                return tuple(keys)
            self._skip(1)

    def _string(self) -> str:
        quote = self.text[self.at]
        if self.text.startswith(quote * 3, self.at):
            self._skip(3)
            begin = self.at
            while not self.text.startswith(quote * 3, self.at):
                self._skip(2 if quote == '"' and self._peek("\\") else 1)
            while self.text.startswith(quote * 4, self.at):
                self._skip(1)
            body = self.text[begin : self.at]
            self._skip(3)
            return body
        self._skip(1)
        begin = self.at
        while not self._peek(quote):
            self._skip(2 if quote == '"' and self._peek("\\") else 1)
        body = self.text[begin : self.at]
        self._skip(1)
        return body

    def _blank(self, newlines: bool = False) -> bool:
        """Skip blanks, and with ``newlines`` line ends and comments too; False at the end of the text."""
        while self.at < len(self.text):
            char = self.text[self.at]
            if char in " \t" or (newlines and char in "\r\n"):
                self._skip(1)
            elif newlines and char == "#":
                end = self.text.find("\n", self.at)
                self._skip((len(self.text) if end < 0 else end) - self.at)
            else:
                return True
        return False

    def _peek(self, token: str) -> bool:
        if self.at >= len(self.text):
            raise ValueError("the text ends within a value")
        return self.text.startswith(token, self.at)

    def _skip(self, count: int) -> None:
        self.line += self.text.count("\n", self.at, self.at + count)
        self.at += count
