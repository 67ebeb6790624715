"""A full example without a window: read, check, drill by the stand-in person, weigh, one change, drill again, cards."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from glimber.core.audit.checks import audit
from glimber.core.cards.kinds import draw_card
from glimber.core.decide.next_round import next_round
from glimber.core.decide.verdict import verdict_counts, verdicts
from glimber.core.drawing.svg import to_svg
from glimber.core.model.shelf import shelf
from glimber.core.practice.round_plan import RoundPlan
from glimber.core.practice.tries import Try
from glimber.core.session.changes import Note
from glimber.core.stats.ledger import Ledger
from glimber.core.stats.measures import measure
from glimber.demo.build import make_demo
from glimber.demo.days import SEED
from glimber.demo.troubles import TROUBLES
from glimber.standin.person import Person
from glimber.standin.practice import play_round, seeded_ids
from glimber.store.cache.fonts import carried_fonts, faces
from glimber.store.cache.pictures import icons_of
from glimber.store.change_log import take_move
from glimber.store.files import write_atomically
from glimber.store.folder import Opened
from glimber.store.practice.log import Log, open_log
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import keep_ids

CHANGED: Final = "sounding-s"


def run_example(
    folder: Path, now: datetime, computer: str, tell: Callable[[str], None], colours: Mapping[str, str]
) -> dict[str, object]:
    """Return the whole loop once in a new folder: what it wrote, how many tries, how many of each verdict.

    ``colours``: what the cards are painted with, by name.
    """
    tell("Sixteen days of practice by the simulated person")
    wrote = make_demo(folder, now, computer)
    opened = open_folio(folder)
    tell(f"Checked: {len(audit(opened.folio))} findings")
    with open_log(folder, opened.folio.settings.log) as log:
        ledger = measure(opened.folio, log.practice(), now, computer)
        opened, now = _drill(opened, log, ledger, now, computer)
        found = verdicts(measure(opened.folio, log.practice(), now, computer))
        tell(f"Weighed: {found[CHANGED].words}")
        best = found[CHANGED].best
        if best is not None:
            swap = best.swap_with is not None
            taken = take_move(opened, log, CHANGED, best.to, Note("move", found[CHANGED].words), now, computer, swap)
            opened = taken.opened
            tell(f"Changed: {CHANGED} to {best.to}")
            after = measure(opened.folio, log.practice(), now + timedelta(minutes=1), computer)
            opened, now = _drill(opened, log, after, now + timedelta(minutes=1), computer)
        tries = len(log.records(Try))
    wrote += _cards(opened, colours)
    wrote += sorted(f"backups/{path.name}" for path in (folder / "backups").iterdir())
    return {"folio": str(folder), "wrote": wrote, "tries": tries, "verdicts": verdict_counts(found)}


def _drill(opened: Opened, log: Log, ledger: Ledger, now: datetime, computer: str) -> tuple[Opened, datetime]:
    """Return the round that is due of what has been taken up, played by the stand-in person."""
    hits = {due.binding: due.hits for due in next_round(ledger, may=lambda id: ledger.rows[id].count > 0)}
    opened = keep_ids(opened, set(hits), now)
    person = Person(opened.folio, SEED, TROUBLES, dict.fromkeys(opened.folio.bindings, 1.0))
    changes = log.practice().changes
    plan = RoundPlan(list(hits), hits=hits)
    records, ended = play_round(person, opened.folio, plan, now, computer, changes, seeded_ids(len(log.ids())), SEED)
    log.add(*records)
    return opened, ended.astimezone(UTC)


def _cards(opened: Opened, colours: Mapping[str, str]) -> list[str]:
    names = []
    for id, shelved in shelf(opened.folio).items():
        sheets = draw_card(opened.folio, shelved.card, faces(), opened.folio.settings.title, icons_of(opened.folder))
        for place, drawing in enumerate(sheets):
            name = f"written/{id}{f'-{place + 1}' if place else ''}.svg"
            write_atomically(opened.folder / name, to_svg(drawing, colours, carried_fonts(drawing)).encode())
            names.append(name)
    return names
