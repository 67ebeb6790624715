"""Rearranging against enumeration, how changes settle, and the sheet of what is still to be set."""

from __future__ import annotations

import csv
import io
from datetime import timedelta
from itertools import permutations
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace

from glimber.core.decide import frontier as frontier_of
from glimber.core.decide.candidates import Forecasts, best_candidates
from glimber.core.decide.frontier import NEVER, Problem, frontier
from glimber.core.decide.rearrange import CannotReplanError, Wish, _plan, _problem, _spots, best_within, replan
from glimber.core.decide.settling import Settling, settlings
from glimber.core.model.folio import Folio
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Change
from glimber.core.session.change_sheet import sheet_of, to_csv, to_markdown
from glimber.core.session.pending import as_set, open_changes
from glimber.core.stats.measures import measure
from tests.helpers import LAYOUT, NOON, folio_of, practice, tries_of

S, D, P = (f"split-42:draw:Key{key}:tap" for key in "SDP")
MOVED = Change("c1", NOON - timedelta(days=12), "bridge", "sounding-s", "move", "shoalwright/add-sounding", P, S, "nearer",
               applied=NOON - timedelta(days=12))  # fmt: skip


def problem(seed: int, pairs: bool) -> Problem:
    rng = np.random.default_rng(seed)
    n = int(rng.integers(2, 6))
    m = int(rng.integers(n, 7))
    cost = rng.uniform(10, 100, (n, m))
    cost[0, m - 1] = NEVER if m > n else cost[0, m - 1]
    home = np.arange(n, dtype=np.int64)
    terms = {(0, 1): rng.uniform(-8, 8, (m, m))} if pairs else {}
    return Problem(cost, home, terms)


