"""Configuration lines: a word such as ``map`` or ``bind`` with keys and a command, ``KEYS = command``, ``NAME = keys``, or keys
and a command with a blank between; sections and modes are groups."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Sequence
from typing import Final

from glimber.core.notation.keywords import modifier_named
from glimber.readers.config_keys import braces, key_place, sets_chord, take
from glimber.readers.config_lines import PAIR, TOKEN, ConfigLine, form_of, unquoted
from glimber.readers.config_shapes import as_bind_lines
from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.heads import NAME_OF_KEYS
from glimber.readers.reader import Reader

_COMMENT: Final = re.compile(r"^\s*(?:#|//|;|!|%(?=\s|%|[a-z])|\"(?!.*\"\s*[:=])|--)")
_SECTION: Final = re.compile(
    r"^\s*\[+\s*([^\]\[=]{1,120}?)\s*\]+\s*$|^\s*(?:mode|submap|block|keymap|section)\s+"
    r"(?:[\"']([^\"'{]+)[\"']|([^\s\"'{]+|(?<=section\s)[^\"'{]+?))\s*\{?\s*$",
    re.I,
)
_TITLE: Final = re.compile(r"^\s*(?:#|//|;|--|\")+\s*[=~*#-]*\s*([A-Z][^=#*]{2,48}?)\s*:?\s*[=~*#-]*$")
_BINDS: Final = re.compile(
    r"^\s*(?:[a-z]+\s+(?=keybind))?(?:[a-z]*(?:nore)?map!?|bind\w*(?:-key)?|keybind|hotkey)\s+\S+\s+\S", re.I
)
_HIDDEN: Final = re.compile(
    r"^\s*(?:[#;\"]+:?)((?:\s*(?:map|bind\w*(?:-key)?|keybind|[nivx]?map)\s+\S+\s+\S.*|def_key\s+\S.*)|\s{2,}[a-z_]+)$"
)
_HIDDEN_VALUE: Final = re.compile(r"^\s*[#;]\s?([A-Za-z][\w.-]*\s*[=:]\s*\S.*)$")
_KEYS_BEFORE: Final = re.compile(r"^\s*[#;]\s?((\S[^=]{0,40}?)\s*=\s*[a-z][\w-]+)\s*$")
"""A commented binding whose keys come first: "#<ctrl>o = open"."""
_COMMENT_BEHIND: Final = re.compile(r"([A-Za-z][\w.-]*\s*=(?:[^\"';]|\"[^\"]*\"|'[^']*')*?)\s+[;#]\s+(\S.*)$")
_QUOTED_COMMAND: Final = re.compile(r"\"[^\"]+\"$|\".*\"$")
_ALONE: Final = re.compile(r"^(?:def_key|bind|map|key|hotkey)\s+(\"[^\"]+\"|'[^']+'|\S+)$", re.I)
_SETS: Final = re.compile(r"^\s*(?:set\s+|set-variable\s+)?(\$\w+)\s*=?\s*(\S.*?)\s*$")
_NAMES_MODIFIERS: Final = re.compile(r"^[\s#:]*([a-z]+_mod|[a-z]*mod[a-z]*)\s+([A-Za-z]+(?:\+[A-Za-z]+)*)\s*$")
_PREFIX: Final = re.compile(
    r"^\s*(?:set(?:-option)?\s+(?:-\w+\s+)*prefix\s+[\"']?(\S+?)[\"']?|escape\s+[\"']?(\^.|\S)\S?[\"']?)\s*(?:#.*)?$"
)
_AFTER_PREFIX: Final = re.compile(
    r"^(\s*bind(?:-key)?\s+)((?:-\w+\s+(?:[a-z-]+\s+(?=\S+\s))?)*)(\"[^\"]+\"|'[^']+'|\S+)\s+(\S.*)$"
)
_ROOT: Final = re.compile(r"(?:^|\s)-(?:n|T)\b")
_WORD: Final = re.compile(r"[A-Za-z][\w-]+")
LEAST_REPEATED: Final = 6
_ALIKE: Final = 2
_ASSIGNS: Final = re.compile(r"^\s*(?:local\s+)?([A-Za-z]\w*)=([A-Za-z0-9]+)\s*(?:#.*)?$")
LONGEST_LINE: Final = 1_500
_MOST_LINES: Final = 12
"""Lines of one command at most."""


def read(data: bytes, options: Options) -> Found:
    """Read the lines of a configuration."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if not text.strip():
        return found.fail("the file is empty; expected lines such as: map F2 add-sounding")
    written = led(text).splitlines()
    shaped = as_bind_lines(written)
    found.join(written, shaped)
    raw = _with_prefix(_with_values(_uncommented(shaped)))
    lines = _with_stems(_with_equal_signs(_lines(raw, found)))
    by_form: dict[str, list[ConfigLine]] = defaultdict(list)
    for line in lines:
        by_form[line.form].append(line)
    keyed = {form: key_place(form, alike) for form, alike in by_form.items()}
    known: dict[str, str] = {}
    for line in lines:
        place = keyed[line.form]
        take(line, 1 if place is None and sets_chord(line) else place, found, known)
    if not found.any:
        found.fail("no line binds a key to a command")
    return found


