"""Walks through menus as toolkits tell of them: what was chosen, after how long, and what was not."""

from __future__ import annotations

from pathlib import Path

import pytest

from glimber.core.practice import menu_walk
from glimber.core.practice.counting import Count
from glimber.core.practice.menu_walk import Chosen, Item, Walk
from glimber.core.practice.tally import ENOUGH_DAYS, MOST_OTHERS, Measured, MenuChoice, Tally, measured, unknown_entries
from glimber.core.stats.slow_way import slow_way_of
from glimber.store.faults import StoreError
from glimber.store.folder import Opened
from glimber.store.settings import remember
from glimber.store.tally import change_tally, read_tally, tally_file
from tests.helpers import folio_of

BAR, SURVEY, ADD, LEAD = Item("bar", True), Item("survey", True), Item("add"), Item("lead")


def play(*events: tuple[float, str, Item | None], until: float = 10_000.0, outside: bool = False) -> list[Chosen]:
    """What was chosen by events at moments in ms: "on" and "off" of an item, "escape"."""
    walk, found = Walk(), list[Chosen]()
    for t_ms, what, item in events:
        walk, chosen = menu_walk.rest(walk, t_ms)
        found += [chosen] if chosen else []
        if what == "escape":
            walk = menu_walk.escape(walk, t_ms)
        elif item is not None and what == "on":
            walk, chosen = menu_walk.light(walk, item, t_ms)
            found += [chosen] if chosen else []
        elif item is not None:
            walk = menu_walk.leave(walk, item.id, t_ms, outside)
    walk, chosen = menu_walk.rest(walk, until)
    return [*found, *([chosen] if chosen else [])]


WALKED = ((0, "on", SURVEY), (10, "on", ADD), (800, "off", ADD), (801, "on", LEAD))


def test_an_entry_is_chosen_with_the_time_since_the_menu_opened() -> None:
    assert play(*WALKED, (1500, "off", LEAD), (1502, "off", SURVEY)) == [Chosen("lead", 1500, 1500)]


def test_the_other_toolkits_order_of_events() -> None:
    """Focus leaves the entry and goes to the document; the menu bar itself has it first."""
    assert play((0, "on", BAR), (4, "off", BAR), (5, "on", ADD), (900, "off", ADD)) == [Chosen("add", 900, 900)]


@pytest.mark.parametrize(
    ("escape", "chosen"), [(1439, True), (1440, False), (1500, False), (1540, False), (1541, True)]
)
def test_escape_around_the_end_is_no_choice(escape: float, chosen: bool) -> None:
    events = sorted([*WALKED, (1500, "off", LEAD), (escape, "escape", None)], key=lambda event: event[0])
    assert bool(play(*events)) is chosen


def test_what_only_opens_a_menu_is_not_chosen() -> None:
    assert play((0, "on", BAR), (700, "off", BAR)) == []
    assert play((0, "on", BAR), (5, "on", ADD), (900, "off", ADD), (903, "on", BAR), (1800, "off", BAR)) == []  # Escape, twice


def test_a_click_elsewhere_is_no_choice() -> None:
    assert play(*WALKED, (1500, "off", LEAD), outside=True) == []


@pytest.mark.parametrize(("gap", "chosen"), [(149, 1), (150, 2), (151, 2)])
def test_two_walks_are_told_from_one_by_the_pause(gap: float, chosen: int) -> None:
    found = play((0, "on", SURVEY), (5, "on", ADD), (500, "off", ADD), (500 + gap, "on", LEAD), (2000, "off", LEAD))
    assert len(found) == chosen


@pytest.mark.parametrize(("took", "chosen"), [(59_999, True), (60_000, True), (60_001, False)])
def test_a_menu_left_open_says_nothing(took: float, chosen: bool) -> None:
    assert bool(play((0, "on", SURVEY), (1, "on", ADD), (took, "off", ADD), until=1e6)) is chosen


def test_nothing_is_decided_before_it_is_known_and_nothing_is_remembered_after() -> None:
    walk, _ = menu_walk.light(Walk(), ADD, 0)
    walk = menu_walk.leave(walk, "add", 1000)
    assert menu_walk.rest(walk, 1499) == (walk, None) and walk.is_open
    after, chosen = menu_walk.rest(walk, 1500)
    assert after == Walk() and chosen == Chosen("add", 1000, 1000)
    assert menu_walk.escape(Walk(), 5) == Walk()  # where no menu is open nothing is looked at
    assert menu_walk.leave(walk, "other", 1100) == walk


