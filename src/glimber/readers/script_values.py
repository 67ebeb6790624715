"""Values of parts of source code: texts that are joined, translated or chosen by system, and names of functions."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from glimber.readers.code import Group, Item, Name, Part, Text
from glimber.readers.evidence import evidence
from glimber.readers.lineeditor import keys_of
from glimber.readers.mnemonics import without_mnemonic

SELVES: Final = frozenset("self this None null nil parent true false True False function lambda def async new void".split())
_TRANSLATES: Final = frozenset(("_", "N_", "tr", "gettext", "pgettext", "i18n", "i18nc", "translate", "_translate", "t"))
_JOINS: Final = frozenset({"", "+", ".", "..", "&"})
"""Signs that join two texts in some language."""
_OF_MAC: Final = re.compile(r"(?i)\b(?:cmd|command)\b")

_CONTROLS: Final = {"\t": "Tab", "\n": "Enter", "\x1b": "Escape"}
"""Keys by the characters they send."""


class Label(Text):
    """A text that is translated: words for a person, and no name of the program's own."""


def joined_texts(parts: Sequence[Part]) -> Text | None:
    """Return the text of texts one after another, with nothing or a sign between that joins them; None for anything else."""
    texts = [part for part in parts if isinstance(part, Text)]
    others = [part for part in parts if not isinstance(part, Text)]
    if not texts or not all(isinstance(part, Name) and part.name in _JOINS for part in others):
        return None
    return Text("".join(texts), texts[0].line)


def value_in_brackets(values: list[object]) -> object:
    """Return the one value, or the text that several texts come to; the values themselves else."""
    texts = [value for value in values if isinstance(value, Text)]
    if len(values) == 1 or not texts or len(texts) < len(values):
        return values[0] if len(values) == 1 else values
    # Toolkits that write "<Control>r" take a chord, or several for the same action.
    joint = " or " if all(evidence(text) == 2 for text in texts) and any("<" in text for text in texts) else " then "
    return Text(joint.join(texts), texts[0].line)


def chosen_by_system(parts: Sequence[Part]) -> Text | None:
    """Return the text of "IS_MAC ? 'Cmd+S' : 'Ctrl+S'" that is not for the Mac; None for anything else."""
    marks = [at for at, part in enumerate(parts) if isinstance(part, Name) and part.name in ("?", ":")]
    if len(marks) != 2 or marks[1] != marks[0] + 2 or len(parts) != marks[1] + 2:
        return None
    either = [part for at in marks if isinstance(part := parts[at + 1], Text) and evidence(part)]
    return next((text for text in either if not _OF_MAC.search(text)), either[0]) if len(either) == 2 else None


def value_of_call(head: str, values: Sequence[object], texts: Sequence[Text]) -> object:
    """Return the text that a call comes to: a translation, a text with a note, one of several by the system; else None."""
    if head.rsplit(".", 1)[-1].rsplit(":", 1)[-1] in _TRANSLATES and texts:
        text = bare_label(texts[-1] if len(texts) <= 2 else texts[0])
        return Label(text, text.line)
    if len(values) == 1 and texts:
        return texts[0]
    if texts and len(texts) == len(values) and all(evidence(text) == 2 for text in texts):
        return next((text for text in texts if not _OF_MAC.search(text)), texts[0])
    return None


def symbol_of(parts: Sequence[Part]) -> str:
    """Return the name of what is called or referred to; the first call inside of a function without a name."""
    if parts and isinstance(parts[0], Name) and parts[0].name == "lambda":
        colon = next((at for at, part in enumerate(parts) if isinstance(part, Name) and part.name == ":"), 0)
        parts = parts[colon + 1 :] if colon else parts
    for part in parts:
        if isinstance(part, Name) and (part.name[0].isalpha() or part.name[0] in "_$") and part.name not in SELVES:
            return part.name
    for part in parts:
        if isinstance(part, Group):
            inner = next((one.head for one in part.walk() if one.head and one is not part and one.head not in SELVES), "")
            if inner:
                return inner
    return ""


def last_name(name: str) -> str:
    return re.split(r"\.|::|->|\?\.", name)[-1]


def bare_label(text: Text) -> Text:
    """Return a label without its mnemonic and the dots at its end."""
    return Text(without_mnemonic(text).rstrip(".… "), text.line)


def defined_name(item: Item | None) -> str:
    """Return the name of the function an item defines; where it has none to speak of, the first sentence of its text."""
    parts = item.parts if item is not None else []
    names = [part.name for part in parts if isinstance(part, Name)]
    name = names[names.index("def") + 1] if "def" in names and names[-1] != "def" else ""
    if not names or "def" not in names or name.strip("_"):
        return name
    return next((part.strip().split(". ")[0].split("\n")[0].rstrip(".") for part in parts if isinstance(part, Text)), "")


def called_name(arguments: Sequence[object]) -> str:
    """Return the name of the first function that is given, where it says more than the object itself."""
    functions = (one.get("function") for one in arguments if isinstance(one, dict))
    return next((name for name in functions if isinstance(name, str) and last_name(name) not in SELVES), "")


def spelt_keys(value: object) -> str:
    """Return keys as one text; several in a list are alternates. What a terminal sends is the key that sends it."""
    if isinstance(value, Text):
        if value in _CONTROLS:
            return _CONTROLS[value]
        return keys_of(value.replace("\x1b", "\\e")) or value if value[:1] == "\x1b" and len(value) > 1 else value
    texts = [one for one in value if isinstance(one, Text)] if isinstance(value, list) else []
    alike = texts and len(texts) == len(value if isinstance(value, list) else ()) and all(evidence(text) for text in texts)
    return " or ".join(texts) if alike else ""
