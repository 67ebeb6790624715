"""The sorts of people: how their hands scatter, how they learn, and what they do when nothing comes to mind."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True)
class Sort:
    """Chances are per try.

    ``hand``: a key beside the wanted one; ``weak_hand``: times that for one of the hands; ``warm``: what a warm try's odds
    of not knowing are times a cold one's; ``tired``: how much errors grow over a day; ``favourite``: share of what is
    struck for want of knowing that goes to one key; ``gesture``, ``layer``, ``modifiers``: background errors; ``blank``:
    share of not knowing that ends in nothing; ``tau``: tries in which not knowing falls to 1/e, from and to; ``night``:
    what a night adds to it; ``tries``: counted tries of a binding at most.
    """

    name: str
    hand: float = 0.025
    weak_hand: float = 1.0
    warm: float = 0.7
    tired: float = 0.0
    favourite: float = 0.0
    gesture: float = 0.006
    layer: float = 0.006
    modifiers: float = 0.008
    blank: float = 0.5
    tau: tuple[float, float] = (5.0, 13.0)
    night: float = 0.01
    tries: int = 130
    law: str = "exponential"
    """How not knowing falls with tries: exponential, a power law, or at once at some try."""
    mixes_commands: bool = False
    """What is taken for each other is confused by what it does: exchanging the places changes nothing."""
    bad_keys: float = 0.0
    """Share of keys beside which everybody's hand lands four times as often, whatever is on them."""
    relearn_tau: float = 11.0
    one_set: bool = False
    """Modifier slips go to one other set of modifiers."""


SORTS: Final = (
    Sort("steady"),
    Sort("clumsy", hand=0.11, gesture=0.015, modifiers=0.02),
    Sort("warming up", warm=0.35, night=0.03),
    Sort("uneven hands", hand=0.02, weak_hand=5.0),
    Sort("favourite key", favourite=0.7, blank=0.3),
    Sort("tiring", hand=0.04, tired=0.8, tau=(4.0, 16.0)),
    Sort("few tries", tries=60, hand=0.04),
    Sort("many tries", tries=260, hand=0.03, night=0.015),
)
OTHERS: Final = (
    Sort("confuses commands", mixes_commands=True),
    Sort("power law", law="power", tau=(3.0, 8.0)),
    Sort("sudden insight", law="step", tau=(10.0, 45.0), one_set=True),
    Sort("bad keys", bad_keys=0.2, hand=0.02, one_set=True),
    Sort("slow to relearn", relearn_tau=45.0, night=0.02),
    Sort("goes blank", blank=0.95, tau=(8.0, 30.0), mixes_commands=True),
)
"""Sorts of another form than the rules that judge them: for gains against an oracle, and never tuned with."""
