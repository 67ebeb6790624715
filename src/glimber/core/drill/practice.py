"""The practice log as a value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from glimber.core.drill.tries import Change, Round, Try

if TYPE_CHECKING:
    from glimber.core.drill.columns import TryColumns


@dataclass(frozen=True)
class Practice:
    """Tries and changes in order of time, and rounds."""

    tries: Sequence[Try] = ()
    changes: tuple[Change, ...] = ()
    rounds: tuple[Round, ...] = ()

    @cached_property
    def columns(self) -> TryColumns:
        """The tries as columns; a log read from its place has them already."""
        from glimber.core.drill.columns import TryColumns, TryRows

        return self.tries.columns if isinstance(self.tries, TryRows) else TryColumns.of(self.tries)
