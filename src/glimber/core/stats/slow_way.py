"""The seconds of a slow way as the person takes it: their own times, drawn towards the model's figure while there are few."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final

from msgspec import Struct

from glimber.core.stats.reach import slow_way_s

MODEL_WEIGHT: Final = 4.0
"""The model counts as so many times of the person's own."""
NEWEST: Final = 40
LEAST_WITHOUT_MODEL: Final = 3
"""Own times needed where no steps are on record."""


class SlowWay(Struct, frozen=True):
    """``seconds`` None: nothing is known; ``times``: how often it was timed."""

    seconds: float | None
    times: int = 0


def slow_way_of(steps: Iterable[str], seconds: Sequence[float] = ()) -> SlowWay:
    """Return the seconds of a slow way: the median of the newest own times and the keystroke-level model, weighted by number.

    s = (4·model + n·median) / (4 + n); the median as it is where no steps are on record. Source: docs/measures.md, "Slow way".
    """
    own = seconds[-NEWEST:]
    model = slow_way_s(steps)
    if not own or (model is None and len(own) < LEAST_WITHOUT_MODEL):
        return SlowWay(model)
    from statistics import median  # not before the first frame, which needs no times

    middle = median(own)
    if model is None:
        return SlowWay(middle, len(own))
    return SlowWay((MODEL_WEIGHT * model + len(own) * middle) / (MODEL_WEIGHT + len(own)), len(own))