DAY, NEXT = "2026-03-02", "2026-03-03"


def test_what_was_chosen_is_kept_by_day_and_missed_until_the_key_is_struck() -> None:
    tally = Tally().with_choices([MenuChoice("p/add", 2.04, DAY, True), MenuChoice("p/lead", 3.0, DAY), MenuChoice("", 1.0, DAY)])
    tally = tally.with_choices([MenuChoice("p/add", 1.0, NEXT, True)])
    assert tally.menus == {DAY: {"p/add": (2.0,), "p/lead": (3.0,), "": (1.0,)}, NEXT: {"p/add": (1.0,)}}
    assert tally.missed == {"p/add": NEXT} and tally.chosen("p/add") == [2.0, 1.0] and tally.chosen("p/add", NEXT) == [1.0]
    struck = tally.with_counts([Count("struck", "add-key", NEXT)], (), {"add-key": "p/add"})
    assert struck.missed == {} and struck.menus == tally.menus
    assert tally.with_counts([Count("undone", "add-key", NEXT)], (), {"add-key": "p/add"}).missed == tally.missed
    assert tally.without_menus("p/add").missed == {} and tally.without(day=NEXT).missed == {}
    assert tally.without(day=NEXT).menus.keys() == {DAY}


@pytest.mark.parametrize(("times", "kept"), [(199, 199), (200, 200), (201, 200)])
def test_only_so_many_times_of_a_day_are_kept(times: int, kept: int) -> None:
    assert len(Tally().with_choices([MenuChoice("p/add", 1.0, DAY)] * times).chosen("p/add")) == kept


def test_entries_the_folio_lacks_are_kept_by_name_where_that_is_wanted() -> None:
    plot, lead = ("shoalwright", "File", "Plot"), ("shoalwright", "Survey", "LEAD line")
    choices = [MenuChoice("", 2.04, DAY, entry=plot), MenuChoice("", 9.0, DAY, entry=("gone", "Odd")), MenuChoice("", 1.0, NEXT, entry=plot),
               MenuChoice("", 1.0, NEXT), MenuChoice("", 1.0, NEXT, entry=lead), MenuChoice("", 9.0, NEXT, entry=("shoalwright", "Ink"))]  # fmt: skip
    tally = Tally().with_choices(choices)
    assert tally.others[plot] == (2.0, 1.0) and len(tally.menus[NEXT][""]) == 4
    assert unknown_entries(folio_of(), tally) == {"shoalwright": [("shoalwright", "Ink"), plot]}  # one is known, one of no program here
    assert tally.without(day=DAY).others == tally.others
    full = Tally().with_choices([MenuChoice("", 1.0, DAY, entry=("p", str(number))) for number in range(MOST_OTHERS + 1)])
    assert len(full.others) == MOST_OTHERS


@pytest.mark.parametrize("wanted", [True, False])
def test_names_of_other_entries_are_kept_only_where_the_person_wants_them(small: Opened, wanted: bool) -> None:
    from glimber.store.work.counter import Counter
    from glimber.store.work.menu_bus import HeardChoice

    remember(menu_names=wanted)
    counter = Counter(small.folder, today=lambda: DAY)
    counter.choose(HeardChoice("shoalwright", ("File",), "Print the Velmar chart", 2500.0, 0.0))
    counter.rest(at_once=True)
    tally, text = read_tally(small.folder), tally_file(small.folder).read_text()
    assert tally.menus == {DAY: {"": (2.5,)}} and ("Velmar" in text) is wanted
    assert tally.others == ({("shoalwright", "File", "Print the Velmar chart"): (2.5,)} if wanted else {})
    for broken in ('[["shoalwright", [1]]]', '[["shoalwright", "Plot", [-1]]]', '[[1, "Plot", [1]]]', "[[]]"):
        tally_file(small.folder).write_text(f'{{"format": "glimber-tally/1", "days": {{}}, "others": {broken}}}')
        with pytest.raises(StoreError, match="cannot be read as a tally"):
            read_tally(small.folder)


