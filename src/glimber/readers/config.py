"""Configuration lines: a word such as ``map`` or ``bind`` with keys and a command, ``KEYS = command``, ``NAME = keys``, or keys
and a command with a blank between; sections and modes are groups."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Sequence
from itertools import islice, product
from typing import Final

from msgspec import Struct

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.core.notation.spelling import Ways
from glimber.readers.config_shapes import as_bind_lines
from glimber.readers.evidence import alternates, evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.lineeditor import keys_of
from glimber.readers.reader import Reader

_COMMENT: Final = re.compile(r"^\s*(?:#|//|;|!|%(?=\s|%|[a-z])|\"(?!.*\"\s*[:=])|--)")
_TOKEN: Final = re.compile(r"\"(?:\\.|[^\"\\])*\"|'(?:\\.|[^'\\])*'|[^\s]+")
_VERB: Final = re.compile(
    r"^(?:[a-z]*(?:nore)?map!?|bind(?:sym|key|el|le|l|e|m|r|d|-key)?|key-?bind(?:ing)?|def_key|macro|hot-?key|shortcut|key)$",
    re.I,
)
_COPY: Final = re.compile(r"^c?p?copy[a-z]*map$", re.I)
_UNBIND: Final = re.compile(r"^(?:un[a-z]*map|unbind(?:sym|-key)?|[a-z]*unmap|delete-?key)$", re.I)
_SKIPPED: Final = re.compile(r"^(?:<(?:silent|expr|buffer|nowait|unique|script)>|-{1,2}[A-Za-z][\w-]*)$", re.I)
_WITH_VALUE: Final = frozenset({"-T", "-M", "-m", "--mode", "-t"})
_SECTION: Final = re.compile(
    r"^\s*\[+\s*([^\]\[=]{1,60}?)\s*\]+\s*$|^\s*(?:mode|submap|block|keymap|section)\s+(?![a-z]+\s+[^\s{]+\s+[^\s{]+\s+[a-z])[\"']?([^\"'{]+?)[\"']?\s*\{?\s*$",
    re.I,
)
_TITLE: Final = re.compile(r"^\s*(?:#|//|;|--|\")+\s*[=~*#-]*\s*([A-Z][^=#*]{2,48}?)\s*:?\s*[=~*#-]*$")
_PAIR: Final = re.compile(r"^(\"[^\"]+\"|'[^']+'|[^\s=:][^=:]*?|[=:])\s*(=|:)\s+?(.*)$|^([^\s=][^=]*?)\s*(=)\s*(.*)$")
_BINDS: Final = re.compile(
    r"^\s*(?:[a-z]+\s+(?=keybind))?(?:[a-z]*(?:nore)?map!?|bind\w*(?:-key)?|keybind|hotkey)\s+\S+\s+\S", re.I
)
_HIDDEN: Final = re.compile(
    r"^\s*(?:[#;\"]+:?)((?:\s*(?:map|bind\w*(?:-key)?|keybind|[nivx]?map)\s+\S+\s+\S.*|def_key\s+\S.*)|\s{2,}[a-z_]+)$"
)
_HIDDEN_VALUE: Final = re.compile(r"^\s*[#;]\s?([A-Za-z][\w.-]*\s*[=:]\s*\S.*)$")
_KEYS_BEFORE: Final = re.compile(r"^\s*[#;]\s?((\S[^=]{0,40}?)\s*=\s*[a-z][\w-]+)\s*$")
"""A commented binding whose keys come first: "#<ctrl>o = open"."""
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
_COLONS: Final = re.compile(r"^([A-Z][A-Z_]+):(\^?\S[^:\s]*):([A-Za-z][\w ()-]*)$")
_NAMED_KEY: Final = re.compile(r"KEY_(?:F\((\d+)\)|([A-Z]{2,}))$")
_AFTER_LETTERS: Final = re.compile(r"\s*\([^()]*\)$")
_ANSWERS: Final = frozenset("y n t f".split())
_WORD: Final = re.compile(r"[A-Za-z][\w-]+")
LEAST_LETTERS: Final = 4
LEAST_REPEATED: Final = 6
_TRAILING: Final = re.compile(r"\s+#\s.*$")
MOST_CHOICES: Final = 60
_SURE_VERB: Final = re.compile(r"^(?:key)?bind(?:sym|key)?$|^key-?bind$|^map$", re.I)
_COLON: Final = re.compile(r"^(?:[*•]\s+(?!:))?([^:=\"']+?)\s+:([A-Z]\w.*)$")
_ASSIGNS: Final = re.compile(r"^\s*(?:local\s+)?([A-Za-z]\w*)=([A-Za-z0-9]+)\s*(?:#.*)?$")
_NESTED: Final = re.compile(r"<((?:[A-Za-z]-)+)<(\w+)>>")
"""A named key in brackets of its own: "<C-<home>>"."""
_INDEXED: Final = re.compile(r"^(?:key)?bind(?:ing)?s?\[([^\]]+)\]$")
"""The name of a command as an index: "bind[bar_toggle] = MOD+b"."""
_EITHER_WAY: Final = re.compile(r"~[SCMA]-")
"""A modifier that may be held or not, as in translation tables of X toolkits."""
LONGEST_LINE: Final = 1_500
_CASED: Final = Ways("alternates", True)


class _Line(Struct, frozen=True):
    number: int
    form: str
    parts: tuple[str, ...]
    group: str | None


def read(data: bytes, options: Options) -> Found:
    """Read the lines of a configuration."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if not text.strip():
        return found.fail("the file is empty; expected lines such as: map F2 add-sounding")
    raw = _with_prefix(_with_values(_uncommented(as_bind_lines(led(text).splitlines()))))
    lines = _with_equal_signs(_lines(raw, found))
    by_form: dict[str, list[_Line]] = defaultdict(list)
    for line in lines:
        by_form[line.form].append(line)
    keyed = {form: _key_place(form, alike) for form, alike in by_form.items()}
    known: dict[str, str] = {}
    for line in lines:
        _take(line, keyed[line.form], found, known)
    if not found.any:
        found.fail("no line binds a key to a command")
    return found