def _with_stems(lines: Sequence[ConfigLine]) -> list[ConfigLine]:
    """Return lines such as "save ^K S" with their two keys as steps, where several begin with the same one: else a name has
    alternates behind it. Letters that are all capitals are keys without Shift, as the one behind "^" is."""
    stemmed = [line for line in lines if _is_stemmed(line)]
    stems = Counter(line.parts[1] for line in stemmed)
    printed = not any(line.parts[2].islower() for line in stemmed)
    return [_in_steps(line, printed) if _is_stemmed(line) and stems[line.parts[1]] >= _ALIKE else line for line in lines]


def _in_steps(line: ConfigLine, printed: bool) -> ConfigLine:
    name, stem, key = line.parts
    return ConfigLine(line.number, line.form, (name, f"{stem} {key.lower() if printed else key}"), line.group)


def _is_stemmed(line: ConfigLine) -> bool:
    """Return True for a name with a control character and one more key."""
    if line.form != "blank" or len(line.parts) != 3:
        return False
    return len(line.parts[1]) == 2 and line.parts[1][0] == "^" and len(line.parts[2]) == 1


def _with_equal_signs(lines: Sequence[ConfigLine]) -> list[ConfigLine]:
    """Read lines such as "zoom_reset =" among many with a name and its keys: there the sign is a key, and sets nothing."""
    forms = [line.form for line in lines]
    if forms.count("blank") < 4 * max(3, forms.count("pair")):
        return list(lines)
    return [
        ConfigLine(line.number, "blank", (line.parts[0], "="), line.group) if line.form == "pair" and not line.parts[1] else line
        for line in lines
    ]


def led(text: str) -> str:
    """Return the text with the key that stands for ``<leader>`` in its place: as it is set there, else the backslash."""
    if "leader>" not in text.lower():
        return text
    match = re.search(r"map(?:local)?leader\s*=\s*[\"'](\\?[^\"']|<[^>]+>)[\"']", text)
    key = match[1] if match is not None else "<Bslash>"
    return re.sub(r"(?i)<(?:local)?leader>", lambda _: "<Space>" if key == " " else key, text)


def _with_prefix(raw: list[str]) -> list[str]:
    """Return lines with the prefix in front of the keys that follow it, where one is set: ``set -g prefix C-a``, ``escape ^Aa``.

    Keys of the root table (``-n``, ``-T``) and those of ``bindkey`` are struck without it.
    """
    match = next((match for line in raw if (match := _PREFIX.match(line)) is not None), None)
    if match is None:
        return raw
    prefix = match[1] or match[2]
    return [_after(prefix, line) for line in raw]


def _after(prefix: str, line: str) -> str:
    bind = _AFTER_PREFIX.match(line)
    if bind is None or _ROOT.search(bind[2] or ""):
        return line
    keys = unquoted(bind[3])
    keys = keys[1] if re.fullmatch(r"\\[\"'#;\\]", keys) else keys
    keys = "<backslash>" if keys == "\\" else keys
    quote = "'" if '"' in keys else '"'
    return f"{bind[1]}{bind[2] or ''}{quote}{prefix} {keys}{quote} {bind[4]}"


