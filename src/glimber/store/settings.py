"""Settings of the person rather than the folio: the name of this computer, the last folio and room, the theme."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import asdict, fields, replace

from glimber.store.faults import StoreError


class UserSettings(Struct, frozen=True):
    """Settings of this person on this computer."""

    computer: str = ""
    last_folio: str = ""
    last_room: str = "cards"
    last_card: str = ""
    theme: str = "dark"
    introduced: bool = False
    window: str = ""
    """The window's place, as ``x,y,width,height`` in px, and ``max`` behind it when it filled the screen."""

    up: str = ""
    """The places of cards put up over the desktop, by id, as JSON."""
    toured: str = ""
    """Folders of folios whose tour was offered, one a line."""
    scale: int = 100
    """The size everything is drawn at, in per cent."""
    minutes: float = 3.0
    """The length of a round."""
    deadline: str = "fixed"
    hints: bool = False
    """A card shows the key of a command that was chosen by menu for the third time in a day."""
    menu_names: bool = False
    """While menus are counted, the names of entries that are not in the folio are kept too."""
    system: str = "linux"
    """The system whose keys are imported from a page that has those of several: linux, windows or mac."""
    spoken: bool = False
    """Prompts are spoken by the desktop's speech service."""
    backups_mb: int = 50
    """The room that copies of a folio's files may take."""
    day_page: str = ""
    """``never``: the day's page is not shown on starting."""
    tallied: str = ""
    """Folders of folios whose bindings are counted at work, one a line."""
    logs: str = ""
    """The place of this person's practice of a folio instead of where the folio says: folder and place, a tab between, one a
    line."""
    person: str = ""
    """The name of the person, where several share one user of a database server."""
    unagreed: str = ""
    """Places outside folios that came in a pack and wait for agreement: folder and place, a tab between, one a line."""
    unencrypted: str = ""
    """Servers that the person agreed to reach without TLS, with a space between."""
    servers: str = ""
    """Database servers, without passwords and with a space between, that were confirmed as places for practice."""

    @property
    def computer_name(self) -> str:
        return self.computer or os.uname().nodename or "this computer"


def settings_file() -> Path:
    """Return where the settings are: the folder that the desktop sets apart for it."""
    from platformdirs import user_config_path

    return user_config_path("glimber") / "settings.json"


def load_settings() -> UserSettings:
    """Return the settings; what cannot be read is as if it were not set."""
    try:
        found = json.loads(settings_file().read_text("utf-8"))
    except (OSError, ValueError):
        return UserSettings()
    if not isinstance(found, dict):
        return UserSettings()
    known = {f.name: type(f.default) for f in fields(UserSettings)}
    usable: dict[str, Any] = {name: value for name, value in found.items() if type(value) is known.get(name)}
    return UserSettings(**usable)


def save_settings(settings: UserSettings) -> None:
    """Write the settings; a folder that cannot be written only means they are forgotten."""
    from glimber.store.files import write_atomically

    try:
        write_atomically(settings_file(), f"{json.dumps(asdict(settings), indent=2)}\n".encode(), mode=0o600)
    except StoreError:
        return


def remember(**changes: object) -> UserSettings:
    """Change some settings and write them."""
    settings = replace(load_settings(), **changes)
    save_settings(settings)
    return settings
