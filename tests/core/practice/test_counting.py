"""What is counted of strikes, and what never is."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import gamma

from glimber.core.decide.reasons import at_work, is_unused
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Strike
from glimber.core.practice.counting import NEXT_STEP_MS, UNDONE_WITHIN_MS, Count, Counting, count
from glimber.core.practice.log import Practice
from glimber.core.practice.tally import Measured, Tally, measured, uses_words
from glimber.core.practice.watched import BARE, Watched, watched
from glimber.core.stats.measures import measure
from glimber.core.stats.usage import weekly_uses
from tests.helpers import NOON, PROGRAM, folio_of

DAY = "2026-11-27"
SOUNDING: Strike = (frozenset({"Ctrl", "Shift"}), "KeyS")
FIRST: Strike = (frozenset({"Ctrl"}), "KeyK")
LEAD: Strike = (frozenset({"Ctrl"}), "KeyL")
DESKTOP: Strike = (frozenset({"Super"}), "KeyD")
UNDO: Strike = (frozenset({"Ctrl"}), "KeyZ")
LETTER: Strike = (frozenset(), "KeyA")
MORE = """
[commands]
undo = { name = "Undo", shortcut = "Ctrl+Z" }
redraw = { name = "Redraw", shortcut = "F5" }
go = { name = "Go to sheet", shortcut = "g s" }
pan = { name = "Pan", shortcut = "Shift+P" }
zoom-canvas = { name = "Zoom", context = "canvas", shortcut = "Ctrl+M" }
zoom-list = { name = "Zoom the list", context = "sheet list", shortcut = "Ctrl+M" }
"""


@pytest.fixture(scope="module")
def folio() -> Folio:
    named = PROGRAM.replace("contexts =", 'windows = ["Sheet", "shoal-main"]\ncontexts =')
    return folio_of({"programs/shoalwright.toml": named + MORE})


@pytest.fixture(scope="module")
def table(folio: Folio) -> Watched:
    return watched(folio, "bridge")


def counted(
    table: Watched, *strikes: tuple[float, Strike], front: str | None = "shoalwright", days: tuple[str, ...] = (), known: bool = True
) -> list[tuple[str, str]]:
    state, found = Counting(), []
    for place, (t_ms, strike) in enumerate(strikes):
        state, more = count(table, state, strike, t_ms, front, days[place] if days else DAY, known)
        found += more
    return [(one.what, f"{one.binding}@{one.day}" if days else one.binding) for one in found]


def test_a_programs_chords_are_counted_while_it_is_in_front(table: Watched) -> None:
    assert counted(table, (0, SOUNDING)) == [("struck", "add-sounding")]
    assert counted(table, (0, SOUNDING), front=None) == []
    assert counted(table, (0, DESKTOP), front=None) == [("struck", "show-desktop")]
    assert counted(table, (0, LETTER), (5, (frozenset({"Ctrl"}), "KeyQ"))) == []


@pytest.mark.parametrize(("gap", "found"), [(NEXT_STEP_MS - 1, ["lead-line"]), (NEXT_STEP_MS, ["lead-line"]), (NEXT_STEP_MS + 1, [])])
def test_a_sequence_counts_once_it_is_whole(table: Watched, gap: float, found: list[str]) -> None:
    assert [id for _, id in counted(table, (0, FIRST), (gap, LEAD))] == found
    assert counted(table, (0, FIRST), (10, SOUNDING)) == [("struck", "add-sounding")]  # it was not gone on with
    assert counted(table, (0, FIRST), (10, LETTER), (20, LEAD)) == []


def test_a_sequence_does_not_go_on_in_another_program(table: Watched) -> None:
    state, _ = count(table, Counting(), FIRST, 0, "shoalwright", DAY)
    assert count(table, state, LEAD, 10, None, DAY)[1] == []


@pytest.mark.parametrize(("gap", "undone"), [(UNDONE_WITHIN_MS - 1, True), (UNDONE_WITHIN_MS, True), (UNDONE_WITHIN_MS + 1, False)])
def test_undone_at_once(table: Watched, gap: float, undone: bool) -> None:
    found = counted(table, (0, SOUNDING), (gap, UNDO), (gap + 1, UNDO))
    assert (("undone", "add-sounding") in found) == undone
    assert sum(what == "undone" for what, _ in found) == undone  # once, however often undo is struck


def test_undo_after_something_else_says_nothing(table: Watched) -> None:
    assert ("undone", "add-sounding") not in counted(table, (0, SOUNDING), (100, LETTER), (200, UNDO))


def test_it_is_counted_on_the_day_it_was_struck(table: Watched) -> None:
    found = counted(table, (0, SOUNDING), (900, UNDO), days=("2026-11-27", "2026-11-28"))
    assert found == [("struck", "add-sounding@2026-11-27"), ("struck", "undo@2026-11-28"), ("undone", "add-sounding@2026-11-27")]


def test_what_types_letters_is_never_watched(table: Watched, folio: Folio) -> None:
    for programs in table.strikes.values():
        for strikes in programs:
            assert all(held - {"Shift"} or code in BARE for held, code in strikes)
    assert not {"KeyA", "Digit1", "Space", "Enter", "Backspace", "Tab", "Numpad4", "Delete"} & BARE
    assert {"F5", "PageUp", "ArrowLeft", "AudioVolumeUp"} <= BARE
    assert "redraw" in table.countable
    for id in ("go", "pan", "tide-table"):
        assert "never looked at" in table.not_counted[id]
    assert "different parts" in table.not_counted["zoom-canvas"] and "different parts" in table.not_counted["zoom-list"]
    assert "both count there" in table.not_counted["sounding-s"]  # the spot sends what the shortcut is
    assert set(table.not_counted) | table.countable == {one.id for one in folio.drillable("bridge")}


def test_windows_by_class_else_by_name(table: Watched) -> None:
    assert table.program_of(("shoal-main", "Shoal")) == "shoalwright" and table.program_of(("x", "SHEET")) == "shoalwright"
    assert table.program_of(("shoalwright",)) is None  # its windows are named: its name is none of them
    assert watched(folio_of()).program_of(("Shoalwright",)) == "shoalwright"
    assert table.program_of(("everywhere", "")) is None


def test_where_nobody_knows_what_is_in_front_only_what_one_program_has_counts(table: Watched) -> None:
    assert counted(table, (0, SOUNDING), front=None, known=False) == [("struck", "add-sounding")]
    assert counted(table, (0, FIRST), (9, LEAD), front=None, known=False) == [("struck", "lead-line")]
    two = Watched({"a": {(SOUNDING,): "x"}, "b": {(SOUNDING,): "y"}}, {"a": frozenset(), "b": frozenset()}, frozenset(), {}, {})
    assert counted(two, (0, SOUNDING), front=None, known=False) == []


STRIKES = st.lists(
    st.tuples(st.sampled_from([SOUNDING, FIRST, LEAD, DESKTOP, UNDO, LETTER]), st.floats(1, 4000), st.sampled_from(["shoalwright", None])),
    max_size=40,
)


@given(STRIKES)
def test_never_more_undone_than_struck(strikes: list[tuple[Strike, float, str | None]]) -> None:
    table = watched(folio_of({"programs/shoalwright.toml": PROGRAM + MORE}))
    state, found, t = Counting(), [], 0.0
    for strike, gap, front in strikes:
        t += gap
        state, more = count(table, state, strike, t, front, DAY)
        found += more
    tally = Tally().with_counts(found)
    assert all(0 <= undone <= struck for rows in tally.days.values() for struck, undone in rows.values())
    assert sum(tally.of(id)[0] for id in tally.bindings) == sum(one.what == "struck" for one in found)
    assert not tally.bindings - table.countable


def days_from(first: str, counts: list[int], id: str = "add-sounding") -> Tally:
    start = date.fromisoformat(first)
    return Tally({(start + timedelta(n)).isoformat(): ({id: (c, 0)} if c else {}) for n, c in enumerate(counts)})


def test_uses_a_day_with_their_interval(folio: Folio) -> None:
    tally = days_from("2026-11-23", [10, 12, 8, 10, 10, 4, 2])  # Monday to Sunday
    one = measured(folio, tally, watched(folio).countable)["shoalwright/add-sounding"]
    # 50 on 5 working days: Gamma(50.5, 5), and 6 in the weekend.
    assert (one.mean, one.days, one.weekend, one.struck) == (pytest.approx(10.1), 5, 6.0, 56)
    assert (one.low, one.high) == (pytest.approx(gamma.ppf(0.05, 50.5, scale=1 / 5)), pytest.approx(gamma.ppf(0.95, 50.5, scale=1 / 5)))
    assert one.a_week(5) == pytest.approx(56.5)
    assert uses_words(one) == "10 a day (7.9 to 13, counted on 5 days)"


@given(st.integers(0, 40), st.integers(1, 12))
def test_the_interval_holds_the_mean_and_narrows_with_days(a_day: int, weeks: int) -> None:
    folio = folio_of()
    few, many = (
        measured(folio, days_from("2026-11-23", [*[a_day] * 5, 0, 0] * n), {"add-sounding"})["shoalwright/add-sounding"]
        for n in (1, 1 + weeks)
    )
    assert few.low <= few.mean <= few.high and many.high - many.low < few.high - few.low


@pytest.mark.parametrize(("days", "counts"), [(2, False), (3, True), (4, True)])
def test_a_guess_is_replaced_after_three_days_and_a_set_figure_never(days: int, counts: bool) -> None:
    folio = folio_of()
    lead, sounding = folio.commands["shoalwright/lead-line"], folio.commands["shoalwright/add-sounding"]
    tally = Tally({f"2026-11-{23 + n}": {"lead-line": (9, 1), "add-sounding": (1, 0)} for n in range(days)})
    found = measured(folio, tally, watched(folio).countable)
    uses, guessed = weekly_uses(folio, lead, found)
    assert guessed != counts and (uses == pytest.approx((9 * days + 0.5) / days * 5)) == counts
    assert weekly_uses(folio, sounding, found) == (300, False)
    row = measure(folio, Practice(tally=tally), NOON).rows["lead-line"]
    assert row.uses_guessed != counts and (row.at_work is not None and row.at_work.undone == days)


@pytest.mark.parametrize(("days", "unused"), [(9, False), (10, True)])
def test_what_the_day_never_uses_is_to_be_retired(days: int, unused: bool) -> None:
    # Nothing in d days leaves room for gamma.ppf(.95, .5)/d = 1.92/d a day: under one in five working days from the tenth on.
    start = date(2026, 11, 2)
    working = [one for n in range(30) if (one := start + timedelta(n)).weekday() < 5][:days]
    tally = Tally({one.isoformat(): {} for one in working})
    assert is_unused(measure(folio_of(), Practice(tally=tally), NOON).rows["lead-line"]) == unused


def test_firm_in_practice_and_never_struck_at_work_is_said(folio: Folio) -> None:
    row = measure(folio_of(), Practice(tally=Tally()), NOON).rows["add-sounding"]
    assert at_work(row) == ""
    from msgspec.structs import replace

    from glimber.core.stats.accuracy import Beta

    firm = replace(row, p_know=0.99, hand=Beta(1, 99), at_work=Measured(0.1, 0.0, 0.3, 0, 12, 1, 0))
    assert "struck one time on 12 days, not 60 a day" in at_work(firm) and "situation" in at_work(firm)
    assert at_work(replace(firm, p_know=0.5)) == ""
    assert at_work(replace(row, at_work=Measured(9, 8, 10, 0, 5, 40, 4))) == "At work 4 of 40 were undone immediately."
    assert at_work(replace(row, at_work=Measured(9, 8, 10, 0, 5, 41, 4))) == ""


def test_what_was_counted_can_be_thrown_away_in_parts() -> None:
    tally = Tally().with_counts([Count("struck", "a", "2026-11-26"), Count("struck", "a", DAY), Count("struck", "b", DAY)], [DAY])
    assert tally.without("a").bindings == {"b"} and tally.without(day=DAY).days.keys() == {"2026-11-26"}
    assert tally.without("a", DAY).of("a") == (1, 0) and tally.without("a").days.keys() == tally.days.keys()
