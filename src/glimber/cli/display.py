"""Find out whether a window can be shown before the toolkit starts: the toolkit ends the process where it cannot."""

from __future__ import annotations

import ctypes
import os
import socket
from importlib.util import find_spec
from pathlib import Path


def display_problem() -> str | None:
    """Why no window can be shown here, in a sentence; None where one can."""
    wanted = [one.partition(":")[0] for one in os.environ.get("QT_QPA_PLATFORM", "").split(";") if one]
    if not wanted:
        wanted = [
            name for variable, name in (("WAYLAND_DISPLAY", "wayland"), ("DISPLAY", "xcb")) if os.environ.get(variable)
        ]
    if not wanted:
        return "There is no display to open a window on"
    problems = [_problem_of(one) for one in wanted]
    return None if None in problems else problems[-1]


def _problem_of(platform: str) -> str | None:
    known = _platforms()
    if known and platform not in known:
        return f"QT_QPA_PLATFORM names {platform}, which is not there; it has {', '.join(sorted(known))}"
    if platform == "xcb":
        return _x_problem()
    if platform.startswith("wayland"):
        return _wayland_problem()
    return None


def _platforms() -> set[str]:
    spec = find_spec("PySide6")
    folders = list(spec.submodule_search_locations or ()) if spec else []
    files = (file for folder in folders for file in (Path(folder) / "Qt" / "plugins" / "platforms").glob("libq*.so"))
    return {file.stem.removeprefix("libq") for file in files}


def _x_problem() -> str | None:
    display = os.environ.get("DISPLAY", "")
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
        ctypes.CDLL("libxcb-cursor.so.0")
    except OSError as error:
        return f"The window needs a library of the system ({error}); install libxcb1 and libxcb-cursor0"
    xcb.xcb_connect.restype = ctypes.c_void_p
    xcb.xcb_connect.argtypes = (ctypes.c_char_p, ctypes.c_void_p)
    xcb.xcb_connection_has_error.argtypes = xcb.xcb_disconnect.argtypes = (ctypes.c_void_p,)
    connection = xcb.xcb_connect(None, None)
    reached = not xcb.xcb_connection_has_error(connection)
    xcb.xcb_disconnect(connection)
    return None if reached else f"The display {display} cannot be reached"


def _wayland_problem() -> str | None:
    name = os.environ.get("WAYLAND_DISPLAY", "wayland-0")
    path = Path(os.environ.get("XDG_RUNTIME_DIR", "/")) / name
    try:
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as end:
            end.settimeout(2)
            end.connect(str(path))
    except OSError:
        return f"The display {path} cannot be reached"
    return None
