"""The next round as it is expected to go: the prompts that would be asked if each answer were the likelier one.

Source: docs/measures.md, "The next prompt".
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from types import MappingProxyType

from msgspec import Struct

from glimber.core.decide.next_prompt import Prompts, prompts_of
from glimber.core.decide.plan import PRESSING_BELOW, USUAL_MINUTES, Due, pressing
from glimber.core.practice.pacing import Prompt
from glimber.core.practice.tries import Outcome
from glimber.core.stats.ledger import Ledger, Weighed

SHOWING_S = 3.5
_NOTHING: Mapping[str, str] = MappingProxyType({})


class _Share(Struct):
    """A binding's share of the round."""

    prompts: int = 0
    hits: int = 0
    seconds: float = 0.0
    worth: float = 0.0
    new: bool = False


def next_round(
    ledger: Ledger,
    minutes: float = USUAL_MINUTES,
    size: int | None = None,
    may: Callable[[str], bool] = lambda id: True,
    also: Mapping[str, str] = _NOTHING,
) -> list[Due]:
    """Return what to drill in so many minutes, at most ``size`` bindings of those that ``may`` be asked; ``also`` must be in,
    with why. First what must be in, then what is worth most."""
    why = {**also, **{id: text for id, text in pressing(ledger).items() if may(id)}}
    prompts = prompts_of(ledger, [id for id in ledger.rows if may(id)], why)
    shares = _played(prompts, minutes * 60.0, size)
    found = [_due(ledger.rows[id], share, why) for id, share in shares.items()]
    return sorted(found, key=lambda one: (one.binding not in why, -one.worth_s_week))


def _played(prompts: Prompts, seconds: float, size: int | None) -> dict[str, _Share]:
    """Play the round through with the likelier answers."""
    shares: dict[str, _Share] = {}
    left = seconds
    while left > 0:
        prompt = prompts.next(only=shares if size is not None and len(shares) >= size else None)
        if prompt is None:
            break
        outcome, takes = _likely(prompts, prompt, shares.get(prompt.binding, _Share()))
        left -= takes
        if left < 0 and shares:
            break
        share = shares.setdefault(prompt.binding, _Share())
        share.seconds += takes
        share.new = share.new or prompt.new
        if not prompt.shown:
            share.prompts += 1
            share.hits += outcome == "hit"
            share.worth += prompts.worth(prompt.binding)
        prompts.answer(prompt, outcome, "stray" if outcome == "slip" else None, takes)
    return {id: share for id, share in shares.items() if share.prompts}


def _likely(prompts: Prompts, prompt: Prompt, share: _Share) -> tuple[Outcome, float]:
    """Return the likelier answer to a prompt and the seconds that it is expected to take: a new binding is missed once, then
    known."""
    if prompt.shown:
        return "hit", SHOWING_S
    clean = prompts.clean(prompt.binding)
    takes = clean * prompts.seconds["hit"] + (1 - clean) * prompts.seconds["slip"]
    known = share.prompts > 0 if prompt.new else clean >= 0.5
    return "hit" if known else "slip", takes


def _due(row: Weighed, share: _Share, why: Mapping[str, str]) -> Due:
    id, new = row.binding.id, not row.count
    reason = why.get(id) or ("new" if new else "weak" if row.p_clean < PRESSING_BELOW else "to keep")
    return Due(id, reason, row.p_clean, new and reason == "new", max(1, share.hits), share.worth, share.seconds)


def pacing_of(ledger: Ledger, usable: Collection[str], also: Collection[str] = ()) -> Prompts:
    """Return the pacing of a round under way: of what may come into it; ``also`` must."""
    return prompts_of(ledger, usable, {*also, *pressing(ledger)} & set(usable))
