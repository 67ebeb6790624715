"""Options of a round: how it is answered, what a prompt shows, how long it waits, and when the round ends."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final, Literal

from msgspec import Struct

from glimber.core.practice.cues import CUES, CueWish
from glimber.core.practice.tries import AnswerMode, Round

Deadline = Literal["none", "fixed", "adaptive"]
Hands = Literal["stand-in", "board", "device"]
HANDS: Final[tuple[Hands, ...]] = ("stand-in", "board", "device")
DEADLINES: Final[tuple[Deadline, ...]] = ("fixed", "adaptive", "none")
USUAL_DEADLINE_MS: Final = 4000.0
NO_ANSWER_MS: Final = 60_000.0
"""Without a deadline: after so long without an answer nobody is there, and the prompt is void."""
OWN_TIMES: Final = 1.5
OWN_LEAST_MS: Final = 800.0
OWN_MOST_MS: Final = 6000.0


class Options(Struct, frozen=True):
    """``hands``: whether spots are struck on the ordinary keyboard that stands in for their board, on the board itself, of which
    only what it sends is seen, or on ``device_board``, read as a device, whose very keys are seen. ``minutes`` None: the round
    ends with its hits. ``sprint``: as many hits as there are in that time."""

    mode: AnswerMode = "press"
    cue: CueWish = "name"
    strict: bool = False
    deadline: Deadline = "fixed"
    hands: Hands = "stand-in"
    device_board: str | None = None
    minutes: float | None = None
    sprint: bool = False

    @property
    def deadline_ms(self) -> float:
        """Return how long a prompt waits whose binding has no deadline of its own."""
        return NO_ANSWER_MS if self.deadline == "none" else USUAL_DEADLINE_MS


def options_of(whole: Round) -> Options:
    """Return the options of a round that is in the log; the usual ones where a log of an earlier version did not say."""
    return Options(
        whole.mode, next((cue for cue in CUES if cue == whole.cue), "name"), whole.strict,
        next((one for one in DEADLINES if one == whole.deadline), "fixed"),
        next((one for one in HANDS if one == whole.hands), "stand-in"), minutes=whole.minutes, sprint=whole.goal == "sprint",
    )  # fmt: skip


def adaptive_ms(times_ms: Mapping[str, float | None]) -> dict[str, float]:
    """Deadlines by binding: 1.5 times the person's own median, 0.8 to 6 s; where a binding has no time yet, that of them all.

    ``times_ms``: recall and motor time together, the median of clean hits, None where there are none.
    """
    known = [time for time in times_ms.values() if time is not None]
    from statistics import median  # with all kinds of numbers, which no first frame needs

    usual = median(known) if known else USUAL_DEADLINE_MS / OWN_TIMES
    return {
        id: min(OWN_MOST_MS, max(OWN_LEAST_MS, OWN_TIMES * (usual if time is None else time)))
        for id, time in times_ms.items()
    }
