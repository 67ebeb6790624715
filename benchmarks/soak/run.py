"""One class of a soak, tried with many numbers in folders of its own."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from random import Random

from benchmarks.soak.folios import seed_folio, try_one
from benchmarks.soak.strangers import STRANGERS
from benchmarks.soak.weeks import CLASSES

FOLIOS = 5000
Class = Callable[[Path, Path, Random], list[str]]


def classes() -> dict[str, tuple[int, Class]]:
    """Every class with how often it is tried."""
    return {**CLASSES, **STRANGERS, "folios": (FOLIOS, try_one)}


def run(name: str, numbers: range, until: float) -> tuple[int, list[str]]:
    """Try a class with these numbers; how many were tried, and what failed."""
    tried, failed = 0, []
    with tempfile.TemporaryDirectory() as home:
        for variable in ("HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"):
            os.environ[variable] = home
        seed = seed_folio(Path(home) / "seed")
        for number in numbers:
            if tried and time.time() > until:
                break
            tried += 1
            failed += [
                f"{name} {number}: {one}" for one in classes()[name][1](seed, Path(home) / "work", Random(number))
            ]
    return tried, failed
