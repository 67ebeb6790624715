"""On a real Wayland compositor without a monitor: window, rooms, a round, a card put up, and what Wayland does not allow said."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest

from tests.helpers import write_folio

if shutil.which("weston") is None:
    pytest.fail("weston is missing: run script/test, or apt-get install weston")


@pytest.mark.parametrize("scale", ["1", "1.25"])
def test_rooms_a_round_and_a_card_on_wayland(tmp_path: Path, scale: str) -> None:
    runtime = tmp_path / "run"
    runtime.mkdir(mode=0o700)
    environment = {**os.environ, "XDG_RUNTIME_DIR": str(runtime), "WAYLAND_DISPLAY": "wl-test", "XDG_SESSION_TYPE": "wayland",
                   "QT_QPA_PLATFORM": "wayland", "QT_SCALE_FACTOR": scale}  # fmt: skip
    environment.pop("DISPLAY")
    arguments = ["weston", "--backend=headless-backend.so", "--socket=wl-test", "--idle-time=0", "--width=1920", "--height=1200"]
    server = subprocess.Popen(arguments, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        end = time.monotonic() + 15
        while not (runtime / "wl-test").exists():
            assert time.monotonic() < end and server.poll() is None
            time.sleep(0.05)
        script = Path(__file__).with_name("on_wayland.py")
        done = subprocess.run([sys.executable, str(script), str(write_folio(tmp_path / "small"))], env=environment,
                              capture_output=True, text=True, timeout=120, check=False)  # fmt: skip
    finally:
        server.terminate()
        server.wait()
    assert done.returncode == 0, done.stderr
    found = json.loads(done.stdout)
    assert found["platform"] == "wayland" and found["rooms painted"] and found["size"][0] >= 1024
    assert found["outcomes"] == ["hit", "hit"]
    assert "ordinary window" in found["put up"] and found["counting"].startswith("Under Wayland")
