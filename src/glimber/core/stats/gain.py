"""The worth of another clean hit, and its time. Source: docs/measures.md, "The next prompt"."""

from __future__ import annotations

from typing import Final

import numpy as np
from msgspec import Struct

from glimber.core.practice.columns import Floats
from glimber.core.practice.round import MOST_HITS
from glimber.core.stats.belief import Belief

PROMPT_S: Final = 0.6
MENDING_S: Final = 1.4
"""The time a slip is read for, before the wanted one is struck."""
UNTRIED_RECALL_MS: Final = 1200.0


class Hits(Struct, frozen=True):
    """Further clean hits of every binding: ``worths`` (8, b) seconds a week that the first, the second … saves, ``seconds``
    (b,) that one takes, ``known`` (b,) the chance that it is known now."""

    worths: Floats
    seconds: Floats
    known: Floats


def hit_seconds(time_ms: float | None, reach_ms: float | None, p_clean: float) -> float:
    """Return seconds that a clean hit takes: recall, hand and the time to the next prompt, more with the chance of a slip."""
    time = time_ms if time_ms is not None else UNTRIED_RECALL_MS + (reach_ms or 300.0)
    return time / 1000 + PROMPT_S + (1 - p_clean) * (MENDING_S + time / 1000)


def hit_worths(belief: Belief, stakes: Floats, day: float) -> Floats:
    """Return seconds a week that the first, the second … the eighth further clean hit of each binding saves, (8, b).

    ``stakes`` (b,) seconds a week that not knowing it costs, ``day`` now.
    """
    later, every = belief.copy(), np.arange(len(stakes))
    found = []
    for _ in range(MOST_HITS):
        found.append(np.maximum(0.0, later.gain(day)) * stakes)
        later.strikes(every, np.full(len(stakes), day), np.ones(len(stakes), dtype=bool))
    return np.minimum.accumulate(np.array(found))
