"""Short forms of command names for places with little room: made from the name, unique within the program.

The forms of a name go from the name itself to ever shorter ones; a form that another command of the program has too is left
out, so that no two commands read alike on a card.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from types import MappingProxyType
from typing import Final

from msgspec import Struct

from glimber.core.drawing.abbreviations import EVERYDAY, abbreviate
from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import Command, Folio, Program

_BRACKETS: Final = re.compile(r"\s*(\([^()]*\)|\[[^\[\]]*\])")
_SENTENCE: Final = re.compile(r"(?<=\w)(\.\s|;\s|:\s| – | — ).*", re.DOTALL)
_ARTICLES: Final = frozenset({"a", "an", "the"})
_LITTLE: Final = frozenset("a an the of to in on at for from by with into this that its current selected".split())
_LEAST_SHARING: Final = 3
"""Commands that begin alike before the beginning is dropped."""
_LONG_WORD: Final = 7
_KEPT: Final = 5
_VOWELS: Final = frozenset("aeiouyAEIOUY")
_MOST_DROPPED: Final = 3


class ShortForms(Struct, frozen=True):
    """``words``: short forms of single words; ``texts``: the shorter forms of whole names, the longest first; ``cuts``: names
    with their long words cut, for where nothing else fits."""

    words: Mapping[str, str]
    texts: Mapping[str, Sequence[str]]
    cuts: Mapping[str, str]

    def ways(self, text: str) -> tuple[str, ...]:
        """Return the ways to write a text, from the text itself to the shortest."""
        forms = [text, *self.texts.get(text, ())]
        return tuple(dict.fromkeys([text, *(abbreviate(form, self.words) for form in forms), *forms]))

    def cut(self, text: str) -> tuple[str, ...]:
        """Return the text with its long words cut, where no other name reads the same then."""
        return (self.cuts[text],) if text in self.cuts else ()


NO_SHORT_FORMS: Final = ShortForms(MappingProxyType({}), MappingProxyType({}), MappingProxyType({}))
_FORMS: DerivedCache[Folio, str, ShortForms] = DerivedCache()
_NAMES: DerivedCache[Program, str, Mapping[str, tuple[str, ...]]] = DerivedCache()


def short_forms_of(folio: Folio) -> ShortForms:
    """Short forms for a folio's cards: its ``[abbreviations]`` before the everyday ones, and those of its names."""
    return _FORMS.get(folio, "forms", lambda: _short_forms(folio))


def _short_forms(folio: Folio) -> ShortForms:
    words = {**EVERYDAY, **folio.settings.abbreviations}
    texts: dict[str, tuple[str, ...]] = {}
    cuts: dict[str, str] = {}
    for program in folio.programs.values():
        found = names_shortened(program)
        texts |= {name: forms for name, forms in found.items() if name not in texts}
        shortest = {name: " ".join(_cut(word, words) for word in (forms or (name,))[-1].split())
                    for name, forms in found.items()}  # fmt: skip
        counted = Counter(form.casefold() for form in shortest.values())
        cuts |= {name: form for name, form in shortest.items() if counted[form.casefold()] == 1 and name not in cuts}
    return ShortForms(words, texts, cuts)


def label_made_for(folio: Folio, command: Command) -> str | None:
    """Return the label that would be made for a command without one; None where its name is short already."""
    forms = short_forms_of(folio).texts.get(command.name, ())
    return forms[0] if forms else None


def names_shortened(program: Program) -> Mapping[str, tuple[str, ...]]:
    """Return the shorter forms of each command's label or name, unique among all of the program's.

    Kept per program: an edit of a folio changes one of them, and its cards are drawn again after each edit.
    """
    return _NAMES.get(program, "names", lambda: _names_shortened(program))


def _names_shortened(program: Program) -> Mapping[str, tuple[str, ...]]:
    commands = list(program.commands.values())
    shared = _shared_beginnings(command.short for command in commands)
    forms = {command.short: _forms(command, program, shared) for command in commands}
    counted = Counter(form.casefold() for many in forms.values() for form in dict.fromkeys(many))
    names = Counter(command.short.casefold() for command in commands)
    return {
        name: tuple(form for form in many if counted[form.casefold()] == 1 and not names[form.casefold()])
        for name, many in forms.items()
    }


def _forms(command: Command, program: Program, shared: Mapping[tuple[str, ...], int]) -> list[str]:
    """Ever shorter forms of a name, the name itself not among them."""
    name = command.short
    found: list[str] = []

    def add(form: str) -> str:
        form = _capital(" ".join(form.split()).strip(" ,;:-–"), name)
        if form and form != name and form not in found:
            found.append(form)
        return form or name

    plain = add(_SENTENCE.sub("", _BRACKETS.sub("", name)))
    plain = add(_without_program(" ".join(w for w in plain.split() if w.casefold() not in _ARTICLES), program))
    rest = plain.split()
    for count in range(_MOST_DROPPED, 0, -1):
        if len(rest) > count and tuple(w.casefold() for w in rest[:count]) in shared:
            plain = add(" ".join(rest[count:]))
            break
    group = program.groups.get(command.group or "")
    if group is not None:
        own = {word.casefold().rstrip("s") for word in group.name.split()}
        kept = [word for word in plain.split() if word.casefold().rstrip("s") not in own]
        plain = add(" ".join(kept)) if kept else plain
    kept = [word for word in plain.split() if word.casefold() not in _LITTLE]
    plain = add(" ".join(kept)) if kept else plain
    return found


def _without_program(text: str, program: Program) -> str:
    found = re.sub(rf"\s*\b(in |of )?{re.escape(program.name)}\b('s)?", "", text, flags=re.IGNORECASE)
    return found if found.strip() else text


def _shared_beginnings(names: Iterable[str]) -> Mapping[tuple[str, ...], int]:
    """Return the first one to three words of names, where several names begin with them and go on differently."""
    counted: Counter[tuple[str, ...]] = Counter()
    for name in names:
        words = tuple(word.casefold() for word in name.split() if word.casefold() not in _ARTICLES)
        counted.update(words[:count] for count in range(1, min(_MOST_DROPPED, len(words) - 1) + 1))
    return {words: count for words, count in counted.items() if count >= _LEAST_SHARING}


def _capital(form: str, name: str) -> str:
    """Return a form with a capital at its beginning where its name has one."""
    return form[:1].upper() + form[1:] if name[:1].isupper() else form


def _cut(word: str, words: Mapping[str, str]) -> str:
    """Return a long word cut after a consonant, with a full stop; a word with a short form of its own has that."""
    if word.casefold() in words:
        return abbreviate(word, words)
    if len(word) <= _LONG_WORD or not word.isalpha():
        return word
    end = _KEPT
    while end > 3 and word[end - 1] in _VOWELS:
        end -= 1
    return f"{word[:end]}."
