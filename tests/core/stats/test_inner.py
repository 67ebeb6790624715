"""What the figures of the office are made of, held value by value: reaches, expectations, places, worths and rounds."""

from __future__ import annotations

import json
from collections import Counter
from datetime import timedelta
from pathlib import Path
from random import Random
from typing import Any
from zlib import crc32

import numpy as np
import pytest
from msgspec import Struct
from msgspec.structs import asdict, replace

from glimber.core.decide.candidates import Forecasts, best_candidates
from glimber.core.decide.forecast import carried, drawn, unknown_uses
from glimber.core.decide.free_places import candidate_chords, free_chords, free_spots
from glimber.core.decide.frontier import NEVER, Problem, _best_step, _hull, _parts, _rings, frontier
from glimber.core.decide.plan import SoFar, budget_of, due_now, plan_round, planned_hits
from glimber.core.decide.rearrange import Wish, _pairs, _problem, _spots, load_of, replan
from glimber.core.decide.round_choice import why_not
from glimber.core.decide.summarise import set_aside, summarise
from glimber.core.decide.verdict import verdicts
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Sequence, Spot, Typed
from glimber.core.practice.options import HANDS, Options
from glimber.core.practice.tries import MODES, Change
from glimber.core.stats.ledger import Ledger
from glimber.core.stats.measures import measure
from glimber.core.stats.reach import Reach
from glimber.core.stats.timing import POLICIES, Press, study
from tests.core.stats.test_figures import AT, of_the_office
from tests.held import differences, flat, hold, plain
from tests.helpers import layer_text, layout_of

HELD = Path(__file__).with_name("inner.json")
GESTURES = ("tap", "hold", "double", "tap-hold")
KNOTTED = (
    layer_text("base", 'KeyX = { hold = { enters = "one", mode = "while" } }', 'KeyS = { tap = { enters = "two", mode = "once" } }',
               'thumb-left-1 = { hold = { enters = "one", mode = "while" } }', 'KeyK = { tap = { enters = "one", mode = "switch" } }'),
    layer_text("one", 'KeyF = { hold = { enters = "two", mode = "while" } }', 'KeyJ = { tap = { enters = "three", mode = "switch" } }',
               'KeyE = { tap = { does = "shoalwright/depth-range" }, double = { does = "shoalwright/quay-list" } }', unbound="dead"),
    layer_text("two", 'KeyD = { hold = { enters = "three", mode = "while" } }', 'KeyJ = { tap = { enters = "one", mode = "once" } }',
               'thumb-right-1 = { hold = { enters = "three", mode = "while" } }', unbound="dead"),
    layer_text("three", '"KeyD&KeyF" = { tap = { does = "shoalwright/add-sounding" } }', unbound="dead")
    + "\n[layers.timing.KeyE]\nhold_ms = 333\nagain_ms = 222",
    layer_text("alone", 'KeyE = { tap = { does = "shoalwright/lead-line" } }', unbound="dead"),
)  # fmt: skip
"""Layers that are come into through others, in rings too, by every mode; one that cannot be come into."""


def brief(value: Any) -> Any:
    """A value without names; of arrays a sum in which each place counts for another part."""
    if isinstance(value, np.ndarray):
        real = np.nan_to_num(value.astype(np.float64), nan=-7.0, posinf=1e6, neginf=-1e6).ravel()
        return float(real @ (1 + np.arange(len(real)) % 13))
    if isinstance(value, Struct):
        return [brief(one) for one in asdict(value).values()]
    return [brief(one) for one in value] if isinstance(value, tuple | list) else plain(value)


def reaches(folio: Folio) -> dict[str, Any]:
    """Every reach there is, in its terms: of each layer and gesture the first, the last and what all come to."""
    reach = Reach(folio)
    spots = [Spot(board, layer.id, keys, gesture) for board, layout in folio.layouts.items() for layer in layout.layers
             for keys in (*((key,) for key in (*folio.boards[board].by_id, *folio.boards[board].knob_ids)), *(b.spot.keys for b in layer.bindings))
             for gesture in GESTURES]  # fmt: skip
    chords = [Sequence((chord,)) for chord in candidate_chords(folio)]
    found: dict[str, list[Any]] = {}
    for trigger in (*spots, *chords, Typed("sound"), Sequence((*chords[3].chords, *chords[9].chords))):
        cost = reach.cost(trigger)
        name = f"{trigger.board} {trigger.layer} {trigger.gesture}" if isinstance(trigger, Spot) else type(trigger).__name__
        found.setdefault(name, []).append(cost and [round(one, 1) for one in (cost.finger_ms, cost.distance_ms, cost.other_ms)])
    return {name: [costs[0], costs[-1], crc32(repr(costs).encode())] for name, costs in found.items()}


