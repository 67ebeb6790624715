"""Which copies stay: all of the last day, one a day for a month, one a month after, within a stated size."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.store.backups import DAY, MONTH, Copy, back_up, copies_in, place_of, put_back, to_go
from glimber.store.faults import StoreError
from glimber.store.folder import Opened
from glimber.store.settings import remember
from glimber.store.toml.reading import open_folio
from tests.helpers import NOON

NOW = datetime(2026, 11, 20, 12)
ROOM = 10_000_000


def copy(before: timedelta, size: int = 100, what: str = "folio.toml") -> Copy:
    return Copy(Path(f"{NOW - before:%Y%m%d%H%M%S%f}-{what}"), what, NOW - before, size)


@pytest.mark.parametrize(("ages", "stay"), [
    ([timedelta(hours=h) for h in range(25)], 25),  # the last day whole, its end included
    ([timedelta(0), DAY, DAY + timedelta(seconds=1), DAY + timedelta(seconds=2)], 3),
    ([timedelta(0), *(timedelta(days=4, minutes=m) for m in range(9))], 2),  # one of a day
    ([timedelta(0), MONTH, MONTH - timedelta(hours=1)], 2),  # the same day a month ago
    ([timedelta(0), *(timedelta(days=d) for d in range(33, 48))], 2),  # one of October
    ([timedelta(0), *(timedelta(days=d) for d in range(40, 400))], 14),
    ([timedelta(days=900)], 1),  # the newest of a file stays for ever
])  # fmt: skip
def test_what_stays(ages: list[timedelta], stay: int) -> None:
    copies = [copy(age) for age in ages]
    going = to_go(copies, NOW, ROOM)
    assert len(copies) - len(going) == stay and min(copies, key=lambda one: NOW - one.at) not in going


@pytest.mark.parametrize(("room", "going"), [(299, 1), (300, 0), (301, 0), (199, 2), (0, 2)])
def test_the_stated_size_is_kept_oldest_first_but_the_newest_of_each_file_stays(room: int, going: int) -> None:
    copies = [copy(timedelta(hours=h)) for h in range(3)]
    gone = to_go(copies, NOW, room)
    assert gone == copies[::-1][:going]
    other = copy(timedelta(days=300), 10**9, "layouts-pad.toml")
    assert other not in to_go([*copies, other], NOW, room)


@given(st.lists(st.tuples(st.integers(0, 60 * 24 * 800), st.sampled_from(["a", "b"])), max_size=60, unique=True))
def test_pruning_again_changes_nothing_and_every_day_of_the_month_is_there(made: list[tuple[int, str]]) -> None:
    copies = [copy(timedelta(minutes=m), 1, what) for m, what in made]
    left = [one for one in copies if one not in to_go(copies, NOW, ROOM)]
    assert to_go(left, NOW, ROOM) == []
    for one in copies:
        if NOW - one.at <= MONTH:
            assert any(other.what == one.what and other.at.date() == one.at.date() for other in left)


def test_copies_are_seen_and_put_back(small: Opened) -> None:
    file = small.folder / "programs/shoalwright.toml"
    before = file.read_text()
    back_up(small.folder, "programs/shoalwright.toml", NOON)
    file.write_text(before.replace("Lead line", "Sounding line"))
    (small.folder / "backups/notes.txt").write_text("mine")
    (one,) = copies_in(small.folder)
    assert (one.what, place_of(small.folder, one)) == ("programs-shoalwright.toml", "programs/shoalwright.toml")
    assert put_back(small.folder, one, NOON + timedelta(hours=1)) == "programs/shoalwright.toml"
    assert file.read_text() == before and open_folio(small.folder).folio == small.folio
    newest = copies_in(small.folder)[0]
    assert "Sounding line" in newest.path.read_text() and len(copies_in(small.folder)) == 2
    strange = Copy(one.path, "log-practice.db", one.at, 1)
    with pytest.raises(StoreError, match="is not known"):
        put_back(small.folder, strange, NOON)


def test_the_size_is_the_persons_own_setting(small: Opened) -> None:
    remember(backups_mb=1)
    (small.folder / "folio.toml").write_text((small.folder / "folio.toml").read_text() + "#" * 600_000)
    for minute in range(4):
        back_up(small.folder, "folio.toml", NOON + timedelta(minutes=minute))
    assert len(copies_in(small.folder)) == 1
