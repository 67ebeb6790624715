"""What on the bench deserves a key first; uses a day of one binding: one formula, whoever asks."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.practice.log import Practice
from glimber.core.stats.measures import measure
from glimber.core.stats.modifiers import modifier_tally
from glimber.core.stats.usage import GUESSED_USES_PER_DAY, bench_by_stake, share_of, uses_a_day
from tests.helpers import FILES, NOON, PROGRAM, folio_of

WAITING = """
[commands]
fog-signal = { name = "Fog signal", slow_way = ["menu Lights", "click Fog"], uses_per_day = 2 }
wreck = { name = "Wreck", slow_way = ["menu Hazards", "click Wreck"] }
sounding-unit = { name = "Sounding unit", slow_way = ["menu Survey", "menu Units", "field 4", "click Apply"], uses_per_day = 0 }
"""


def test_the_heaviest_comes_first_and_those_without_a_slow_way_last() -> None:
    folio = folio_of({"programs/shoalwright.toml": FILES["programs/shoalwright.toml"] + WAITING})
    stakes = bench_by_stake(folio)
    assert [one.command.id for one in stakes] == ["wreck", "fog-signal", "sounding-unit", "quay-list"]
    wreck, fog, unit, quay = stakes
    # M before and for the menu, then point and press twice, and the hand there and back.
    assert wreck.slow_s == fog.slow_s == pytest.approx(1.35 + 1.35 + 2 * (1.1 + 0.2) + 0.8)
    assert wreck.guessed and wreck.uses_week == GUESSED_USES_PER_DAY * folio.settings.working_days
    assert not fog.guessed and fog.week_s == pytest.approx((fog.slow_s or 0) * 2 * folio.settings.working_days)
    assert unit.week_s == 0.0
    assert quay.week_s is None and quay.guessed


@given(st.lists(st.integers(0, 300), min_size=1, max_size=12))
def test_nothing_is_lost_and_the_order_is_by_seconds(uses: list[int]) -> None:
    more = "".join(
        f'\n[commands.mark-{n}]\nname = "Mark {n}"\nslow_way = ["click Mark"]\nuses_per_day = {often}\n' for n, often in enumerate(uses)
    )
    folio = folio_of({"programs/shoalwright.toml": FILES["programs/shoalwright.toml"] + more})
    stakes = bench_by_stake(folio)
    assert {one.command.ref for one in stakes} == {one.ref for one in folio.bench()}
    seconds = [one.week_s for one in stakes if one.week_s is not None]
    assert seconds == sorted(seconds, reverse=True) and len(seconds) == len(uses)


HERE = '\n[[commands.a.bindings]]\ntrigger = "F9"\n'
THERE = '\n[[commands.a.bindings]]\ntrigger = "F10"\ncomputers = ["quay"]\n'
TWO_THIRDS = '\n[[commands.a.bindings]]\ntrigger = "F11"\nshare = 0.6\n'


@pytest.mark.parametrize(("bindings", "computer", "share"), [
    (HERE, "bridge", 1.0),
    (HERE + THERE, "bridge", 1.0),  # what lives on another computer takes nothing here
    (HERE + THERE, "quay", 0.5),
    (HERE + TWO_THIRDS, "bridge", 0.4),
    (HERE + TWO_THIRDS.replace("0.6", "1.0"), "bridge", 0.0),
])  # fmt: skip
def test_a_binding_has_its_share_wherever_it_is_asked_for(bindings: str, computer: str, share: float) -> None:
    program = PROGRAM + '\n[commands.a]\nname = "A"\nuses_per_day = 20\n' + bindings
    folio = folio_of({"programs/shoalwright.toml": program})
    first = folio.bindings["a"]
    assert share_of(folio, first, computer) == pytest.approx(share)
    assert uses_a_day(folio, first, computer) == pytest.approx(20 * share)
    week = 20 * share * folio.settings.working_days
    assert measure(folio, Practice(), NOON, computer).rows["a"].uses_week == pytest.approx(week)
    bare = next(one for one in modifier_tally(folio, "shoalwright", computer) if one.modifiers == ())
    others = sum(uses_a_day(folio, b, computer) or 0.0 for b in folio.bindings_of["shoalwright/a"] if b.lives_on(computer))
    assert bare.uses_week >= others * folio.settings.working_days - 1e-9


def test_uses_that_nobody_set_are_not_known() -> None:
    folio = folio_of({"programs/shoalwright.toml": PROGRAM + '\n[commands.a]\nname = "A"\n' + HERE})
    assert uses_a_day(folio, folio.bindings["a"]) is None
