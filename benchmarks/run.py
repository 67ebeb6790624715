"""Measures what Glimber promises of its speed; prints each figure beside its limit. Exit status 1 when one is over.

script/bench [first-frame] [feedback] [strikes] [engine] [weighing] [reading]
             [any-input] [arranging] [cards] [replanning] [people] [oracle] [settling] [learners] [at-work] [large]
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from benchmarks import (  # noqa: E402  # the path above comes first
    anyinput,
    arranging,
    atwork,
    cards,
    engine,
    feedback,
    first_frame,
    large,
    reading,
    replanning,
    strikes,
    weighing,
)
from benchmarks.figures import Figure  # noqa: E402
from benchmarks.learners import score as learners  # noqa: E402
from benchmarks.people import oracle, score, settle  # noqa: E402

PARTS: dict[str, Callable[[], list[Figure]]] = {
    "first-frame": first_frame.figures,
    "feedback": feedback.figures,
    "strikes": strikes.figures,
    "engine": engine.figures,
    "weighing": weighing.figures,
    "reading": reading.figures,
    "any-input": anyinput.figures,
    "arranging": arranging.figures,
    "cards": cards.figures,
    "replanning": replanning.figures,
    "people": score.figures,
    "oracle": oracle.figures,
    "settling": settle.figures,
    "learners": learners.figures,
    "at-work": atwork.figures,
    "large": large.figures,
}


def start_display() -> subprocess.Popen[bytes] | None:
    """A display of our own, so that nothing on the person's screen is in the figures."""
    read, write = os.pipe()
    server = subprocess.Popen(["Xvfb", "-displayfd", str(write), "-screen", "0", "1440x960x24"], pass_fds=[write],
                              stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)  # fmt: skip
    os.close(write)
    with os.fdopen(read) as pipe:
        os.environ["DISPLAY"] = f":{pipe.readline().strip()}"
    os.environ["QT_QPA_PLATFORM"] = "xcb"
    return server


def main() -> int:
    wanted = sys.argv[1:] or list(PARTS)
    unknown = [name for name in wanted if name not in PARTS]
    if unknown:
        print(f"{unknown[0]} is not measured here; expected {', '.join(PARTS)}", file=sys.stderr)
        return 2
    over = False
    with tempfile.TemporaryDirectory() as home:
        for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"):
            os.environ[name] = f"{home}/{name}"
        display = start_display()
        try:
            for name in wanted:
                for figure in PARTS[name]():
                    over = over or figure.over
                    print(figure, flush=True)
        finally:
            if display is not None:
                display.terminate()
                display.wait()
    return int(over)


if __name__ == "__main__":
    sys.exit(main())
