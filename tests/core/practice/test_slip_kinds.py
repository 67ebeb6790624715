"""Kinds of slips are declared once; what is made of them fits together."""

from __future__ import annotations

from typing import get_args

import pytest

from glimber.core.practice.slip_kinds import CAUSE_WORDS, HAND_KINDS, OWN_CAUSES, SLIP_KINDS, SLIPS, WITHOUT_CAUSE, SlipKind
from glimber.core.stats.causes import BACKGROUND, CAUSES, CELLS, PRIOR


def test_every_kind_is_declared_once() -> None:
    assert sorted(SLIP_KINDS) == sorted(get_args(SlipKind)) and len(set(SLIP_KINDS)) == len(SLIPS)
    assert set(OWN_CAUSES) | set(WITHOUT_CAUSE) == set(SLIP_KINDS) and not set(OWN_CAUSES) & set(WITHOUT_CAUSE)


def test_every_cause_has_its_chance_and_its_words() -> None:
    assert set(PRIOR) == set(CAUSES) == set(CAUSE_WORDS) and min(PRIOR.values()) > 0
    assert set(BACKGROUND) == set(CELLS) - {"hit"} and sum(BACKGROUND.values()) < 0.2


@pytest.mark.parametrize(("kind", "by_hand"), [("neighbour", True), ("gesture", True), ("modifiers", True), ("layer", False), ("mix-up", False)])
def test_what_was_known_though_the_hand_missed(kind: SlipKind, by_hand: bool) -> None:
    assert (kind in HAND_KINDS) is by_hand
