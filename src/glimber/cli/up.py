"""``glimber up CARD``: loads nothing but a socket, so that a desktop shortcut has the card at once."""

from __future__ import annotations

import sys

_USAGE = """Usage: glimber up CARD

Puts a card up over the desktop in the running Glimber, or takes it down. CARD is its id: its file's name in cards/, or the id the
shelf gives it (glimber cards lists them). Bind it to a key of the desktop.

Example: glimber up grid-shoalwright
"""


def up(arguments: list[str]) -> int:
    """Ask the running Glimber; the exit status."""
    from glimber.store.faults import StoreError
    from glimber.store.system.upsocket import ask

    if arguments in (["--help"], ["-h"]):
        print(_USAGE, end="")
        return 0
    if len(arguments) != 1 or not arguments[0] or arguments[0].startswith("-"):
        print(_USAGE, end="", file=sys.stderr)
        return 2
    try:
        answer = ask(arguments[0])
    except StoreError as error:
        print(error, file=sys.stderr)
        return 2
    fine = answer.startswith("ok ")
    print(answer.partition(" ")[2], file=sys.stdout if fine else sys.stderr)
    return 0 if fine else 2
