"""Slips of a binding: by kind, by the trigger struck, by the command it would have carried out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct

from glimber.core.practice.columns import BLANK, SLIP, Ints, TryColumns
from glimber.core.practice.slip_kinds import SLIP_KINDS
from glimber.core.stats.accuracy import weights

_STRAY = SLIP_KINDS.index("stray")


class Slips(Struct, frozen=True):
    """Counts and weighted shares by kind, counts by what was struck and by what it would have done, most first; ``offset_u`` the
    mean way from the wanted key to the struck one; ``blanks`` how often nothing came."""

    kinds: Mapping[str, int]
    shares: Mapping[str, float]
    struck: Mapping[str, int]
    would_do: Mapping[str, int]
    offset_u: tuple[float, float] | None
    blanks: int
    went: Mapping[str, Mapping[str, int]]
    """By kind, what was struck and how often, most first."""

    @property
    def total(self) -> int:
        return sum(self.kinds.values())


def slips_of(columns: TryColumns, rows: Ints) -> Slips:
    """Return the slips among one binding's tries, given by their places in order of time."""
    outcome = columns.outcome[rows]
    wrong = rows[outcome == SLIP]
    w = weights(np.arange(len(rows) - 1, -1, -1))[outcome == SLIP]
    kinds = np.where(columns.slip[wrong] < 0, _STRAY, columns.slip[wrong])
    counts = Counter(SLIP_KINDS[kind] for kind in kinds)
    whole = float(w.sum())
    shares = {kind: float(w[kinds == SLIP_KINDS.index(kind)].sum() / whole) for kind in counts}
    offsets = columns.offset_u[wrong]
    offsets = offsets[~np.isnan(offsets[:, 0])]
    mean = (float(offsets[:, 0].mean()), float(offsets[:, 1].mean())) if len(offsets) else None
    names, does = columns.pressed.names, columns.would_do.names
    return Slips(
        dict(counts.most_common()),
        shares,
        dict(Counter(names[code] for code in columns.pressed.codes[wrong] if code >= 0).most_common()),
        dict(Counter(does[code] for code in columns.would_do.codes[wrong] if code >= 0).most_common()),
        mean,
        int((outcome == BLANK).sum()),
        _went(kinds, columns.pressed.codes[wrong], names),
    )


def _went(kinds: Ints, pressed: Ints, names: Sequence[str]) -> dict[str, dict[str, int]]:
    found: dict[str, Counter[str]] = {}
    for kind, code in zip(kinds.tolist(), pressed.tolist(), strict=True):
        if code >= 0:
            found.setdefault(SLIP_KINDS[kind], Counter())[names[code]] += 1
    return {kind: dict(counts.most_common()) for kind, counts in found.items()}