def of_ledger(ledger: Ledger) -> dict[str, Any]:
    folio, forecasts = ledger.folio, Forecasts(ledger, "bridge")
    budget, rows = budget_of(ledger), list(ledger.rows.values())
    so_far = {id: SoFar(n % 3, n % 4, (None, True, False)[n % 3]) for n, id in enumerate(budget.ids[:7])}
    uses = np.array([0.0, 0.5, 3.0, 40.0, 4000.0])
    numbers, some = np.arange(len(rows)), np.resize(np.array([0.0, 0.4, 1.0, -1.0, 0.7]), len(rows))
    options = [forecasts.places.options(row) for row in rows]
    return {
        "accuracies": brief(ledger.accuracies), "belief": brief([ledger.belief.strength, ledger.belief.last]), "hits": brief(ledger.hits),
        "forecasts": brief([forecasts.means, forecasts.keep_s, forecasts.at, forecasts.known, [one.shares() for one in forecasts.carried],
                            forecasts._top, forecasts._top_share, forecasts.terms(forecasts.at)]),
        "there": brief([there := forecasts.there(numbers, np.roll(forecasts.at, 1), 3 + some, some, np.abs(some)),
                        forecasts.gain_by_means(numbers, there), forecasts.means.total_s(ledger, 9.0)]),
        "unknown": brief([unknown_uses(*args, uses) for args in ((0.5, 0.02, 1.0, 0.5), (0.3, 0.3, 8.0, 0.2), (0.01, 0.05, 30.0, 0.9))]),
        "each": {row.binding.id: brief([carried(row).shares(), drawn(row), list(one) if (one := row.causes.values()) else [], row.place, row.knowing_s,
                                        row.p_slip, row.uses_day, row.place_beside, row.slips]) for row in rows},
        "options": [brief(one) for one in options],
        "candidates": {row.binding.id: [[str(one.to), one.swap_with, one.reach_ms, one.goes, one.move, *plain(one.gain).values()]
                                        for one in best_candidates(forecasts, row)[:5]] for row in rows[::4]},
        "rounds": [[brief(one) for one in plan_round(ledger, minutes, size, may)] for minutes, size, may in
                   ((0.2, None, lambda id: True), (2, 5, lambda id: True), (30, 60, lambda id: id > "m"))],
        "shares": [budget.share_out(left, sofar, size, pace) for left, sofar, size, pace in
                   ((90.0, so_far, None, 1.0), (200.0, so_far, 9, 1.4), (40.0, {}, 3, 0.8), (0.0, so_far, None, 1.0), (9e9, so_far, None, 1.0))],
        "picked": [planned_hits(ledger, ids) for ids in (budget.ids[:1], budget.ids[3:9], ("none",))], "due": due_now(ledger), "free": {ref: brief([*free_chords(folio, ref), *free_spots(folio, ref)]) for ref in list(folio.commands)[4::12]}, "aside": set_aside(ledger),
        "summary": [brief(one) for one in summarise(ledger, verdicts(ledger, computer="bridge")).rows[::5]],
        **{f"replan {layer.id}": _replanned(forecasts, board, layer.id) for board, layout in folio.layouts.items() for layer in layout.layers[:3]},
    }  # fmt: skip


def _replanned(forecasts: Forecasts, board: str, layer: str) -> Any:
    folio = forecasts.ledger.folio
    shape, here = folio.boards[board], folio.layouts[board].layer(layer)
    assert here is not None
    rows = [row for b in here.bindings if (row := forecasts.ledger.rows.get(b.id)) and len(b.spot.keys) == 1 and row.reach_ms]
    spots = _spots(forecasts, shape, here, rows)
    wish = Wish(frozenset(list(forecasts.ledger.rows)[::5]), hands=True, shape=True)
    problem = _problem(forecasts, shape, rows, spots, wish)[0] if rows else None
    return [
        [str(spot) for spot in spots], load_of(forecasts, here), problem and brief([problem.cost, problem.home]),
        [[i, j, brief(table)] for (i, j), table in (_pairs(forecasts, shape, rows, spots, wish) if rows else {}).items()],
        [[one.moves, one.saves_s_week, one.learn_s, [str(step.to) for step in one.steps]] for one in (replan(forecasts, board, layer, 3) if rows else [])],
    ]  # fmt: skip


