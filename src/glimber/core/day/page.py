"""The day's page: what there is to do and to see today, each a line with what takes a person there."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta
from typing import Final, Literal

from msgspec import Struct

from glimber.core.decide.plan import Due, missed_at_work
from glimber.core.decide.settling import Settling
from glimber.core.model.describe import count_words, place_words
from glimber.core.notation.keys import NotationError, parse_trigger
from glimber.core.practice.tries import utc
from glimber.core.stats.ledger import Ledger

FIRST_WEEK: Final = timedelta(days=7)
_NAMED: Final = 4
What = Literal["due", "settling", "outside", "missed", "earned"]


class Line(Struct, frozen=True):
    """``head`` is read first, ``detail`` beside it; ``bindings`` what it is about, the most pressing first. ``open`` False:
    there is nothing to be done about it."""

    what: What
    head: str
    detail: str = ""
    bindings: tuple[str, ...] = ()
    open: bool = True


class Day(Struct, frozen=True):
    """The page of one day. ``curve``: seconds a week earned at the ends of days gone by."""

    day: date
    lines: tuple[Line, ...]
    curve: tuple[tuple[date, float], ...]


def after_first_week(ledger: Ledger) -> bool:
    """Return True if the first try is a week old: from then on there is something to look back on."""
    tries = ledger.practice.tries
    return bool(len(tries)) and ledger.at - utc(tries[0].at) >= FIRST_WEEK


def day_of(
    ledger: Ledger,
    now: datetime,
    due: Sequence[Due],
    settling: Sequence[Settling],
    outside: Sequence[str],
    curve: Sequence[tuple[date, float]],
) -> Day:
    """Return the page. ``outside``: what differs in linked sources, a sentence each; ``curve`` as in Day."""
    minutes = sum(one.seconds for one in due) / 60
    worth = sum(one.worth_s_week for one in due)
    ids = tuple(one.binding for one in due)
    stake = f"{long_words(worth)} a week are at stake: {_names(ledger, ids)}"
    lines = [
        Line("due", f"A round of {_count(len(due), 'binding').lower()}, {max(1.0, minutes):.0f} min", stake, ids)
        if due
        else Line("due", "Nothing is due", "a round may still be picked by hand", open=False),
        _settling(ledger, settling),
        Line("outside", f"{_count(len(outside), 'source')} changed outside", "; ".join(outside))
        if outside
        else Line("outside", "Nothing changed outside", open=False),
    ]
    missed = tuple(dict.fromkeys(missed_at_work(ledger)))
    lines.append(
        Line("missed", f"{_count(len(missed), 'binding')} missed at work", _missed_words(ledger, missed), missed) if missed
        else Line("missed", "Nothing was missed at work", "note it with: glimber missed", open=False)
    )  # fmt: skip
    earned = sum(row.earned_s or 0.0 for row in ledger.rows.values())
    since = f", {long_words(earned - curve[0][1])} more than on {curve[0][0]:%-d %B}" if curve else ""
    lines.append(Line("earned", f"{long_words(earned)} a week earned", f"over the slow way{since}"))
    return Day(now.date(), tuple(lines), tuple(curve))


def _missed_words(ledger: Ledger, missed: tuple[str, ...]) -> str:
    """Name what was missed; of what was chosen by menu this week, how often, how long that took and its key."""
    since = (ledger.at - FIRST_WEEK).date().isoformat()
    chosen = []
    for id in missed:
        row = ledger.rows[id]
        times = ledger.practice.tally.chosen(row.command.ref, since)
        if times:
            often = count_words(len(times), "time")
            key = place_words(ledger.folio, row.binding.trigger)
            chosen.append(f"{row.command.name} by menu {often} this week, {long_words(sum(times))}; its key is {key}")
    named = "; ".join(chosen[:_NAMED])
    rest = tuple(id for id in missed if not ledger.practice.tally.chosen(ledger.rows[id].command.ref, since))
    more = f"and {len(chosen) - _NAMED} more" if len(chosen) > _NAMED else ""
    return "; ".join(filter(None, (named, more, _names(ledger, rest) if rest else "")))


def _count(number: int, what: str) -> str:
    words = count_words(number, what)
    return words[0].upper() + words[1:]


def long_words(seconds: float) -> str:
    """Return seconds a week: as minutes from ten minutes on."""
    return f"{seconds / 60:.0f} min" if abs(seconds) >= 600 else f"{seconds:.0f} s"


def _settling(ledger: Ledger, settling: Sequence[Settling]) -> Line:
    if not settling:
        return Line("settling", "Nothing settles", open=False)
    settled = []
    for one in settling[:_NAMED]:
        better = "" if one.p_better is None else f", {100 * one.p_better:.0f} % better"
        when = (
            "waits to be set"
            if one.waits
            else f"{one.days_left} days to go"
            if one.days_left
            else "ready to be confirmed"
        )
        settled.append(f"{_name(ledger, one.change.binding)} to {_place(ledger, one)}: {when}{better}")
    more = f"; and {len(settling) - _NAMED} more" if len(settling) > _NAMED else ""
    ids = tuple(one.change.binding for one in settling)
    return Line("settling", f"{_count(len(settling), 'change')} settling", "; ".join(settled) + more, ids)


def _place(ledger: Ledger, one: Settling) -> str:
    try:
        return place_words(ledger.folio, parse_trigger(one.change.to_trigger or "", ledger.folio.bundles))
    except NotationError:
        return one.change.to_trigger or ""


def _name(ledger: Ledger, id: str) -> str:
    row = ledger.rows.get(id)
    return row.command.name if row is not None else id


def _names(ledger: Ledger, ids: Sequence[str]) -> str:
    named = list(dict.fromkeys(_name(ledger, id) for id in ids))
    more = f" and {len(named) - _NAMED} more" if len(named) > _NAMED else ""
    return ", ".join(named[:_NAMED]) + more
