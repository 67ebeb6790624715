"""The message after a slip: one template for each kind, two short sentences at most."""

from __future__ import annotations

from glimber.core.model.describe import (
    DONE,
    day_words,
    finger_words,
    key_words,
    layer_words,
    place_words,
    sentence,
    way_words,
)
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Chord, Sequence, Spot, Trigger
from glimber.core.practice.answer import Answer, Question


def words_of(question: Question, answer: Answer) -> str:
    """Return the sentence for an answer."""
    message = _text_of(question, answer)
    # A shortcut keeps its letters as they are: "g i" is not "G i".
    return sentence(message) if isinstance(answer.pressed, Spot) else message


def words_of_name(folio: Folio, wanted: Binding, ref: str | None) -> str:
    """Return the sentence where a lit key was named wrongly, or not at all."""
    right = folio.command_of(wanted)
    name = right.name if right is not None else wanted.id
    other = folio.commands.get(ref or "")
    if other is None:
        return f"No answer. {place_words(folio, wanted.trigger)} is {name}."
    own = next(iter(folio.bindings_of.get(other.ref, ())), None)
    where = f"{other.name} is {place_words(folio, own.trigger)}" if own is not None else other.name
    return f"{where}. This is {name}."


def _text_of(question: Question, answer: Answer) -> str:
    folio, wanted = question.folio, question.wanted.trigger
    target = place_words(folio, wanted)
    if answer.outcome == "hit":
        return ""
    if answer.outcome == "blank":
        return f"No answer. Wanted {target}."
    struck = place_words(folio, answer.pressed)
    likely = "Most likely " if answer.likely else ""
    if answer.slip == "old habit" and answer.habit is not None:
        return f"{likely}{struck}, where it was until {day_words(answer.habit.until)}. Wanted {target}."
    if answer.slip == "unfinished":
        return _unfinished(wanted, answer, struck, target)
    if answer.slip == "gesture" and isinstance(wanted, Spot) and isinstance(answer.pressed, Spot):
        return _gesture(folio, wanted, answer.pressed, likely)
    if answer.slip == "modifiers":
        extra = f"{_listed(answer.extra)} {'was' if len(answer.extra) == 1 else 'were'} too much"
        missing = f"{_listed(answer.missing)} {'was' if len(answer.missing) == 1 else 'were'} missing"
        parts = [missing] * bool(answer.missing) + [extra] * bool(answer.extra)
        return f"{likely}{struck}. Wanted {target}: {', '.join(parts)}."
    if answer.slip == "layer":
        return f"{likely}{struck}. Wanted {target}."
    if answer.slip == "mix-up":
        command = folio.commands.get(answer.would_do or "")
        return f"{likely}{struck} is {command.name if command else 'another command'}. Wanted {target}."
    return f"{likely}{struck}. Wanted {_near(folio, wanted, answer, target)}."


def _near(folio: Folio, wanted: Trigger, answer: Answer, target: str) -> str:
    """Return the wanted place with the way to it and the finger; its layer is left out where it is the one struck."""
    if isinstance(wanted, Spot) and isinstance(answer.pressed, Spot) and answer.pressed.layer == wanted.layer:
        done = "" if wanted.gesture in ("tap", "press") else f" {DONE[wanted.gesture]}"
        target = f"{key_words(folio, wanted.board, wanted.keys)}{done}"
    far = abs(answer.offset_u[0]) + abs(answer.offset_u[1]) > 10 if answer.offset_u else True
    way = "" if far or answer.offset_u is None else way_words(answer.offset_u)
    if answer.slip == "mirror":
        way = "the same key of the other hand"
    rest = ", ".join(part for part in (way, finger_words(answer.finger_wanted)) if part)
    return f"{target}: {rest}" if rest else target


def _gesture(folio: Folio, wanted: Spot, pressed: Spot, likely: str) -> str:
    struck_key = key_words(folio, pressed.board, pressed.keys)
    if pressed.keys != wanted.keys or pressed.layer != wanted.layer:
        ways = [b.spot for b in folio.all_bindings() if b.enters == wanted.layer and isinstance(b.trigger, Spot)
                and b.spot.keys == pressed.keys and b.spot.board == wanted.board]  # fmt: skip
        way = DONE[ways[0].gesture] if ways else "held"
        name = layer_words(folio, wanted)
        return f"{likely}{struck_key} {DONE[pressed.gesture]}. Wanted it {way}, for {name}."
    return f"{likely}{struck_key} {DONE[pressed.gesture]}. Wanted {struck_key} {DONE[wanted.gesture]}."


def _unfinished(wanted: Trigger, answer: Answer, struck: str, target: str) -> str:
    if isinstance(wanted, Sequence) and isinstance(answer.pressed, Sequence):
        done: tuple[Chord, ...] = wanted.chords[: answer.done]
        if len(answer.pressed.chords) <= answer.done:
            return f"{Sequence(done)}, then nothing. Wanted {target}."
        return f"{Sequence(done)}, then {answer.pressed.chords[answer.done]}. Wanted {target}."
    return f"{struck}, then nothing. Wanted {target}."


def _listed(names: tuple[str, ...]) -> str:
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else list(names))