def timing(folio: Folio) -> Any:
    """The limits that are told from presses of three keys, drawn at random, by each policy and limit that could be set."""
    random = Random(3)
    presses = {("split-42", layer, key): [Press(round(random.lognormvariate(4.6 + hold, 0.4)), (came := random.random() < 0.3), came and random.random() < 0.5, hold)
                                          for _ in range(70) for hold in (random.random() < 0.4,)] for layer, key in (("draw", "KeyS"), ("base", "KeyS"), ("base", "thumb-left-1"))}  # fmt: skip
    found = [study(replace(folio, settings=replace(folio.settings, timing=replace(folio.settings.timing, hold_ms=limit, policy=policy))), presses)
             for policy in POLICIES for limit in (80, 175, 200, 405)]  # fmt: skip
    return [brief(one) for one in found]


def answerable(folio: Folio) -> Any:
    """How many bindings cannot be answered in each way, by why."""
    ways = [Options(mode, hands=hands, device_board=board) for mode in MODES for hands in HANDS for board in (None, *folio.layouts)]
    return [Counter(str(why_not(folio, one, way)) for one in folio.all_bindings()) for way in ways]


def searches() -> Any:
    """Each part of the search for what the fewest moves save, on problems drawn at random: with free places, with terms between two, large."""
    random, found = np.random.default_rng(11), []
    for n, m, paired in ((6, 9, 2), (9, 9, 0), (11, 14, 3), (26, 31, 4), (30, 33, 0)):
        cost, home = random.gamma(2.0, 5.0, (n, m)), random.permutation(m)[:n]
        cost[(random.random((n, m)) < 0.15) & (np.arange(m) != home[:, None])] = NEVER
        problem = Problem(cost, home, {(2 * i, 2 * i + 1): random.normal(0, 3, (m, m)) for i in range(paired)})
        hull = _hull(problem)
        steps = [_best_step(problem, at, most) for at in (home, *hull[2:5]) for most in (1, 2, 3, n)]
        found.append(
            [
                hull,
                _rings(home, hull[1]),
                _parts(problem, hull[1]),
                [step is not None and step for step in steps],
                frontier(problem),
                frontier(problem, 4),
            ]
        )
    return brief(found)


def inner(folio: Folio) -> dict[str, Any]:
    practice = of_the_office(folio)
    aside = Change("a1", AT - timedelta(days=3), "bridge", next(iter(folio.bindings)), "aside", until=AT + timedelta(days=3))
    some = list(folio.bindings)
    odd: dict[str, dict[str, Any]] = {some[1]: {"until": AT}, some[2]: {"until": None}, some[3]: {"verdict": "confirmed"}}
    practice = replace(
        practice,
        changes=(*practice.changes, aside, *(replace(aside, id=f"a{n}", binding=id, **more) for n, (id, more) in enumerate(odd.items()))),
    )
    early = measure(folio, practice, AT - timedelta(days=13), "bridge")
    first = measure(folio, practice, AT - timedelta(days=18, hours=3) + timedelta(seconds=40), "bridge")  # just then the twentieth try came
    careful = replace(folio, settings=replace(folio.settings, away="left"))
    return {
        "now": of_ledger(measure(folio, practice, AT, "bridge")), "early": of_ledger(early), "first": of_ledger(first), "reaches": reaches(careful),
        "knotted": reaches(layout_of(*KNOTTED)), "timing": timing(folio), "searches": searches(),
        "answerable": [answerable(one) for one in (folio, careful, replace(folio, settings=replace(folio.settings, away="right")))],
    }  # fmt: skip


@pytest.mark.slow
def test_nothing_that_the_figures_are_made_of_is_another(office: Folio) -> None:
    assert not differences(HELD, dict(flat(json.loads(json.dumps(inner(office))))))


if __name__ == "__main__":
    hold(HELD, inner)
