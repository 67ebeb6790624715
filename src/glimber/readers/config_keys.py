"""Find the keys in lines of a configuration, judged by all lines of a shape, and make rows of them."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from itertools import islice, product
from typing import Final

from glimber.core.notation.keywords import key_named
from glimber.core.notation.spelling import Ways
from glimber.readers.config_lines import ConfigLine, unquoted
from glimber.readers.evidence import alternates, evidence
from glimber.readers.found import Found
from glimber.readers.lineeditor import keys_of

_AFTER_LETTERS: Final = re.compile(r"\s*\([^()]*\)$")
_ANSWERS: Final = frozenset("y n t f".split())
LEAST_LETTERS: Final = 4
MOST_CHOICES: Final = 60
_CHOICES: Final = re.compile(r"\{[^{}]*\}")
"""Choices in braces; a brace alone is a key."""
_NESTED: Final = re.compile(r"<((?:[A-Za-z]-)+)<(\w+)>>")
"""A named key in brackets of its own: "<C-<home>>"."""
_EITHER_WAY: Final = re.compile(r"~[SCMA]-")
"""A modifier that may be held or not, as in translation tables of X toolkits."""
_CASED: Final = Ways("alternates", True)
_TRAILING: Final = re.compile(r"\s+#\s.*$")
_SAYS: Final = frozenset({"-docstring", "-desc", "--description", "-N"})
_CHORD_SET: Final = re.compile(
    r"^(?:<(?:super|ctrl|control|primary|alt|shift|mod\d)>\s*)+\S|\bKEY_[A-Z0-9]|\b(?:ctrl|alt|super|shift|meta)\+\S", re.I
)
_NO_KEYS: Final = ("none", "disabled", "default")
"""What stands for keys where a command has none, or those that it came with."""
_MOST_LOOKED_AT: Final = 600


def key_place(form: str, lines: Sequence[ConfigLine]) -> int | None:
    """Return at which place lines of a shape have their keys; None where they have none."""
    if form in ("below", "commas", "copy", "unbind"):
        return 0
    if form == "colon":
        return 0 if _look(lines, 0)[0] >= 0.3 else None
    if form.startswith("quoted"):
        left, right = (_look(lines, place)[0] for place in (0, 1))
        return (0 if left >= right else 1) if max(left, right) >= 0.5 else None
    if form == "pair" and _are_letters(lines):
        return 1
    if form == "pair of keys":  # named so among settings of all kinds: fewer of them need look like keys
        keyed = [line for line in lines if evidence(line.parts[1]) or line.parts[1].lower() in _NO_KEYS or not line.parts[1]]
        return 1 if len(keyed) >= 0.7 * len(lines) and any(evidence(line.parts[1]) == 2 for line in keyed) else None
    if form == "pair among keys":
        return key_place("pair of keys", lines) or _place_by_looks(form, lines[:_MOST_LOOKED_AT])
    if form == "pair":
        lines = [line for line in lines if line.parts[1].lower() not in _NO_KEYS] or lines
    return _place_by_looks(form, lines[:_MOST_LOOKED_AT])


def sets_chord(line: ConfigLine) -> bool:
    """Return True for a name that is set to what can be nothing but keys, among settings of all kinds: a chord with a modifier in
    brackets or joined to its key, or a constant of a key."""
    return line.form == "pair" and _CHORD_SET.search(line.parts[1]) is not None and evidence(line.parts[1]) == 2


def _place_by_looks(form: str, lines: Sequence[ConfigLine]) -> int | None:
    sure = form.startswith(("verb", "colons"))
    looks = [_look(lines, place) for place in range(3 if sure else 2)]
    best = max(range(len(looks)), key=lambda place: (looks[place][0] + looks[place][1], -place))
    if sure:
        return best if looks[best][0] > 0.3 and looks[0][0] < 0.5 else 0
    share, strong = looks[best]
    if form.startswith("repeated"):
        return best if share >= 0.5 else None
    if share >= 0.6 and strong >= 0.2 and strong * len(lines) >= 2:
        return best
    # Keys and commands with a blank between, nearly all of the keys mere letters.
    letters = {line.parts[0] for line in lines if len(line.parts[0]) == 1}
    of_letters = form in ("blank", "pair", "pair among keys") and looks[0][0] >= 0.85 and len(letters) >= 5
    return 0 if of_letters and looks[0][1] > 0 else None


def _look(lines: Sequence[ConfigLine], place: int) -> tuple[float, float]:
    """Return the share of lines with keys at a place, and of those that have one there the share that only keys look like."""
    seen = [evidence(_keys_at(line, place)) for line in lines if len(line.parts) > place + (place == 0)]
    return sum(one > 0 for one in seen) / len(lines), sum(one == 2 for one in seen) / len(seen) if seen else 0.0


def _are_letters(lines: Sequence[ConfigLine]) -> bool:
    """Return True for names that are nearly all set to letters or to keys by name: "help = h ?", "quit = q"; answers are none."""
    rights = [_AFTER_LETTERS.sub("", line.parts[1]).split() for line in lines]
    keys = [right for right in rights if right and all(_is_one_key(word) for word in right)]
    letters = {word for right in keys for word in right if len(word) == 1}
    names = [line for line in lines if re.fullmatch(r"[A-Za-z][\w.-]{2,}(?: [\w.-]+)*", line.parts[0])]
    enough = len(keys) >= max(LEAST_LETTERS, 0.85 * len(lines)) and len(names) >= 0.85 * len(lines)
    return enough and len(letters - _ANSWERS) >= LEAST_LETTERS - 1


def _is_one_key(word: str) -> bool:
    sign = (len(word) == 1 and not word.isdigit()) or re.fullmatch(r"<\d>", word) is not None
    return sign or key_named(word, marked=True) is not None


def _keys_at(line: ConfigLine, place: int) -> str:
    if line.form == "blank" and place == 1:
        return " or ".join(map(unquoted, line.parts[1:6]))  # a name, then its keys
    return unquoted(line.parts[place]) if place < len(line.parts) else ""


def take(line: ConfigLine, place: int | None, found: Found, known: dict[str, str]) -> None:
    """Add a line's row to what was found, or say why it has none. ``known``: the commands of keys so far, for copies of them."""
    taken = _TAKERS.get(line.form)
    if taken is not None:
        taken(line, found, known)
    elif place is None:
        found.leave(" ".join(line.parts), line.number, "it binds no key")
    elif line.form.startswith("pair"):
        _take_pair(line, place, found)
    elif line.form == "colon":
        _take_colon(line, found)
    elif line.form == "blank" and place == 1:
        keys = " or ".join(_escaped(unquoted(part)) for part in line.parts[1:])
        found.add(line.parts[0], keys, line.group, line.number, _CASED)
    elif len(line.parts) > place + 1:
        _take_command_after(line, place, found, known)
    else:
        found.leave(" ".join(line.parts), line.number, "no command beside these keys")


