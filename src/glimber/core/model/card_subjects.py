"""The subjects a card can have: a program, a part of it, a group, a layer, a task run, the weakest, the most used, what
changed, a search."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any, Final

from msgspec import Struct, field

from glimber.core.model.folio import Card, Folio

_NOTHING: Final[dict[str, object]] = {"program": None, "context": None, "groups": (), "layers": (), "board": None, "keys": (),
                                      "find": None, "weakest": None, "most_used": None, "changed_since": None,
                                      "run": None}  # fmt: skip
_WEAKEST: Final = re.compile(r"weakest\s+(\d{1,3})")
_MOST_USED: Final = re.compile(r"(?:most used|used)\s+(\d{1,3})")
_SINCE: Final = re.compile(r"since\s+(\d{4}-\d{2}-\d{2})")


class About(Struct, frozen=True):
    """One thing a card can be about: what is read, what kind of thing it is, and the fields of the card that say it."""

    text: str
    detail: str
    fields: Mapping[str, Any] = field(default_factory=dict)


def abouts(folio: Folio) -> list[About]:
    """Return everything of a folio that a card can be about."""
    found = []
    for id, program in folio.programs.items():
        found.append(About(program.name, "program", {"program": id}))
        found += [
            About(context, f"part of {program.name}", {"program": id, "context": context})
            for context in program.contexts
        ]
        found += [About(group.name, f"group of {program.name}", {"program": id, "groups": (group.id,)})
                  for group in program.groups.values()]  # fmt: skip
    for board, layout in folio.layouts.items():
        found += [
            About(layer.name, f"layer of {board}", {"board": board, "layers": (layer.id,)}) for layer in layout.layers
        ]
    found += [About(run.name, "task run", {"run": id}) for id, run in folio.runs.items()]
    return [*found, About("Everything", "no choice among the bindings")]


def about_of_text(text: str, folio: Folio, board: str | None = None) -> About:
    """Return what a written text asks for.

    Something of the folio by its name, ``weakest 12``, ``most used 20``, ``since 2026-11-20``, ``keys S D`` through the layers of
    a board (the first with a layout and all of them unless given; keys by print or code), or bindings in which the text is found.
    """
    text = " ".join(text.split())
    named = next((about for about in abouts(folio) if about.text.casefold() == text.casefold()), None)
    if named is not None:
        return named
    words = text.split()
    if len(words) > 1 and words[0].casefold() in ("key", "keys"):
        for one in folio.layouts if board is None else (board,):
            keys = _keys_named(folio, one, words[1:])
            if keys is not None:
                return About(text, f"through the layers of {one}", {"board": one, "layers": (), "keys": keys})
    weakest, since = _WEAKEST.fullmatch(text), _SINCE.fullmatch(text)
    if weakest is not None and int(weakest[1]):
        return About(f"The {weakest[1]} weakest", "by grip", {"weakest": int(weakest[1])})
    used = _MOST_USED.fullmatch(text)
    if used is not None and int(used[1]):
        return About(f"The {used[1]} most used", "as counted or stated", {"most_used": int(used[1])})
    if since is not None:
        return About(f"Changed since {since[1]}", "by the history", {"changed_since": since[1]})
    return About(f"“{text}”", "found text", {"find": text})


def _keys_named(folio: Folio, board: str, words: Sequence[str]) -> tuple[str, ...] | None:
    """Return the keys of a board by print or code; None where it lacks one of them."""
    codes = {(folio.legend.print_of(key.id) or key.id).casefold(): key.id for key in folio.boards[board].keys}
    codes |= {key.id.casefold(): key.id for key in folio.boards[board].keys}
    keys = tuple(codes[word.casefold()] for word in words if word.casefold() in codes)
    return keys if len(keys) == len(words) else None


def about_fields(card: Card, about: About) -> dict[str, Any]:
    """Return the fields of a card that is from now on about something.

    A group or a layer beside others of the same program or board joins them, or leaves where it was there; the weakest and what
    changed are chosen among what the card is about already; anything else takes the place of all.
    """
    wanted = dict(about.fields)
    for name, owner in (("groups", "program"), ("layers", "board")):
        if name in wanted and getattr(card, owner) == wanted.get(owner) and getattr(card, name):
            one, has = next(iter(wanted[name])), getattr(card, name)
            kept = tuple(other for other in has if other != one) if one in has else (*has, one)
            return {name: kept or has}
    if set(wanted) & {"weakest", "most_used", "changed_since", "find"} and wanted.get("find") != "":
        return wanted
    fresh = {**_NOTHING, **wanted}
    if card.kind in ("board", "facing") and "board" not in wanted:
        fresh["board"], fresh["layers"] = card.board, card.layers  # a board card stays one of its board
    return fresh


def about_words(folio: Folio, card: Card) -> str:
    """Return what a card is about, in words."""
    program = folio.programs.get(card.program or "")
    layout = folio.layouts.get(card.board or "")
    words = [program.name] if program else []
    words += [card.context] if card.context else []
    words += [program.groups[id].name if program and id in program.groups else id for id in card.groups]
    if layout is not None and card.board:
        layers = [layer.name for id in card.layers if (layer := layout.layer(id)) is not None]
        words += [f"{', '.join(layers)} of {card.board}" if layers else card.board]
    words += list(card.keys)
    words += [folio.runs[card.run].name] if card.run is not None and card.run in folio.runs else []
    words += [f"“{card.find}”"] if card.find else []
    words += [f"the {card.weakest} weakest"] if card.weakest else []
    words += [f"the {card.most_used} most used"] if card.most_used else []
    words += [f"changed since {card.changed_since}"] if card.changed_since else []
    return ", ".join(words) or "everything"