def _with_equal_signs(lines: Sequence[_Line]) -> list[_Line]:
    """Read lines such as "zoom_reset =" among many with a name and its keys: there the sign is a key, and sets nothing."""
    forms = [line.form for line in lines]
    if forms.count("blank") < 4 * max(3, forms.count("pair")):
        return list(lines)
    return [
        _Line(line.number, "blank", (line.parts[0], "="), line.group) if line.form == "pair" and not line.parts[1] else line
        for line in lines
    ]


def led(text: str) -> str:
    """The text with the key that stands for ``<leader>`` in its place: as it is set there, else the backslash."""
    if "leader>" not in text.lower():
        return text
    match = re.search(r"map(?:local)?leader\s*=\s*[\"'](\\?[^\"']|<[^>]+>)[\"']", text)
    key = match[1] if match is not None else "\\"
    return re.sub(r"(?i)<(?:local)?leader>", lambda _: "<Space>" if key == " " else key, text)


def _with_prefix(raw: list[str]) -> list[str]:
    """Lines with the prefix in front of the keys that follow it, where one is set: ``set -g prefix C-a``, ``escape ^Aa``.

    Keys of the root table (``-n``, ``-T``) and those of ``bindkey`` are struck without it.
    """
    match = next((match for line in raw if (match := _PREFIX.match(line)) is not None), None)
    if match is None:
        return raw
    prefix = match[1] or match[2]
    return [
        f'{bind[1]}{bind[2] or ""}"{prefix} {_unquoted(bind[3])}" {bind[4]}'
        if (bind := _AFTER_PREFIX.match(line)) is not None and '"' not in _unquoted(bind[3]) and not _ROOT.search(bind[2] or "")
        else line
        for line in raw
    ]