def test_uses_are_those_by_key_and_by_menu() -> None:
    folio = folio_of()
    ref, bench = "shoalwright/lead-line", "shoalwright/quay-list"
    tally = Tally({DAY: {"lead-line": (4, 0)}, NEXT: {}})
    tally = tally.with_choices([MenuChoice(ref, 2.0, DAY, True)] * 2 + [MenuChoice(bench, 2.0, NEXT)] * 3)
    found = measured(folio, tally, {"lead-line"})
    assert (found[ref].struck, found[ref].by_menu, found[ref].mean) == (4, 2, 3.25)
    assert (found[bench].struck, found[bench].by_menu) == (0, 3)
    uncounted = measured(folio, tally, ())  # of one whose keys cannot be counted its menu alone says too little
    assert ref not in uncounted and bench in uncounted


@pytest.mark.parametrize(
    ("steps", "seconds", "expected"),
    [
        (("menu Survey", "click Add"), (), (6.1, 0)),
        (("menu Survey", "click Add"), (2.0,) * 4, (4.05, 4)),
        (("menu Survey", "click Add"), (9.0,) * 10 + (2.0,) * 40, (4 * 6.1 / 44 + 80 / 44, 40)),  # only the newest 40
        ((), (2.0, 3.0), (None, 0)),
        ((), (2.0, 3.0, 9.0), (3.0, 3)),
        ((), (), (None, 0)),
    ],
)
def test_the_slow_way_is_drawn_towards_ones_own_times(
    steps: tuple[str, ...], seconds: tuple[float, ...], expected: tuple[float | None, int]
) -> None:
    found = slow_way_of(steps, seconds)
    assert found.times == expected[1]
    assert found.seconds == (pytest.approx(expected[0]) if expected[0] is not None else None)


def test_the_tally_s_file_keeps_menus(tmp_path: Path) -> None:
    change_tally(tmp_path, lambda tally: tally.with_choices([MenuChoice("p/add", 2.5, DAY, True)]).with_counts((), [DAY]))
    assert read_tally(tmp_path) == Tally({DAY: {}}, {DAY: {"p/add": (2.5,)}}, {"p/add": DAY})
    text = tally_file(tmp_path).read_text()
    tally_file(tmp_path).write_text(text.replace("2.5", "-2.5"))
    with pytest.raises(StoreError, match="expected seconds"):
        read_tally(tmp_path)


@pytest.mark.parametrize(("by_menu", "struck", "only"), [(2, 0, False), (3, 0, True), (4, 0, True), (3, 1, False)])
def test_a_binding_used_by_menu_alone_is_to_be_practised(by_menu: int, struck: int, only: bool) -> None:
    from glimber.core.decide.reasons import is_by_menu_only

    class Row:
        at_work = Measured(1.0, 0.5, 2.0, 0.0, ENOUGH_DAYS, struck, 0, by_menu)

    assert is_by_menu_only(Row()) is only  # type: ignore[arg-type]


@pytest.mark.parametrize(("wanted", "times", "shown"), [(True, 2, 0), (True, 3, 1), (True, 4, 1), (False, 3, 0)])
def test_the_third_choice_by_menu_in_a_day_brings_a_hint(small: Opened, wanted: bool, times: int, shown: int) -> None:
    from glimber.store.work.counter import Counter
    from glimber.store.work.menu_bus import HeardChoice

    remember(hints=wanted)
    counter = Counter(small.folder, today=lambda: DAY)
    hints: list[tuple[str, str]] = []
    counter.show_hint = lambda name, keys: hints.append((name, keys))
    for _ in range(times):
        counter.choose(HeardChoice("shoalwright", ("Survey",), "LEAD line", 1500.0, 0.0))
        counter.choose(HeardChoice("shoalwright", ("Survey",), "Quay list", 900.0, 0.0))  # it has no key
        counter.choose(HeardChoice("shoalwright", ("Survey",), "Nothing known", 900.0, 0.0))
    assert hints == [("Lead line", "Ctrl+K Ctrl+L")] * shown
    counter.rest(at_once=True)
    tally = read_tally(small.folder)
    assert {ref: len(seconds) for ref, seconds in tally.menus[DAY].items()} == {
        "shoalwright/lead-line": times, "shoalwright/quay-list": times, "": times
    }  # fmt: skip
    assert tally.missed == {"shoalwright/lead-line": DAY}
