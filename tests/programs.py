"""A private accessibility bus, and stand-ins for programs on it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from glimber.store.system.accessibility import MENU, MENU_BAR, MENU_ITEM

STANDIN = Path(__file__).with_name("standin_programs.py")
CONFIG = """<busconfig><type>session</type><listen>unix:tmpdir=/tmp</listen><policy context="default"><allow send_destination="*"
eavesdrop="true"/><allow eavesdrop="true"/><allow own="*"/></policy></busconfig>"""


@contextmanager
def private_bus(folder: Path) -> Iterator[str]:
    """Run a bus on which nothing is started by itself; its address."""
    config = folder / "bus.conf"
    config.write_text(CONFIG)
    daemon = subprocess.Popen(["dbus-daemon", f"--config-file={config}", "--nofork", "--print-address=1"], stdout=subprocess.PIPE,
                              stderr=subprocess.DEVNULL, text=True)  # fmt: skip
    assert daemon.stdout is not None
    try:
        yield daemon.stdout.readline().strip()
    finally:
        daemon.terminate()
        daemon.wait(10)
        daemon.stdout.close()


@contextmanager
def running(address: str, *programs: Any) -> Iterator[subprocess.Popen[str]]:
    """Run stand-in programs on a bus; the process, whose output says what was struck and opened."""
    process = subprocess.Popen([sys.executable, str(STANDIN)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
                               env={**os.environ, "DBUS_SESSION_BUS_ADDRESS": address})  # fmt: skip
    assert process.stdin is not None and process.stdout is not None
    try:
        json.dump(programs, process.stdin)
        process.stdin.close()
        assert process.stdout.readline().strip() == "ready"
        yield process
    finally:
        process.kill()
        process.wait(10)
        process.stdout.close()


def item(name: str, keys: str = "", **more: Any) -> dict[str, Any]:
    return {"role": MENU_ITEM, "name": name, "keys": keys, **more}


def menu(name: str, *inside: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"role": MENU, "name": name, "inside": inside, **more}


def program(name: str, *menus: dict[str, Any], beside: tuple[dict[str, Any], ...] = ()) -> dict[str, Any]:
    window = {"role": 23, "name": f"{name} – Chart 12", "inside": [{"role": MENU_BAR, "name": "", "inside": menus}, *beside]}
    return {"role": 75, "name": name, "inside": [window]}