def _uncommented(raw: list[str]) -> list[str]:
    """A sample configuration has its bindings as comments: where hardly any stands without a sign, those are read."""
    hidden = [_HIDDEN.match(line) or _hidden_value(line) for line in raw]
    before = [_KEYS_BEFORE.match(line) for line in raw]
    if sum(match is not None and evidence(match[2]) == 2 for match in before) >= LEAST_REPEATED:
        hidden = [match or (keyed if keyed is not None and evidence(keyed[2]) else None)
                  for match, keyed in zip(hidden, before, strict=True)]  # fmt: skip
    live = sum(bool(_BINDS.match(line)) or (not _COMMENT.match(line) and _sets_keys(_PAIR.match(line.strip()))) for line in raw)
    if sum(match is not None for match in hidden) <= max(4, 3 * live):
        return raw
    return [match[1] if match is not None else line for match, line in zip(hidden, raw, strict=True)]


def _hidden_value(line: str) -> re.Match[str] | None:
    """Return the match of a commented setting whose value is keys."""
    match = _HIDDEN_VALUE.match(line)
    return match if match is not None and _sets_keys(_PAIR.match(match[1])) else None


def _sets_keys(pair: re.Match[str] | None) -> bool:
    return pair is not None and evidence(_unquoted(pair[3] or pair[6] or "")) == 2


def _with_values(raw: list[str]) -> list[str]:
    """Names that stand for keys or modifiers in other lines, such as ``set $mod Mod4``, replaced by what they stand for."""
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


def _lines(raw: list[str], found: Found) -> list[_Line]:
    """The lines that may bind something; sections and comment titles are headings."""
    lines: list[_Line] = []
    repeated = _repeated_words(raw)
    below: set[int] = set()
    group: str | None = None
    for number, line in enumerate(raw, start=1):
        body = line.strip()
        if not body or body in ("{", "}", "};", "end", "},"):
            continue
        section = _SECTION.match(line)
        if section is not None:
            group = (section[1] or section[2]).strip()
            found.head(group, number)
        elif _COMMENT.match(line):
            title = _TITLE.match(line)
            if title is not None and len(title[1].split()) <= 6:
                group = title[1].strip(" -=~*:")
            found.head(body, number)
        elif len(body) > LONGEST_LINE:
            found.leave(body, number, "too long for a binding")
        elif number in below:
            continue  # it was read with the keys above it
        else:
            after = (
                raw[number].strip()
                if number < len(raw) and line[0] not in " \t" and raw[number][:1] in (" ", "\t")
                else ""
            )
            alone = _ALONE.match(body)
            pressed = re.sub(r"(?:^|(?<=\s))@(?=\w)", "", body)  # on release, which is the same key
            if after and not _COMMENT.match(after) and (alone is not None or evidence(_braces(pressed)[0]) == 2):
                keys = _unquoted(alone[1]) if alone is not None else pressed
                lines.append(_Line(number, "below", (keys, after), group))
                below.add(number + 1)
            else:
                lines.append(_form_of(body, number, group, repeated))
    return lines


def _repeated_words(raw: Sequence[str]) -> frozenset[str]:
    """Return the words with which many lines begin that go on with a name and keys: a verb of the program's own."""
    rest: dict[str, list[list[str]]] = defaultdict(list)
    for line in raw:
        tokens = _TOKEN.findall(line) if not _COMMENT.match(line) else []
        if len(tokens) > 2 and _WORD.fullmatch(tokens[0]) and not evidence(tokens[0]) and tokens[1] not in ("=", ":"):
            rest[tokens[0]].append(tokens[1:])
    found = set()
    for word, alike in rest.items():
        looks = [max(evidence(_unquoted(one)) for one in parts[:2]) for parts in alike]
        if len(alike) >= LEAST_REPEATED and looks.count(2) >= 0.1 * len(looks) and looks.count(0) <= 0.4 * len(looks):
            found.add(word)
    return frozenset(found)


_NAMES_KEYS: Final = re.compile(
    r"(?<=[a-z0-9])(?:Key|KeyBinding|Shortcut|Hotkey|HotKey|Accelerator|Accel)$|(?<=\w)[_-](?:key|shortcut|hotkey|accel)$"
)
_NO_KEYS: Final = ("none", "disabled")


