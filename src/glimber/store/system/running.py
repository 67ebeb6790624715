"""A Glimber that runs already: asked to come forward, or to open another folio."""

from __future__ import annotations

import os
import socket

from glimber.store.system.up_path import LONGEST, socket_name

FRONT = "!front"
OPEN = "!open "
_WAIT_S = 3.0


def come_forward(folder: str | None) -> bool:
    """Have the Glimber that runs come forward, with a folio where one is named; False where none runs, or none that answers.

    One on another display is another Glimber: it could not be seen here.
    """
    line = FRONT if folder is None else f"{OPEN}{os.path.abspath(folder)}"  # noqa: PTH100  # there is no time to load pathlib
    display = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY") or ""
    try:
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as end:
            end.settimeout(_WAIT_S)
            end.connect(socket_name())
            end.sendall(f"{line}\t{display}\n".encode("utf-8", "replace")[:LONGEST])
            end.shutdown(socket.SHUT_WR)
            return end.recv(LONGEST).startswith(b"ok")
    except OSError:
        return False
