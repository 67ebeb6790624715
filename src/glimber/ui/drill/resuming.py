"""Resume a round that was put aside, from where it stood."""

from __future__ import annotations

from random import SystemRandom
from typing import TYPE_CHECKING, NamedTuple

from msgspec.structs import replace

from glimber.core.decide.plan import planned_hits
from glimber.core.practice.options import Options, options_of
from glimber.core.practice.tries import Round
from glimber.core.session.pending import as_set
from glimber.ui.drill.setup import DrillSetup
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.practice.machine import Drill
    from glimber.core.practice.pacing import Pacing
    from glimber.core.practice.round_plan import Replan

_chance = SystemRandom()


class ResumedRound(NamedTuple):
    """A round under way again, and which one of the day it is; ``ended``: nothing is left to ask for."""

    drill: Drill
    number: int
    ended: bool


def unfinished_round(session: Session) -> Round | None:
    """Return the newest round, where it was put aside and its bindings are still there."""
    from glimber.core.practice.round import unfinished

    rounds = session.ledger.practice.rounds if session.ledger is not None else ()
    return unfinished(rounds, session.now(), session.folio.bindings)


def resume_round(session: Session, setup: DrillSetup, whole: Round) -> ResumedRound:
    """Return a round that goes on from where it stood. Raises StoreError where the log cannot be read."""
    from glimber.core.decide.round_choice import deadlines_of
    from glimber.core.practice import machine as drills
    from glimber.core.practice.round import resumed, running
    from glimber.store.practice.uuid7 import uuid7

    tries, changes, number = session.round_so_far(whole.id)
    firsts = [
        (one.binding, one.outcome == "hit" and not one.aids) for one in tries if one.first and one.outcome != "void"
    ]
    hits = dict(zip(whole.bindings, whole.hits, strict=False)) or planned_hits(session.ledger, whole.bindings)
    options = replace(options_of(whole), device_board=setup.options.device_board)
    drill = drills.resume(drills.Drill(
        as_set(session.folio, changes), whole.id, session.computer, changes, _chance.getrandbits(32),
        uuid7, resumed(whole.bindings, firsts, hits), options, deadlines_of(session.ledger, options),
        _replan(session, setup, whole, options), _pacing(session, whole), tries=tuple(tries), paused=True,
    ))  # fmt: skip
    if whole.run is not None:
        drill.state = replace(running(whole.bindings), nth=len(firsts))
    ended = drill.state.done if drill.pacing is None else drill.used_ms >= 60_000 * (whole.minutes or 0)
    return ResumedRound(drill, number, ended or (whole.run is not None and len(firsts) >= len(whole.bindings)))


def _pacing(session: Session, whole: Round) -> Pacing | None:
    """Return the pacing of a planned round: what was practised by now is known to it."""
    from glimber.core.decide.next_round import pacing_of

    ledger = session.ledger
    if ledger is None or whole.goal != "planned" or whole.minutes is None:
        return None
    return pacing_of(ledger, [id for id in whole.bindings if id in ledger.rows])


def _replan(session: Session, setup: DrillSetup, whole: Round, options: Options) -> Replan | None:
    """Return how the plan of a sprint is made again: what was in it stays, and what is known by now counts."""
    from glimber.core.decide.round_choice import choose_round, replan_of
    from glimber.core.decide.selection import Selection

    ledger = session.ledger
    if ledger is None or whole.goal != "sprint":
        return None
    chosen = choose_round(ledger, setup.folio(), options, Selection("", "", frozenset(whole.bindings)))
    return replan_of(chosen, ledger, options, lambda id: True)
