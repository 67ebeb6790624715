"""A round with its practice on a real server that is stopped and started while it is drilled."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from glimber.core.practice.tries import Round, Try
from glimber.store.practice.location import confirm_server
from glimber.store.practice.log import open_log
from tests.helpers import write_folio
from tests.server import Server, running
from tests.ui.choosing import heard
from tests.ui.kinds import OpenRoom, Settle

pytest.importorskip("psycopg")


FAR_MS = 60_000
"""A bound for what is waited for on a busy machine; the conditions come true much sooner."""


@pytest.fixture
def server() -> Iterator[Server]:
    yield from running()


def test_a_server_that_stops_loses_no_try(server: Server, tmp_path: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    confirm_server(server.url)
    folder = write_folio(tmp_path / "small")
    settings = folder / "folio.toml"
    settings.write_text(settings.read_text().replace("title = ", f'log = "{server.url}"\ntitle = ', 1))
    window = open_room(folder, "drill")
    session, room = window.session, window.room("drill")
    told = heard(session)
    room.begin_with(["show-desktop"], hits={"show-desktop": 6})
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)
    play = room.play
    ids: list[str] = []

    def strike() -> None:
        count = len(play.tries)
        hands.strike("+Super_L", 0.03, "+d", 0.03, "-d", "-Super_L")
        settle(lambda: len(play.tries) > count, FAR_MS)
        ids.append(play.tries[-1].id)
        settle(lambda: room.play is None or play.prompt_ms is not None, FAR_MS)

    strike()
    strike()
    server.stop()
    strike()
    strike()
    settle(lambda: any("delivered later" in words for words in told), FAR_MS)
    assert not play.stuck
    server.start()
    strike()
    strike()
    for _ in range(6):  # on a busy machine a stroke may have been judged a slip: its hit is still asked for
        if room.play is not None:
            strike()
    settle(lambda: room.play is None, FAR_MS)
    settle(lambda: any("were delivered" in words for words in told), FAR_MS)
    with open_log(folder, server.url) as log:
        assert [one.id for one in log.records(Try)] == ids
        (whole,) = log.records(Round)
        assert whole.ended is not None
    ledger = session.ledger
    settle(lambda: session.ledger is not ledger and session.ledger.rows["show-desktop"].count == 6, FAR_MS)


def test_a_held_table_does_not_freeze_the_window(server: Server, tmp_path: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    """Another program holds the table of tries: strikes are answered as ever, and wait for the server in their file."""
    import time

    import sqlalchemy as sa

    confirm_server(server.url)
    folder = write_folio(tmp_path / "small")
    settings = folder / "folio.toml"
    settings.write_text(settings.read_text().replace("title = ", f'log = "{server.url}"\ntitle = ', 1))
    window = open_room(folder, "drill")
    session, room = window.session, window.room("drill")
    told = heard(session)
    room.begin_with(["show-desktop"], hits={"show-desktop": 4})
    settle(lambda: room.play is not None and room.play.prompt_ms is not None, FAR_MS)
    play = room.play
    engine = sa.create_engine(server.url)
    hands.strike("+Super_L", 0.03, "+d", 0.03, "-d", "-Super_L")  # what the first try loads is not in the measured ones
    settle(lambda: len(play.tries) > 0 and play.prompt_ms is not None, FAR_MS)
    with engine.begin() as other:
        other.exec_driver_sql("LOCK TABLE tries IN ACCESS EXCLUSIVE MODE")
        for count in range(1, 4):
            struck = time.monotonic()
            hands.strike("+Super_L", 0.03, "+d", 0.03, "-d", "-Super_L")
            settle(lambda count=count: len(play.tries) > count, FAR_MS)
            assert time.monotonic() - struck < 2.5  # a wait for the lock alone takes three seconds
            settle(lambda: room.play is None or play.prompt_ms is not None, FAR_MS)
        settle(lambda: any("another program holds the tables" in words for words in told), FAR_MS)
    settle(lambda: any("were delivered" in words for words in told), FAR_MS)
    assert sum("delivered later" in words for words in told) == 1
    with open_log(folder, server.url) as log:
        assert [one.id for one in log.records(Try)] == [one.id for one in play.tries]
    engine.dispose()
