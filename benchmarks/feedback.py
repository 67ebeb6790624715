"""From a key event to its feedback painted: the next prompt after a hit, the picture after a slip. Tries are committed."""

from __future__ import annotations

import numpy as np

from benchmarks.drilling import Hand
from benchmarks.figures import Figure, alone

PROMPTS = 2000
LIMIT_MS = 12.0
BINDINGS = ("show-desktop", "snap-chord", "export-sheet", "lock-selection", "save-copy")


def figures() -> list[Figure]:
    """99th percentile over 2,000 prompts, every ninth of them a slip."""
    hand, took, slips = Hand(), list[float](), 0
    while len(took) < PROMPTS:
        if hand.room.play is None:
            hand.begin(BINDINGS)
        slip = len(took) % 9 == 4 and not hand.room.play.waits_for_strike
        slips += slip
        found = hand.answer(slip)
        if found is not None:
            took.append(found)
    hand.close()
    median = float(np.median(took))
    note = f"median {median:.1f} ms, {slips} slips among {len(took)} prompts; {alone(median)}"
    return [
        Figure("key event to painted feedback, 99th percentile", float(np.percentile(took, 99)), "ms", LIMIT_MS, note=note)
    ]