def _form_of(body: str, number: int, group: str | None, repeated: frozenset[str] = frozenset()) -> _Line:
    """Return which shape a line has, and its parts."""
    tokens = _TOKEN.findall(body)
    if len(tokens) > 3 and _SURE_VERB.match(tokens[1]) and not _VERB.match(tokens[0]):
        tokens = tokens[1:]  # a program's name, then what it is to bind
        body = body.split(None, 1)[1]
    colons = _COLONS.match(body)
    if colons is not None:
        return _Line(number, f"colons {colons[1].lower()}", (_NAMED_KEY.sub(_curses, colons[2]), colons[3]), group)
    colon = _COLON.match(body)
    if colon is not None and not _VERB.match(tokens[0]):
        return _Line(number, "colon", (colon[1], colon[2]), group)
    verb = tokens[0].rstrip(":")
    if _UNBIND.match(verb):
        return _Line(number, "unbind", tuple(tokens), group)
    if len(tokens) > 2 and _COPY.match(verb):
        return _Line(number, "copy", tuple(tokens[1:]), group)
    quoted = [token for token in tokens[1:3] if token[:1] in "\"'" and len(token) > 2]
    if len(quoted) == 2 and verb[:1] not in "\"'" and re.fullmatch(r"\W?[A-Za-z_-]+", verb):
        return _Line(number, f"quoted {verb.lower()}", (_unquoted(quoted[0]), _unquoted(quoted[1])), group)
    keyed = len(tokens) > 2 and tokens[1][:1] in "\"'" and verb.isalpha() and evidence(_unquoted(tokens[1])) == 2
    if len(tokens) > 2 and (_VERB.match(verb) or keyed) and tokens[1] not in ("=", ":"):
        return _Line(number, f"verb {verb.lower()}", tuple(_without_flags(tokens[1:])), group)
    if len(tokens) > 2 and tokens[0] in repeated:
        return _Line(number, f"repeated {verb.lower()}", tuple(tokens[1:]), group)
    if len(tokens) > 2 and _VERB.match(verb) and tokens[1] == "=":
        parts = [part.strip() for part in body.split("=", 1)[1].split(",")]
        if len(parts) >= 3:  # modifiers, key, what is done, with what
            held = "+".join(re.findall(r"\$?\w+", parts[0]))
            return _Line(number, "commas", (f"{held}+{parts[1]}" if held else parts[1], " ".join(parts[2:])), group)
    pair = _PAIR.match(body)
    if pair is not None:
        left, right = (pair[1], pair[3]) if pair[2] else (pair[4], pair[6])
        named = _INDEXED.match(left)
        left = named[1] if named is not None else left
        three = right.split(",")
        if len(three) >= 3 and (evidence(three[0].replace("\\t", " or ")) or three[0] == "none"):
            # keys now, keys it came with, what it is called
            return _Line(number, "pair", (three[2].strip() or left, three[0].replace("\\t", " or ")), group)
        form = "pair of keys" if _NAMES_KEYS.search(left) else "pair"
        return _Line(number, form, (_unquoted(left), _listed(right.rstrip(",;"))), group)
    return _Line(number, "blank", tuple(tokens), group)


def _without_flags(tokens: Sequence[str]) -> list[str]:
    found: list[str] = []
    skip = False
    for place, token in enumerate(tokens):
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
    """A value in quotes, or a list of them as alternates."""
    text = re.sub(r"^@\w+ ", "", text.strip())
    if text.startswith("[") and text.endswith("]") and (len(text) == 2 or text[1] in "'\""):
        return " or ".join(match[1] or match[2] for match in re.finditer(r"'([^']+)'|\"([^\"]+)\"", text))
    return _unquoted(text)


def _unquoted(text: str) -> str:
    text = text.strip()
    return text[1:-1] if len(text) > 2 and text[0] == text[-1] and text[0] in "\"'" else text


