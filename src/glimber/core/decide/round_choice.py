"""The round a person has chosen: of what, answered how, and in how many minutes; and what is due but cannot be answered so."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from functools import partial

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.decide.next_round import next_round
from glimber.core.decide.plan import PICKED_MINUTES, Budget, Due, budget_of, due_of, replanned
from glimber.core.decide.selection import Selection
from glimber.core.engine.perform import CannotPerform, way_to
from glimber.core.engine.standin_keys import why_not_on_device, why_not_pressed
from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Spot, strikes_of
from glimber.core.practice.options import Options, adaptive_ms
from glimber.core.practice.round import sprinting
from glimber.core.practice.round_plan import Replan
from glimber.core.stats.ledger import Ledger


class Chosen(Struct, frozen=True):
    """``due``: the round, as planned; ``left``: what would be due and cannot be answered so, with why; ``budget`` of it all."""

    due: tuple[Due, ...]
    left: tuple[tuple[Due, str], ...]
    budget: Budget


def why_not(folio: Folio, binding: Binding, options: Options) -> str | None:
    """Return why a binding cannot be answered in the chosen way, with the way that can; None where it can be."""
    trigger = binding.trigger
    away = folio.settings.away
    if options.mode in ("press", "spell") and away != "none" and _needs(folio, binding, away):
        return f"it needs the {away} hand, which is away; name it instead"
    if options.mode == "point":
        return None if isinstance(trigger, Spot) else "only places on a board can be pointed at; press or spell it"
    if options.mode == "spell":
        if isinstance(trigger, Spot):
            return "places on a board are pressed or pointed at"
        return None if strikes_of(trigger, folio.legend, folio.bundles) else "the keyboard has no key for it; name it"
    if options.mode == "press" and options.hands == "board" and isinstance(trigger, Spot):
        sent = folio.sent_by(binding)
        seen = strikes_of(sent, folio.legend, folio.bundles) if sent is not None else None
        return None if seen else "it sends nothing that can be seen; point at it, or use the stand-in board"
    if isinstance(trigger, Spot) and (options.mode, options.hands, options.device_board) == (
        "press",
        "device",
        trigger.board,
    ):
        return why_not_on_device(folio, trigger)
    return why_not_pressed(folio, binding) if options.mode == "press" else None


def _needs(folio: Folio, binding: Binding, hand: str) -> bool:
    """Return True if a trigger cannot be struck without one of the hands."""
    trigger = binding.trigger
    if isinstance(trigger, Spot):
        board = folio.boards[trigger.board]
        try:
            way = [key for step in way_to(folio, trigger.board, trigger.layer) for key in step.spot.keys]
        except CannotPerform:
            way = []
        return any(_hand(board, key) == hand for key in (*way, *trigger.keys))
    strikes = strikes_of(trigger, folio.legend, folio.bundles) or ()
    return any(_hand(folio.keyboard, code) == hand for _, code in strikes)


def _hand(board: Board, key: str) -> str | None:
    return board.by_id[key].hand if key in board.by_id else None


def choose_round(
    ledger: Ledger,
    folio: Folio,
    options: Options,
    selection: Selection,
    dropped: Collection[str] = (),
    added: Collection[str] = (),
) -> Chosen:
    """Return the round of a selection in the minutes there are. ``folio``: as it is set so far; ``dropped`` are struck from it,
    ``added`` are in whatever they are worth."""
    reasons: dict[str, str | None] = {}

    def may(id: str) -> bool:
        if id in dropped or (selection.of is not None and id not in selection.of and id not in added):
            return False
        if id not in reasons:
            binding = folio.bindings.get(id)  # None: taken away since it was weighed; the new weighing is on its way
            reasons[id] = "" if binding is None else why_not(folio, binding, options)
        return reasons[id] is None

    minutes = options.minutes or PICKED_MINUTES
    budget = budget_of(ledger, may)
    budget = replace(budget, pressed={**dict.fromkeys(added, "added"), **budget.pressed})
    learnable = {id for id, row in ledger.rows.items() if row.command.learn != "never" or id in added}
    planned = budget.ids and (options.minutes is not None and not options.sprint)
    if planned:
        due = next_round(
            ledger, minutes, may=lambda id: id in learnable and may(id), also=dict.fromkeys(added, "added")
        )
    else:
        due = due_of(ledger, budget, minutes) if budget.ids else []
    asked = {one.binding for one in due}
    whole = next_round(
        ledger, minutes, may=lambda id: id not in dropped and (selection.of is None or id in selection.of)
    )
    left = [(one, why) for one in whole if one.binding not in asked and (why := reasons.get(one.binding))]
    return Chosen(tuple(due), tuple(left), budget)


def replan_of(chosen: Chosen, ledger: Ledger, options: Options, usable: Callable[[str], bool]) -> Replan | None:
    """Return how the plan of the round is made again after each try; None for one that simply has its hits. ``usable``: what
    may still come into it."""
    if options.minutes is None:
        return None
    if options.sprint:
        return sprinting([one.binding for one in chosen.due], options.minutes)
    budget = chosen.budget.only(usable)
    untried = frozenset(id for id in budget.ids if not ledger.rows[id].count)
    return partial(replanned, budget, options.minutes, untried)


def deadlines_of(ledger: Ledger | None, options: Options) -> Mapping[str, float]:
    """Return the deadline of every binding that has one of its own, in ms."""
    if ledger is None or options.deadline != "adaptive":
        return {}
    return adaptive_ms({id: row.time_ms for id, row in ledger.rows.items()})
