"""The next round as it is expected to go, and beginners over their first rounds."""

from __future__ import annotations

from collections import Counter
from datetime import timedelta
from random import Random

import pytest
from msgspec.structs import replace

from glimber.core.decide.next_prompt import OPEN_NEW
from glimber.core.decide.next_round import next_round, pacing_of
from glimber.core.model.folio import Folio
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Try
from glimber.core.stats.measures import measure
from tests.helpers import NOON, folio_of

BARE = 'format = "glimber-layout/1"\nboard = "split-42"\n[[layers]]\nid = "base"\nname = "Base"\n'
NAMES = [f"c{at}" for at in range(147)]


def mine(id: str) -> bool:
    return id in NAMES


@pytest.fixture(scope="module")
def fresh() -> Folio:
    text = page_text()
    return folio_of({"programs/shoalwright.toml": text, "layouts/split-42.toml": BARE})


def page_text(learn: dict[str, str] | None = None) -> str:
    """A program with 147 shortcuts, as a page of somebody with one ordinary keyboard gives them."""
    held = ("Ctrl+Alt+", "Alt+", "Ctrl+Shift+", "Super+Alt+", "Alt+Shift+", "Super+")
    keys = [f"{modifiers}{key}" for modifiers in held for key in "abcdefghijklmnopqrstuvwxyz"][:147]
    said = learn or {}
    entries = "".join(
        f'{id} = {{ name = "Command {id}", shortcut = "{key}"' + (f', learn = "{said[id]}"' if id in said else "") + " }\n"
        for id, key in zip(NAMES, keys, strict=True)
    )
    return f'format = "glimber-program/1"\nname = "Shoalwright"\n[commands]\n{entries}'


def test_the_first_round_has_few_new_ones_and_fills_its_minutes(fresh: Folio) -> None:
    due = next_round(measure(fresh, Practice(), NOON), may=mine)
    assert OPEN_NEW <= len(due) <= 3 * OPEN_NEW and all(one.new and one.why == "new" for one in due)
    assert 165 <= sum(one.seconds for one in due) <= 195


@pytest.mark.parametrize("size", [1, 3])
def test_no_more_bindings_than_asked_for(fresh: Folio, size: int) -> None:
    assert len(next_round(measure(fresh, Practice(), NOON), size=size, may=mine)) == size


def test_what_is_never_learnt_is_in_no_round_and_what_is_known_is_not_shown(fresh: Folio) -> None:
    said = dict.fromkeys(NAMES[:100], "never") | dict.fromkeys(NAMES[100:], "known")
    folio = folio_of({"programs/shoalwright.toml": page_text(said), "layouts/split-42.toml": BARE})
    ledger = measure(folio, Practice(), NOON)
    assert {one.binding for one in next_round(ledger, may=mine)} <= set(NAMES[100:])
    prompt = pacing_of(ledger, NAMES).next()
    assert prompt is not None and prompt.binding in NAMES[100:] and not prompt.shown


class Beginner:
    """Somebody who knows nothing, learns what is shown, and forgets a little between rounds."""

    def __init__(self, seed: int) -> None:
        self.random, self.strength = Random(seed), Counter[str]()

    def answer(self, id: str) -> str:
        known = self.random.random() < 1 - 0.55 ** self.strength[id]
        return "hit" if known else self.random.choice(["slip", "blank"])


def test_a_beginner_is_clean_in_most_prompts_of_the_first_rounds_and_meets_no_slip_often(fresh: Folio) -> None:
    """Over the first three rounds 70 to 85 % are clean for somebody who knows nothing."""
    beginner, tries, clean, whole, worst, at = Beginner(3), list[Try](), 0, 0, 0, NOON
    for round_ in range(3):
        pacing = pacing_of(measure(fresh, Practice(tuple(tries)), at), NAMES)
        left, missed = 180.0, Counter[str]()
        while left > 0 and (prompt := pacing.next()) is not None:
            outcome = "hit" if prompt.shown else beginner.answer(prompt.binding)
            took = 3.5 if prompt.shown else {"hit": 1.3, "slip": 3.5, "blank": 5.3}[outcome]
            pacing = pacing.after(prompt, outcome, "stray" if outcome == "slip" else None, took)  # type: ignore[arg-type]
            beginner.strength[prompt.binding] += 3 if prompt.shown else 1
            left, at = left - took, at + timedelta(seconds=took)
            if not prompt.shown:
                clean, whole = clean + (outcome == "hit"), whole + 1
                missed[prompt.binding] += outcome != "hit"
                tries.append(Try(f"t{len(tries)}", f"r{round_}", len(tries), at, "bridge", prompt.binding,
                                 str(fresh.bindings[prompt.binding].trigger), "press", outcome,  # type: ignore[arg-type]
                                 slip="stray" if outcome == "slip" else None))  # fmt: skip
        worst = max(worst, *missed.values())
        at += timedelta(days=1)
    assert 0.7 <= clean / whole <= 0.95 and worst <= 4


def test_a_pacing_is_a_value(fresh: Folio) -> None:
    pacing = pacing_of(measure(fresh, Practice(), NOON), NAMES)
    prompt = pacing.next()
    assert prompt is not None
    later = pacing.after(prompt, "hit", None, 3.5)
    assert pacing.next() == prompt and later.next() != prompt
    assert replace(prompt, binding="gone") is not None and later.after(replace(prompt, binding="gone"), "hit", None, 1.0).ids
