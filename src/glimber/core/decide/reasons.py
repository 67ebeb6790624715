"""Why a verdict is what it is: the first reason that fits, and the sentence that says it with its figures."""

from __future__ import annotations

from typing import Final

from glimber.core.decide.candidates import Candidate
from glimber.core.decide.choices import Choice
from glimber.core.model.describe import count_words, key_words, place_words
from glimber.core.notation.keys import NotationError, Spot, Trigger, parse_trigger
from glimber.core.stats.ledger import Ledger, Weighed

THIN_TRIES: Final = 8
THIN_DAYS: Final = 2
RETIRE_USES: Final = 1.0
RETIRE_DAYS: Final = 5
RETIRE_EARNS_S: Final = 5.0
ANY_CAUSE: Final = 0.8
KNOWING_NOW: Final = 0.15
LASTS: Final = 0.5
LASTS_TRIES: Final = 24
MIX_UP_BACK: Final = 3
MIX_UP_SHARE: Final = 0.25
REACH_SHARE: Final = 0.30
HELD_FIRM: Final = 0.8
NEVER_SHARE: Final = 0.25
"""The real day strikes it hardly ever: at most so much of what the person said."""
UNDONE_LEAST: Final = 3
UNDONE_SHARE: Final = 0.1
REASON_OF: Final = {
    "old habit": "old-habit",
    "neighbour": "neighbour-slips",
    "gesture": "gesture-slips",
    "layer": "wrong-layer",
    "modifiers": "modifier-slips",
}


def is_thin(row: Weighed) -> bool:
    """Fewer than 8 effective tries, or fewer than 2 days of them."""
    return row.posterior is None or row.effective < THIN_TRIES or row.days < THIN_DAYS


def is_unused(row: Weighed) -> bool:
    """Used less than once in 5 working days, and earning under 5 s a week: by a set figure, or by all that a count leaves
    room for; never by a guess."""
    a_day = row.command.uses_per_day
    if a_day is None and row.at_work is not None and row.at_work.enough:
        a_day = row.at_work.high
    return a_day is not None and a_day * RETIRE_DAYS < RETIRE_USES and (row.earned_s or 0.0) < RETIRE_EARNS_S


def lasts(row: Weighed) -> bool:
    """Return True if not knowing is taken to last: more likely than not, with 24 tries or more."""
    return row.lasting > LASTS and row.count >= LASTS_TRIES


def reason_of(ledger: Ledger, row: Weighed, long_reach_ms: float) -> str:
    """The first reason that fits. ``long_reach_ms``: the folio's 75th percentile."""
    if is_thin(row):
        return "thin-evidence"
    if is_unused(row):
        return "unused"
    if 1 - row.causes["none"] >= ANY_CAUSE:
        if row.cause == "place":
            return "mix-up" if mixed_with(ledger, row) is not None else "hand-goes-elsewhere"
        if row.cause in REASON_OF:
            return REASON_OF[row.cause]
    if row.knowing_now > KNOWING_NOW:
        return "stuck" if lasts(row) else "still-learning"
    reach, time = row.reach_ms, row.time_ms
    if reach is not None and time is not None and reach >= REACH_SHARE * time and reach > long_reach_ms:
        return "long-reach"
    return "solid"


def mixed_with(ledger: Ledger, row: Weighed) -> str | None:
    """The command that the likeliest place carries, where it sends back at least 3 and a quarter of its own slips."""
    place = row.place
    there = next((one.would_do for one in row.tries if one.pressed == place and one.would_do), None) if place else None
    if there is None or there == row.command.ref:
        return None
    back, whole = ledger.back_from(there, row.command.ref)
    return there if back >= MIX_UP_BACK and back >= MIX_UP_SHARE * whole else None


def pair_of(ledger: Ledger, row: Weighed) -> Weighed | None:
    """The binding that is taken for this one, where both are struck for each other."""
    other = mixed_with(ledger, row)
    alike = [one for one in ledger.rows.values() if one.command.ref == other] if other is not None else []
    return next((one for one in alike if str(one.binding.trigger) == row.place), alike[0] if alike else None)


# Sentences


def _struck_words(ledger: Ledger, row: Weighed, struck: str) -> str:
    try:
        trigger: Trigger = parse_trigger(struck, ledger.folio.bundles)
    except NotationError:
        return struck
    wanted = row.binding.trigger
    alike = (
        isinstance(trigger, Spot)
        and isinstance(wanted, Spot)
        and (trigger.layer, trigger.gesture) == (wanted.layer, wanted.gesture)
    )
    return key_words(ledger.folio, trigger.board, trigger.keys) if alike else place_words(ledger.folio, trigger)  # type: ignore[union-attr]