def _uncommented(raw: list[str]) -> list[str]:
    """A sample configuration has its bindings as comments: where hardly any stands without a sign, those are read."""
    hidden = _hidden_in(raw)
    before = [_KEYS_BEFORE.match(line) for line in raw]
    if sum(match is not None and evidence(match[2]) == 2 for match in before) >= LEAST_REPEATED:
        hidden = [match or (keyed if keyed is not None and evidence(keyed[2]) else None)
                  for match, keyed in zip(hidden, before, strict=True)]  # fmt: skip
    live = sum(bool(_BINDS.match(line)) or (not _COMMENT.match(line) and _sets_keys(PAIR.match(line.strip()))) for line in raw)
    if sum(match is not None for match in hidden) <= max(4, 3 * live):
        return raw
    return [match[1] if match is not None else line for match, line in zip(hidden, raw, strict=True)]


def _hidden_in(raw: Sequence[str]) -> list[re.Match[str] | None]:
    """Return the matches of commented bindings; in a section of keys a setting is one even if its value is a letter or "none"."""
    hidden: list[re.Match[str] | None] = []
    of_keys = False
    for line in raw:
        section = _SECTION.match(line)
        if section is not None:
            of_keys = NAME_OF_KEYS.search(section[1] or section[2] or section[3]) is not None
        hidden.append(_HIDDEN.match(line) or _hidden_value(line, of_keys))
    return hidden


def _hidden_value(line: str, of_keys: bool) -> re.Match[str] | None:
    """Return the match of a commented setting whose value is keys; ``of_keys``: it stands in a section of keys."""
    match = _HIDDEN_VALUE.match(line)
    value = _value_of(PAIR.match(match[1])) if match is not None else ""
    return match if evidence(value) == 2 or (of_keys and (evidence(value) or value.lower() == "none")) else None


def _sets_keys(pair: re.Match[str] | None) -> bool:
    return evidence(_value_of(pair)) == 2


def _value_of(pair: re.Match[str] | None) -> str:
    return unquoted(pair[3] or pair[6] or "") if pair is not None else ""


def _with_values(raw: list[str]) -> list[str]:
    """Return names that stand for keys or modifiers in other lines, such as ``set $mod Mod4``, replaced by what they stand
    for."""
    values: dict[str, str] = {}
    for line in raw:
        match = _SETS.match(line)
        if match is not None and len(match[2]) <= 40:
            values[match[1]] = match[2]
        assigned = _ASSIGNS.match(line)
        if assigned is not None and modifier_named(assigned[2]):
            values[f"${assigned[1]}"] = assigned[2]
        named = _NAMES_MODIFIERS.match(line)
        if named is not None and all(modifier_named(part) for part in named[2].split("+")):
            values[named[1]] = named[2]
    if not values:
        return raw
    names = "|".join(re.escape(name) for name in sorted(values, key=lambda name: -len(name)))
    stands = re.compile(rf"(?<![\w$])(?:{names})(?!\w)")
    return [
        line if _SETS.match(line) or not _BINDS.match(line) else stands.sub(lambda match: values[match[0]], line)
        for line in raw
    ]


def _lines(raw: list[str], found: Found) -> list[ConfigLine]:
    """Return the lines that may bind something; sections and comment titles are headings."""
    lines: list[ConfigLine] = []
    repeated = _repeated_words(raw)
    noted = sum(bool(_without_comment(line.strip())[1]) for line in raw) >= LEAST_REPEATED
    below: set[int] = set()
    group: str | None = None
    of_keys = False
    for number, line in enumerate(raw, start=1):
        body = line.strip()
        if number in below or not body or body in ("{", "}", "};", "end", "},"):
            continue
        body, note = _without_comment(body) if noted else (body, "")
        section = _SECTION.match(line)
        if section is not None:
            group = (section[1] or section[2] or section[3]).strip()
            of_keys = NAME_OF_KEYS.search(group) is not None
            found.head(group, number)
        elif (keys := _keys_below(raw, number)) is not None:
            lines.append(ConfigLine(number, "below", (keys, unquoted(body)), group))
            below.add(number + 1)
        elif _COMMENT.match(line):
            title = _TITLE.match(line)
            if title is not None and len(title[1].split()) <= 6:
                group = title[1].strip(" -=~*:")
                of_keys = of_keys or NAME_OF_KEYS.search(group) is not None
            found.head(body, number)
        elif len(body) > LONGEST_LINE:
            found.leave(body, number, "too long for a binding")
        elif (keys := _keys_above(raw, number)) is not None:
            command, last = _whole_command(raw, number + 1)
            lines.append(ConfigLine(number, "below", (keys, command), group))
            below.update(range(number + 1, last + 1))  # they were read with the keys above them
        else:
            lines.append(form_of(body, number, group, repeated, of_keys, note))
    return lines


