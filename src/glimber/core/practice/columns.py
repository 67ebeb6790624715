"""Tries as columns: what the measures work on, and what a log of many tries is kept as. A try is made of its row when it is
asked for."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any, Final, final, overload

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from glimber.core.practice.slip_kinds import HAND_KINDS, SLIP_KINDS
from glimber.core.practice.tries import OUTCOMES, Try, utc

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]

HIT: Final = OUTCOMES.index("hit")
SLIP: Final = OUTCOMES.index("slip")
BLANK: Final = OUTCOMES.index("blank")
VOID: Final = OUTCOMES.index("void")
_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)
_HAND: Final = np.array([kind in HAND_KINDS for kind in SLIP_KINDS] + [False])
"""By the number of a slip's kind; the last, at −1, is no slip."""


class Coded(Struct, frozen=True):
    """Texts as numbers: ``codes`` (n,) into ``names``, −1 for none."""

    names: tuple[str, ...]
    codes: npt.NDArray[np.int32]

    @classmethod
    def of(cls, texts: Iterable[str | None]) -> Coded:
        """Number texts in the order in which they first come."""
        whole = texts if isinstance(texts, Sequence) else list(texts)
        names = [name for name in dict.fromkeys(whole) if name is not None]
        number = {None: -1, **{name: place for place, name in enumerate(names)}}
        codes = np.fromiter(map(number.__getitem__, whole), dtype=np.int32, count=len(whole))
        return cls(tuple(names), codes)

    def text(self, place: int) -> str | None:
        code = self.codes[place]
        return None if code < 0 else self.names[code]

    def with_more(self, other: Coded) -> Coded:
        """These, and others after them."""
        number = {name: place for place, name in enumerate(self.names)}
        into = np.array([number.setdefault(name, len(number)) for name in other.names] or [-1], dtype=np.int32)
        codes = np.where(other.codes < 0, -1, into[np.maximum(other.codes, 0)]).astype(np.int32)
        return Coded(tuple(number), np.concatenate([self.codes, codes]))