def _key_place(form: str, lines: Sequence[_Line]) -> int | None:
    """At which place lines of a form have their keys; None where they have none."""
    if form == "colon":
        return 0 if sum(evidence(line.parts[0]) > 0 for line in lines) >= 0.3 * len(lines) else None
    if form in ("below", "commas", "copy", "unbind"):
        return 0
    if form.startswith("quoted"):
        shares = [sum(evidence(line.parts[place]) > 0 for line in lines) for place in (0, 1)]
        return (0 if shares[0] >= shares[1] else 1) if max(shares) >= 0.5 * len(lines) else None
    if form == "pair" and _are_letters(lines):
        return 1
    if form == "pair of keys":  # named so among settings of all kinds: fewer of them need look like keys
        keyed = [line for line in lines if evidence(line.parts[1]) or line.parts[1].lower() in _NO_KEYS]
        return 1 if len(keyed) >= 0.7 * len(lines) and any(evidence(line.parts[1]) == 2 for line in keyed) else None
    sure = form.startswith(("verb", "colons"))
    looks: list[tuple[float, float]] = []
    for place in range(3 if sure else 2):
        seen = [evidence(_keys_at(line, place)) for line in lines[:600] if len(line.parts) > place + (place == 0)]
        share = sum(one > 0 for one in seen) / len(lines[:600]) if seen else 0.0
        strong = sum(one == 2 for one in seen) / len(seen) if seen else 0.0
        looks.append((share, strong))
    best = max(range(len(looks)), key=lambda place: (looks[place][0] + looks[place][1], -place))
    if sure and looks[0][0] >= 0.5:
        best = 0
    share, strong = looks[best]
    if sure:
        return best if share > 0.3 else 0
    if form.startswith("repeated"):
        return best if share >= 0.5 else None
    if share >= 0.6 and strong >= 0.2 and strong * len(lines) >= 2:
        return best
    # Keys and commands with a blank between, nearly all of the keys mere letters.
    letters = {line.parts[0] for line in lines if len(line.parts[0]) == 1}
    return 0 if form in ("blank", "pair") and looks[0][0] >= 0.85 and len(letters) >= 5 and looks[0][1] > 0 else None


def _curses(match: re.Match[str]) -> str:
    """A key by the name that the curses library gives it."""
    return f"F{match[1]}" if match[1] else f"<{match[2].capitalize()}>"


def _are_letters(lines: Sequence[_Line]) -> bool:
    """True for names that are nearly all set to letters or to keys by name: "help = h ?", "quit = q"; answers are none."""
    rights = [_AFTER_LETTERS.sub("", line.parts[1]).split() for line in lines]
    keys = [right for right in rights if right and all(_is_one_key(word) for word in right)]
    letters = {word for right in keys for word in right if len(word) == 1}
    names = [line for line in lines if re.fullmatch(r"[A-Za-z][\w.-]{2,}(?: [\w.-]+)*", line.parts[0])]
    enough = len(keys) >= max(LEAST_LETTERS, 0.85 * len(lines)) and len(names) >= 0.85 * len(lines)
    return enough and len(letters - _ANSWERS) >= LEAST_LETTERS - 1


def _is_one_key(word: str) -> bool:
    return (len(word) == 1 and not word.isdigit()) or key_named(word, marked=True) is not None


def _keys_at(line: _Line, place: int) -> str:
    if line.form == "blank" and place == 1:
        return " or ".join(map(_unquoted, line.parts[1:6]))  # a name, then its keys
    return _unquoted(line.parts[place]) if place < len(line.parts) else ""