def _take_below(line: ConfigLine, found: Found, known: dict[str, str]) -> None:
    if _CHOICES.search(line.parts[0]) is None:
        _take_command_after(line, 0, found, known)
        return
    for keys, does in zip(braces(line.parts[0]), braces(line.parts[1]), strict=False):
        found.add(does, keys, line.group, line.number, _CASED)


def _take_unbinding(line: ConfigLine, found: Found, known: dict[str, str]) -> None:
    found.leave(" ".join(line.parts), line.number, "it takes a binding away")


def _take_copy(line: ConfigLine, found: Found, known: dict[str, str]) -> None:
    command = known.get(line.parts[0])
    name = f"{command} (as {line.parts[0]})" if command else f"as {line.parts[0]}"
    for keys in line.parts[1:]:
        found.add(name, keys, line.group, line.number, _CASED)
        known[keys] = command or name


_TAKERS: Final[dict[str, Callable[[ConfigLine, Found, dict[str, str]], None]]] = {
    "below": _take_below,
    "unbind": _take_unbinding,
    "copy": _take_copy,
}


def _take_pair(line: ConfigLine, place: int, found: Found) -> None:
    command, keys = line.parts[1 - place], line.parts[place]
    if len(_AFTER_LETTERS.sub("", keys)) == 1:
        keys = keys[0]  # what stands in brackets after a single key is a note
    several = [part.strip() for part in keys.split(";")]
    keys = " or ".join(several) if len(several) > 1 and all(map(evidence, several)) else _marked(keys)
    if line.form == "pair" and place == 1 and (keys == "\\" or (keys.isdigit() and keys not in command)):
        found.leave(" ".join(line.parts), line.number, "a number" if keys.isdigit() else "it goes on in the next line")
        return
    if keys.lower() == "default":
        found.leave(" ".join(line.parts), line.number, "the keys it came with, which are not given here")
        return
    if keys and not evidence(keys) and keys.lower() not in _NO_KEYS:
        found.leave(" ".join(line.parts), line.number, "neither side is spelt like keys")
        return
    spaced = alternates(re.sub(r"(?<=\S),(?=\S)", ", ", keys))
    # Whether a letter alone that is set for a name is struck with Shift, all such letters tell.
    ways = None if "+" in keys or (place == 1 and len(keys) == 1) else _CASED
    found.add(_plain(command), spaced, line.group, line.number, ways, note=line.note)


