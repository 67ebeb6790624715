"""Where a running Glimber is asked to put a card up: a socket that only the same person can open."""

from __future__ import annotations

import contextlib
import os
import socket
import struct
from pathlib import Path
from typing import Final

from glimber.store.faults import StoreError

LONGEST: Final = 4096
_WAIT_S: Final = 3.0
_CREDENTIALS: Final = struct.Struct("3i")


def socket_path() -> Path:
    """The socket, in the folder that the system keeps for what runs; else beside the log file."""
    runtime = os.environ.get("XDG_RUNTIME_DIR")
    if runtime and Path(runtime).is_dir():
        return Path(runtime) / "glimber" / "up"
    from platformdirs import user_state_path

    return user_state_path("glimber") / "up"


def listen() -> socket.socket | None:
    """A socket to be asked at; None where another Glimber listens already, or none can be made."""
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
    """Whether who asks is the same person."""
    _, user, _ = _CREDENTIALS.unpack(end.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, _CREDENTIALS.size))
    return bool(user == os.getuid())


def ask(card: str) -> str:
    """Have the running Glimber put a card up, or take it down; what it says. Raises StoreError where none runs."""
    path = socket_path()
    try:
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as end:
            end.settimeout(_WAIT_S)
            end.connect(str(path))
            end.sendall(card.encode("utf-8", "replace")[:LONGEST] + b"\n")
            end.shutdown(socket.SHUT_WR)
            answer = b""
            while part := end.recv(LONGEST):
                answer += part
    except TimeoutError as error:
        raise StoreError("the running Glimber does not answer; it may be asking something itself") from error
    except OSError as error:
        raise StoreError("Glimber is not running; start it, then a card can be put up") from error
    return answer.decode("utf-8", "replace").strip()
