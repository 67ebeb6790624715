"""What on the bench deserves a key first."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.gather.stake import GUESSED_USES_PER_DAY, bench_by_stake
from tests.helpers import FILES, folio_of

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
