"""``glimber up CARD``: loads nothing but a socket, so that a desktop shortcut has the card at once."""

from __future__ import annotations

import socket
import sys

from glimber.store.system.up_path import LONGEST, socket_name

_WAIT_S = 3.0
_USAGE = """Usage: glimber up CARD

Puts a card up over the desktop in the running Glimber, or takes it down. CARD is its id: its file's name in cards/, or the id the
shelf gives it. Bind it to a key of the desktop.

Example: glimber up grid-shoalwright
"""


def up(arguments: list[str]) -> int:
    """Ask the running Glimber; the exit status."""
    if arguments in (["--help"], ["-h"]):
        print(_USAGE, end="")
        return 0
    if len(arguments) != 1 or not arguments[0] or arguments[0].startswith("-"):
        print(_USAGE, end="", file=sys.stderr)
        return 2
    try:
        answer = _ask(arguments[0])
    except TimeoutError:
        print("the running Glimber does not answer; it may be asking something itself", file=sys.stderr)
        return 2
    except OSError:
        print("Glimber is not running; start it, then a card can be put up", file=sys.stderr)
        return 2
    status, _, words = answer.partition(" ")
    print(words, file=sys.stdout if status == "ok" else sys.stderr)
    return 0 if status == "ok" else 2


def _ask(card: str) -> str:
    """Return what the running Glimber says. Raises OSError, TimeoutError."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as end:
        end.settimeout(_WAIT_S)
        end.connect(socket_name())
        end.sendall(card.encode("utf-8", "replace")[:LONGEST] + b"\n")
        end.shutdown(socket.SHUT_WR)
        answer = b""
        while part := end.recv(LONGEST):
            answer += part
    return answer.decode("utf-8", "replace").strip()
