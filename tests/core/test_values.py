"""Classes whose methods are compiled late are to everybody what ``dataclasses`` would have made."""

from __future__ import annotations

import copy
import dataclasses
import operator
import pickle
from collections.abc import Callable
from dataclasses import FrozenInstanceError, asdict, field, fields, replace
from itertools import product
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.values import dataclass

Decorator = Callable[[type], type]


def _kinds(decorate: Callable[..., Any]) -> dict[str, Any]:
    """The same classes as one decorator or the other makes them."""

    @decorate(frozen=True)
    class Frozen:
        first: int
        second: str = "two"
        seen: dict[str, int] = field(default_factory=dict, repr=False, compare=False)
        half: float = field(init=False, default=0.5)

    @decorate(frozen=True, slots=True)
    class Slotted:
        first: int
        second: tuple[int, ...] = ()

    @decorate
    class Open:
        first: int
        made: list[int] = field(default_factory=list)
        unset: int = field(init=False)
        keyed: str = field(default="k", kw_only=True)

        def __post_init__(self) -> None:
            self.made.append(self.first)
            self.unset = len(self.made)

    @decorate(frozen=True)
    class Said:
        first: int

        def __repr__(self) -> str:
            return "said"

        def __eq__(self, other: object) -> bool:
            return isinstance(other, Said)

        def __hash__(self) -> int:
            return 7

    @decorate(frozen=True)
    class Below(Frozen):  # type: ignore[valid-type,misc]
        third: int = 3

    @decorate(frozen=True, order=True)
    class Ordered:
        first: int
        unseen: int = field(default=0, compare=False)
        last: str = ""

    @decorate(frozen=True)
    class Bare:
        pass

    return {made.__name__: made for made in (Frozen, Slotted, Open, Said, Below, Ordered, Bare)}


OURS, THEIRS = _kinds(dataclass), _kinds(dataclasses.dataclass)
CALLS: list[tuple[tuple[Any, ...], dict[str, Any]]] = [
    ((), {}), ((1,), {}), ((1, "b"), {}), ((1, (2,)), {}), ((), {"first": 1}), ((1,), {"first": 1}), ((1,), {"none": 1}),
    ((1, [5]), {"keyed": "x"}), ((1, "b", {"c": 1}), {}), ((1, "b", {}, 0.1), {}), ((2,), {"third": 9}), ((2,), {"seen": {"a": 1}}),
]  # fmt: skip


def _told(work: Callable[[], object]) -> object:
    """What comes of something: a value, or the kind of error."""
    try:
        return work()
    except Exception as error:
        return type(error)


def _shown(value: Any) -> object:
    """Everything that can be asked of a value of either kind."""
    if isinstance(value, type):
        return value
    return repr(value).replace("_kinds.<locals>.", ""), _told(lambda: hash(value)), _told(lambda: asdict(value))


@pytest.mark.parametrize(("name", "call"), list(product(OURS, CALLS)))
def test_a_class_made_late_takes_the_same_and_tells_the_same(name: str, call: tuple[Any, Any]) -> None:
    given, named = call
    ours, theirs = (_told(lambda kind=kind[name]: kind(*copy.deepcopy(given), **copy.deepcopy(named))) for kind in (OURS, THEIRS))
    assert _shown(ours) == _shown(theirs)
    for _ in range(2):  # compiled by now
        again = _told(lambda: OURS[name](*copy.deepcopy(given), **copy.deepcopy(named)))
        assert _shown(again) == _shown(theirs)
    if isinstance(ours, type):
        return
    twin = OURS[name](*copy.deepcopy(given), **copy.deepcopy(named))
    assert ours == twin
    assert ours != theirs
    assert _told(lambda: replace(ours, first=9).first) == _told(lambda: replace(theirs, first=9).first)  # type: ignore[type-var]
    assert _shown(copy.copy(ours)) == _shown(theirs)
    assert [one.name for one in fields(ours)] == [one.name for one in fields(theirs)]  # type: ignore[arg-type]
    assert OURS[name].__match_args__ == THEIRS[name].__match_args__
    assert (OURS[name].__hash__ is None) is (THEIRS[name].__hash__ is None)


@pytest.mark.parametrize("name", ["Frozen", "Slotted", "Below", "Said"])
def test_what_is_frozen_stays_as_it_was_made(name: str) -> None:
    made = OURS[name](1)
    for change in (lambda: setattr(made, "first", 2), lambda: setattr(made, "else_", 2), lambda: delattr(made, "first")):
        with pytest.raises((FrozenInstanceError, AttributeError)):
            change()
    assert made.first == 1


@pytest.mark.parametrize("compare", [operator.lt, operator.le, operator.gt, operator.ge])
@pytest.mark.parametrize("other", [(1, 9), (1, 0, "b"), (0, 9, "z"), (2,), None])
def test_what_has_an_order_has_that_of_its_fields(compare: Callable[[Any, Any], bool], other: tuple[Any, ...] | None) -> None:
    def told(kind: Any) -> object:
        return _told(lambda: compare(kind(1, 3), (1, 3) if other is None else kind(*other)))

    assert told(OURS["Ordered"]) == told(THEIRS["Ordered"])
    assert _told(lambda: compare(OURS["Frozen"](1), OURS["Frozen"](2))) is TypeError


@dataclass(frozen=True, slots=True)
class Kept:
    """At the top of a module, as what is pickled must be."""

    name: str
    parts: tuple[int, ...] = ()


@given(st.text(), st.lists(st.integers()).map(tuple), st.text())
def test_values_are_equal_and_hash_by_their_fields(name: str, parts: tuple[int, ...], other: str) -> None:
    made = Kept(name, parts)
    assert pickle.loads(pickle.dumps(made)) == copy.deepcopy(made) == made
    assert hash(made) == hash(Kept(name, parts)) == hash((name, parts))
    assert (made == Kept(other, parts)) is (name == other)
    assert made != (name, parts)


def test_nothing_is_compiled_before_it_is_called_and_then_once() -> None:
    class Plain:
        first: int

    made = dataclass(frozen=True)(Plain)
    before = made.__dict__["__init__"]
    one = made(1)  # type: ignore[call-arg]
    compiled = made.__dict__["__init__"]
    assert compiled is not before and compiled.__qualname__.endswith("Plain.__init__")
    assert made(1) == one and made.__dict__["__init__"] is compiled  # type: ignore[call-arg]
