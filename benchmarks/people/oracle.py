"""What verdicts promise against what truly comes, with an oracle and a plain rule beside.

The oracle knows each person: the true seconds of staying, of every place that a binding may go to, and of every exchange,
over the horizon. The plain rule is one that anybody can follow by hand: under 80 % in the last 20 tries, go where the hand goes,
else to the easiest free key.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from typing import Final

import numpy as np
from msgspec.structs import replace

from benchmarks.figures import Figure
from benchmarks.people.person import NOW, Known, Person
from benchmarks.people.score import _folio, first_tries
from benchmarks.people.sorts import OTHERS, Sort
from glimber.core.decide.candidates import Forecasts
from glimber.core.decide.verdict import Verdict, verdicts
from glimber.core.notation.keys import Trigger
from glimber.core.practice.columns import HIT
from glimber.core.practice.tries import Change
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.measures import measure

EACH: Final = 6
TRIES: Final = (60, 120)
BANDS: Final = ((0.8, 0.9), (0.9, 0.95), (0.95, 1.01))
RULE_BELOW: Final = 0.8
RULE_TRIES: Final = 20


@dataclass
class Gains:
    """Sums over people; seconds over the horizon."""

    promised: float = 0.0
    came: float = 0.0
    offered: int = 0
    losing: int = 0
    regret: float = 0.0
    staying: float = 0.0
    rule: float = 0.0
    inside: int = 0
    judged: int = 0
    bias: float = 0.0
    worth_having: float = 0.0
    missed: float = 0.0
    """The best change of each binding where it is worth at least the folio's least gain, and how much of that did not come."""
    bands: dict[tuple[float, float], list[bool]] = field(default_factory=lambda: {band: [] for band in BANDS})

    def add(self, other: Gains) -> None:
        for name in ("promised", "came", "offered", "losing", "regret", "staying", "rule", "inside", "judged", "bias",
                     "worth_having", "missed"):  # fmt: skip
            setattr(self, name, getattr(self, name) + getattr(other, name))
        for band, came in other.bands.items():
            self.bands[band] += came


class Truth:
    """The true seconds of one person's bindings over the horizon."""

    def __init__(self, person: Person, ledger: Ledger, tries: int) -> None:
        self.person, self.ledger, self.tries = person, ledger, tries
        self.days = max(1, round(ledger.folio.settings.horizon_weeks * 7))

    def cost(self, known: Known, to: Trigger | None, bad_key: float = 0.0) -> float:
        row = self.ledger.rows[known.binding.id]
        return self.person.cost_s(known, to, row.uses_week / 7, self.days, row.recovery_s, row.blank_s, self.tries, bad_key)

    def saved(self, known: Known, to: Trigger, swap_with: str | None) -> tuple[float, float]:
        """Return what going somewhere truly saves: all that move, and the binding's own case.

        The own case has what the partner of an exchange loses, not what it gains: else one cure of a troubled binding would be
        missed by every healthy one that could have changed places with it.
        """
        own = self.cost(known, None) - self.cost(known, to)
        other = self.person.known.get(swap_with or "")
        if other is None:
            return own, own
        here = known.binding.trigger
        bad = known.share if known.trouble == "neighbour-slips" else 0.0
        partner = self.cost(other, None) - self.cost(other, here, bad)
        return own + partner, own + min(0.0, partner)


def gains_of(person: Person, tries: int) -> Gains:
    """What is promised to one person after so many tries of each binding, and what comes."""
    found = Gains()
    practice = first_tries(person.practice(), tries)
    ledger = measure(person.folio, practice, NOW, "bench")
    said = verdicts(ledger, computer="bench", only=list(person.known))
    answers = _answers(person, said)
    if answers:
        ledger = measure(person.folio, replace(practice, changes=(*practice.changes, *answers)), NOW, "bench")
        said = verdicts(ledger, computer="bench", only=list(person.known))
    truth, forecasts = Truth(person, ledger, tries), Forecasts(ledger, "bench")
    least = ledger.folio.settings.least_gain_s * ledger.folio.settings.horizon_weeks
    for id, known in person.known.items():
        row, verdict = ledger.rows[id], said[id]
        # What somebody never tried has no true cost to exchange with: the person's own bindings and free places only.
        options = [one for one in _options(forecasts, row) if one[1] is None or one[1] in person.known]
        best = max([0.0, *(truth.saved(known, *one)[1] for one in options)])
        came = own = 0.0
        if verdict.choice in ("move", "rebind") and verdict.best is not None:
            came, own = truth.saved(known, verdict.best.to, verdict.best.swap_with)
            found.offered += 1
            found.losing += came < 0
            found.promised += verdict.best.gain.total_s
            found.came += came
        for one in (*([verdict.best] if verdict.best else []), *verdict.others):
            band = next((band for band in BANDS if band[0] <= one.gain.p_better < band[1]), None)
            if band is not None:
                found.bands[band].append(truth.saved(known, one.to, one.swap_with)[0] > 0)
        found.regret += best - own
        found.staying += best
        if best >= least:
            found.worth_having += best
            found.missed += best - own
        found.rule += best - _plain_rule(forecasts, row, known, truth)
        if row.posterior is not None:
            low, high = row.posterior.interval()
            clean = person.clean(known, tries)
            found.judged += 1
            found.inside += low <= clean <= high
            found.bias += row.posterior.mean - clean
    return found


