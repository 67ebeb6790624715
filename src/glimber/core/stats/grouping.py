"""Group the tries that count for each binding: those under its present trigger, in order of time, binding after binding."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

import numpy as np
from msgspec import Struct

from glimber.core.model.folio import Binding
from glimber.core.practice.columns import Bools, Floats, Ints, TryColumns

_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


class Selected(Struct, frozen=True):
    """Rows of columns, grouped: ``place`` (t,) into the columns, ``of`` (t,) the number of their binding, ``starts`` (b + 1,)."""

    columns: TryColumns
    place: Ints
    of: Ints
    starts: Ints

    @property
    def bindings(self) -> int:
        return len(self.starts) - 1

    @property
    def counts(self) -> Ints:
        """Return how many tries each binding has, (b,)."""
        return np.diff(self.starts)

    @property
    def nth(self) -> Ints:
        """Return how many tries of the same binding came before each, (t,)."""
        return np.asarray(np.arange(len(self.place)) - self.starts[self.of])

    @property
    def since(self) -> Ints:
        """Return how many tries of the same binding have come since each, (t,)."""
        return np.asarray(self.starts[self.of + 1] - 1 - np.arange(len(self.place)))

    def sum(self, values: Floats | Bools) -> Floats:
        """Sums of (t,) values by binding, (b,)."""
        return np.bincount(self.of, weights=values, minlength=self.bindings).astype(np.float64)

    def where(self, wanted: Bools) -> Selected:
        """Only those for which (t,) ``wanted`` is true."""
        return _grouped(self.columns, self.place[wanted], self.of[wanted], self.bindings)

    def newest(self, count: int) -> Selected:
        """At most so many of each binding, the newest."""
        return self.where(self.since < count)

    def rows(self, binding: int) -> Ints:
        """Return the places of one binding's tries in the columns."""
        return self.place[self.starts[binding] : self.starts[binding + 1]]


def _grouped(columns: TryColumns, place: Ints, of: Ints, bindings: int) -> Selected:
    starts = np.concatenate([[0], np.cumsum(np.bincount(of, minlength=bindings))]).astype(np.int64)
    return Selected(columns, place, of, starts)


def micros(at: datetime) -> int:
    """Microseconds since 1970 in UTC."""
    return (at - _EPOCH) // timedelta(microseconds=1)


def select(columns: TryColumns, bindings: Sequence[Binding], at: datetime) -> Selected:
    """Return the logged tries of each binding under its present trigger until ``at`` (UTC), in the order of the bindings."""
    number = {binding.id: place for place, binding in enumerate(bindings)}
    whose = np.array([number.get(name, -1) for name in columns.binding.names] or [-1], dtype=np.int64)
    trigger = {name: code for code, name in enumerate(columns.trigger.names)}
    wanted = np.array([trigger.get(str(binding.trigger), -2) for binding in bindings] or [-2], dtype=np.int64)
    of = whose[columns.binding.codes]
    fits = (of >= 0) & (columns.trigger.codes == wanted[np.maximum(of, 0)]) & (columns.at_us <= micros(at))
    place = np.flatnonzero(fits)
    order = np.lexsort((columns.at_us[place], of[place]))
    return _grouped(columns, place[order], of[place][order], len(bindings))
