"""A session bus of our own with the accessibility bus on it, for tests with real programs."""

from __future__ import annotations

import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

LAUNCHER = next((path for path in (Path("/usr/libexec/at-spi-bus-launcher"), Path("/usr/lib/at-spi2-core/at-spi-bus-launcher"))
                 if path.exists()), None)  # fmt: skip
needs_bus = pytest.mark.skipif(LAUNCHER is None or shutil.which("dbus-daemon") is None, reason="at-spi2-core or dbus is not installed")
needs_program = pytest.mark.skipif(shutil.which("mousepad") is None, reason="mousepad is not installed")


@contextmanager
def running_bus(home: Path) -> Iterator[dict[str, str]]:
    """Run the buses; the environment of programs that are to speak on them."""
    home.mkdir()
    plain = {**os.environ, "HOME": str(home), "XDG_RUNTIME_DIR": str(home), "XDG_CONFIG_HOME": str(home / "c")}
    daemon = subprocess.Popen(["dbus-daemon", "--session", "--nofork", "--print-address=1"], env=plain, stdout=subprocess.PIPE,
                              stderr=subprocess.DEVNULL, text=True)  # fmt: skip
    assert daemon.stdout is not None and LAUNCHER is not None
    address = daemon.stdout.readline().strip()
    environment = {**plain, "DBUS_SESSION_BUS_ADDRESS": address, "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"}
    launcher = subprocess.Popen([str(LAUNCHER), "--launch-immediately"], env=environment, stdout=subprocess.DEVNULL,
                                stderr=subprocess.DEVNULL)  # fmt: skip
    try:
        yield environment
    finally:
        for process in (launcher, daemon):
            process.terminate()
            process.wait(10)
        daemon.stdout.close()