def _answers(person: Person, said: dict[str, Verdict]) -> list[Change]:
    """What the person, asked about two commands taken for each other, truthfully says of each pair, once."""
    pairs = {frozenset((id, verdict.pair)) for id, verdict in said.items() if verdict.pair is not None}
    answer = "pair-commands" if person.sort.mixes_commands else "pair-keys"
    return [
        Change(f"answer-{nth}", NOW, "bench", pair[0], answer, swap_with=pair[-1])
        for nth, pair in enumerate(sorted(map(sorted, pairs)))
    ]


def _options(forecasts: Forecasts, row: Weighed) -> Iterator[tuple[Trigger, str | None]]:
    """Every place of a binding that there is a key for."""
    options = forecasts.places.options(row)
    options = options.where(np.isfinite(forecasts.terms(options.to)[0]))
    for to, partner in zip(options.to.tolist(), options.partner.tolist(), strict=True):
        yield forecasts.places.triggers[to], forecasts.rows[partner].binding.id if partner >= 0 else None


def _plain_rule(forecasts: Forecasts, row: Weighed, known: Known, truth: Truth) -> float:
    rows = row.counted.rows(row.number)[-RULE_TRIES:]
    if len(rows) < RULE_TRIES or np.mean(row.counted.columns.outcome[rows] == HIT) >= RULE_BELOW:
        return 0.0
    options = list(_options(forecasts, row))
    struck = next(iter(row.slips.struck), None)
    goes = next((one for one in options if str(one[0]) == struck), None)
    free = [one for one in options if one[1] is None]
    if goes is None and not free:
        return 0.0
    chosen = goes or min(free, key=lambda one: truth.ledger.reach.ms(one[0]) or 1e9)
    return truth.saved(known, *chosen)[1]


def _of(sort: Sort, numbers: Sequence[int]) -> Gains:
    whole = Gains()
    for number in numbers:
        for tries in TRIES:
            whole.add(gains_of(Person(_folio(), sort, number), tries))
    return whole


def all_gains(sorts: Sequence[Sort] = OTHERS, each: int = EACH) -> Gains:
    """Every sort, so many people of each, on all processors."""
    whole = Gains()
    with ProcessPoolExecutor() as pool:
        for one in pool.map(_of, sorts, [list(range(each))] * len(sorts)):
            whole.add(one)
    return whole


def figures() -> list[Figure]:
    """What script/bench oracle prints: the table of docs/measures.md, "Held to"."""
    found = all_gains()
    paying = 100 * (1 - found.losing / max(1, found.offered))
    note = f"{found.promised:,.0f} s promised, {found.came:,.0f} s came"
    ratio = found.came / found.promised if found.promised else float("nan")
    rows = [
        Figure("came of what is promised", ratio, "x", 0.8, True, f"{note}; at most 1.25"),
        Figure("changes offered that pay", paying, "%", 92, True, f"of {found.offered}"),
        Figure("regret over what staying loses", found.regret / found.staying, "x", 0.45,
               note=f"the plain rule {found.rule / found.staying:.2f}"),
        Figure("regret over it, of changes worth at least the folio's least gain", found.missed / found.worth_having, "x",
               None),
        Figure("90 % interval of accuracy holds the truth", 100 * found.inside / found.judged, "%", 85, True,
               f"of {found.judged}"),
        Figure("accuracy off by", found.bias / found.judged, "", None),
    ]  # fmt: skip
    for (low, high), came in found.bands.items():
        share = sum(came) / len(came) if came else float("nan")
        rows.append(Figure(f"came true of P(better) {low:g} to {min(high, 1):g}", share, "", None, note=f"of {len(came)}"))
    return rows
