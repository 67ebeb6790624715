"""The socket on which a running Glimber is asked to put a card up; only the same person can open it."""

from __future__ import annotations

import contextlib
import os
import socket
import struct
from pathlib import Path
from typing import Final

from glimber.store.system.up_path import socket_name

_WAIT_S: Final = 3.0
_CREDENTIALS: Final = struct.Struct("3i")


def socket_path() -> Path:
    """Return the socket as a path."""
    return Path(socket_name())


def listen() -> socket.socket | None:
    """Return a socket to be asked at; None where another Glimber listens already, or none can be made."""
    path = socket_path()
    try:
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        path.parent.chmod(0o700)
        if path.exists():
            if _answers(path):
                return None
            path.unlink()
        end = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        before = os.umask(0o177)
        try:
            end.bind(str(path))
        finally:
            os.umask(before)
        end.listen(4)
        end.setblocking(False)
    except OSError:
        return None
    return end


def _answers(path: Path) -> bool:
    with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as end:
        end.settimeout(_WAIT_S)
        end.connect(str(path))
        return True
    return False


def is_own(end: socket.socket) -> bool:
    """Return True if who asks is the same person."""
    _, user, _ = _CREDENTIALS.unpack(end.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, _CREDENTIALS.size))
    return bool(user == os.getuid())
