"""What is said after a slip: one template for each kind, two short sentences at most."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Final

from glimber.core.folio.folio import Folio
from glimber.core.notation.keys import Chord, Sequence, Spot, Trigger

if TYPE_CHECKING:
    from glimber.core.drill.answer import Answer, Question

_DONE: Final = {
    "tap": "tapped", "hold": "held", "double": "double-tapped", "tap-hold": "tapped, then held",
    "left": "turned left", "right": "turned right", "press": "pressed",
}  # fmt: skip
_NUMBERS: Final = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
_MONTHS: Final = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


def key_words(folio: Folio, board: str, keys: tuple[str, ...]) -> str:
    """What a person calls a key: its print, or else its id with spaces."""
    shape = folio.boards.get(board)
    names = []
    for id in keys:
        key = shape.by_id.get(id) if shape else None
        own = key.print if key else None
        names.append(own or folio.legend.print_of(id) or id.replace("-", " "))
    return " and ".join(names)


def layer_words(folio: Folio, spot: Spot) -> str:
    layout = folio.layouts.get(spot.board)
    layer = layout.layer(spot.layer) if layout else None
    return layer.name if layer else spot.layer


def place_words(folio: Folio, trigger: Trigger | None) -> str:
    """A trigger as it is said: "S on Draw", "S held on Draw", "Ctrl+K"."""
    if trigger is None:
        return "nothing"
    if not isinstance(trigger, Spot):
        return str(trigger)
    done = "" if trigger.gesture in ("tap", "press") else f" {_DONE[trigger.gesture]}"
    return f"{key_words(folio, trigger.board, trigger.keys)}{done} on {layer_words(folio, trigger)}"


def day_words(day: date) -> str:
    return f"{day.day} {_MONTHS[day.month - 1]}"


def seconds_words(ms: float) -> str:
    """A duration: ms below one second, s with one decimal below a minute, then m:ss."""
    if ms < 999.5:
        return f"{ms:.0f} ms"
    if ms < 59_950:
        return f"{ms / 1000:.1f} s"
    whole = round(ms / 1000)
    return f"{whole // 60}:{whole % 60:02d}"


def count_words(count: int, one: str, many: str | None = None) -> str:
    """Say "one key", "two keys"; figures above ten."""
    number = _NUMBERS[count] if count < len(_NUMBERS) else str(count)
    return f"{number} {one if count == 1 else many or one + 's'}"


def way_words(offset_u: tuple[float, float]) -> str:
    """The way from what was struck to what was wanted; ``offset_u`` = struck − wanted, x right, y down."""
    across, down = round(-offset_u[0]), round(-offset_u[1])
    if not across and not down:
        return "right beside it"
    side, height = "right" if across > 0 else "left", "down" if down > 0 else "up"
    if not down:
        return f"{count_words(abs(across), 'key')} {side}"
    if not across:
        return f"{count_words(abs(down), 'key')} {height}"
    return f"{count_words(abs(across), 'key')} {side}, {_NUMBERS[min(abs(down), 10)]} {height}"


def finger_words(finger: str | None) -> str:
    """Say "ring finger" or "thumb"; the hand is left out, the board shows it."""
    digit = (finger or "").partition("-")[2]
    return "" if not digit else digit if digit == "thumb" else f"{digit} finger"


def words_of(question: Question, answer: Answer) -> str:
    """The sentence for an answer."""
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
    """The wanted place with the way to it and the finger; its layer is left out where it is the one struck."""
    if isinstance(wanted, Spot) and isinstance(answer.pressed, Spot) and answer.pressed.layer == wanted.layer:
        done = "" if wanted.gesture in ("tap", "press") else f" {_DONE[wanted.gesture]}"
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
        way = _DONE[ways[0].gesture] if ways else "held"
        name = layer_words(folio, wanted)
        return f"{likely}{struck_key} {_DONE[pressed.gesture]}. Wanted it {way}, for {name}."
    return f"{likely}{struck_key} {_DONE[pressed.gesture]}. Wanted {struck_key} {_DONE[wanted.gesture]}."


def _unfinished(wanted: Trigger, answer: Answer, struck: str, target: str) -> str:
    if isinstance(wanted, Sequence) and isinstance(answer.pressed, Sequence):
        done: tuple[Chord, ...] = wanted.chords[: answer.done]
        if len(answer.pressed.chords) <= answer.done:
            return f"{Sequence(done)}, then nothing. Wanted {target}."
        return f"{Sequence(done)}, then {answer.pressed.chords[answer.done]}. Wanted {target}."
    return f"{struck}, then nothing. Wanted {target}."


def _listed(names: tuple[str, ...]) -> str:
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else list(names))
