"""Windows and programs in the order in which they were in front."""

from __future__ import annotations

from typing import Final

from glimber.store.faults import StoreError
from glimber.store.system.accessibility import RunningProgram
from glimber.store.system.running_menus import programs
from glimber.store.work.x_server import connection

_OWN: Final = "Glimber"


def titles_by_front() -> list[str]:
    """Return the titles of the windows on the screen, the one in front first; nothing where nobody knows them.

    Source: "Extended Window Manager Hints", _NET_CLIENT_LIST_STACKING and _NET_WM_NAME.
    """
    from Xlib.error import ConnectionClosedError, XError

    try:
        display = connection()
    except StoreError:
        return []
    try:
        root, name = display.screen().root, display.intern_atom("_NET_WM_NAME")
        stacked = root.get_full_property(display.intern_atom("_NET_CLIENT_LIST_STACKING"), 0)
        found = []
        for window in reversed(stacked.value if stacked is not None else ()):
            title = display.create_resource_object("window", window).get_full_property(name, 0)
            found.append(title.value.decode("utf-8", "replace") if title is not None else "")
        return [title for title in found if title]
    except (XError, ConnectionClosedError, OSError):
        return []
    finally:
        display.close()


def programs_by_front() -> list[RunningProgram]:
    """Return the programs that run, the one whose window was in front last first and Glimber itself last. Raises StoreError where
    the bus is off."""
    place = {title: at for at, title in enumerate(titles_by_front())}

    def behind(one: RunningProgram) -> tuple[bool, int]:
        return one.name == _OWN, min((place.get(title, len(place)) for title in one.windows), default=len(place))

    return sorted(programs(), key=behind)
