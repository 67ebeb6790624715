"""All settings as rows with their effect at once: the person's own, and those of a folio that ``core/edit/settings`` declares."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import suppress
from math import log
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.decide.plan import MINUTES
from glimber.core.edit.edit import EditError
from glimber.core.edit.settings import FOLIO_SETTINGS, NUMBERS, FolioSetting, number_of, set_setting
from glimber.core.model.systems import SYSTEMS
from glimber.core.practice.options import DEADLINES
from glimber.store.faults import StoreError
from glimber.store.settings import UserSettings, remember
from glimber.store.tally import change_tally, read_tally
from glimber.ui.session.session import Session
from glimber.ui.shell.window_place import SCALES

_WIDE: Final = 50.0
"""From this many times the least on, the places of a slider go by ratios and not by differences."""


class Setting(Struct, frozen=True):
    """One setting of a ``group``: ``value`` as it is now, ``choices`` it may be (none: it is written), ``put`` makes it so.

    ``step``: by how much a number goes up or down with one key; 0 for what is no number. ``put`` raises EditError, StoreError.
    """

    group: str
    id: str
    name: str
    detail: str
    value: Callable[[], str]
    put: Callable[[str], None]
    choices: Callable[[], Sequence[str]] = tuple
    words: Callable[[str], str] = str
    step: float = 0.0

    @property
    def share(self) -> float | None:
        """The position of a number between its least and its most, from 0 to 1; None for another kind of value."""
        kind = NUMBERS.get(self.id)
        if kind is None or not self.step:
            return None
        value = float(self.value())
        if kind.least > 0 and kind.most / kind.least >= _WIDE:
            return log(max(value, kind.least) / kind.least) / log(kind.most / kind.least)
        return (value - kind.least) / (kind.most - kind.least)

    def stepped(self, by: int) -> str | None:
        """Return the next value, or the one before; None for what can only be written."""
        choices, now = list(self.choices()), self.value()
        if choices:
            place = choices.index(now) if now in choices else -1 if by > 0 else 0
            return choices[(place + by) % len(choices)]
        if not self.step:
            return None
        kind = NUMBERS[self.id]
        value = round(float(now) / self.step + by) * self.step
        return f"{min(kind.most, max(kind.least, value)):g}"


class Settings:
    """The rows, and what carries them out: ``themed`` is called with a new theme, ``restart`` where the program has to start
    again for the change, ``resized`` after another size."""

    def __init__(
        self, session: Session, themed: Callable[[str], None], restart: Callable[[], None], resized: Callable[[], None]
    ) -> None:
        self._session, self._themed, self._restart, self._resized = session, themed, restart, resized

    @property
    def own(self) -> UserSettings:
        return self._session.settings

    def _remember(self, **values: object) -> None:
        self._session.settings = remember(**values)
        self._session.settings_changed.emit()

    def rows(self) -> list[Setting]:
        """Return every setting, the person's own first."""
        return [*self._own_rows(), *self._folio_rows()]

    def _own_rows(self) -> list[Setting]:
        def minutes(text: str) -> None:
            self._remember(minutes=float(text))

        def kept(text: str) -> None:
            if not text.strip().isdigit() or not 1 <= int(text) <= 100_000:
                raise EditError(f"{text.strip()!r} is not a size; expected whole megabytes from 1 to 100000")
            self._remember(backups_mb=int(text))

        def named(text: str) -> None:
            self._remember(computer=" ".join(text.split()))
            self._session.edits.computer = self._session.computer
            self._session.weigh_later()
            self._restart()

        look, practice, here = "Appearance", "Your practice", "This computer"
        return [
            Setting(look, "theme", "Theme", "Dark, daylight, or as the desktop is", lambda: self.own.theme, self._themed,
                    lambda: ("dark", "day", "desktop"), lambda one: "as the desktop" if one == "desktop" else one),
            Setting(look, "scale", "Size", "Text and keys; Glimber restarts to apply it", lambda: str(self.own.scale),
                    self._scale, lambda: [str(one) for one in SCALES], lambda one: f"{one} %"),
            Setting(practice, "minutes", "Length of a round", "Unless another is chosen in the Drill room",
                    lambda: f"{self.own.minutes:g}", minutes, lambda: [f"{one:g}" for one in MINUTES], lambda one: f"{one} min"),
            Setting(practice, "deadline", "Time to answer", "How long a prompt waits for keys", lambda: self.own.deadline,
                    lambda one: self._remember(deadline=one), lambda: DEADLINES,
                    lambda one: {"fixed": "4 s", "adaptive": "by your own times"}.get(one, one)),
            Setting(practice, "hints", "Hints at work", "After the third choice by menu in a day: a card with the key, for 4 s",
                    lambda: "on" if self.own.hints else "off", lambda one: self._remember(hints=one == "on"),
                    lambda: ("off", "on")),
            Setting(practice, "menu-names", "Names of menu entries",
                    "While menus are counted, also remember entries that are not in the folio",
                    lambda: "on" if self.own.menu_names else "off", self._keep_names, lambda: ("off", "on")),
            Setting(practice, "spoken", "Spoken prompts", "Read aloud by the desktop's speech service",
                    lambda: "on" if self.own.spoken else "off", lambda one: self._remember(spoken=one == "on"),
                    lambda: ("off", "on")),
            Setting(practice, "day-page", "Day's page", "Shown when Glimber starts, from the second week on",
                    lambda: self.own.day_page or "shown", lambda one: self._remember(day_page="" if one == "shown" else one),
                    lambda: ("shown", "never")),
            Setting(here, "system", "Keys of a page", "Whose are imported where a page has those of several systems",
                    lambda: self.own.system, lambda one: self._remember(system=one), lambda: tuple(SYSTEMS),
                    lambda one: SYSTEMS[one]),
            Setting(here, "computer", "Name", "Names this computer in bindings and tries",
                    lambda: self._session.computer, named),
            Setting(here, "backups", "Space for copies", "The newest copy of each file is always kept",
                    lambda: str(self.own.backups_mb), kept, words=lambda one: f"{one} MB"),
        ]  # fmt: skip

    def _keep_names(self, text: str) -> None:
        """Keep the names of menu entries that are not in the folio, or forget those that were kept."""
        self._remember(menu_names=text == "on")
        if text == "off":
            with suppress(StoreError):
                if read_tally(self._session.folder).others:
                    change_tally(self._session.folder, lambda tally: replace(tally, others={}))

    def _scale(self, text: str) -> None:
        self._remember(scale=int(text))
        self._resized()

    def _folio_rows(self) -> list[Setting]:
        return [self._folio_row(one) for one in FOLIO_SETTINGS]

    def _folio_row(self, one: FolioSetting) -> Setting:
        unit = f" {one.unit}" if one.unit else ""
        return Setting(one.group, one.id, one.name, one.detail, lambda: self._spoken(one.id),
                       lambda text: self._put(one.id, one.name, text), lambda: one.offered(self._session.folio),
                       lambda text: f"{text}{unit}", one.step)  # fmt: skip

    def _spoken(self, id: str) -> str:
        settings = self._session.folio.settings
        value = getattr(settings.timing, id) if hasattr(settings.timing, id) else getattr(settings, id)
        return f"{value:g}" if isinstance(value, float | int) else str(value)

    def _put(self, id: str, name: str, text: str) -> None:
        if id in NUMBERS:
            number_of(id, text)  # an error comes before anything is asked of the folio
        self._session.edit(f"set {name.lower()}", lambda folio: set_setting(folio, id, text))
