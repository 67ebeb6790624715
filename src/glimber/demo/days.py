"""The demo's days: a simulated person takes up the chart office's keys, with the troubles that are planted in it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Final

from msgspec.structs import replace

from glimber.core.edit.edit import move_binding
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import parse_spot
from glimber.core.practice.round_plan import RoundPlan
from glimber.core.practice.tries import Change, Record, Try
from glimber.demo.troubles import TROUBLES
from glimber.standin.person import Person
from glimber.standin.practice import play_round, seeded_ids

DAYS: Final = 16
ROUNDS_A_DAY: Final = 4
HITS: Final = 5
SEED: Final = 41
MOVED_DAYS_AGO: Final = 5
MOVED: Final = "next-p"
STUCK: Final = "trim-to-neatline"
"""Half known from before, and not getting better."""
MOVED_FROM: Final = "split-42:base:KeyP:tap"
LAYERS_LEARNT: Final = ("draw", "travel")
CHORDS_LEARNT: Final = (
    "export-sheet", "lock-selection", "snap-chord", "trim-to-neatline", "save-copy", "show-desktop", "zoom-to-selection",
    "measure-distance", "label-contour", "join-lines", "insert-vertex", "go-to-index", "tile-left", "search-soundings",
)  # fmt: skip


def practise(
    folio: Folio,
    now: datetime,
    computer: str,
    seed: int = SEED,
    days: int = DAYS,
    each_day: Callable[[int], bool] = lambda day: True,
) -> list[Record]:
    """Return the practice of the days before ``now``: rounds, tries, key events and the one change, in order of time."""
    random, new_id = Random(seed), seeded_ids(seed)
    former = move_binding(folio, MOVED, parse_spot(MOVED_FROM)).folio
    person = Person(former, seed, {id: trouble for id, trouble in TROUBLES.items() if id != MOVED})
    person.strength[STUCK] = 1.6
    first = first_morning(now, days)
    learnt = _to_learn(folio)
    prompts: dict[str, int] = {}
    changes: list[Change] = []
    records: list[Record] = []
    for day in range(days):
        morning = first + timedelta(days=day)
        if day == days - MOVED_DAYS_AGO:
            changes.append(_the_change(folio, new_id(morning), morning, computer))
            records += changes
            person.folio, person.troubles = folio, dict(TROUBLES)
            person.strength[MOVED] = 0.8
        here = folio if changes else former
        open_so_far = learnt[: 12 + day * 4]
        for number in range(ROUNDS_A_DAY):
            at = morning + timedelta(hours=number * 2, minutes=random.randrange(50), seconds=random.randrange(60))
            asked = _asked(person, open_so_far, prompts, random)
            for id in asked:
                prompts[id] = prompts.get(id, 0) + 1
            plan = RoundPlan(asked, hits=dict.fromkeys(asked, HITS))
            played, _ = play_round(person, here, plan, at, computer, changes, new_id, random.getrandbits(32))
            records += played
        person.sleep()
        if not each_day(day + 1):
            break
    return state_moments(records)


def first_morning(now: datetime, days: int = DAYS) -> datetime:
    """Return the moment at which the practice begins."""
    return now.astimezone(UTC).replace(hour=8, minute=30, second=0, microsecond=0) - timedelta(days=days)


def state_moments(records: list[Record]) -> list[Record]:
    """Return the records with every moment in UTC to the millisecond, as the log keeps them."""

    def cut(at: datetime) -> datetime:
        return at.astimezone(UTC).replace(microsecond=at.microsecond // 1000 * 1000)

    kept: list[Record] = []
    for record in records:
        kept.append(replace(record, at=cut(record.at)) if isinstance(record, Try) else record)
    return kept


def _to_learn(folio: Folio) -> list[str]:
    """Return what the person takes up, in order: the troubles early, then Draw, Travel and some chords by turns."""
    spots = [b.id for layer in LAYERS_LEARNT for b in folio.layouts["split-42"].layer(layer).bindings if b.command]  # type: ignore[union-attr]
    rest = [id for pair in zip(spots, [*CHORDS_LEARNT, *spots], strict=False) for id in pair]
    return list(dict.fromkeys([*TROUBLES, *rest, *spots, *CHORDS_LEARNT]))


def _asked(person: Person, learnt: list[str], prompts: dict[str, int], random: Random) -> list[str]:
    """Five of what has been taken up: what was asked least for its weakness comes first, with some chance."""
    ready = []
    for id in learnt:
        trouble = TROUBLES.get(id)
        if trouble is None or trouble.most_tries is None or prompts.get(id, 0) == 0:
            ready.append(id)
    weight = 1.6
    ready.sort(key=lambda id: prompts.get(id, 0) / (weight if id in TROUBLES else 1.0) + random.random() * 1.5)
    return ready[:5]


def _the_change(folio: Folio, id: str, at: datetime, computer: str) -> Change:
    binding = folio.bindings[MOVED]
    why = "next to Zoom in, where the eye is; the old place was on Base"
    return Change(id, at, computer, MOVED, "move", binding.command, MOVED_FROM, str(binding.trigger), why, applied=at)
