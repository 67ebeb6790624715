"""The trigger notation: chords, sequences, spots, together spots and typed text; one parser, one formatter.

>>> str(parse_trigger("shift+ctrl+k ctrl+s"))
'Ctrl+Shift+K Ctrl+S'
>>> str(parse_trigger("split-42:draw:KeyK&KeyJ:tap"))
'split-42:draw:KeyJ&KeyK:tap'
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping
from typing import ClassVar, Final, Literal, TypeAlias

from msgspec import Struct

from glimber.core.notation.keycodes import CODES, KEY_ALIASES, MODIFIER_ALIASES, MODIFIERS, NAMED_KEYS
from glimber.core.notation.legend import Legend
from glimber.core.notation.nearest import nearest

Gesture = Literal["tap", "hold", "double", "tap-hold", "left", "right", "press"]
GESTURES: Final[tuple[Gesture, ...]] = ("tap", "hold", "double", "tap-hold", "left", "right", "press")
KEY_GESTURES: Final = ("tap", "hold", "double", "tap-hold")
KNOB_GESTURES: Final = ("left", "right", "press")

_SPACED = re.compile(r"(?:^|\s)(?P<head>[A-Za-z]+)\s+(?P<joint>\+)\s+\S")
_SLUG = re.compile(r"[A-Za-z0-9][A-Za-z0-9_.-]*\Z")
_ESCAPES = {"\\": "\\", '"': '"', "n": "\n", "t": "\t"}


class NotationError(ValueError):
    """A text that is not in the notation. ``at`` is the offset of the first character that does not fit."""

    def __init__(self, text: str, at: int, expected: str) -> None:
        self.text, self.at, self.expected = text, at, expected
        super().__init__(f"{text!r}, character {at + 1}: expected {expected}")


class Chord(Struct, frozen=True, order=True):
    """Modifiers held while one key is struck. ``key`` is a name or a character; ``by_place`` makes it a place."""

    modifiers: tuple[str, ...]
    key: str
    by_place: bool = False

    def __str__(self) -> str:
        key = f"[{self.key}]" if self.by_place else self.key
        return "+".join((*self.modifiers, key))


class Sequence(Struct, frozen=True, order=True):
    """Chords one after another; a single chord is a sequence of one."""

    chords: tuple[Chord, ...]

    def __str__(self) -> str:
        return " ".join(map(str, self.chords))

    @property
    def kind(self) -> str:
        return "chord" if len(self.chords) == 1 else "sequence"


class Typed(Struct, frozen=True, order=True):
    """A text that is typed."""

    text: str
    kind: ClassVar[str] = "text"

    def __str__(self) -> str:
        body = self.text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n").replace("\t", "\\t")
        return f'"{body}"'


class Spot(Struct, frozen=True, order=True):
    """Board, layer, key (two for a together spot, sorted) and gesture."""

    board: str
    layer: str
    keys: tuple[str, ...]
    gesture: Gesture
    kind: ClassVar[str] = "spot"

    def __str__(self) -> str:
        return f"{self.board}:{self.layer}:{self.key}:{self.gesture}"

    @property
    def key(self) -> str:
        return "&".join(self.keys)


Sent: TypeAlias = Sequence | Typed
Trigger: TypeAlias = Sequence | Typed | Spot
Strike: TypeAlias = tuple[frozenset[str], str]
"""The hand's work for a chord: the modifiers down and the place struck."""


def parse_trigger(text: str, bundles: Collection[str] = ()) -> Trigger:
    """Read any trigger. Raises NotationError saying where and what was expected.

    A modifier, a plus and a key with blanks between are a chord written with spaces, and no sequence of three.
    """
    at = len(text) - len(text.lstrip())
    body = text.strip()
    if not body:
        raise NotationError(text, 0, "a chord, a sequence, a spot or a text in quotes")
    if body[0] == '"' and len(body) > 1:
        try:
            return _typed(text, at, body)
        except NotationError:
            if body[1] != " ":  # the key itself may be the first of several
                raise
    if body.count(":") >= 3 and " " not in body:
        return _spot(text, at, body)
    spaced = _SPACED.search(text)
    if spaced is not None and spaced["head"].lower() in MODIFIER_ALIASES:
        raise NotationError(text, spaced.start("joint"), "no spaces within a chord, as in Ctrl+S")
    chords = []
    for match in re.finditer(r"\S+", text):
        chords.append(_chord(text, match.start(), match.group(), bundles))
    return Sequence(tuple(chords))


