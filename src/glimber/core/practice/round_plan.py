"""The plan of a round: its bindings, options and pacing."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct, field

from glimber.core.practice.options import Options
from glimber.core.practice.pacing import Pacing
from glimber.core.practice.tries import Try

Replan = Callable[[Sequence[Try], float], Mapping[str, int]]
"""Makes the plan again: from the tries so far and the seconds that went by, the clean hits each binding is to have in all."""


class RoundPlan(Struct, frozen=True):
    """The bindings a round asks for, and how it asks for them.

    ``hits``: clean hits planned for each binding. ``deadlines``: in ms, of bindings whose own are not the usual one. ``replan``
    makes the plan again after each try; ``pacing`` chooses the prompts of a round that ends with its minutes.
    """

    bindings: Sequence[str]
    options: Options = Options()
    hits: Mapping[str, int] = field(default_factory=dict)
    deadlines: Mapping[str, float] = field(default_factory=dict)
    replan: Replan | None = None
    pacing: Pacing | None = None
