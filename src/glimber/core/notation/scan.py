"""One spelt trigger into the chords of our notation: modifiers in any order and with any sign between, then a key, and so on."""

from __future__ import annotations

import re
from typing import Final

from msgspec import Struct, field

from glimber.core.notation.keycodes import CODES, MODIFIERS, NAMED_KEYS
from glimber.core.notation.keys import NotationError
from glimber.core.notation.keywords import GLYPHS, LETTERS, LETTERS_IN_BRACKETS, key_named, modifier_named
from glimber.core.notation.nearest import did_you_mean

LONGEST_RUN: Final = 4
_MODIFIER: Final = re.compile(
    r"(?:(?:left|right)[ _-]?)?(?:alt[ _-]?gr(?:aph)?|control|ctrl|ctl|strg|primary|secondary|tertiary|level4|accel|"
    r"cmdorctrl|commandorcontrol|alt|option|opt|shift|shft|umschalttaste|umschalt|steuerung|maj|mayús|mayus|skift|maiuscol[oe]|maiusc|super|windows|win|meta|cmd|command|hyper|\$?mod[145]?|logo|iso_level3_shift)(?:_[lr])?"
    r"(?![A-Za-z0-9])",
    re.I,
)
_LATE: Final = re.compile(r"(?:\s*\+\s*(?:ctrl|control|alt|shift|super|meta|cmd|command|option))+\s*$", re.I)
_BETWEEN: Final = re.compile(r"[ \t]*\+[ \t]*|[-–_](?=\S)|[ \t]+(?:\+[ \t]*)?")
_WORDS: Final = re.compile(r"[^\W\d_][^\W_]*(?:[ _-]?[^\W\d_][^\W_]*){0,2}")
_SUFFIX: Final = re.compile(r"[ _-](?:arrow[ _-])?(?:keys?|taste|button)(?![A-Za-z])", re.I)
_PAD: Final = re.compile(
    r"(?:num(?:eric|ber)?[ _-]?(?:pad|key[ _-]?pad)?|key[ _-]?pad|kp|np)[ _-]*(?:key[ _-]*)?"
    r"([0-9](?![0-9])|[+*/.×÷−-](?=\s|$|,)|plus|add|minus|subtract|multiply|divide|decimal|enter)(?![A-Za-z])", re.I,
)  # fmt: skip
_PAD_SIGNS: Final = {
    "+": "NumAdd", "plus": "NumAdd", "add": "NumAdd", "-": "NumSubtract", "−": "NumSubtract", "minus": "NumSubtract",
    "subtract": "NumSubtract", "*": "NumMultiply", "×": "NumMultiply", "multiply": "NumMultiply", "/": "NumDivide",
    "÷": "NumDivide", "divide": "NumDivide", ".": "NumDecimal", "decimal": "NumDecimal", "enter": "NumEnter",
}  # fmt: skip
_ANGLE: Final = re.compile(r"<([^<>\s][^<>]{0,28})>")
_EVENT: Final = re.compile(r"(?<![A-Za-z])Key(?:Press)?-")
"""The kind of event in a pattern such as <Control-Key-x>. Source: the Tk manual, "bind", event patterns."""
_SQUARE: Final = re.compile(r"\[([^\[\]]{1,20})\]")
_LETTER: Final = re.compile(r"([CcMmASsHW])-(?=\S)")
_CAPITALS: Final = re.compile(r"[A-Z]{2,9}(?![A-Za-z])")
_NO_RUNS: Final = frozenset("key keys or and to the of is then with for by no yes all any see new".split())
_LEAVES: Final = frozenset(" \t,")
_ARROWS: Final = {"↑": "Up", "↓": "Down", "←": "Left", "→": "Right", "⇥": "Tab", "⏎": "Enter", "↵": "Enter", "⌫": "Backspace",
                  "⌦": "Delete", "␣": "Space", "⇞": "PageUp", "⇟": "PageDown", "⎋": "Escape", "↩": "Enter", "⌤": "Enter",
                  "−": "-", "⇪": "CapsLock", "🠕": "Up", "⭠": "Left", "⭢": "Right", "↖": "Home", "↘": "End"}  # fmt: skip


def _lone_modifier(inner: str) -> str | None:
    """Return the modifier that stands in brackets; <Control-l> is no left Control but a chord."""
    return None if _is_chord(inner) else modifier_named(inner)


def _is_chord(inner: str) -> bool:
    parts = re.match(r"(\w+)\s*[+-]\s*\S", inner)
    return parts is not None and modifier_named(parts[1]) is not None


