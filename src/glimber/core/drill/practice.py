"""The practice log as a value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from functools import cached_property
from typing import TYPE_CHECKING

from glimber.core.drill.tries import Change, Round, Try
from glimber.core.values import dataclass
from glimber.core.work.tally import Tally

if TYPE_CHECKING:
    from glimber.core.drill.columns import TryColumns


@dataclass(frozen=True)
class Practice:
    """Tries and changes in order of time, and rounds."""

    tries: Sequence[Try] = ()
    changes: tuple[Change, ...] = ()
    rounds: tuple[Round, ...] = ()
    tally: Tally = field(default=Tally(), compare=False)
    """What was counted of the real day on this computer."""

    @cached_property
    def columns(self) -> TryColumns:
        """The tries as columns; a log read from its place has them already."""
        from glimber.core.drill.columns import TryColumns, TryRows

        return self.tries.columns if isinstance(self.tries, TryRows) else TryColumns.of(self.tries)
