"""Verdicts: for every reason a practice that must bring it about, and one that must not."""

from __future__ import annotations

from datetime import timedelta

import pytest

from glimber.core.drill.practice import Practice
from glimber.core.drill.tries import Change, Try
from glimber.core.folio.folio import Folio
from glimber.core.weigh.measures import measure
from glimber.core.weigh.verdict import Verdict, verdict_counts, verdicts
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


def test_too_few_tries_or_days_are_thin_evidence() -> None:
    for tries in (mine(["blank"] * 3, 3), mine(["blank"] * 10, 20, days=1)):
        found = verdict_of("sounding-s", practice(tries))
        assert (found.choice, found.reason) == ("practise", "thin-evidence")
    assert verdict_of("sounding-s", Practice()).words == "Not tried yet."


def test_where_the_hand_goes_is_where_it_moves() -> None:
    found = verdict_of("sounding-s", practice(mine([TO_D] * 14, 26), others()))
    assert (found.choice, found.reason) == ("move", "hand-goes-elsewhere")
    assert found.best is not None and str(found.best.to) == D and found.best.swap_with == "range-d"
    assert found.best.gain.p_better >= 0.8 and found.best.gain.share >= 0.1 and found.best.gain.per_week_s >= 30
    assert found.words.startswith("Struck D for S in 14 of 14 slips. Swapping S and D breaks even on day ")


def test_known_and_quick_is_kept() -> None:
    seldom = folio_of({"programs/shoalwright.toml": PROGRAM.replace("uses_per_day = 60", "uses_per_day = 6")})
    found = verdict_of("sounding-s", practice(mine([], 40)), seldom)
    assert (found.choice, found.reason) == ("keep", "solid") and found.best is None


def test_what_is_known_moves_only_when_that_is_nearly_certain() -> None:
    """The thumb's free key is far easier than a key on a held layer: at sixty uses a day that is worth half a minute a week."""
    found = verdict_of("sounding-s", practice(mine([], 40)))
    assert found.reason == "solid" and found.best is not None and found.best.gain.p_better >= 0.95


def test_errors_of_knowing_that_still_change_are_practised() -> None:
    falling: list[object] = ["blank"] * 12 + ["hit", "blank"] * 3 + ["hit"] * 10
    found = verdict_of("sounding-s", practice(tries_of("sounding-s", S, falling)))  # type: ignore[arg-type]
    assert (found.choice, found.reason) == ("practise", "still-learning")
    assert found.words.endswith("Practice will mend it.")


def test_flat_errors_of_knowing_are_stuck() -> None:
    away: list[object] = ["blank", ("stray", "split-42:draw:KeyF:tap", ""), ("stray", "split-42:draw:KeyB:tap", ""),
                          ("stray", "split-42:draw:KeyT:tap", "")]  # fmt: skip
    folio = folio_of({"layouts/split-42.toml": LAYOUT.replace('id = "sounding-s"', 'id = "sounding-s", pinned = true')})
    found = verdict_of("sounding-s", practice(mine(away * 4, 30)), folio)
    assert (found.choice, found.reason) == ("rebind", "stuck") and found.best is None


@pytest.mark.parametrize(("slip", "keys", "reason"), [
    ("layer", ["split-42:base:KeyS:tap", "split-42:travel:KeyS:tap", "split-42:marks:KeyS:tap"], "wrong-layer"),
    ("gesture", [f"{S[:-4]}:hold", f"{S[:-4]}:double", f"{S[:-4]}:tap-hold"], "gesture-slips"),
    ("modifiers", ["Ctrl+S", "Alt+S", "Super+S"], "modifier-slips"),
    ("neighbour", ["split-42:draw:KeyW:tap", "split-42:draw:KeyX:tap", "split-42:draw:KeyA:tap"], "neighbour-slips"),
])  # fmt: skip
def test_the_largest_kind_of_slip_is_blamed(slip: str, keys: list[str], reason: str) -> None:
    slips: list[object] = [(slip, key, "") for key in keys * 4]
    assert verdict_of("sounding-s", practice(mine(slips, 28), others())).reason == reason


def test_a_mix_up_goes_both_ways() -> None:
    theirs = tries_of("range-d", D, spread([("mix-up", S, SOUNDING)] * 4, 16))  # type: ignore[arg-type]
    assert verdict_of("sounding-s", practice(mine([TO_D] * 8, 20), theirs)).reason == "mix-up"
    assert verdict_of("sounding-s", practice(mine([TO_D] * 8, 20), others())).reason == "hand-goes-elsewhere"


def test_old_habits_come_first() -> None:
    slips: list[object] = [("old habit", "split-42:base:KeyP:tap", "")] * 5 + [TO_D] * 5
    assert verdict_of("sounding-s", practice(mine(slips, 20), others())).reason == "old-habit"


def test_a_good_binding_is_never_blamed_for_a_few_slips() -> None:
    assert verdict_of("sounding-s", practice(mine([TO_D] * 2, 60), others())).reason == "solid"


def test_hardly_used_is_retired_only_by_a_set_figure() -> None:
    rare = PROGRAM.replace("uses_per_day = 60", "uses_per_day = 0.1")
    folio = folio_of({"programs/shoalwright.toml": rare})
    tries = practice(mine([], 20))
    assert verdict_of("sounding-s", tries, folio).choice == "retire"
    assert verdict_of("sounding-s", tries, folio).reason == "unused"
    guessed = folio_of({"programs/shoalwright.toml": PROGRAM.replace("uses_per_day = 60", "")})
    assert verdict_of("sounding-s", tries, guessed).choice == "keep"


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
