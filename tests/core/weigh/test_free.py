"""Free places: the shortest reach first, each reason that speaks for a place taking a share off it."""

from __future__ import annotations

import pytest

from glimber.core.notation.keys import parse_trigger
from glimber.core.weigh.free import FITS, FreePlace, free_spots, is_open
from tests.helpers import folio_of

SMALL = folio_of()


@pytest.mark.parametrize(("why", "score"), [
    ((), 200.0),
    (("free in Shoalwright",), 200.0),  # that it is free speaks for no place more than for another
    (("free in Shoalwright", "beside its group"), 200 * (1 - FITS)),
    (("the letter of its name", "beside its group"), 200 * (1 - 2 * FITS)),
])  # fmt: skip
def test_what_speaks_for_a_place_makes_it_nearer(why: tuple[str, ...], score: float) -> None:
    assert FreePlace(parse_trigger("Ctrl+K"), 200.0, why).score == pytest.approx(score)


@pytest.mark.parametrize(("layer", "key", "open_"), [
    ("base", "KeyS", False),  # it types an s
    ("base", "thumb-left-3", True),
    ("draw", "KeyS", True),
    ("draw", "thumb-left-3", True),
])  # fmt: skip
def test_on_the_base_layer_a_key_that_types_is_not_free(layer: str, key: str, open_: bool) -> None:
    layout = SMALL.layouts["split-42"]
    found = layout.layer(layer)
    assert found is not None and is_open(SMALL, found, key) is open_


def test_free_spots_take_nobodys_place_and_come_by_their_score() -> None:
    places = free_spots(SMALL, "shoalwright/quay-list", "split-42", most=400)
    triggers = [str(one.trigger) for one in places]
    assert "split-42:draw:KeyS:tap" not in triggers and "split-42:draw:KeyA:tap" in triggers
    assert not any(trigger.startswith("split-42:base:Key") for trigger in triggers)
    scores = [one.score for one in places]
    assert scores == sorted(scores) and len(set(triggers)) == len(triggers)
    assert free_spots(SMALL, "shoalwright/quay-list", "split-42", most=3) == places[:3]