class TryColumns(Struct, frozen=True):
    """The fields of tries, each an array (n,), in order of time; ``at_us`` microseconds since 1970 in UTC, times in ms, NaN
    for what there is not, ``offset_u`` (n, 2) in key units, ``outcome`` and ``slip`` numbers into OUTCOMES and SLIP_KINDS
    (−1: none)."""

    ids: Sequence[str] | npt.NDArray[np.bytes_]
    round: Coded
    nth: Ints
    at_us: Ints
    computer: Coded
    binding: Coded
    trigger: Coded
    mode: Coded
    outcome: npt.NDArray[np.int8]
    strict: Bools
    slip: npt.NDArray[np.int8]
    pressed: Coded
    would_do: Coded
    offset_u: Floats
    recall_ms: Floats
    motor_ms: Floats
    deadline_ms: Floats
    first: Bools
    cold: Bools
    aids: Ints
    void_why: Coded

    def __len__(self) -> int:
        return len(self.at_us)

    @classmethod
    def of(cls, tries: Sequence[Try]) -> TryColumns:
        """Return the columns of tries, in their order."""
        none = (np.nan, np.nan)
        slips: dict[str, int] = {kind: place for place, kind in enumerate(SLIP_KINDS)}

        def values(name: str) -> list[object]:
            return [getattr(one, name) for one in tries]

        def coded(name: str) -> Coded:
            return Coded.of(getattr(one, name) for one in tries)

        def floats(name: str) -> Floats:
            return np.array([np.nan if value is None else value for value in values(name)], dtype=np.float64)

        return cls(
            ids=[one.id for one in tries],
            round=coded("round"),
            nth=np.array(values("nth"), dtype=np.int64),
            at_us=np.array([(utc(one.at) - _EPOCH) // timedelta(microseconds=1) for one in tries], dtype=np.int64),
            computer=coded("computer"),
            binding=coded("binding"),
            trigger=coded("trigger"),
            mode=coded("mode"),
            outcome=np.array([OUTCOMES.index(one.outcome) for one in tries], dtype=np.int8),
            strict=np.array(values("strict"), dtype=bool),
            slip=np.array([slips.get(one.slip or "", -1) for one in tries], dtype=np.int8),
            pressed=coded("pressed"),
            would_do=coded("would_do"),
            offset_u=np.array([one.offset_u or none for one in tries], dtype=np.float64).reshape(-1, 2),
            recall_ms=floats("recall_ms"),
            motor_ms=floats("motor_ms"),
            deadline_ms=floats("deadline_ms"),
            first=np.array(values("first"), dtype=bool),
            cold=np.array(values("cold"), dtype=bool),
            aids=np.array(values("aids"), dtype=np.int64),
            void_why=coded("void_why"),
        )

    def with_more(self, more: TryColumns) -> TryColumns:
        """These tries and more, put in order of time."""
        parts: dict[str, Any] = {}
        for name in self.__struct_fields__:
            mine, theirs = getattr(self, name), getattr(more, name)
            if isinstance(mine, Coded):
                parts[name] = mine.with_more(theirs)
            elif name == "ids":
                known = isinstance(mine, np.ndarray) and all(
                    len(id) <= mine.dtype.itemsize and id.isascii() for id in theirs
                )
                parts[name] = np.concatenate([mine, np.array(list(theirs), dtype=mine.dtype)]) if known else [
                    *(id.decode() if isinstance(id, bytes) else id for id in mine), *theirs]  # fmt: skip
            else:
                parts[name] = np.concatenate([mine, theirs])
        whole = TryColumns(**parts)
        late = len(more) and len(self) and int(more.at_us.min()) < int(self.at_us.max())
        return whole.at_places(np.lexsort((whole.nth, whole.at_us))) if late else whole

    def at_places(self, places: Ints) -> TryColumns:
        """Some of the rows, or all in another order."""
        ids = self.ids[places] if isinstance(self.ids, np.ndarray) else [self.ids[place] for place in places.tolist()]
        parts: dict[str, Any] = {}
        for name in self.__struct_fields__:
            value = getattr(self, name)
            if isinstance(value, Coded):
                parts[name] = Coded(value.names, value.codes[places])
            elif name != "ids":
                parts[name] = value[places]
        return TryColumns(ids=ids, **parts)

    @property
    def counts(self) -> Bools:
        """Return True if the measures use a try: a first strike, without aids, not void."""
        return np.asarray(self.first & (self.aids == 0) & (self.outcome != VOID))

    @property
    def by_hand(self) -> Bools:
        """Slips of the hand."""
        return np.asarray((self.outcome == SLIP) & _HAND[self.slip])

    @property
    def not_known(self) -> Bools:
        """Errors of knowing: blanks, and slips that are not the hand's."""
        return np.asarray((self.outcome == BLANK) | ((self.outcome == SLIP) & ~_HAND[self.slip]))

    def row(self, place: int) -> Try:
        """Return one try."""
        offset, slip, id = self.offset_u[place], int(self.slip[place]), self.ids[place]

        def number(value: Any) -> float | None:
            return None if np.isnan(value) else float(value)

        return Try(
            id=id.decode() if isinstance(id, bytes) else id,
            round=self.round.text(place) or "",
            nth=int(self.nth[place]),
            at=_EPOCH + timedelta(microseconds=int(self.at_us[place])),
            computer=self.computer.text(place) or "",
            binding=self.binding.text(place) or "",
            trigger=self.trigger.text(place) or "",
            mode=self.mode.text(place),  # type: ignore[arg-type]
            outcome=OUTCOMES[self.outcome[place]],
            strict=bool(self.strict[place]),
            slip=SLIP_KINDS[slip] if slip >= 0 else None,
            pressed=self.pressed.text(place),
            would_do=self.would_do.text(place),
            offset_u=None if np.isnan(offset[0]) else (float(offset[0]), float(offset[1])),
            recall_ms=number(self.recall_ms[place]),
            motor_ms=number(self.motor_ms[place]),
            deadline_ms=float(self.deadline_ms[place]),
            first=bool(self.first[place]),
            cold=bool(self.cold[place]),
            aids=int(self.aids[place]),
            void_why=self.void_why.text(place),
        )


@final
class TryRows(Sequence[Try]):
    """Columns read as a sequence of tries."""

    def __init__(self, columns: TryColumns) -> None:
        self.columns = columns

    def __len__(self) -> int:
        return len(self.columns)

    @overload
    def __getitem__(self, place: int) -> Try: ...
    @overload
    def __getitem__(self, place: slice) -> tuple[Try, ...]: ...
    def __getitem__(self, place: int | slice) -> Try | tuple[Try, ...]:
        if isinstance(place, slice):
            return tuple(self.columns.row(one) for one in range(len(self))[place])
        return self.columns.row(range(len(self))[place])

    def __iter__(self) -> Iterator[Try]:
        return (self.columns.row(place) for place in range(len(self)))

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, Sequence)
            and len(self) == len(other)
            and all(a == b for a, b in zip(self, other, strict=True))
        )

    __hash__ = None  # type: ignore[assignment]