def short_words(ledger: Ledger, trigger: Trigger) -> str:
    """A trigger as its key alone, where that says enough."""
    return key_words(ledger.folio, trigger.board, trigger.keys) if isinstance(trigger, Spot) else str(trigger)


def because(ledger: Ledger, row: Weighed, reason: str) -> str:
    """The reason in a sentence."""
    slips, name = row.slips, short_words(ledger, row.binding.trigger)
    of = f"of {slips.total} {'slip' if slips.total == 1 else 'slips'}"
    if reason == "thin-evidence":
        tried, days = count_words(row.count, "try", "tries"), count_words(row.days, "day")
        return f"Only {tried} on {days} so far: too few to judge." if row.count else "Not tried yet."
    if reason == "unused":
        if row.command.uses_per_day is None and row.at_work is not None:
            struck = count_words(row.at_work.struck, "time")
            days = count_words(row.at_work.days, "day")
            return f"Struck {struck} on {days} at work; it earns {row.earned_s or 0.0:.0f} s a week."
        weekly = (row.command.uses_per_day or 0.0) * ledger.folio.settings.working_days
        return f"Used {weekly:.1f} times a week; it earns {row.earned_s or 0.0:.0f} s a week."
    if reason == "mix-up":
        other = ledger.folio.commands[mixed_with(ledger, row) or ""]
        return f"Taken for {other.name} in {slips.would_do.get(other.ref, 0)} {of}, and the other way round."
    if reason == "hand-goes-elsewhere":
        there = _struck_words(ledger, row, row.place or "")
        if there.startswith(f"{name} "):  # the same key: what differs must be said of both
            name = place_words(ledger.folio, row.binding.trigger)
        return f"Struck {there} for {name} in {slips.struck.get(row.place or '', 0)} {of}."
    said = {"old-habit": ("The hand went to a former place", "old habit"), "wrong-layer": ("On the wrong layer", "layer"),
            "gesture-slips": ("With another gesture", "gesture"), "modifier-slips": ("With other modifiers", "modifiers"),
            "neighbour-slips": ("A key beside it", "neighbour")}  # fmt: skip
    if reason in said:
        what, kind = said[reason]
        return f"{what} in {slips.kinds.get(kind, 0)} {of}."
    if reason in ("stuck", "still-learning"):
        turn = "and not getting better" if reason == "stuck" else "and getting better"
        return f"Not known in {100 * row.knowing_now:.0f} % of tries, {turn}."
    if reason == "long-reach":
        return f"{name} is a long way: {row.reach_ms or 0:.0f} of {row.time_ms or 0:.0f} ms are reach."
    mean = row.posterior.mean if row.posterior else 0.0
    return f"{100 * mean:.0f} % clean, {row.time_ms or 0:.0f} ms."


def at_work(row: Weighed) -> str:
    """Return what the real day says beside practice, in a sentence: firmly held and hardly struck, or often taken back."""
    found = row.at_work
    if found is None or not found.enough:
        return ""
    said = row.command.uses_per_day
    if said is not None and row.p_clean >= HELD_FIRM and found.high < NEVER_SHARE * said:
        struck, days = count_words(found.struck, "time"), count_words(found.days, "day")
        told = f"At work it was struck {struck} on {days}, not {said:g} a day"
        return f"{told}: the situation does not bring it to mind; drill it by its situation."
    if found.undone >= UNDONE_LEAST and found.undone >= UNDONE_SHARE * found.struck:
        return f"At work {found.undone} of {found.struck} were undone at once."
    return ""


def outcome(ledger: Ledger, row: Weighed, choice: Choice, best: Candidate | None) -> str:
    """Return what the verdict would bring, in a sentence."""
    if choice in ("move", "rebind") and best is not None:
        name, there = short_words(ledger, row.binding.trigger), _there_words(ledger, row, best)
        how = (
            f"Swapping {name} and {there}" if best.swap_with else f"{'Moving' if best.move else 'Rebinding'} to {there}"
        )
        day = f" breaks even on day {best.gain.break_even_day} and" if best.gain.break_even_day else ""
        return f"{how}{day} saves {best.gain.per_week_s:.0f} s a week."
    if choice == "rebind":
        return "Nothing free is better; a better reason for the key may be."
    if choice == "retire":
        return "The slow way will do."
    return "Practice will mend it." if choice == "practise" and not is_thin(row) else ""


def _there_words(ledger: Ledger, row: Weighed, best: Candidate) -> str:
    """The new place: its key alone where nothing else of it changes."""
    old, new = row.binding.trigger, best.to
    if (
        isinstance(old, Spot)
        and isinstance(new, Spot)
        and (old.board, old.layer, old.gesture) == (new.board, new.layer, new.gesture)
    ):
        return key_words(ledger.folio, new.board, new.keys)
    return place_words(ledger.folio, new)