class Scan(Struct):
    """The chords of one trigger. ``whole`` is what faults name; ``capitals``: whether a capital alone needs Shift;
    ``held_capitals``: the modifiers that make it need Shift where one of them alone is held."""

    text: str
    whole: str
    capitals: bool = False
    held_capitals: frozenset[str] = frozenset()
    chords: list[str] = field(default_factory=list)

    def run(self) -> list[str]:
        """Return the chords as texts. Raises NotationError at the place where it cannot be read."""
        at, held = 0, list[str]()
        text = self.text
        while at < len(text):
            if text[at] in " \t" or (held and text[at] == "+" and at + 1 < len(text) and text[at + 1] not in " \t+"):
                at += 1
                continue
            step = self._modifier(at, held)
            if step is None:
                key, at = self._key(at, held)
                self.chords.append("+".join([*dict.fromkeys(held), key]))
                held = []
                at = self._after(at)
            else:
                at = step
        if held:
            self._lone(held)
        if not self.chords:
            raise self._fault(0, "keys")
        return self.chords

    def _fault(self, at: int, expected: str) -> NotationError:
        return NotationError(self.whole, max(0, self.whole.find(self.text)) + min(at, len(self.text)), expected)

    def _lone(self, held: list[str]) -> None:
        """Modifiers with nothing after them are a key only where there is one of them and no plus."""
        if self.chords or len(held) > 1 or self.text.rstrip().endswith("+"):
            raise self._fault(len(self.text), "a key after the modifiers")
        self.chords.append(held[0])

    # Modifiers

    def _modifier(self, at: int, held: list[str]) -> int | None:
        """Take a modifier; where it ends, or None where none begins here."""
        text = self.text
        if text[at] in GLYPHS and at + 1 < len(text):
            held.append(GLYPHS[text[at]])
            return self._skip_between(at + 1)
        if text[at] == "^" and at + 1 < len(text) and text[at + 1] not in " \t,":
            rest = text[at + 1 :]
            word = _CAPITALS.match(rest)
            if len(rest) == 1 or rest[1] in " \t," or (word is not None and key_named(word[0], marked=True) is not None):
                held.append("Ctrl")
                return at + 1
        for brackets in (_ANGLE, _SQUARE):
            match = brackets.match(text, at)
            if match is not None and (name := _lone_modifier(match[1])) is not None and self._goes_on(match.end()):
                held.append(name)
                return self._skip_between(match.end())
        return self._modifier_in_words(at, held) if at == 0 or text[at - 1] in " \t-+," else None

    def _modifier_in_words(self, at: int, held: list[str]) -> int | None:
        """Take a modifier by its letter or name; where it ends, or None where none begins here."""
        text = self.text
        letter = _LETTER.match(text, at)
        if letter is not None:
            held.append(LETTERS[letter[1]])
            return letter.end()
        match = _MODIFIER.match(text, at)
        name = modifier_named(match[0]) if match is not None else None
        if match is None or name is None:
            return None
        suffix = _SUFFIX.match(text, match.end())
        end = suffix.end() if suffix is not None else match.end()
        if end < len(text) and not _BETWEEN.match(text, end) and text[end] not in GLYPHS:
            return None
        held.append(name)
        return self._skip_between(end)

    def _goes_on(self, at: int) -> bool:
        return at < len(self.text)

    def _skip_between(self, at: int) -> int:
        match = _BETWEEN.match(self.text, at)
        if match is None:
            return at
        if match.end() == len(self.text) and "+" in match[0]:
            raise self._fault(at, "a key after the plus")
        return match.end()

    # Keys

    def _key(self, at: int, held: list[str]) -> tuple[str, int]:
        """Return the key that begins here, and where it ends."""
        text = self.text
        for reader in (self._in_angles, self._in_squares, self._named):
            found = reader(at, held)
            if found is not None:
                return found
        char = text[at]
        if char in _ARROWS:
            return _ARROWS[char], at + 1
        if not char.isprintable():
            raise self._fault(at, "a key")
        end = at + 1
        if end < len(text) and text[end] not in _LEAVES:
            return self._of_run(at, held)
        return self._letter(char, held, self.capitals), end

    def _letter(self, char: str, held: list[str], capitals: bool) -> str:
        if not (char.isalpha() and char.isascii()):
            return char
        if len(held) == 1 and held[0] in self.held_capitals and char.isupper():
            return f"Shift+{char}"
        if held:
            return char.upper()
        return f"Shift+{char}" if capitals and char.isupper() else char.lower()

    def _in_angles(self, at: int, held: list[str]) -> tuple[str, int] | None:
        match = _ANGLE.match(self.text, at)
        if match is None:
            return None
        inner = _EVENT.sub("", match[1])
        prefixes = re.match(r"(?:[A-Za-z]-)*(?=.)", inner)
        assert prefixes is not None
        letters = prefixes[0][::2]
        if all(letter.lower() in LETTERS_IN_BRACKETS for letter in letters) and not _is_chord(inner):
            mods = [LETTERS_IN_BRACKETS[letter.lower()] for letter in letters]
            rest = inner[prefixes.end() :]
            key = rest if len(rest) == 1 else key_named(rest, marked=True) or _lone_modifier(rest)
            if key is not None:
                single = self._letter(key, [*held, *mods], self.capitals) if len(key) == 1 else key
                return "+".join([*(mod for mod in mods if mod not in held), single]), match.end()
        chord = self._chord(inner)
        if chord is None:
            raise self._fault(at, f"a key in place of <{inner}>")
        return chord, match.end()

    def _chord(self, inner: str) -> str | None:
        """Return a chord within brackets: <Ctrl+Right>, <Alt-F4>."""
        spelt = re.fullmatch(r"((?:\w+\s*[+-]\s*)+)(\S.*)", inner)
        if spelt is None:
            return None
        names = [modifier_named(name) for name in re.split(r"\s*[+-]\s*", spelt[1])[:-1]]
        key = spelt[2] if len(spelt[2]) == 1 else key_named(spelt[2], marked=True)
        if key is None or not all(names):
            return None
        return "+".join([*(name for name in names if name), self._letter(key, ["x"], False) if len(key) == 1 else key])

    def _in_squares(self, at: int, held: list[str]) -> tuple[str, int] | None:
        """Return a key cap drawn with brackets, or one of our own places."""
        match = _SQUARE.match(self.text, at)
        if match is None:
            return None
        inner = match[1].strip()
        if inner in CODES and inner not in NAMED_KEYS:
            return f"[{inner}]", match.end()
        key = self._chord(inner) if _is_chord(inner) else key_named(inner, marked=True) or modifier_named(inner)
        if key is None and len(inner) == 1 and (held or "][" in self.text or "]+[" in self.text):
            key = self._letter(inner, held, self.capitals)
        return (key, match.end()) if key is not None else None

    def _named(self, at: int, held: list[str]) -> tuple[str, int] | None:
        text = self.text
        pad = _PAD.match(text, at)
        if pad is not None:
            sign = pad[1].lower()
            return self._past_suffix(_PAD_SIGNS.get(sign) or f"Num{sign}", pad.end())
        words = _WORDS.match(text, at)
        if words is None:
            return None
        ends = [words.end()]
        ends += [at + place.start() for place in reversed(list(re.finditer(r"[ _-]", words[0])))]
        for end in ends:
            word = text[at:end]
            if len(word) == 1:
                continue
            key = key_named(word, marked=bool(held))
            if key is not None and (end == len(text) or not (text[end].isalnum() or text[end] == "_")):
                return self._past_suffix(key, end)
        return None

    def _past_suffix(self, key: str, end: int) -> tuple[str, int]:
        suffix = _SUFFIX.match(self.text, end)
        return key, suffix.end() if suffix is not None else end

    def _of_run(self, at: int, held: list[str]) -> tuple[str, int]:
        """Return a key of several that are written without anything between: "gg", "zO", "g?", "y.p"; each is a step."""
        end = at
        text = self.text
        while end == at or (end < len(text) and text[end] not in _LEAVES and text[end] != "<"):
            end += 1
        run = text[at:end]
        if run.lower() in _NO_RUNS or run.isdigit() or (run[0] in "$#" and len(run) > 2):
            raise self._fault(at, "a key")
        before = not self.chords or text[at - 1] == ">"
        if held or len(run) > LONGEST_RUN or "+" in run[1:-1] or not before:
            word = run.partition("+")[0]
            message = f"a modifier ({', '.join(MODIFIERS)}){did_you_mean(word, MODIFIERS)}"
            raise self._fault(at, message if "+" in run else "a key")
        for char in run[:-1]:
            self.chords.append(_ARROWS.get(char) or self._letter(char, [], True))
        return _ARROWS.get(run[-1]) or self._letter(run[-1], [], True), end

    def _after(self, at: int) -> int:
        """Return what may come after a key: an end, a blank before the next step, or another key in brackets."""
        text = self.text
        late = _LATE.match(text, at)
        if late is not None:  # "Home+Shift": the modifiers come after the key
            held = [name for word in late[0].split("+") if (name := modifier_named(word.strip())) is not None]
            self.chords[-1] = "+".join([*dict.fromkeys(held), self.chords[-1]])
            return late.end()
        if at < len(text) and text[at] not in _LEAVES and text[at] != "<" and text[at - 1] != ">":
            raise self._fault(at, "a blank or the end after the key")
        return at
