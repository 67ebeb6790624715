"""The reasons of verdicts: when each applies, and its sentence with the figures behind it.

``REASONS`` is in the order in which they are tried; the first that applies is the reason. Source: docs/measures.md, "Verdict",
step 5.
"""

from __future__ import annotations

from collections.abc import Callable
from math import inf
from typing import Final

from msgspec import Struct

from glimber.core.decide.candidates import Candidate
from glimber.core.decide.choices import PAIR_ANSWERS, Choice
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
"""The real day strikes it hardly ever: at most so much of what the person entered."""
BY_MENU_LEAST: Final = 3
UNDONE_LEAST: Final = 3
UNDONE_SHARE: Final = 0.1
BLANK_SHARE: Final = 0.25
"""A solid binding of whose cost so much is blanks says so."""


class Case(Struct, frozen=True):
    """Facts that a reason is judged by. ``long_reach_ms``: the 75th percentile of the folio's reaches."""

    ledger: Ledger
    row: Weighed
    long_reach_ms: float = inf

    @property
    def has_cause(self) -> bool:
        """True if something is the matter with it."""
        return 1 - self.row.causes["none"] >= ANY_CAUSE

    @property
    def of_slips(self) -> str:
        total = self.row.slips.total
        return f"of {total} {'slip' if total == 1 else 'slips'}"


class Reason(Struct, frozen=True):
    """A reason: when it applies, and the sentence that gives it."""

    id: str
    applies: Callable[[Case], bool]
    sentence: Callable[[Case], str]


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


def is_by_menu_only(row: Weighed) -> bool:
    """Return True if its menu is used and its key never is: chosen three times or more, on days enough, and not struck once."""
    found = row.at_work
    return found is not None and found.enough and found.struck == 0 and found.by_menu >= BY_MENU_LEAST


def lasts(row: Weighed) -> bool:
    """Return True if not knowing is taken to last: more likely than not, with 24 tries or more."""
    return row.lasting > LASTS and row.count >= LASTS_TRIES


def reason_of(ledger: Ledger, row: Weighed, long_reach_ms: float) -> str:
    """Return the id of the first reason that applies. ``long_reach_ms``: the folio's 75th percentile."""
    case = Case(ledger, row, long_reach_ms)
    return next(reason.id for reason in REASONS if reason.applies(case))


def mixed_with(ledger: Ledger, row: Weighed) -> str | None:
    """Return the command that the likeliest place carries, where it sends back at least 3 and a quarter of its own slips."""
    place = row.place
    there = next((one.would_do for one in row.tries if one.pressed == place and one.would_do), None) if place else None
    if there is None or there == row.command.ref:
        return None
    back, whole = ledger.back_from(there, row.command.ref)
    return there if back >= MIX_UP_BACK and back >= MIX_UP_SHARE * whole else None


def pair_of(ledger: Ledger, row: Weighed) -> Weighed | None:
    """Return the binding that this one is taken for, where both are struck for each other: each at least a quarter of the other's
    slips."""
    other = mixed_with(ledger, row)
    if other is None or row.slips.would_do.get(other, 0) < MIX_UP_SHARE * row.slips.total:
        return None
    alike = [one for one in ledger.rows.values() if one.command.ref == other]
    return next((one for one in alike if str(one.binding.trigger) == row.place), alike[0] if alike else None)


def pair_answer(ledger: Ledger, row: Weighed, other: Weighed) -> str | None:
    """Return the person's last answer about a pair, as one of ``PAIR_ANSWERS``; None where they were not asked or did not say."""
    pair = {row.binding.id, other.binding.id}
    answers = [one for one in ledger.practice.changes if one.verdict in PAIR_ANSWERS and one.reverted is None
            and {one.binding, one.swap_with} == pair]  # fmt: skip
    return max(answers, key=lambda one: one.at).verdict if answers else None


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
    """Return a trigger as its key alone, where that says enough."""
    return key_words(ledger.folio, trigger.board, trigger.keys) if isinstance(trigger, Spot) else str(trigger)