def _take_colon(line: ConfigLine, found: Found) -> None:
    if evidence(line.parts[0]):
        found.add(_plain(line.parts[1]), line.parts[0], line.group, line.number, _CASED)
    else:
        found.leave(" ".join(line.parts), line.number, "it binds no key")


def _take_command_after(line: ConfigLine, place: int, found: Found, known: dict[str, str]) -> None:
    rest = line.parts[place + 1 :]
    described = next((unquoted(rest[at + 1]) for at, one in enumerate(rest[:-1]) if one in _SAYS), "")
    rest = (described,) if described else rest
    last = rest[-1]
    command = unquoted(last) if len(rest) > 1 and last[0] == '"' and rest[-2][0] in '"<' else " ".join(rest)
    group = line.group if place == 0 else unquoted(line.parts[0])
    found.add(_plain(command), _escaped(unquoted(line.parts[place])), group, line.number, _CASED)
    known[line.parts[place]] = _plain(command)


def braces(text: str) -> list[str]:
    """Return what a text with choices in braces stands for: "super + {q,w}", "{_,shift + }{1-9,0}"; without any, itself each
    time."""
    parts = re.split(r"\{([^{}]*)\}", text)
    if len(parts) == 1:
        return [text] * MOST_CHOICES
    choices: list[list[str]] = []
    for place, part in enumerate(parts):
        if place % 2 == 0:
            choices.append([part])
            continue
        found: list[str] = []
        for one in part.split(","):
            ends = re.fullmatch(r"\s*(\w)-(\w)\s*", one)
            found += [chr(code) for code in range(ord(ends[1]), ord(ends[2]) + 1)] if ends is not None else [one]
        choices.append(["" if one.strip() == "_" else one for one in found])
    return ["".join(one) for one in islice(product(*choices), MOST_CHOICES)]


def _marked(keys: str) -> str:
    """Return names of signs that stand alone, such as "question", in brackets: here they can be nothing else."""
    parts = [part.strip() for part in keys.split(";")]
    marked = [
        f"<{part}>" if len(part) > 1 and key_named(part, marked=True) and not key_named(part) else part
        for part in parts
    ]
    return "; ".join(marked) if marked != parts else keys


def _plain(command: str) -> str:
    command = _TRAILING.sub("", re.sub(r"(?i)<cr>$|<enter>$", "", command.strip())).strip()
    if command.startswith("{ ") and command.endswith(" }"):
        command = command[2:-2].strip()
    return unquoted(command) or command


def _with_alt(char: str) -> str:
    return f"Alt+{char}" if char in "<>" else f"<A-{char}>"


def _escaped(keys: str) -> str:
    r"""Return keys that are written with a backslash: ``\Cx``, ``\C-x``, ``\ex``, ``\t``."""
    keys = _EITHER_WAY.sub("", _NESTED.sub(r"<\1\2>", keys))
    keys = {"BS": "<BS>", "DEL": "<Del>", "INS": "<Ins>", "SHARP": "#"}.get(keys, keys)
    if "\\" not in keys or len(keys) == 1:
        return keys
    if re.fullmatch(r"\\[^\w\s]", keys):
        return keys[1]
    keys = re.sub(r"(?<=\\e)\\(?=[^\w\s\[])", "", keys)  # a sign that the shell would take for its own
    if re.search(r"\\e(?:\\?\[|O)|\\x1b", keys):
        return keys_of(re.sub(r"\\([\[;])", r"\1", keys.replace("\\x1b", "\\e"))) or keys
    found = re.sub(r"\\C-?(.)|\\c(.)(?=$|\\)", lambda match: f"<C-{match[1] or match[2]}>", keys)
    found = re.sub(r"\\e(?!\[|O)(.)|\\M-(.)", lambda match: _with_alt(match[1] or match[2]), found)
    return re.sub(r"\\t", "<Tab>", re.sub(r"\\[rn]", "<Enter>", found))
