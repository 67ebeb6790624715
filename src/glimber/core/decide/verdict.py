"""Binding by binding: keep it, move it, rebind it, practise on, or retire it; with the reason in a sentence.

Source: docs/measures.md, "Verdict", steps 4 and 5.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Final

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glimber.core.decide.candidates import Candidate, Forecasts, best_candidates
from glimber.core.decide.choices import CHOICES, Choice
from glimber.core.decide.evidence import evidence_words
from glimber.core.decide.reasons import (
    KNOWING_NOW,
    LASTS_TRIES,
    at_work,
    because,
    is_by_menu_only,
    is_thin,
    is_unused,
    lasts,
    outcome,
    pair_answer,
    pair_of,
    reason_of,
)
from glimber.core.model.open_sets import open_sets
from glimber.core.stats.ledger import Ledger, Weighed

SURE_OF_GOOD: Final = 0.91
"""The probability a change must have where the reason is solid or long-reach: 0.95 of the draws, as far as they hold."""
LEAST_GAIN_SHARE: Final = 0.10
LEAST_GAIN_GOES_S: Final = 5.0
"""Seconds a week that are enough where the hand goes already."""
MAY_LAST: Final = 0.2
"""Learning is no bar to a change where it may as well last; the draws hold the chance already."""
GUESS_RANGE: Final = (0.2, 5.0)
PAIR_QUESTION: Final = "The keys feel the wrong way round (6), or you mix up what they do (7)."
MOVE_FIRST: Final = 0.95
"""A move comes before a rebind that gains no more than 5 % more."""


class Verdict(Struct, frozen=True):
    """The verdict on one binding. ``best`` is the place to move to; ``others`` the next best, drawn the same way.

    ``known`` is what is known of it and where the tries were made, ``brings`` what the verdict brings; ``words`` is both.
    """

    row: Weighed
    choice: Choice
    reason: str
    words: str
    best: Candidate | None = None
    others: tuple[Candidate, ...] = ()
    pair: str | None = None
    """The binding that this one is taken for, and the other way round: one case, with cures for both."""
    pair_answer: str | None = None
    """The person's answer about the pair."""
    depends_on_uses: bool = False
    """The uses a day are assumed, and other figures would change the verdict."""
    known: str = ""
    brings: str = ""