def because(ledger: Ledger, row: Weighed, reason: str) -> str:
    """Return a reason's sentence. Raises KeyError for a reason that does not exist."""
    return _BY_ID[reason].sentence(Case(ledger, row))


def _thin_words(case: Case) -> str:
    row = case.row
    if not row.count:
        return "Not tried yet."
    tried, days = count_words(row.count, "try", "tries"), count_words(row.days, "day")
    lacks = []
    if row.effective < THIN_TRIES:
        lacks.append(count_words(max(1, THIN_TRIES - int(row.effective)), "more try", "more tries"))
    if row.days < THIN_DAYS:
        lacks.append("one more day")
    return f"Only {tried} on {days} so far; it takes {' on '.join(lacks)} to judge it."


def _by_menu_words(case: Case) -> str:
    found = case.row.at_work
    assert found is not None
    return f"Chosen by menu {count_words(found.by_menu, 'time')} on {count_words(found.days, 'day')} at work, and never struck."


def _unused_words(case: Case) -> str:
    row = case.row
    earned = f"it earns {row.earned_s or 0.0:.0f} s a week."
    if row.command.uses_per_day is None and row.at_work is not None:
        struck, days = count_words(row.at_work.struck, "time"), count_words(row.at_work.days, "day")
        return f"Struck {struck} on {days} at work; {earned}"
    return (
        f"Used {(row.command.uses_per_day or 0.0) * case.ledger.folio.settings.working_days:.1f} times a week; {earned}"
    )


def _mix_up_words(case: Case) -> str:
    other = case.ledger.folio.commands[mixed_with(case.ledger, case.row) or ""]
    count = case.row.slips.would_do.get(other.ref, 0)
    return f"Taken for {other.name} in {count} {case.of_slips}, and the other way round."


def _elsewhere_words(case: Case) -> str:
    ledger, row = case.ledger, case.row
    there, name = _struck_words(ledger, row, row.place or ""), short_words(ledger, row.binding.trigger)
    if there.startswith(f"{name} "):  # the same key: both must name what differs
        name = place_words(ledger.folio, row.binding.trigger)
    return f"Struck {there} for {name} in {row.slips.struck.get(row.place or '', 0)} {case.of_slips}."


def _slips_of(cause: str, words: str) -> Callable[[Case], str]:
    return lambda case: f"{words} in {case.row.slips.kinds.get(cause, 0)} {case.of_slips}."


def _solid_words(case: Case) -> str:
    row = case.row
    mean = row.posterior.mean if row.posterior else 0.0
    whole, blanks = row.weekly_s or 0.0, row.parts_s()[3]
    many = (
        f"; {100 * blanks / whole:.0f} % of its {whole:.0f} s a week are blanks"
        if blanks > BLANK_SHARE * whole > 0
        else ""
    )
    return f"{100 * mean:.0f} % clean, {row.time_ms or 0:.0f} ms{many}."


def _unknown_words(turn: str) -> Callable[[Case], str]:
    return lambda case: f"Not known in {100 * case.row.knowing_now:.0f} % of tries, {turn}."


def _is_long(case: Case) -> bool:
    reach, time = case.row.reach_ms, case.row.time_ms
    return reach is not None and time is not None and reach >= REACH_SHARE * time and reach > case.long_reach_ms


def _named(cause: str) -> Callable[[Case], bool]:
    return lambda case: case.has_cause and case.row.cause == cause


def _is_mix_up(case: Case) -> bool:
    return _named("place")(case) and mixed_with(case.ledger, case.row) is not None


def _is_stuck(case: Case) -> bool:
    return case.row.knowing_now > KNOWING_NOW and lasts(case.row)


