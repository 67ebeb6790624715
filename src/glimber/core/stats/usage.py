"""The uses of a command in a week, and the cost of its slow way: which commands on the bench deserve a key first."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Final

from msgspec import Struct

from glimber.core.model.folio import Binding, Command, Folio
from glimber.core.model.open_sets import slow_way_steps
from glimber.core.stats.slow_way import slow_way_of

if TYPE_CHECKING:
    from glimber.core.practice.tally import Measured, Tally

GUESSED_USES_PER_DAY: Final = 4.0


class Stake(Struct, frozen=True):
    """A command of the bench. ``slow_s``: seconds a time, None with no slow way on record; ``uses_week`` may be a guess."""

    command: Command
    slow_s: float | None
    uses_week: float
    guessed: bool

    @property
    def week_s(self) -> float | None:
        """Seconds a week that go into the slow way."""
        return None if self.slow_s is None else self.slow_s * self.uses_week


def weekly_uses(folio: Folio, command: Command, counted: Mapping[str, Measured] | None = None) -> tuple[float, bool]:
    """Return uses in a working week, and whether they are a guess, as long as nobody gave how many there are in a day.

    ``counted``: uses that were counted, by command; they take the place of a guess where they were counted on days enough.
    """
    guessed = command.uses_per_day is None
    found = counted.get(command.ref) if counted and guessed else None
    if found is not None and found.enough:
        return found.a_week(folio.settings.working_days), False
    a_day = GUESSED_USES_PER_DAY if command.uses_per_day is None else command.uses_per_day
    return a_day * folio.settings.working_days, guessed


def share_of(folio: Folio, binding: Binding, computer: str | None = None) -> float:
    """Return which part of its command's uses a binding carries: as set, the rest equally among those that live on this
    computer."""
    every = [one for one in folio.bindings_of.get(binding.command or "", ()) if one.lives_on(computer)]
    if binding.share is not None:
        return binding.share
    open_ones = sum(one.share is None for one in every)
    return max(0.0, 1.0 - sum(one.share or 0.0 for one in every)) / max(1, open_ones)


def uses_a_day(folio: Folio, binding: Binding, computer: str | None = None) -> float | None:
    """Return uses a day of one binding on this computer as somebody set them; None while they are only guessed."""
    command = folio.command_of(binding)
    if command is None or command.uses_per_day is None:
        return None
    return command.uses_per_day * share_of(folio, binding, computer) if binding.lives_on(computer) else 0.0


def stakes_of(
    folio: Folio, commands: Iterable[Command], sort: bool = True, tally: Tally | None = None,
    counted: Mapping[str, Measured] | None = None,
) -> list[Stake]:  # fmt: skip
    """Return what is at stake for commands: heaviest seconds a week first, then those without a slow way in the order given.

    ``tally`` has the person's own times of choosing them in menus; ``counted``: how often they are used, by command.
    """

    def slow_s(command: Command) -> float | None:
        chosen = tally.chosen(command.ref) if tally is not None else ()
        return slow_way_of(slow_way_steps(folio, command), chosen).seconds

    stakes = [Stake(command, slow_s(command), *weekly_uses(folio, command, counted)) for command in commands]
    if not sort:
        return stakes
    return sorted(stakes, key=lambda one: -1.0 if one.week_s is None else one.week_s, reverse=True)


def bench_by_stake(folio: Folio) -> list[Stake]:
    """Return the bench, heaviest seconds a week first; then those without a slow way, in folio order."""
    return stakes_of(folio, folio.bench())
