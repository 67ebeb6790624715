"""Settings of a folio changed: one table says what each may be."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio


class Kind(Struct, frozen=True):
    """Limits of a numeric setting: the words for it, least and most, and whether it is a whole number."""

    words: str
    least: float
    most: float
    whole: bool = False


NUMBERS: Final[dict[str, Kind]] = {
    "target_ms": Kind("a time in ms", 100, 60_000),
    "working_days": Kind("days in a week", 0.5, 7),
    "horizon_weeks": Kind("weeks", 1, 520),
    "recovery_s": Kind("seconds", 0.1, 120),
    "careful_recovery_s": Kind("seconds", 0.1, 600),
    "sure": Kind("a chance", 0.5, 0.99),
    "least_gain_s": Kind("seconds a week", 0, 3_600),
    "hold_ms": Kind("a time in ms", 20, 2_000, True),
    "again_ms": Kind("a time in ms", 20, 2_000, True),
    "together_ms": Kind("a time in ms", 5, 500, True),
    "sequence_ms": Kind("a time in ms", 100, 20_000, True),
}
_TIMING: Final = frozenset({"hold_ms", "again_ms", "together_ms", "sequence_ms", "policy"})
_ONE_OF: Final[dict[str, Callable[[Folio], tuple[str, ...]]]] = {
    "keyboard": lambda folio: tuple(folio.boards),
    "away": lambda folio: ("none", "left", "right"),
    "policy": lambda folio: ("timer", "crossed", "eager"),
}


def number_of(name: str, text: str) -> float | int:
    """A number as it was written for a setting. Raises EditError saying what was expected."""
    kind = NUMBERS[name]
    try:
        value = float(text.strip().replace(",", "."))
    except ValueError:
        value = float("nan")
    if not kind.least <= value <= kind.most or (kind.whole and value != int(value)):
        whole = "a whole number, " if kind.whole else ""
        raise EditError(f"{text.strip()!r} is not {kind.words}; expected {whole}from {kind.least:g} to {kind.most:g}")
    return int(value) if kind.whole else value


def set_setting(folio: Folio, name: str, value: str) -> Folio:
    """The folio with a setting as it was written or chosen. Raises EditError; KeyError for a setting that is none."""
    said: object
    if name in NUMBERS:
        said = number_of(name, value)
    elif name in _ONE_OF:
        known = _ONE_OF[name](folio)
        if value not in known:
            raise EditError(f"{value!r} cannot be the {name}; expected one of {', '.join(known)}")
        said = value
    elif name in ("title", "xkb"):
        said = " ".join(value.split())
        if not said:
            raise EditError(f"the {name} is empty; expected a name")
    else:
        raise KeyError(name)
    settings = folio.settings
    if name in _TIMING:
        return replace(folio, settings=replace(settings, timing=replace(settings.timing, **{name: said})))
    return replace(folio, settings=replace(settings, **{name: said}))