def parse_sent(text: str, bundles: Collection[str] = ()) -> Sent:
    """Read what a spot may send: a chord, a sequence or a text. Raises NotationError for anything else."""
    trigger = parse_trigger(text, bundles)
    if isinstance(trigger, Spot):
        raise NotationError(text, 0, "a chord, a sequence or a text in quotes, which a spot can send")
    return trigger


def parse_spot(text: str) -> Spot:
    """Read a spot. Raises NotationError for anything else."""
    trigger = parse_trigger(text)
    if not isinstance(trigger, Spot):
        raise NotationError(text, 0, "a spot such as split-42:draw:KeyS:tap")
    return trigger


def parse_keys(text: str) -> tuple[str, ...]:
    """Read the key of a spot: one id, or two joined by ``&`` for a together spot."""
    keys = text.split("&")
    if len(keys) > 2 or not all(_SLUG.match(key) for key in keys) or len(set(keys)) != len(keys):
        raise NotationError(text, 0, "a key such as KeyS, or two different ones such as KeyJ&KeyK")
    return tuple(sorted(keys))


def is_slug(text: str) -> bool:
    """Return True if a text can be an id."""
    return _SLUG.match(text) is not None


def _typed(text: str, at: int, body: str) -> Typed:
    out: list[str] = []
    i = 1
    while i < len(body):
        char = body[i]
        if char == '"':
            if i != len(body) - 1:
                raise NotationError(text, at + i + 1, "nothing after the closing quote")
            return Typed("".join(out))
        if char == "\\":
            i += 1
            if i >= len(body) or body[i] not in _ESCAPES:
                raise NotationError(text, at + min(i, len(body) - 1), 'one of \\\\ \\" \\n \\t')
            char = _ESCAPES[body[i]]
        out.append(char)
        i += 1
    raise NotationError(text, at + len(body), "a closing quote")


def _spot(text: str, at: int, body: str) -> Spot:
    parts = body.split(":")
    if len(parts) != 4:
        raise NotationError(text, at, "four parts board:layer:key:gesture")
    for name, part, offset in (("board", parts[0], at), ("layer", parts[1], at + len(parts[0]) + 1)):
        if not _SLUG.match(part):
            raise NotationError(text, offset, f"the id of a {name}")
    at_key = at + len(parts[0]) + len(parts[1]) + 2
    try:
        keys = parse_keys(parts[2])
    except NotationError as error:
        raise NotationError(text, at_key, error.expected) from None
    gesture = parts[3]
    if gesture not in GESTURES:
        raise NotationError(text, at_key + len(parts[2]) + 1, f"a gesture ({', '.join(GESTURES)})")
    return Spot(parts[0], parts[1], keys, gesture)


def _chord(text: str, at: int, word: str, bundles: Collection[str]) -> Chord:
    if word == '"':
        return Chord((), '"')
    heads, key, key_at = _split_chord(word)
    modifiers: list[str] = []
    offset = at
    for head in heads:
        name = MODIFIER_ALIASES.get(head.lower()) or (head if head in bundles else None)
        if name is None:
            near = nearest(head, [*MODIFIERS, *bundles])
            hint = f"a modifier or bundle (did you mean {near}?)" if near else f"a modifier ({', '.join(MODIFIERS)})"
            raise NotationError(text, offset, hint)
        if name in modifiers:
            raise NotationError(text, offset, f"{name} only once")
        modifiers.append(name)
        offset += len(head) + 1
    if not key:
        raise NotationError(text, at + len(word), "a key after the modifiers")
    return _canonical_chord(text, at + key_at, modifiers, key)


def _split_chord(word: str) -> tuple[list[str], str, int]:
    """Split into modifier words, the key's text and the key's offset; ``+`` and ``-`` may be keys themselves."""
    bracket = word.find("[")
    if word.endswith("]") and bracket >= 0 and bracket < len(word) - 2:
        head, key, key_at = word[:bracket], word[bracket:], bracket
        head = head[:-1] if head.endswith("+") else head
        return (head.split("+") if head else []), key, key_at
    joint = "+"
    if "+" not in word[1:] and "-" in word[1:-1] and word.split("-")[0].lower() in MODIFIER_ALIASES:
        joint = "-"
    if len(word) == 1:
        return [], word, 0
    if word.endswith(joint * 2):
        return word[:-2].split(joint), joint, len(word) - 1
    parts = word.split(joint)
    return parts[:-1], parts[-1], len(word) - len(parts[-1])


