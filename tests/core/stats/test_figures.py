"""Every figure of a fixed practice of the chart office, held: what no test of one rule sees changes something here.

``figures.json`` is made by ``python -m tests.core.stats.test_figures`` and looked through before it is committed: a figure may only
be another where a rule was meant to be another.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.decide.calendar import calendar
from glimber.core.decide.candidates import Forecasts
from glimber.core.decide.free_places import free_chords, free_spots
from glimber.core.decide.over_time import over_time
from glimber.core.decide.plan import budget_of, missed_at_work, plan_round, replanned
from glimber.core.decide.rearrange import Wish, replan
from glimber.core.decide.settling import settlings
from glimber.core.decide.verdict import verdicts
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Spot
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Change, Round, Try
from glimber.core.session.change_sheet import sheet_of, to_csv, to_markdown
from glimber.core.stats.ledger import Ledger
from glimber.core.stats.measures import measure
from glimber.core.stats.reach import slow_way_s
from tests.held import differences, flat, hold, plain

HELD = Path(__file__).with_name("figures.json")
AT = datetime(2026, 11, 20, 12, tzinfo=UTC)
SORTS = ("steady", "knowing", "clumsy", "elsewhere", "layer", "mix-up", "learning", "slow", "gesture", "few", "late", "untried")


def of_the_office(folio: Folio) -> Practice:
    """Nineteen days of tries of every sort of trouble, by turns over the bindings; changes that settle; times of the hand."""
    random, bindings = Random(20), folio.drillable("bridge")
    tries: list[Try] = []
    rounds: list[Round] = []
    for day in range(19):
        begin = AT - timedelta(days=18 - day, hours=3)
        if day % 6 == 5:
            continue
        asked = [binding for place, binding in enumerate(bindings) if SORTS[place % len(SORTS)] != "untried" and (place + day) % 3]
        rounds.append(Round(f"r{day}", begin, "bridge", "press", tuple(one.id for one in asked), begin + timedelta(minutes=9)))
        at = begin
        for nth, binding in enumerate(asked * 2):
            at += timedelta(seconds=2)
            sort = SORTS[bindings.index(binding) % len(SORTS)]
            if sort != "few" or day > 15:
                tries.append(_try(folio, random, binding, sort, day, at, nth, cold=nth < len(asked)))
    moved = [one for one in bindings if isinstance(one.trigger, Spot) and one.trigger.gesture == "tap"][:6]
    changes = []
    for place, binding in enumerate(moved):
        old = str(binding.trigger).replace(":tap", ":double")
        day = (3, 8, 12, 15, 17, 20)[place]
        changes.append(Change(f"c{place}", AT - timedelta(days=day), "bridge", binding.id, "move", binding.command, old, str(binding.trigger),
                              "nearer", applied=AT - timedelta(days=day) if place != 2 else None))  # fmt: skip
        tries += [replace(one, id=f"{one.id}-old", trigger=old, outcome="blank" if one.nth % 5 == 0 else one.outcome)
                  for one in tries if one.binding == binding.id and one.at < AT - timedelta(days=day)]  # fmt: skip
    changes.append(Change("m1", AT - timedelta(hours=20), "bridge", bindings[4].id, "missed"))
    tries.sort(key=lambda one: (one.at, one.id))
    return Practice(tuple(tries), tuple(changes), tuple(rounds))


def _try(folio: Folio, random: Random, binding: Binding, sort: str, day: int, at: datetime, nth: int, cold: bool) -> Try:
    spot = binding.trigger if isinstance(binding.trigger, Spot) else None
    recall, motor = 620 * random.lognormvariate(0, 0.25), 140 * random.lognormvariate(0, 0.2)
    one = Try(f"t{day}-{nth}", f"r{day}", nth, at, "bridge", binding.id, str(binding.trigger), "press", "hit", cold=cold,
              recall_ms=recall * (2.2 if sort in ("slow", "late") else 1), motor_ms=motor * (2 if sort == "slow" else 1))  # fmt: skip
    chance, wrong = random.random(), {"steady": 0.03, "few": 0.3, "learning": 0.9 - day * 0.05, "slow": 0.05, "late": 0.1}.get(sort, 0.4)
    if chance > wrong:
        return one
    other = next((b for b in folio.drillable("bridge") if b.command != binding.command and type(b.trigger) is type(binding.trigger)
                  and (spot is None or (isinstance(b.trigger, Spot) and b.trigger.layer == spot.layer))), binding)  # fmt: skip
    if sort in ("knowing", "learning", "late", "few") or (cold and chance < 0.03):
        return replace(one, outcome="blank", recall_ms=None, motor_ms=None)
    if sort == "layer" and spot is not None:
        return replace(one, outcome="slip", slip="layer", pressed=str(replace(spot, layer="base")))
    if sort == "gesture" and spot is not None:
        return replace(one, outcome="slip", slip="gesture", pressed=str(replace(spot, gesture="hold")))
    if sort == "mix-up":
        return replace(one, outcome="slip", slip="mix-up", pressed=str(other.trigger), would_do=other.command, offset_u=(2.0, 1.0))
    away = (1.0, 0.0) if sort == "clumsy" else (-3.0, 1.0)
    kind: Any = "neighbour" if sort == "clumsy" else "stray"
    pressed = f"{spot.board}:{spot.layer}:Key{'GX'[nth % 2] if sort == 'clumsy' else 'U'}:tap" if spot is not None else "Ctrl+Alt+U"
    return replace(one, outcome="slip", slip=kind, pressed=pressed, offset_u=away)


def figures(folio: Folio) -> dict[str, Any]:
    """All of them, as plain values."""
    practice = of_the_office(folio)
    ledger = measure(folio, practice, AT, "bridge")
    found = verdicts(ledger, computer="bridge")
    rounds = {f"{minutes:g}": [plain(one) for one in plan_round(ledger, minutes)] for minutes in (1, 3, 10)}
    budget = budget_of(ledger)
    asked = list(budget.ids)[:6]
    made = [replace(practice.tries[0], id=f"n{n}", binding=asked[n % 6], round="now", nth=n) for n in range(18)]
    refs = [ref for ref in folio.commands if folio.bindings_of.get(ref)][:4]
    return {
        "rows": {id: _row(ledger, id) for id in ledger.rows},
        "rates": [ledger.calm_hand, ledger.calm_knowing, ledger.slope, plain(ledger.belief.weight), plain(ledger.scales)],
        "verdicts": {id: [one.choice, one.reason, one.words, plain(one.best), [plain(other) for other in one.others[:2]], one.pair]
                     for id, one in found.items()},
        "rounds": rounds,
        "made anew": replanned(budget, 3, frozenset(asked[:2]), made, 60.0),
        "missed": missed_at_work(ledger),
        "settling": [[one.change.id, one.day, one.old_habits, one.p_better, one.waits, one.advice, plain(one.before), plain(one.after)]
                     for one in settlings(ledger)],
        "over time": plain(over_time(ledger, "bridge")),
        "calendar": plain(calendar(ledger)),
        "free": {ref: [[str(one.trigger), one.reach_ms, list(one.why)] for one in (*free_chords(folio, ref), *free_spots(folio, ref))]
                 for ref in refs},
        "slow ways": {ref: slow_way_s(one.slow_way) for ref, one in folio.commands.items() if one.slow_way},
        "rearranged": [[plan.moves, plan.saves_s_week, plan.learn_s, [str(step.to) for step in plan.steps], plain(plan.load)]
                       for wish in (Wish(), Wish(hands=True, shape=True))
                       for plan in replan(Forecasts(ledger, "bridge"), "split-42", "draw", most=4, wish=wish)],
        "sheet": [to_markdown("Chart office", sheet_of(folio, practice.changes, True)), to_csv(sheet_of(folio, practice.changes))],
    }  # fmt: skip


def _row(ledger: Ledger, id: str) -> list[Any]:
    row = ledger.rows[id]
    return [
        row.count, row.cold, row.effective, row.days, plain(row.posterior), plain(row.hand), plain(row.knowing), row.recall_ms, row.motor_ms,
        row.reach_ms, row.p_know, row.grip, row.cause, plain(dict(row.causes)), row.place, row.place_count, row.lasting,
        row.knowing_now, row.uses_week, row.slow_s, row.recovery_s, row.parts_s(), row.weekly_s, row.lost_s, row.earned_s, row.trend,
    ]  # fmt: skip


@pytest.fixture(scope="module")
def now(office: Folio) -> Iterator[dict[str, Any]]:
    yield dict(flat(json.loads(json.dumps(figures(office)))))


@pytest.mark.slow
def test_no_figure_of_the_office_is_another(now: dict[str, Any]) -> None:
    assert not differences(HELD, now)


def test_the_held_practice_has_every_sort_of_trouble(now: dict[str, Any]) -> None:
    """What is held is worth holding: each choice, most reasons and causes, and changes in every state are in it."""
    choices = {value for path, value in now.items() if path.startswith("/verdicts/") and path.endswith("/0") and path.count("/") == 3}
    assert choices >= {"keep", "move", "rebind", "practise"}
    reasons = {value for path, value in now.items() if path.startswith("/verdicts/") and path.endswith("/1") and path.count("/") == 3}
    assert len(reasons) >= 7, reasons
    assert {value for path, value in now.items() if path.startswith("/settling/") and path.endswith("/5")} >= {"settling", "confirm"}


if __name__ == "__main__":
    hold(HELD, figures)
