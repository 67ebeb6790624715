"""The path of the socket that puts a card up. Imports nothing but ``os``, because the caller has little time."""

from __future__ import annotations

import os

LONGEST = 4096


def socket_name() -> str:
    """Return the socket, in the folder that the system keeps for what runs; else in the person's folder for the state of
    programs."""
    runtime = os.environ.get("XDG_RUNTIME_DIR")
    if runtime and os.path.isdir(runtime):  # noqa: PTH112  # pathlib takes longer to load than the whole call may
        return f"{runtime}/glimber/up"
    state = os.environ.get("XDG_STATE_HOME") or f"{os.environ.get('HOME') or '/'}/.local/state"
    return f"{state}/glimber/up"