def _canonical_chord(text: str, at: int, modifiers: list[str], key: str) -> Chord:
    by_place = key.startswith("[") and key.endswith("]") and len(key) > 2
    if by_place:
        key = key[1:-1]
        _check_place(text, at, key)
    elif len(key) == 1 and key.lower() not in KEY_ALIASES and key.lower() not in MODIFIER_ALIASES:
        if not key.isprintable() or key.isspace():
            raise NotationError(text, at, "a printable character")
        if key.lower() != key and len(key.lower()) == 1 and not modifiers:
            modifiers = ["Shift"]
        elif modifiers and len(key.upper()) == 1:
            key = key.upper()
    else:
        key = _canonical_name(text, at, key)
    if not by_place and key in modifiers:
        raise NotationError(text, at, f"{key} only once")
    order = {name: place for place, name in enumerate(MODIFIERS)}
    return Chord(tuple(sorted(modifiers, key=lambda name: (order.get(name, len(order)), name))), key, by_place)


def _check_place(text: str, at: int, key: str) -> None:
    if key in CODES:
        return
    if not _SLUG.match(key):
        raise NotationError(text, at, "a place in brackets such as [Numpad4]")
    if key[:1].isupper():
        near = nearest(key, CODES)
        raise NotationError(text, at + 1, f"a place{f' (did you mean {near}?)' if near else ' such as Numpad4'}")


def _canonical_name(text: str, at: int, key: str) -> str:
    if key in NAMED_KEYS:
        return key
    found = KEY_ALIASES.get(key.lower()) or MODIFIER_ALIASES.get(key.lower())
    if found is not None:
        return found
    near = nearest(key, [*NAMED_KEYS, *CODES])
    near = f"[{near}]" if near in CODES and near not in NAMED_KEYS else near
    raise NotationError(text, at, f"a key{f' (did you mean {near}?)' if near else ' such as K, Left or [Numpad4]'}")


def expanded(modifiers: Iterable[str], bundles: Mapping[str, tuple[str, ...]]) -> frozenset[str]:
    """Return the modifiers with every bundle replaced by what it stands for."""
    return frozenset(name for modifier in modifiers for name in bundles.get(modifier, (modifier,)))


def strike_of(chord: Chord, legend: Legend, bundles: Mapping[str, tuple[str, ...]]) -> Strike | None:
    """Return modifiers and place that a chord asks of the hand; None when the legend has no key for it."""
    modifiers = expanded(chord.modifiers, bundles)
    if chord.by_place:
        return modifiers, chord.key
    place = legend.place_of(chord.key)
    if place is None:
        return None
    return modifiers | place[1], place[0]


def chord_of(strike: Strike, legend: Legend) -> Chord:
    """Return the canonical chord for what was struck: by print where the legend knows the key, otherwise by place."""
    modifiers, code = strike
    ordered = tuple(name for name in MODIFIERS if name in modifiers)
    key = legend.key_at(code)
    if key is None or legend.place_of(key) != (code, frozenset()):
        return Chord(ordered, code, by_place=True)  # not printed, or another key prints the same
    if ordered and len(key) == 1 and len(key.upper()) == 1:
        key = key.upper()
    return Chord(ordered, key)


def strikes_of(sent: Sent, legend: Legend, bundles: Mapping[str, tuple[str, ...]]) -> tuple[Strike, ...] | None:
    """Return the strikes of a sequence, or of every character of a text; None when the legend lacks one of the keys."""
    if isinstance(sent, Typed):
        named = {" ": "Space", "\n": "Enter", "\t": "Tab"}
        chords = [Chord((), named.get(char, char)) for char in sent.text]
        strikes = [_typed_strike(chord, legend) for chord in chords]
    else:
        strikes = [strike_of(chord, legend, bundles) for chord in sent.chords]
    found = [strike for strike in strikes if strike is not None]
    return tuple(found) if len(found) == len(strikes) else None


def _typed_strike(chord: Chord, legend: Legend) -> Strike | None:
    if chord.key not in NAMED_KEYS and chord.key in legend.places:
        code, modifiers = legend.places[chord.key]
        return modifiers, code
    place = legend.place_of(chord.key)
    return (place[1], place[0]) if place else None
