"""Uses a day of one binding: one formula, whoever asks."""

from __future__ import annotations

import pytest

from glimber.core.drill.practice import Practice
from glimber.core.gather.stake import share_of, uses_a_day
from glimber.core.gather.tally import modifier_tally
from glimber.core.weigh.measures import measure
from tests.helpers import NOON, PROGRAM, folio_of

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
