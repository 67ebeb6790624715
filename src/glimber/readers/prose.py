"""Shortcuts in sentences: "Press Ctrl+K to fold the chart.", "fold the chart with the keystroke Ctrl+K", "The M key mutes".

A sentence says so by its shape alone, and only where its keys can be nothing else, or are called keys.
"""

from __future__ import annotations

import re
from typing import Final

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.readers.evidence import evidence

_KEY_WORDS: Final = r"(?:key ?strokes?|keyboard short ?cuts?|short ?cuts?|hot ?keys?|key combinations?|key|keys)"
_PRESS: Final = r"(?:press(?:ing)?|hit(?:ting)?|strik(?:e|ing)|typ(?:e|ing)|us(?:e|ing)|tap(?:ping)?)"
_SHAPES: Final = (
    # Press Ctrl+K to fold the chart
    re.compile(rf"^(?:(?:finally|also|simply|then|again),? )?(?:you can |to do this,? )?{_PRESS}\s+"
               rf"(?:the\s+)?(?P<called>{_KEY_WORDS}\s+)?(?P<keys>\S.{{0,40}}?)"
               rf"(?P<after>\s+{_KEY_WORDS})?\s+(?:to|in order to|for)\s+(?P<command>\w.*)$", re.I),
    # To fold the chart, press Ctrl+K
    re.compile(rf"^(?:to\s+)?(?P<command>\w.*?),?\s+(?:(?:just |simply )?{_PRESS}|with|via|by(?: {_PRESS})?)\s+(?:the\s+)?"
               rf"(?P<called>{_KEY_WORDS}\s+)?(?P<keys>\S.{{0,40}}?)(?P<after>\s+{_KEY_WORDS})?$", re.I),
    # ^A and ^E go to the beginning and the end of the line
    re.compile(r"^(?P<keys>\S{1,16} and \S{1,16})(?P<after>\s+keys)?\s+(?P<command>(?!or\b|and\b|is\b|are\b)[a-z]{2,}\s+\S.*)$"),
    # The M key mutes; Ctrl+K folds the chart
    re.compile(rf"^(?:the\s+)?(?P<keys>\S.{{0,40}}?)(?P<after>\s+(?:{_KEY_WORDS}|bar))?\s+"
               r"(?P<command>(?:will\s+[a-z]{3,}|[a-z]{3,}s)\s+\S.*)$", re.I),
    # Left and Right arrow keys pan the chart
    re.compile(r"^(?:the\s+)?(?P<keys>\S.{0,40}?(?:\s+(?:arrow|cursor))?)(?P<after>\s+keys)\s+(?P<command>(?:will\s+|can\s+)?[a-z]{3,}"
               r"\s+\S.*)$", re.I),
    # Ctrl+Kで海図を閉じます; Ctrl+Kキーを押すと海図が閉じます
    re.compile(r"^(?P<keys>[!-~←-⇿ ]{1,30}?)\s*(?P<after>キー)?\s*(?:では|で|を押すと|を押して)、?\s*(?P<command>[^!-~\s].*)$"),
    # 按 Ctrl+K 折叠海图
    re.compile(r"^(?:按下?|使用)\s*(?P<keys>[!-~←-⇿ ]{1,30}?)\s*(?P<after>键)?\s*(?:可以?|即可|来|以)?\s*"
               r"(?P<command>[^!-~\s].*)$"),
)  # fmt: skip
_QUOTED_KEYS: Final = r"[`'\"‘“]?(?P<{}>[^\s`'\"‘’“”]{{1,24}})[`'\"’”]?"
_EQUIVALENT: Final = re.compile(
    rf"^(?:the\s+)?(?P<shifted>shifted\s+)?{_QUOTED_KEYS.format('keys')}(?:\s+{_KEY_WORDS})?\s+(?:is|are)\s+(?:an?|the|its)\s+"
    rf"(?:keyboard\s+)?(?:equivalents?|short ?cuts?|accelerators?)$|^(?:the\s+)?{_QUOTED_KEYS.format('other')}\s+keys?\s+"
    r"(?:triggers?|invokes?|performs?|does)\s+(?:this|the same)(?:\s+(?:action|command|function))?$", re.I,
)  # fmt: skip
"""Keys of what the text around is about: "The `Ctrl-O' key is a keyboard equivalent"."""
_SENTENCE: Final = re.compile(r"(?<=[a-z)\]])[.!](?=\s+[A-Z(]|\s*$)|。")
_THEN: Final = re.compile(r"\s+(?:\+|then|followed by)\s+", re.I)
_ONE_CHORD: Final = re.compile(r"(?:ctrl|control|alt|shift|super|meta|cmd|command)[-+]\S+$", re.I)
_ASIDE: Final = re.compile(r";|, (?:for (?:example|instance)|e\.g\.|i\.e\.|such as)\b")
"""Where what is said of a command goes on to more than the command."""
LONGEST: Final = 160
MOST_WORDS: Final = 16


def bindings_in(text: str, about: str | None = None) -> list[tuple[str, str]]:
    """Return the commands and keys that the sentences of a text tell of; ``about``: the heading above the text."""
    found = []
    for sentence in _SENTENCE.split(text):
        one = _binding(" ".join(sentence.split()).rstrip(" .!"), about)
        if one is not None:
            found.append(one)
    return found


def _binding(sentence: str, about: str | None) -> tuple[str, str] | None:
    if not sentence or len(sentence) > LONGEST:
        return None
    equivalent = _EQUIVALENT.match(sentence)
    if equivalent is not None and about:
        keys = equivalent["keys"] or equivalent["other"]
        keys = f"Shift+{keys}" if equivalent["shifted"] else keys
        return (about, keys) if _are_keys(keys, called=True) else None
    for shape in _SHAPES:
        match = shape.match(sentence)
        if match is None:
            continue
        keys, command = match["keys"].strip("\"'“”‘’` "), _ASIDE.split(match["command"], maxsplit=1)[0].strip(" ,:;")
        named = shape in _SHAPES[-2:] and len(keys) > 1  # no space parts keys from words there: only keys are in Latin letters
        called = named or bool(match.groupdict().get("called") or match["after"])
        if len(command.split()) > MOST_WORDS or not _are_keys(keys, called) or evidence(command):
            continue
        return command, _steps(keys)
    return None


def _are_keys(text: str, called: bool) -> bool:
    """Return True for what can only be keys, or for a letter or sign that is called a key."""
    look = evidence(_steps(text))
    single = len(text) == 1 or key_named(text, marked=True) is not None
    return modifier_named(text) is None and (look == 2 or (called and (look > 0 or single)))


def _steps(keys: str) -> str:
    """Chords with a plus and blanks between are steps: "control-x + e"."""
    parts = _THEN.split(keys)
    chords = len(parts) > 1 and _ONE_CHORD.match(parts[0]) is not None and all(
        len(part) == 1 or _ONE_CHORD.match(part) or key_named(part, marked=True) for part in parts
    )  # fmt: skip
    return " then ".join(parts) if chords else keys
