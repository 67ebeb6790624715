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
        settle(lambda: len(play.tries) > count)
        ids.append(play.tries[-1].id)
        settle(lambda: room.play is None or play.prompt_ms is not None)

    strike()
    strike()
    server.stop()
    strike()
    strike()
    assert not play.stuck and any("delivered later" in words for words in told)
    server.start()
    strike()
    strike()
    settle(lambda: room.play is None)
    settle(lambda: any("were delivered" in words for words in told), 15000)
    with open_log(folder, server.url) as log:
        assert [one.id for one in log.records(Try)] == ids
        (whole,) = log.records(Round)
        assert whole.ended is not None
    ledger = session.ledger
    settle(lambda: session.ledger is not ledger and session.ledger.rows["show-desktop"].count == 6, 15000)
