"""The timing study: a person's own tap and hold times of each key that does both, and what each limit and policy would misread.

Source: docs/measures.md, "Timing study". What a press was meant as is known from the prompt it answered: the wanted gesture of
its key, or the way into the wanted layer. A key is decided as docs/engine.md, rule 4, says: hold where it was down for the limit,
where another key came and went meanwhile (``crossed``), or came at all (``eager``).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from msgspec.structs import replace

from glimber.core.engine.perform import CannotPerform, way_to
from glimber.core.model.folio import Binding, Folio, KeyTiming, Policy
from glimber.core.notation.keys import NotationError, Spot, parse_trigger
from glimber.core.practice.tries import KeyEvents, Try

LIMITS_MS: Final = tuple(range(80, 401, 10))
POLICIES: Final[tuple[Policy, ...]] = ("timer", "crossed", "eager")
NEWEST_EVENTS: Final = 3000
ENOUGH: Final = 20
"""Presses of a key, of either sort at least five, before it is judged."""
LEAST_EACH: Final = 5
PAYS: Final = 0.02
"""A limit of a key's own pays where it misreads so much less, of all its presses, than the one for all keys."""
MOST_PRESS_MS: Final = 5_000.0
EXERCISE_MINUTES: Final = 2.0
EXERCISED: Final = 3
EXERCISED_OF_EACH: Final = 2
"""Keys in an exercise, and bindings for either use of each: twenty presses of each key come together in two minutes."""
Place = tuple[str, str, str]
"""Board, layer and key."""


class Press(Struct, frozen=True):
    """One press of a key: how long, whether another key came while it was down, and came and went; what it was meant as."""

    ms: float
    came: bool
    crossed: bool
    hold: bool


class KeyStudy(Struct, frozen=True):
    """The timing study of one key of a layer. ``now`` and ``best``: the share of its presses misread by the present limit
    and policy, and by the best ones."""

    board: str
    layer: str
    key: str
    presses: int
    tap_ms: float | None
    hold_ms: float | None
    now: float
    limit_ms: int
    policy: Policy
    best: float


class Study(Struct, frozen=True):
    """All keys together, and those for which limits of their own pay."""

    presses: int
    now: float
    limit_ms: int
    policy: Policy
    best: float
    keys: tuple[KeyStudy, ...]
    own: tuple[KeyStudy, ...]


