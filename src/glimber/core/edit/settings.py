"""The settings of a folio, each declared once: its name, what it may be, and how it is shown. Another is one more entry."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio

FOLIO, KEYS, CHANGES = "This folio", "How keys are told apart", "What a change must bring"
_PRINTS: Final = ("us", "gb", "de", "de(nodeadkeys)", "fr", "es", "it", "pt", "se", "no", "dk", "fi", "pl", "cz", "ch", "ru",
                  "us(dvorak)", "us(colemak)", "us(intl)")  # fmt: skip


class Kind(Struct, frozen=True):
    """Limits of a numeric setting: the words for it, least and most, and whether it is a whole number."""

    words: str
    least: float
    most: float
    whole: bool = False


class FolioSetting(Struct, frozen=True):
    """One setting. ``number``: it is one, within limits, in ``unit``, changed by ``step``; ``choices``: it is one of these;
    neither: it is a text, for which ``suggestions`` may be offered. ``of_timing``: it is a limit of the engine's."""

    id: str
    group: str
    name: str
    detail: str
    number: Kind | None = None
    unit: str = ""
    step: float = 0.0
    choices: Callable[[Folio], tuple[str, ...]] | None = None
    suggestions: tuple[str, ...] = ()
    of_timing: bool = False

    def offered(self, folio: Folio) -> tuple[str, ...]:
        """Return what may be chosen, or is suggested."""
        return self.choices(folio) if self.choices is not None else self.suggestions


def _time(id: str, name: str, detail: str, least: float, most: float, step: float) -> FolioSetting:
    """Return a limit of the engine's, in whole milliseconds."""
    kind = Kind("a time in ms", least, most, whole=True)
    return FolioSetting(id, KEYS, name, detail, kind, "ms", step, of_timing=True)


FOLIO_SETTINGS: Final = (
    FolioSetting("title", FOLIO, "Title", "The name of the folio"),
    FolioSetting("keyboard", FOLIO, "Keyboard", "The ordinary keyboard in front of you",
                 choices=lambda folio: tuple(folio.boards)),
    FolioSetting("xkb", FOLIO, "Keyboard layout", "What its keys print, as layout or layout(variant)", suggestions=_PRINTS),
    FolioSetting("away", FOLIO, "Hand away", "A hand that is on the mouse or an instrument",
                 choices=lambda folio: ("none", "left", "right")),
    _time("hold_ms", "Hold", "Longer is a hold, shorter is a tap", 20, 2_000, 10),
    FolioSetting("policy", KEYS, "Tap or hold", "Decided by the timer, or by the next key",
                 choices=lambda folio: ("timer", "crossed", "eager"), of_timing=True),
    _time("again_ms", "Double tap", "How soon the second tap must come", 20, 2_000, 10),
    _time("together_ms", "Keys struck together", "How close together two keys must be struck to count as one", 5, 500, 5),
    _time("sequence_ms", "Sequence", "How long Glimber waits for the next step", 100, 20_000, 100),
    FolioSetting("target_ms", CHANGES, "Target time", "A hit this fast need not get any faster",
                 Kind("a time in ms", 100, 60_000), "ms", 50),
    FolioSetting("working_days", CHANGES, "Working days", "In a week", Kind("days in a week", 0.5, 7), "days", 0.5),
    FolioSetting("horizon_weeks", CHANGES, "Payback time", "A change must pay for itself within it",
                 Kind("weeks", 1, 520), "weeks", 1),
    FolioSetting("recovery_s", CHANGES, "Cost of a slip", "Seconds that one slip takes", Kind("seconds", 0.1, 120), "s", 0.5),
    FolioSetting("careful_recovery_s", CHANGES, "Cost of a careful slip", "At a command that is marked careful",
                 Kind("seconds", 0.1, 600), "s", 1),
    FolioSetting("sure", CHANGES, "Certainty", "How likely a change must be better before it is recommended",
                 Kind("a chance", 0.5, 0.99), "", 0.01),
    FolioSetting("least_gain_s", CHANGES, "Smallest gain", "What a change must save before it is recommended",
                 Kind("seconds a week", 0, 3_600), "s a week", 1),
)  # fmt: skip
SETTING_OF: Final = {setting.id: setting for setting in FOLIO_SETTINGS}
NUMBERS: Final = {setting.id: setting.number for setting in FOLIO_SETTINGS if setting.number is not None}


def number_of(name: str, text: str) -> float | int:
    """Return a number as it was written for a setting. Raises EditError saying what was expected."""
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
    """Return the folio with a setting as it was written or chosen. Raises EditError; KeyError for a setting that is none."""
    setting = SETTING_OF[name]
    checked: object
    if setting.number is not None:
        checked = number_of(name, value)
    elif setting.choices is not None:
        known = setting.choices(folio)
        if value not in known:
            raise EditError(f"{value!r} cannot be the {name}; expected one of {', '.join(known)}")
        checked = value
    else:
        checked = " ".join(value.split())
        if not checked:
            raise EditError(f"the {name} is empty; expected a name")
    settings = folio.settings
    if setting.of_timing:
        return replace(folio, settings=replace(settings, timing=replace(settings.timing, **{name: checked})))
    return replace(folio, settings=replace(settings, **{name: checked}))