REASONS: Final = (
    Reason("thin-evidence", lambda case: is_thin(case.row), _thin_words),
    Reason("by-menu", lambda case: is_by_menu_only(case.row), _by_menu_words),
    Reason("unused", lambda case: is_unused(case.row), _unused_words),
    Reason("old-habit", _named("old habit"), _slips_of("old habit", "The hand went to a former place")),
    Reason("neighbour-slips", _named("neighbour"), _slips_of("neighbour", "A key beside it")),
    Reason("gesture-slips", _named("gesture"), _slips_of("gesture", "With another gesture")),
    Reason("wrong-layer", _named("layer"), _slips_of("layer", "On the wrong layer")),
    Reason("modifier-slips", _named("modifiers"), _slips_of("modifiers", "With other modifiers")),
    Reason("unfinished", _named("unfinished"), _slips_of("unfinished", "Begun and not finished")),
    Reason("mix-up", _is_mix_up, _mix_up_words),
    Reason("hand-goes-elsewhere", _named("place"), _elsewhere_words),
    Reason("stuck", _is_stuck, _unknown_words("and not getting better")),
    Reason("still-learning", lambda case: case.row.knowing_now > KNOWING_NOW, _unknown_words("and getting better")),
    Reason("long-reach", _is_long, lambda case: f"{short_words(case.ledger, case.row.binding.trigger)} is a long way: "
           f"{case.row.reach_ms or 0:.0f} of {case.row.time_ms or 0:.0f} ms are reach."),
    Reason("solid", lambda case: True, _solid_words),
)  # fmt: skip
_BY_ID: Final = {reason.id: reason for reason in REASONS}


def at_work(row: Weighed) -> str:
    """Return what the real day says beside practice, in a sentence: firmly held and hardly struck, or often taken back."""
    found = row.at_work
    if found is None or not found.enough:
        return ""
    stated = row.command.uses_per_day
    if stated is not None and row.p_clean >= HELD_FIRM and found.high < NEVER_SHARE * stated:
        struck, days = count_words(found.struck, "time"), count_words(found.days, "day")
        text = f"At work it was struck {struck} on {days}, not {stated:g} a day"
        return f"{text}: the situation does not bring it to mind; drill it by its situation."
    if found.by_menu >= BY_MENU_LEAST and found.by_menu > found.struck > 0:
        chosen, struck = count_words(found.by_menu, "time"), count_words(found.struck, "time")
        return f"At work it was chosen by menu {chosen}, and struck {struck}."
    if found.undone >= UNDONE_LEAST and found.undone >= UNDONE_SHARE * found.struck:
        return f"At work {found.undone} of {found.struck} were undone immediately."
    return ""


def outcome(ledger: Ledger, row: Weighed, choice: Choice, best: Candidate | None, is_guess: bool = False) -> str:
    """Return what the verdict would bring, in a sentence."""
    if choice in ("move", "rebind") and best is not None:
        name, there = short_words(ledger, row.binding.trigger), _there_words(ledger, row, best)
        how = (
            f"Swapping {name} and {there}" if best.swap_with else f"{'Moving' if best.move else 'Rebinding'} to {there}"
        )
        day = f" breaks even on day {best.gain.break_even_day} and" if best.gain.break_even_day else ""
        guess = " Uses a day are assumed; with other figures the verdict is another (U sets them)." if is_guess else ""
        return f"{how}{day} saves {best.gain.per_week_s:.0f} s a week.{guess}"
    if choice == "rebind":
        return "Nothing free is better; a better reason for the key may be."
    if choice == "retire":
        return "The slow way will do."
    return "Practice will mend it." if choice == "practise" and not is_thin(row) and not lasts(row) else ""


def _there_words(ledger: Ledger, row: Weighed, best: Candidate) -> str:
    """Return the new place: its key alone where nothing else of it changes."""
    old, new = row.binding.trigger, best.to
    if (
        isinstance(old, Spot)
        and isinstance(new, Spot)
        and (old.board, old.layer, old.gesture) == (new.board, new.layer, new.gesture)
    ):
        return key_words(ledger.folio, new.board, new.keys)
    return place_words(ledger.folio, new)
