"""Wording for keys, places, days, times and layer paths."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from datetime import date
from typing import Final

from glimber.core.model.board import Board
from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Sequence, Spot, Trigger, Typed
from glimber.core.notation.legend import Legend

DONE: Final = {
    "tap": "tapped", "hold": "held", "double": "double-tapped", "tap-hold": "tapped, then held",
    "left": "turned left", "right": "turned right", "press": "pressed",
}  # fmt: skip
NUMBERS: Final = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
_MONTHS: Final = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


_SIDES: Final = {"Left": "left", "Right": "right"}
_HELD: Final = {"Shift": "Shift", "Control": "Ctrl", "Alt": "Alt", "Meta": "Super"}


def key_words(folio: Folio, board: str, keys: tuple[str, ...]) -> str:
    """Return what a person calls keys: by what is printed on them, or where they are ("left thumb 3", "Shift").

    The code stands only where two keys of the board print the same; of two modifiers the side is named.
    """
    shape = folio.boards.get(board)
    called = _called(folio, shape)
    return " and ".join(called.get(id) or _print_of(folio, shape, id) for id in keys)


def _called(folio: Folio, board: Board | None) -> Mapping[str, str]:
    """Return what each key of a board is called, worked out once for a board and a legend: edits leave both alone."""
    if board is None:
        return {}
    by_legend = _KEY_NAMES.get(board, "names", dict)
    if id(folio.legend) not in by_legend:
        prints = {id: _print_of(folio, board, id) for id in (*board.by_id, *board.knob_ids)}
        often = Counter(prints.values())
        names = {id: text if often[text] == 1 else _told_apart(id, text) for id, text in prints.items()}
        by_legend.clear()
        by_legend[id(folio.legend)] = folio.legend, names
    return by_legend[id(folio.legend)][1]


_KEY_NAMES: DerivedCache[Board, str, dict[int, tuple[Legend, Mapping[str, str]]]] = DerivedCache()


def _print_of(folio: Folio, board: Board | None, id: str) -> str:
    key = board.by_id.get(id) if board else None
    own = key.print if key else None
    if own or folio.legend.print_of(id):
        return own or folio.legend.print_of(id)
    name, side = _sided(id)
    if name in _HELD and side:
        return _HELD[name]
    zone, _, rest = id.partition("-")
    side, _, number = rest.partition("-")
    if zone == "thumb" and side in ("left", "right"):  # thumb-left-3
        return f"{side} thumb {number}".strip()
    return id.replace("-", " ")


def _told_apart(id: str, text: str) -> str:
    name, side = _sided(id)
    return f"{side} {text}" if name in _HELD and side else id


def _sided(id: str) -> tuple[str, str]:
    return next(((id.removesuffix(end), side) for end, side in _SIDES.items() if id.endswith(end)), (id, ""))


def layer_words(folio: Folio, spot: Spot) -> str:
    """Return the name of the layer a spot is on, or its id where the folio does not have it."""
    layout = folio.layouts.get(spot.board)
    layer = layout.layer(spot.layer) if layout else None
    return layer.name if layer else spot.layer


def place_words(folio: Folio, trigger: Trigger | None) -> str:
    """Return a trigger in words: "S on Draw", "S held on Draw", "Ctrl+K"."""
    if trigger is None:
        return "nothing"
    if not isinstance(trigger, Spot):
        return str(trigger)
    done = "" if trigger.gesture in ("tap", "press") else f" {DONE[trigger.gesture]}"
    return f"{key_words(folio, trigger.board, trigger.keys)}{done} on {layer_words(folio, trigger)}"


def sentence(text: str) -> str:
    """Return a text with a capital at its beginning, as a key's name has none."""
    return text[:1].upper() + text[1:]


def day_words(day: date) -> str:
    """Return a day as people write it, such as "2 November"."""
    return f"{day.day} {_MONTHS[day.month - 1]}"


def seconds_words(ms: float) -> str:
    """Return a duration: ms below one second, s with one decimal below a minute, then m:ss."""
    if ms < 999.5:
        return f"{ms:.0f} ms"
    if ms < 59_950:
        return f"{ms / 1000:.1f} s"
    whole = round(ms / 1000)
    return f"{whole // 60}:{whole % 60:02d}"


def count_words(count: int, one: str, many: str | None = None) -> str:
    """Say "one key", "two keys"; figures above ten."""
    number = NUMBERS[count] if count < len(NUMBERS) else str(count)
    return f"{number} {one if count == 1 else many or one + 's'}"


def way_words(offset_u: tuple[float, float]) -> str:
    """Return the way from what was struck to what was wanted; ``offset_u`` = struck − wanted, x right, y down."""
    across, down = round(-offset_u[0]), round(-offset_u[1])
    if not across and not down:
        return "right beside it"
    side, height = "right" if across > 0 else "left", "down" if down > 0 else "up"
    if not down:
        return f"{count_words(abs(across), 'key')} {side}"
    if not across:
        return f"{count_words(abs(down), 'key')} {height}"
    return f"{count_words(abs(across), 'key')} {side}, {NUMBERS[min(abs(down), 10)]} {height}"


def finger_words(finger: str | None) -> str:
    """Say "ring finger" or "thumb"; the hand is left out, the board shows it."""
    digit = (finger or "").partition("-")[2]
    return "" if not digit else digit if digit == "thumb" else f"{digit} finger"


def what_it_does(folio: Folio, binding: Binding) -> str:
    """Return a binding in a few words: its command, or what it sends or brings in."""
    command = folio.command_of(binding)
    if command is not None:
        return command.name
    if binding.enters is not None:
        layout = folio.layouts.get(binding.spot.board)
        layer = layout.layer(binding.enters) if layout else None
        return f"the layer {layer.name if layer else binding.enters}"
    if binding.leaves:
        return "leaving the layer"
    if binding.bundle is not None:
        return f"the bundle {binding.bundle}"
    sent = folio.sent_by(binding)
    if isinstance(sent, Sequence | Typed):
        return str(sent)
    return " ".join(str(step) for step in binding.steps if not hasattr(step, "wait_ms")) or "nothing"
