"""Verdicts: for every reason a practice that must bring it about, and one that must not."""

from __future__ import annotations

from datetime import timedelta

import pytest
from msgspec.structs import replace

from glimber.core.decide.verdict import Verdict, verdict_counts, verdicts
from glimber.core.model.folio import Folio
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Change, Try
from glimber.core.stats.measures import measure
from tests.helpers import LAYOUT, NOON, PROGRAM, folio_of, practice, tries_of

S, D, F = (f"split-42:draw:Key{key}:tap" for key in "SDF")
RANGE, SOUNDING = "shoalwright/depth-range", "shoalwright/add-sounding"
TO_D = ("neighbour", D, RANGE)


def verdict_of(binding: str, tries: Practice, folio: Folio | None = None) -> Verdict:
    return verdicts(measure(folio or folio_of(), tries, NOON))[binding]


def spread(slips: list[object], hits: int) -> list[object]:
    """Slips spread evenly among hits, so that neither the newest nor the oldest are all of a kind."""
    total = len(slips) + hits
    out: list[object] = []
    for place in range(total):
        due = (place + 1) * len(slips) // total
        out.append(slips[due - 1] if due > place * len(slips) // total else "hit")
    return out


def mine(slips: list[object], hits: int, **more: object) -> list[Try]:
    return tries_of("sounding-s", S, spread(slips, hits), **more)  # type: ignore[arg-type]


def others() -> list[Try]:
    return tries_of("range-d", D, ["hit"] * 20)


FALLING: list[object] = ["blank"] * 12 + ["hit", "blank"] * 3 + ["hit"] * 10
AWAY: list[object] = ["blank", *(("stray", f"split-42:draw:Key{key}:tap", "") for key in "FBT")] * 4
HABIT: list[object] = [("old habit", "split-42:base:KeyP:tap", "")] * 5
SHOAL, SPLIT = "programs/shoalwright.toml", "layouts/split-42.toml"
PINNED = {SPLIT: LAYOUT.replace('id = "sounding-s"', 'id = "sounding-s", pinned = true')}
SELDOM, RARE, GUESSED = ({SHOAL: PROGRAM.replace("uses_per_day = 60", said)} for said in ("uses_per_day = 6", "uses_per_day = 0.1", ""))


def slips(kind: str, *keys: str) -> list[Try]:
    return mine([(kind, key, "") for key in keys * 4], 28)


@pytest.mark.parametrize(("tries", "changed", "choice", "reason"), [
    ([], {}, "practise", "thin-evidence"), (mine(["blank"] * 3, 3), {}, "practise", "thin-evidence"),
    (mine(["blank"] * 10, 20, days=1), {}, "practise", "thin-evidence"),
    (mine([], 40), SELDOM, "keep", "solid"), (mine([TO_D] * 2, 60), SELDOM, "keep", "solid"),
    (tries_of("sounding-s", S, FALLING), {}, "practise", "still-learning"),  # type: ignore[arg-type]
    (mine(AWAY, 30), PINNED, "rebind", "stuck"), (mine([*HABIT, *[TO_D] * 5], 20), {}, None, "old-habit"),
    (slips("layer", "split-42:base:KeyS:tap", "split-42:travel:KeyS:tap", "split-42:marks:KeyS:tap"), {}, None, "wrong-layer"),
    (slips("gesture", *(f"{S[:-4]}:{gesture}" for gesture in ("hold", "double", "tap-hold"))), {}, None, "gesture-slips"),
    (slips("modifiers", "Ctrl+S", "Alt+S", "Super+S"), {}, None, "modifier-slips"),
    (slips("neighbour", *(f"split-42:draw:Key{key}:tap" for key in "WXA")), {}, None, "neighbour-slips"),
    (mine([], 20), RARE, "retire", "unused"), (mine([], 20), GUESSED, "keep", "solid"),
])  # fmt: skip
def test_what_practice_brings_about(tries: list[Try], changed: dict[str, str], choice: str | None, reason: str) -> None:
    found = verdict_of("sounding-s", practice(tries, others() if choice is None else []), folio_of(changed))
    assert (found.choice if choice else None, found.reason) == (choice, reason)
    assert found.best is None or found.choice in ("move", "rebind")


def test_where_the_hand_goes_is_where_it_moves() -> None:
    found = verdict_of("sounding-s", practice(mine([TO_D] * 14, 26), others()))
    assert (found.choice, found.reason) == ("move", "hand-goes-elsewhere")
    assert found.best is not None and str(found.best.to) == D and found.best.swap_with == "range-d"
    assert found.best.gain.p_better >= 0.8 and found.best.gain.share >= 0.1 and found.best.gain.per_week_s >= 30
    assert found.words.startswith("Struck D for S in 14 of 14 slips. Swapping S and D breaks even on day ")


def test_what_is_known_moves_only_when_that_is_nearly_certain() -> None:
    """The thumb's free key is far easier than a key on a held layer: at sixty uses a day that is worth half a minute a week."""
    found = verdict_of("sounding-s", practice(mine([], 40)))
    assert found.reason == "solid" and found.best is not None and found.best.gain.p_better >= 0.91


@pytest.mark.parametrize(("here", "there", "said"), [
    (40, 0, ""), (0, 40, "All 40 tries were on chartroom, none on this computer."),
    (10, 30, "30 tries were on chartroom, 10 on this computer."),
])  # fmt: skip
def test_tries_of_another_computer_are_said_to_be(here: int, there: int, said: str) -> None:
    tries = mine([], 40)
    moved = [replace(one, computer="chartroom") if place >= here else one for place, one in enumerate(tries)]
    found = verdicts(measure(folio_of(), practice(moved), NOON), computer=tries[0].computer)["sounding-s"]
    assert found.known.endswith(said) and ("chartroom" in found.known) == bool(there)
    assert found.words == f"{found.known} {found.brings}".strip()


def test_a_mix_up_goes_both_ways() -> None:
    theirs = tries_of("range-d", D, spread([("mix-up", S, SOUNDING)] * 4, 16))  # type: ignore[arg-type]
    for other, reason, pair in ((theirs, "mix-up", "range-d"), (others(), "hand-goes-elsewhere", None)):
        found = verdict_of("sounding-s", practice(mine([TO_D] * 8, 20), other))
        assert (found.reason, found.pair) == (reason, pair)


def test_a_long_reach_is_told() -> None:
    tries = tries_of("tide-table", "Shift+[Numpad4]", ["hit"] * 30, recall_ms=500)
    found = verdict_of("tide-table", practice(tries, mine([], 30), others()))
    assert (found.choice, found.reason) == ("keep", "long-reach")
    assert "are reach" in found.words


def test_nothing_goes_onto_what_is_pinned_or_careful() -> None:
    pinned = LAYOUT.replace('id = "range-d"', 'id = "range-d", pinned = true')
    careful = PROGRAM.replace('name = "Depth range"', 'name = "Depth range"\ncareful = true')
    for changed in ({"layouts/split-42.toml": pinned}, {"programs/shoalwright.toml": careful}):
        found = verdict_of("sounding-s", practice(mine([TO_D] * 14, 26), others()), folio_of(changed))
        places = [found.best, *found.others]
        assert all(str(place.to) != D for place in places if place is not None)


def test_a_moved_binding_settles_before_it_is_judged_again() -> None:
    when = NOON - timedelta(days=3)
    moved = Change("c", when, "bridge", "sounding-s", "move", SOUNDING, F, S, "why", applied=when)
    tries = practice(mine([TO_D] * 14, 26), others())
    found = verdict_of("sounding-s", Practice(tries.tries, (moved,)))
    assert found.choice in ("keep", "practise") and found.best is None


def test_the_same_tries_give_the_same_verdict_and_every_verdict_is_counted() -> None:
    tries = practice(mine([TO_D] * 14, 26), others())
    ledger = measure(folio_of(), tries, NOON)
    assert verdicts(ledger) == verdicts(measure(folio_of(), tries, NOON))
    assert sum(verdict_counts(verdicts(ledger)).values()) == len(ledger.rows)


def test_break_even_and_gain_agree() -> None:
    found = verdict_of("sounding-s", practice(mine([TO_D] * 14, 26), others()))
    for place in [found.best, *found.others]:
        assert place is not None
        if place.gain.break_even_day is not None:
            assert 1 <= place.gain.break_even_day <= 56 and place.gain.total_s > 0
        assert place.gain.per_week_s == pytest.approx(place.gain.total_s / 8)