def verdicts(
    ledger: Ledger,
    checkpoint: Callable[[], None] = lambda: None,
    computer: str | None = None,
    only: Collection[str] | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> dict[str, Verdict]:
    """Return a verdict for every binding of the ledger, or those of ``only``; ``checkpoint`` as in ``measure``; ``progress``
    gets the share that is done."""
    forecasts = Forecasts(ledger, computer)
    reaches = [row.reach_ms for row in ledger.rows.values() if row.reach_ms is not None]
    long_reach = float(np.percentile(reaches, 75)) if reaches else float("inf")
    wanted = [id for id in ledger.rows if only is None or id in only]
    found = {}
    for place, id in enumerate(wanted):
        checkpoint()
        progress(place / len(wanted))
        found[id] = _verdict(forecasts, ledger.rows[id], long_reach)
    return found | judged_as_one(ledger, found)


def judged_as_one(ledger: Ledger, found: Mapping[str, Verdict]) -> dict[str, Verdict]:
    """Return one verdict for all keys of a group that stays open, from what is known of them together.

    They are practised where in sum more tries than KNOWING_NOW show one that was not known, retired where none is used, and kept
    otherwise: no single one is moved away from the others.
    """
    sets, together = open_sets(ledger.folio), dict[str, Verdict]()
    for id, verdict in found.items():
        rows = [ledger.rows[one] for one in sets[id].bindings if one in ledger.rows] if id in sets else []
        if len(rows) > 1:
            known = f"{sets[id].name} {sets[id].why}, so its {len(rows)} keys are one case. {_of_all(rows)}"
            choice = _choice_of_all(rows)
            brings = outcome(ledger, verdict.row, choice, None, False) if choice == verdict.choice else ""
            words = _joined(known, brings)
            together[id] = replace(verdict, choice=choice, best=None, others=(), known=known, brings=brings, words=words,
                                   depends_on_uses=False, pair=None, pair_answer=None)  # fmt: skip
    return together


def _choice_of_all(rows: Sequence[Weighed]) -> Choice:
    if all(map(is_unused, rows)):
        return "retire"
    tried = [row for row in rows if not is_thin(row)]
    if len(tried) < len(rows) / 2:
        return "practise"
    return "practise" if _unknown_of_all(tried) > KNOWING_NOW else "keep"


def _unknown_of_all(rows: Sequence[Weighed]) -> float:
    """Return the share of tries in which what was to be struck was not known, of all rows together."""
    effective = sum(row.effective for row in rows)
    return sum(row.effective * row.knowing_now for row in rows) / effective if effective else 0.0


def _of_all(rows: Sequence[Weighed]) -> str:
    tries, week = sum(row.count for row in rows), sum(row.weekly_s or 0.0 for row in rows)
    share = f", not known in {100 * _unknown_of_all(rows):.0f} % of {tries} tries" if tries else ""
    return f"Together they take {week:.0f} s a week{share}."


def _verdict(forecasts: Forecasts, row: Weighed, long_reach: float) -> Verdict:
    ledger = forecasts.ledger
    reason = reason_of(ledger, row, long_reach)
    candidates = [] if is_thin(row) else best_candidates(forecasts, row)
    pair = pair_of(ledger, row) if reason == "mix-up" else None
    answer = pair_answer(ledger, row, pair) if pair is not None else None
    if pair is not None and answer != "pair-keys":
        candidates = _apart_from(pair, candidates)
    best = _taken([one for one in candidates if _worth_it(ledger, one, reason)])
    choice = _choice(row, reason, best, row.binding.id in ledger.settling, pair is not None and answer is None)
    if choice not in ("move", "rebind"):
        best = None
    asks = pair is not None and answer is None and choice not in ("move", "rebind")
    question = f"Which is it? {PAIR_QUESTION}" if asks else ""
    guess = row.uses_guessed and _depends_on_uses(ledger, best, candidates, reason)
    known = _joined(because(ledger, row, reason), at_work(row), evidence_words(ledger, row, forecasts.computer))
    brings = question or outcome(ledger, row, choice, best, guess)
    others = tuple(one for one in candidates if one is not best)[:4]
    partner = pair.binding.id if pair is not None else None
    return Verdict(row, choice, reason, _joined(known, brings), best, others, partner, answer, guess, known, brings)


def _apart_from(pair: Weighed, candidates: list[Candidate]) -> list[Candidate]:
    """Return the candidates that leave the other one of a mixed-up pair where it is.

    Tries cannot tell whether the keys feel the wrong way round or the commands are confused; only then a swap pays.
    """
    return [one for one in candidates if pair.binding.id != one.swap_with and one.to != pair.binding.trigger]


def _joined(*sentences: str) -> str:
    return " ".join(one for one in sentences if one)


def _worth_it(ledger: Ledger, candidate: Candidate, reason: str, uses: float = 1.0) -> bool:
    """Return True if a candidate is sure enough and gains enough. ``uses``: how many times as many uses as are assumed."""
    gain, settings = candidate.own, ledger.folio.settings
    sure = max(settings.sure, SURE_OF_GOOD) if reason in ("solid", "long-reach") else settings.sure
    least = min(LEAST_GAIN_GOES_S, settings.least_gain_s) if candidate.hand_goes else settings.least_gain_s
    p_better = min(gain.p_better, candidate.gain.p_better)
    return p_better >= sure and gain.share >= LEAST_GAIN_SHARE and gain.per_week_s * uses >= least


def _depends_on_uses(ledger: Ledger, best: Candidate | None, candidates: list[Candidate], reason: str) -> bool:
    """Return True if a fifth of the assumed uses would drop the change, or five times as many bring one about."""
    few, many = GUESS_RANGE
    if best is not None:
        return not _worth_it(ledger, best, reason, few)
    return any(_worth_it(ledger, one, reason, many) for one in candidates)


def _taken(worth: list[Candidate]) -> Candidate | None:
    """Return where the hand goes first; else the best, but a move before a rebind that is hardly better."""
    if not worth:
        return None
    goes = next((one for one in worth if one.hand_goes), None)
    if goes is not None:
        return goes
    move = next((one for one in worth if one.move), None)
    if move is not None and move.own.total_s >= MOVE_FIRST * worth[0].own.total_s:
        return move
    return worth[0]


def _choice(row: Weighed, reason: str, best: Candidate | None, settling: bool, asked: bool) -> Choice:
    if is_thin(row):
        return "practise"
    if settling:  # a change is given its time before it is changed again
        return "practise" if row.knowing_now > KNOWING_NOW else "keep"
    if is_by_menu_only(row):
        return "practise"
    if is_unused(row):
        return "retire"
    if best is not None and (reason != "still-learning" or (row.count >= LASTS_TRIES and row.lasting > MAY_LAST)):
        return "move" if best.move else "rebind"
    if asked:
        return "practise"
    if row.knowing_now > KNOWING_NOW:
        return "rebind" if lasts(row) else "practise"
    return "keep"


def verdict_counts(found: Mapping[str, Verdict]) -> dict[str, int]:
    """Return how many bindings have each verdict."""
    return {choice: sum(one.choice == choice for one in found.values()) for choice in CHOICES}