def _without_comment(body: str) -> tuple[str, str]:
    """Return a line and the comment behind what it sets."""
    match = _COMMENT_BEHIND.match(body) if len(body) <= LONGEST_LINE else None
    return (match[1], match[2]) if match is not None else (body, "")


def _whole_command(raw: Sequence[str], number: int) -> tuple[str, int]:
    """Return a command that may go on after a backslash at the end of its line, and the number of its last line."""
    parts = [raw[number - 1].strip()]
    while parts[-1].endswith("\\") and number < len(raw) and len(parts) < _MOST_LINES:
        parts[-1] = parts[-1][:-1].rstrip()
        parts.append(raw[number].strip())
        number += 1
    return " ".join(filter(None, parts)), number


def _keys_above(raw: Sequence[str], number: int) -> str | None:
    """Return the keys of a line whose command stands on the next one, further in; None for any other line."""
    line, after = raw[number - 1], raw[number] if number < len(raw) else ""
    if line[0] in " \t" or after[:1] not in (" ", "\t") or not after.strip() or _COMMENT.match(after.strip()):
        return None
    alone = _ALONE.match(line.strip())
    if alone is not None:
        return unquoted(alone[1])
    pressed = re.sub(r"(?:^|(?<=\s))@(?=\w)", "", line.strip())  # on release, which is the same key
    return pressed if evidence(braces(pressed)[0]) == 2 else None


def _keys_below(raw: Sequence[str], number: int) -> str | None:
    """Return the keys of a command in quotes that stand on the next line, further in; None for any other line."""
    after = raw[number] if number < len(raw) else ""
    keys = after.strip()
    quoted = _QUOTED_COMMAND.match(raw[number - 1].rstrip()) is not None
    return keys if quoted and after[:1] in (" ", "\t") and evidence(keys) == 2 else None


def _repeated_words(raw: Sequence[str]) -> frozenset[str]:
    """Return the words with which many lines begin that go on with a name and keys: a verb of the program's own."""
    rest: dict[str, list[list[str]]] = defaultdict(list)
    for line in raw:
        tokens = TOKEN.findall(line) if not _COMMENT.match(line) else []
        if len(tokens) > 2 and _WORD.fullmatch(tokens[0]) and not evidence(tokens[0]) and tokens[1] not in ("=", ":"):
            rest[tokens[0]].append(tokens[1:])
    found = set()
    for word, alike in rest.items():
        looks = [max(evidence(unquoted(one)) for one in parts[:2]) for parts in alike]
        if len(alike) >= LEAST_REPEATED and looks.count(2) >= 0.1 * len(looks) and looks.count(0) <= 0.4 * len(looks):
            found.add(word)
    # Most lines may begin with one of a few words, such as the part of a window their keys are for: then the rare ones count.
    most = sum(len(rest[word]) for word in found) > 0.5 * sum(bool(line.strip()) and not _COMMENT.match(line) for line in raw)
    if most and any(evidence(unquoted(parts[0])) == 2 for word in found for parts in rest[word]):
        found |= {word for word, alike in rest.items() if all(evidence(unquoted(parts[0])) for parts in alike)}
    return frozenset(found)


READERS = (
    Reader(
        "config",
        read,
        endings=(".conf", ".rc", ".cfg", ".ini", ".keymap"),
        signs=(
            (
                0.7,
                re.compile(
                    r"^[ \t]*(?:[a-z]*(?:nore)?map!?|bind\w*|bindsym|copymap|def_key|key ?bind\w*)\s+\S", re.M | re.I
                ),
            ),
            (0.6, re.compile(r"^\[[^\]\n]+\]\n(?:[^\n=,]+=[^\n]*\n){2}", re.M)),
            (0.8, re.compile(r"^[#^!+<>*~$]*[#^!+]\w+::", re.M)),
            (0.4, re.compile(r"^[ \t]*\S+[ \t]*=[ \t]*\S|^[ \t]*[A-Za-z_<][\w+<>-]* \S", re.M)),
        ),
    ),
)
