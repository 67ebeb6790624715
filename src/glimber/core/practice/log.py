"""The practice log as a value."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from msgspec import Struct

from glimber.core.practice.tally import Tally
from glimber.core.practice.tries import Change, Round, Try

if TYPE_CHECKING:
    from glimber.core.practice.columns import TryColumns


class Practice(Struct, frozen=True, dict=True):
    """Tries and changes in order of time, and rounds."""

    tries: Sequence[Try] = ()
    changes: tuple[Change, ...] = ()
    rounds: tuple[Round, ...] = ()
    tally: Tally = Tally()
    """Counts of the real day on this computer."""

    @cached_property
    def columns(self) -> TryColumns:
        """The tries as columns; a log read from its place has them already."""
        from glimber.core.practice.columns import TryColumns, TryRows

        return self.tries.columns if isinstance(self.tries, TryRows) else TryColumns.of(self.tries)