def _take(line: _Line, place: int | None, found: Found, known: dict[str, str]) -> None:
    text = " ".join(line.parts)
    if line.form == "below" and "{" in line.parts[0]:
        for keys, does in zip(_braces(line.parts[0]), _braces(line.parts[1]), strict=False):
            found.add(does, keys, line.group, line.number, _CASED)
    elif line.form == "unbind":
        found.leave(text, line.number, "it takes a binding away")
    elif line.form == "copy":
        command = known.get(line.parts[0])
        for keys in line.parts[1:]:
            name = f"{command} (as {line.parts[0]})" if command else f"as {line.parts[0]}"
            found.add(name, keys, line.group, line.number, _CASED)
            known[keys] = command or name
    elif place is None:
        found.leave(text, line.number, "it binds no key")
    elif line.form in ("pair", "pair of keys"):
        command, keys = line.parts[1 - place], line.parts[place]
        if len(_AFTER_LETTERS.sub("", keys)) == 1:
            keys = keys[0]  # what stands in brackets after a single key is a note
        keys = _marked(keys)
        if not keys or evidence(keys) or keys.lower() in _NO_KEYS:
            found.add(
                _plain(command),
                alternates(re.sub(r"(?<=\S),(?=\S)", ", ", keys)),
                line.group,
                line.number,
                None if "+" in keys else _CASED,
            )
        else:
            found.leave(text, line.number, "neither side is spelt like keys")
    elif line.form == "colon":
        if evidence(line.parts[0]):
            found.add(_plain(line.parts[1]), line.parts[0], line.group, line.number, _CASED)
        else:
            found.leave(text, line.number, "it binds no key")
    elif line.form == "blank" and place == 1:
        keys = " or ".join(_escaped(_unquoted(part)) for part in line.parts[1:])
        found.add(line.parts[0], keys, line.group, line.number, _CASED)
    elif len(line.parts) <= place + 1:
        found.leave(text, line.number, "no command beside these keys")
    else:
        keys = _unquoted(line.parts[place])
        rest = [*(line.parts[place + 1 :])]
        last = rest[-1]
        command = _unquoted(last) if len(rest) > 1 and last[0] == '"' and rest[-2][0] in '"<' else " ".join(rest)
        group = line.group if place == 0 else _unquoted(line.parts[0])
        found.add(_plain(command), _escaped(keys), group, line.number, _CASED)
        known[line.parts[place]] = _plain(command)


def _braces(text: str) -> list[str]:
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
    """Names of signs that stand alone, such as "question", in brackets: here they can be nothing else."""
    parts = [part.strip() for part in keys.split(";")]
    marked = [
        f"<{part}>" if len(part) > 1 and key_named(part, marked=True) and not key_named(part) else part
        for part in parts
    ]
    return "; ".join(marked) if marked != parts else keys


def _plain(command: str) -> str:
    command = _TRAILING.sub("", re.sub(r"(?i)<cr>$|<enter>$", "", command.strip())).strip()
    return _unquoted(command) or command


def _escaped(keys: str) -> str:
    r"""Keys that are written with a backslash: ``\Cx``, ``\C-x``, ``\ex``, ``\t``."""
    keys = _EITHER_WAY.sub("", _NESTED.sub(r"<\1\2>", keys))
    keys = {"BS": "<BS>", "DEL": "<Del>", "INS": "<Ins>", "SHARP": "#"}.get(keys, keys)
    if "\\" not in keys or len(keys) == 1:
        return keys
    if re.fullmatch(r"\\[\"'#;\\]", keys):
        return keys[1]
    if re.search(r"\\e(?:\\?\[|O)|\\x1b", keys):
        return keys_of(re.sub(r"\\([\[;])", r"\1", keys.replace("\\x1b", "\\e"))) or keys
    found = re.sub(r"\\C-?(.)|\\c(.)(?=$|\\)", lambda match: f"<C-{match[1] or match[2]}>", keys)
    found = re.sub(r"\\e(?!\[|O)(.)|\\M-(.)", lambda match: f"<A-{match[1] or match[2]}>", found)
    return re.sub(r"\\t", "<Tab>", re.sub(r"\\[rn]", "<Enter>", found))


READERS = (
    Reader(
        "config",
        read,
        endings=(".conf", ".rc", ".cfg", ".ini", ".keymap"),
        signs=(
            (
                0.7,
                re.compile(
                    r"^\s*(?:[a-z]*(?:nore)?map!?|bind\w*|bindsym|copymap|def_key|key ?bind\w*)\s+\S", re.M | re.I
                ),
            ),
            (0.4, re.compile(r"^\s*\S+\s*=\s*\S|^\s*[A-Za-z_<][\w+<>-]* \S", re.M)),
        ),
    ),
)