def presses_of(folio: Folio, events: Iterable[KeyEvents], tries: Iterable[Try]) -> dict[Place, list[Press]]:
    """Return the presses of every key that has a hold and something else, by board, layer and key; the newest events of each."""
    meant_by = {(one.round, one.at): one for one in tries}
    found: dict[Place, list[Press]] = {}
    for logged in sorted(events, key=lambda one: one.at):
        one = meant_by.get((logged.round, logged.at))
        if one is None or logged.board is None or one.outcome == "void":
            continue
        for place, hold in _meant(folio, one, logged.board).items():
            board, layer, key = place
            for press in _presses(logged.events, key, hold):
                found.setdefault((board, layer, key), []).append(press)
    return {place: presses[-NEWEST_EVENTS // 2 :] for place, presses in found.items()}


def _meant(folio: Folio, one: Try, board: str) -> dict[Place, bool]:
    """Return the keys of a prompt that may be tapped or held, and whether they were meant to be held."""
    try:
        wanted = parse_trigger(one.trigger, folio.bundles)
    except NotationError:
        return {}
    return _pressed(folio, wanted) if isinstance(wanted, Spot) and wanted.board == board else {}


def _pressed(folio: Folio, wanted: Spot) -> dict[Place, bool]:
    """Return the keys that striking a spot takes and that may be tapped or held, and whether they are to be held."""
    layout = folio.layouts.get(wanted.board)
    if layout is None:
        return {}
    try:
        ways = [way.spot for way in way_to(folio, wanted.board, wanted.layer)]
    except (CannotPerform, KeyError):
        return {}
    found = {}
    for spot in (*ways, wanted):
        gestures = next((layer.by_key.get(spot.key, {}) for layer in layout.layers if layer.id == spot.layer), {})
        if "hold" in gestures and spot.gesture in ("tap", "hold"):
            found[wanted.board, spot.layer, spot.key] = spot.gesture == "hold"
    return found


def exercise(folio: Folio, bindings: Iterable[Binding], presses: Mapping[Place, Sequence[Press]]) -> list[str]:
    """Return what to ask for two minutes so that a study is possible: of ``bindings`` those whose keys are to be tapped and
    others whose same keys are to be held; few keys at a time, first those of which least is known. None where no key does
    both."""
    asked: dict[Place, tuple[list[str], list[str]]] = {}
    for binding in bindings:
        if isinstance(binding.trigger, Spot):
            for place, hold in _pressed(folio, binding.trigger).items():
                asked.setdefault(place, ([], []))[hold].append(binding.id)
    both = [place for place, (taps, holds) in asked.items() if taps and holds]
    both.sort(key=lambda place: (_enough(presses.get(place, ())), len(presses.get(place, ())), place))
    found: dict[str, None] = {}
    for place in both[:EXERCISED]:
        for ids in asked[place]:
            found |= dict.fromkeys(ids[:EXERCISED_OF_EACH])
    return list(found)


def _presses(events: Sequence[tuple[float, str, str]], key: str, hold: bool) -> list[Press]:
    """Return the presses of a key in the events of one answer, the last of them first where the hand tried again."""
    found: list[Press] = []
    down: float | None = None
    others: dict[str, float] = {}
    came = crossed = False
    for t, kind, code in events:
        if code == key and kind == "down" and down is None:
            down, came, crossed = t, False, False
            others.clear()
        elif code == key and kind == "up" and down is not None:
            if t - down <= MOST_PRESS_MS:
                found.append(Press(t - down, came, crossed, hold))
            down = None
        elif down is not None and kind == "down":
            came = True
            others[code] = t
        elif down is not None and kind == "up" and code in others:
            crossed = True
    if down is not None and hold and events:  # still held when the answer was decided
        found.append(Press(min(MOST_PRESS_MS, max(events[-1][0] - down, LIMITS_MS[-1])), came, crossed, hold))
    return found[-1:]


def misread(presses: Sequence[Press]) -> npt.NDArray[np.float64]:
    """Return which share of some presses each policy and limit would misread, (policies, limits)."""
    if not presses:
        return np.zeros((len(POLICIES), len(LIMITS_MS)))
    ms = np.array([one.ms for one in presses])[:, None]
    hold = np.array([one.hold for one in presses])[:, None]
    long = ms >= np.array(LIMITS_MS)[None, :]  # at exactly the limit it is too late: held
    early = (
        np.zeros(len(presses), dtype=bool),
        np.array([one.crossed for one in presses]),
        np.array([one.came for one in presses]),
    )
    return np.array([((long | sooner[:, None]) != hold).mean(axis=0) for sooner in early])


def study(folio: Folio, presses: Mapping[Place, Sequence[Press]]) -> Study | None:
    """Return what the presses say: the limit and policy with fewest misreadings for all keys, and for single ones where it
    pays.

    None where no key was tapped and held often enough.
    """
    known = {place: own for place, own in presses.items() if _enough(own)}
    if not known:
        return None
    together = [press for own in known.values() for press in own]
    timing = folio.settings.timing
    whole = misread(together)
    policy, limit = _fewest(whole, timing.policy, timing.hold_ms)
    keys = []
    for (board, layer, key), own in sorted(known.items()):
        shares = misread(own)
        its_policy, its_limit = _present(folio, board, layer, key)
        best_policy, best_limit = _fewest(shares, its_policy, its_limit)
        taps, holds = [one.ms for one in own if not one.hold], [one.ms for one in own if one.hold]
        keys.append(KeyStudy(
            board, layer, key, len(own), float(np.median(taps)) if taps else None, float(np.median(holds)) if holds else None,
            float(_share(own, its_policy, its_limit)), best_limit, best_policy, _at(shares, best_policy, best_limit),
        ))  # fmt: skip
    own_pays = tuple(one for one in keys
                     if _at(misread(known[one.board, one.layer, one.key]), policy, limit) - one.best >= PAYS)  # fmt: skip
    now = sum(one.now * one.presses for one in keys) / len(together)
    return Study(len(together), now, limit, policy, _at(whole, policy, limit), tuple(keys), own_pays)


def _enough(presses: Sequence[Press]) -> bool:
    held = sum(one.hold for one in presses)
    return len(presses) >= ENOUGH and held >= LEAST_EACH and len(presses) - held >= LEAST_EACH


def _present(folio: Folio, board: str, layer: str, key: str) -> tuple[Policy, int]:
    """Return the policy and limit that hold for a key now."""
    timing = folio.settings.timing
    layout = folio.layouts.get(board)
    found = layout.layer(layer) if layout is not None else None
    own = found.timing.get(key, KeyTiming()) if found is not None else KeyTiming()
    return own.policy or timing.policy, own.hold_ms if own.hold_ms is not None else timing.hold_ms


def _share(presses: Sequence[Press], policy: Policy, limit_ms: int) -> float:
    """Return which share a policy and any limit misread."""
    wrong = 0
    for one in presses:
        early = one.crossed if policy == "crossed" else one.came if policy == "eager" else False
        wrong += (one.ms >= limit_ms or early) != one.hold
    return wrong / len(presses)


def _fewest(shares: npt.NDArray[np.float64], policy: Policy, limit_ms: int) -> tuple[Policy, int]:
    """Return the policy and limit with fewest misreadings; among equals the present policy and the middle of the limits."""
    best = shares.min()
    rows = [place for place in range(len(POLICIES)) if np.isclose(shares[place].min(), best)]
    row = POLICIES.index(policy) if POLICIES.index(policy) in rows else rows[0]
    limits = [LIMITS_MS[place] for place in np.flatnonzero(np.isclose(shares[row], best))]
    return POLICIES[row], limit_ms if limit_ms in limits else limits[len(limits) // 2]


def _at(shares: npt.NDArray[np.float64], policy: Policy, limit_ms: int) -> float:
    nearest = min(range(len(LIMITS_MS)), key=lambda place: abs(LIMITS_MS[place] - limit_ms))
    return float(shares[POLICIES.index(policy), nearest])


def with_timing(folio: Folio, found: Study, keys: Sequence[KeyStudy] | None = None) -> Folio:
    """Return the folio with the limits a study suggests: those for all keys and of the keys for which their own pay, or with
    ``keys`` those keys' own alone."""
    if keys is None:
        timing = replace(folio.settings.timing, hold_ms=found.limit_ms, policy=found.policy)
        folio = replace(folio, settings=replace(folio.settings, timing=timing))
    layouts = dict(folio.layouts)
    for one in found.own if keys is None else keys:
        layout = layouts[one.board]
        layers = []
        for layer in layout.layers:
            if layer.id == one.layer:
                own = replace(layer.timing.get(one.key, KeyTiming()), hold_ms=one.limit_ms, policy=one.policy)
                layer = replace(layer, timing={**layer.timing, one.key: own})
            layers.append(layer)
        layouts[one.board] = replace(layout, layers=tuple(layers))
    return replace(folio, layouts=layouts)