@pytest.mark.slow
@pytest.mark.parametrize(("pairs", "all_looked_at"), [(False, 0), (True, 50_000)])
def test_the_frontier_is_exact_for_every_number_of_moves(pairs: bool, all_looked_at: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """200 small cases against every arrangement there is, within 1 %; never worse than what is, and less with every move."""
    monkeypatch.setattr(frontier_of, "_ALL", all_looked_at)
    for seed in range(200):
        given = problem(seed, pairs)
        n, m = given.cost.shape
        exact: dict[int, float] = {}
        for way in permutations(range(m), n):
            at = np.array(way)
            exact[given.moves(at)] = min(exact.get(given.moves(at), np.inf), given.total(at))
        found = frontier(given)
        totals = [given.total(at) for _, at in found]
        assert found[0][0] == 0 and totals == sorted(totals, reverse=True)
        assert [moves for moves, _ in found] == sorted({moves for moves, _ in found})
        for most in range(n + 1):
            best = min(total for moves, total in exact.items() if moves <= most)
            ours = min(given.total(at) for moves, at in found if moves <= most)
            assert ours <= best * 1.01 + 1e-9, (seed, most)


@pytest.mark.parametrize("seed", range(20))
def test_exchanges_come_close_where_not_everything_is_looked_at(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    given = problem(seed, True)
    exact = min(given.total(np.array(way)) for way in permutations(range(given.cost.shape[1]), given.cost.shape[0]))
    monkeypatch.setattr(frontier_of, "_ALL", 0)
    assert min(given.total(at) for _, at in frontier(given)) <= exact * 1.01


def drilled(folio: Folio) -> Forecasts:
    slip = ("neighbour", "split-42:draw:KeyF:tap", "")
    tries = practice(tries_of("sounding-s", S, ["hit", slip] * 15), tries_of("range-d", D, ["hit"] * 30),
                     tries_of("range-held", S.replace("tap", "hold"), ["hit"] * 12))  # fmt: skip
    return Forecasts(measure(folio, tries, NOON))


def test_a_layer_is_rearranged_within_its_wishes() -> None:
    forecasts = drilled(folio_of())
    plans = replan(forecasts, "split-42", "draw")
    assert plans[0].moves == 0 and plans[0].saves_s_week == 0
    saved = [plan.saves_s_week for plan in plans]
    assert saved == sorted(saved) and len({plan.moves for plan in plans}) == len(plans) > 2
    for plan in plans:
        assert len(plan.steps) == plan.moves and (plan.learn_s > 0) == (plan.moves > 0)
        assert all(step.start.gesture == step.to.gesture and step.to.layer == "draw" for step in plan.steps)
        assert len({step.to for step in plan.steps}) == plan.moves
    assert best_within(plans, 1) == plans[1] and replan(forecasts, "split-42", "draw", most=1)[-1].moves == 1
    stays = replan(forecasts, "split-42", "draw", wish=Wish(frozenset({"sounding-s"})))
    assert all(step.binding != "sounding-s" for plan in stays for step in plan.steps)
    board = forecasts.ledger.folio.boards["split-42"]
    for plan in replan(forecasts, "split-42", "draw", wish=Wish(hands=True)):
        assert all(board.by_id[step.start.key].hand == board.by_id[step.to.key].hand for step in plan.steps)
    assert sum(plans[0].load.values()) == pytest.approx(sum(plans[-1].load.values()))


@pytest.mark.parametrize("rows", [
    [("neighbour", D, ""), "hit", "hit"], [("stray", D, "shoalwright/depth-range"), "hit"], ["blank", "hit", "hit"], ["hit"],
])  # fmt: skip
def test_a_rearranging_promises_what_a_verdict_promises_for_the_same_move(rows: list[object]) -> None:
    tries = practice(tries_of("sounding-s", S, rows * 12), tries_of("range-d", D, ["hit"] * 30),
                     tries_of("range-held", S.replace("tap", "hold"), ["hit"] * 12))  # fmt: skip
    forecasts = Forecasts(measure(folio_of(), tries, NOON))
    ledger, board = forecasts.ledger, forecasts.ledger.folio.boards["split-42"]
    layer = ledger.folio.layouts["split-42"].layer("draw")
    assert layer is not None
    pair = [ledger.rows["sounding-s"], ledger.rows["range-d"]]
    spots = _spots(forecasts, board, layer, pair)
    problem, expected = _problem(forecasts, board, pair, spots, Wish())
    compared = set()
    for one in best_candidates(forecasts, pair[0]):
        if one.to not in spots or one.swap_with not in (None, "range-d"):
            continue
        at = problem.home.copy()
        at[0] = spots.index(one.to)  # type: ignore[arg-type]
        if one.swap_with is not None:
            at[1] = problem.home[0]
        assert _plan(forecasts, layer, pair, spots, problem, expected, at).saves_s_week == pytest.approx(one.gain.per_week_s)
        compared.add(one.swap_with)
    assert compared, "nothing was compared"


@pytest.mark.parametrize("answer", [None, "pair-commands", "pair-keys"])
def test_exchanging_two_taken_for_each_other_pays_only_when_the_person_says_so(answer: str | None) -> None:
    mixed = ["hit", "hit", ("mix-up", D, "shoalwright/depth-range")] * 12
    back = ["hit", "hit", ("mix-up", S, "shoalwright/add-sounding")] * 12
    tries = practice(tries_of("sounding-s", S, mixed), tries_of("range-d", D, back))
    said = (Change("said", NOON, "bridge", "sounding-s", answer, swap_with="range-d"),) if answer else ()
    forecasts = Forecasts(measure(folio_of(), Practice(tries.tries, said), NOON))
    board, layer = forecasts.ledger.folio.boards["split-42"], forecasts.ledger.folio.layouts["split-42"].layer("draw")
    assert layer is not None
    pair = [forecasts.ledger.rows[id] for id in ("sounding-s", "range-d")]
    problem, _ = _problem(forecasts, board, pair, _spots(forecasts, board, layer, pair), Wish())
    saved_by_exchange = problem.total(problem.home) - problem.total(problem.home[::-1])
    assert (saved_by_exchange > 0) == (answer == "pair-keys")


@pytest.mark.parametrize(("board", "layer", "said"), [
    ("split-4", "draw", "did you mean split-42"), ("split-42", "drow", "it has base, draw"), ("split-42", "base", "has nothing on it"),
])  # fmt: skip
def test_what_cannot_be_rearranged_is_told(board: str, layer: str, said: str) -> None:
    with pytest.raises(CannotReplanError, match=said):
        replan(drilled(folio_of()), board, layer)


# Settling


def settled(after: list[object], change: Change = MOVED, habit: int = 0) -> Settling:
    began = change.applied or change.at
    old = tries_of("sounding-s", P, ["hit"] * 14 + ["blank"] * 6, until=began - timedelta(hours=1))
    rows = [*[("old habit", P, "")] * habit, *after]
    new = tries_of("sounding-s", S, rows, days=3, until=NOON - timedelta(hours=1))  # type: ignore[arg-type]
    (found,) = settlings(measure(folio_of(), Practice(practice(old, new).tries, (change,)), NOON))
    return found


def test_before_and_after_stand_side_by_side() -> None:
    better, worse = settled(["hit"] * 30), settled(["blank"] * 20 + ["hit"] * 10)
    assert (better.before.trigger, better.after.trigger) == (P, S) and (better.before.tries, better.after.tries) == (20, 30)
    assert better.before.weekly_s is not None and better.after.weekly_s is not None
    assert better.before.weekly_s > better.after.weekly_s and (better.day, better.days_left) == (12, 2)
    assert better.p_better is not None and better.p_better > 0.95 and better.advice == "confirm"
    assert worse.p_better is not None and worse.p_better < 0.1 and worse.advice == "go back"


@pytest.mark.parametrize(("day", "counted"), [(9, 30), (10, 40), (11, 40)])
def test_old_habits_do_not_condemn_a_new_place_before_the_tenth_day(day: int, counted: int) -> None:
    at = NOON - timedelta(days=day)
    found = settled(["hit"] * 30, replace(MOVED, at=at, applied=at), habit=10)
    assert found.old_habits == 10 and found.after.tries == counted


def test_what_is_confirmed_or_undone_or_not_tried_is_not_settled() -> None:
    confirmed = Change("c2", NOON, "bridge", "sounding-s", "confirmed", None, S, None)
    for changes in ((MOVED, confirmed), (replace(MOVED, reverted=NOON),)):
        assert settlings(measure(folio_of(), Practice((), changes), NOON)) == []
    (found,) = settlings(measure(folio_of(), Practice((), (MOVED,)), NOON))
    assert found.p_better is None and found.before.tries == 0 and found.advice == "settling"


@pytest.mark.parametrize(("changed", "more", "settles"), [
    ({}, (), True), ({"from_trigger": None}, (), False), ({"to_trigger": None}, (), False), ({"to_trigger": D}, (), False), ({"binding": "gone"}, (), False),
    ({"at": NOON - timedelta(days=28)}, (), True), ({"at": NOON - timedelta(days=29)}, (), False),
    ({}, (replace(MOVED, id="c9", at=NOON, from_trigger=D),), True), ({}, (Change("k", NOON, "bridge", "sounding-s", "confirmed", None, D),), True),
    ({}, (Change("k", NOON, "bridge", "sounding-s", "confirmed", None, S, reverted=NOON),), True),
])  # fmt: skip
def test_which_changes_settle(changed: dict[str, Any], more: tuple[Change, ...], settles: bool) -> None:
    changes = (replace(MOVED, **changed), *more)
    newest = max(changes, key=lambda one: one.at) if more and more[0].verdict == "move" else changes[0]
    assert [one.change for one in settlings(measure(folio_of(), Practice((), changes), NOON))] == ([newest] if settles else [])


@pytest.mark.parametrize(("day", "better", "waits", "advice"), [
    (9, 0.99, False, "settling"), (10, 0.99, True, "settling"), (10, None, False, "settling"), (10, 0.8, False, "confirm"), (10, 0.79, False, "settling"),
    (10, 0.2, False, "go back"), (10, 0.21, False, "settling"), (13, 0.5, False, "settling"), (14, 0.5, False, "confirm"), (14, 0.49, False, "go back"),
])  # fmt: skip
def test_what_the_figures_advise(day: int, better: float | None, waits: bool, advice: str) -> None:
    found = replace(settled(["hit"] * 9), day=day, p_better=better, waits=waits)
    assert found.advice == advice and found.days_left == 14 - day


# What is still to be set


def test_drills_ask_for_the_old_place_until_a_change_is_set() -> None:
    folio, waiting = folio_of(), replace(MOVED, applied=None)
    assert [one.id for one in open_changes([waiting])] == ["c1"] and open_changes([MOVED]) == []
    asked = as_set(folio, [waiting])
    assert str(asked.bindings["sounding-s"].trigger) == P and str(folio.bindings["sounding-s"].trigger) == S
    assert as_set(folio, [MOVED]) is folio and as_set(folio, [replace(waiting, reverted=NOON)]) is folio
    taken = folio_of({"layouts/split-42.toml": LAYOUT.replace('KeyP = "falls"\nShift', 'KeyP = { tap = { id = "other", does = "shoalwright/quay-list" } }\nShift')})  # fmt: skip
    assert str(as_set(taken, [waiting]).bindings["sounding-s"].trigger) == S


def test_the_sheet_says_where_and_what_and_is_plain_text() -> None:
    folio, waiting = folio_of(), replace(MOVED, applied=None, why="near *it* | here", old_trigger="reminds")
    (edit,) = sheet_of(folio, [waiting])
    assert (edit.where, edit.command, edit.new) == ("Split board, 42 keys", "Add sounding", "S on Draw") and not edit.done
    assert sheet_of(folio, [MOVED]) == [] and len(sheet_of(folio, [MOVED], with_done=True)) == 1
    text = to_markdown("Small *office*", [edit])
    assert text.startswith("# Changes to set: Small *office*\n") and "- [ ] **Add sounding**: P on Draw → S on Draw" in text
    assert "as a reminder — near \\*it\\* \\| here" in text
    head, row = csv.reader(io.StringIO(to_csv([edit])))
    assert dict(zip(head, row, strict=True))["why"] == "near *it* | here"
    assert "Nothing waits" in to_markdown("x", [])
    swapped = [sheet_of(folio, [replace(waiting, swap_with=other)])[0].then for other in ("lead-line", None, "gone")]
    assert swapped == ["it does Lead line now", *["let it do the new one, as a reminder"] * 2]
    spread = [replace(MOVED, id=f"w{n}", binding=id, command=command, applied=None, from_trigger="F3", to_trigger="F4")
              for n, (id, command) in enumerate((("lead-line", "shoalwright/lead-line"), ("x", "everywhere/show-desktop"), ("y", None)))]  # fmt: skip
    assert [one.where for one in sheet_of(folio_of(), spread)] == ["Shoalwright", "Everywhere", "elsewhere"]


def test_changes_in_a_row_that_were_not_set_are_one_line_from_where_it_is_set() -> None:
    first = replace(MOVED, id="m1", applied=None, from_trigger="A", to_trigger="B", at=NOON - timedelta(days=3))
    second = replace(first, id="m2", from_trigger="B", to_trigger="C", at=NOON - timedelta(days=2))
    (one,) = open_changes([second, first])
    assert (one.id, one.from_trigger, one.to_trigger) == ("m2", "A", "C")
    assert [line.change.id for line in sheet_of(folio_of(), [first, second])] == ["m2"]
    back = replace(second, id="m3", from_trigger="C", to_trigger="A", at=NOON - timedelta(days=1))
    assert open_changes([first, second, back]) == []  # nothing is to be set
    ticked = replace(second, applied=NOON)
    assert open_changes([first, ticked]) == []  # what came before it was passed over
    after = replace(second, id="m4", from_trigger="C", to_trigger="D", at=NOON)
    (left,) = open_changes([first, ticked, after])
    assert (left.from_trigger, left.to_trigger) == ("C", "D")


def test_a_drill_asks_for_where_a_binding_is_set_however_often_it_was_moved_since() -> None:
    folio = folio_of()
    now = folio.bindings["sounding-s"]
    was = "split-42:draw:KeyG:tap"
    first = replace(MOVED, id="m1", binding="sounding-s", applied=None, from_trigger=was, to_trigger="split-42:draw:KeyH:tap",
                    at=NOON - timedelta(days=3))  # fmt: skip
    second = replace(first, id="m2", from_trigger="split-42:draw:KeyH:tap", to_trigger=str(now.trigger), at=NOON - timedelta(days=2))
    assert str(as_set(folio, [first, second]).bindings["sounding-s"].trigger) == was


def test_what_was_retired_waits_to_be_set_as_well() -> None:
    gone = replace(MOVED, id="r1", verdict="retire", applied=None, from_trigger="F9", to_trigger=None)
    assert [one.id for one in open_changes([gone])] == ["r1"]
    assert open_changes([replace(gone, applied=NOON)]) == [] and open_changes([replace(gone, verdict="set aside")]) == []
