"""Which argument of calls has the keys: the same call many times tells, by place or by name."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from typing import Final

from glimber.core.notation.keywords import key_named
from glimber.readers.code import Text
from glimber.readers.evidence import evidence

MODES: Final = frozenset({"n", "i", "v", "x", "s", "o", "t", "c", "nv", "normal", "insert", "visual", "", "global"})
"""What calls that bind say of the mode, which may look like keys."""
_MOST_ARGUMENTS: Final = 5
_ALL_KEYS: Final = 8
_MOST_OF: Final = 0.6
MANY: Final = 3
"""So many calls of one name are taken together."""


def named_as_keys(calls: Sequence[Mapping[str, object]]) -> str:
    """Return the name of the argument in which many calls have keys, whatever it is; "" where there is none. ``calls``: what
    each is given by name."""
    values: dict[str, list[int]] = defaultdict(list)
    for call in calls:
        for name, value in call.items():
            if isinstance(value, Text):
                values[name].append(evidence(value))
    sure = [name for name, looks in values.items() if looks.count(2) >= MANY and all(looks)]
    return sure[0] if sure else ""


def common_names(calls: Sequence[Sequence[object]]) -> frozenset[str]:
    """Return the names that most calls are passed, such as flags; they say nothing about what a single call binds."""
    names = Counter(str(value["function"]) for arguments in calls for value in arguments
                    if isinstance(value, dict) and "function" in value)  # fmt: skip
    return frozenset(name for name, count in names.items() if count >= max(MANY, _MOST_OF * len(calls)))


def are_all_keys(values: Sequence[object]) -> bool:
    return all(isinstance(one, Text) and (evidence(one) or len(one) == 1) for one in values)


def texts_in(values: Sequence[object]) -> list[Text]:
    return [one for one in values if isinstance(one, Text) and one.strip()]


def place_of_keys(calls: Sequence[Sequence[str]], binds: bool) -> int | None:
    """Return which argument has the keys, from the arguments of all calls of one name as texts; None where none has."""
    best: tuple[int, int] | None = None
    for place in range(_MOST_ARGUMENTS):
        strong = _strong_keys([call[place] for call in calls if place < len(call) and call[place]], binds)
        if strong is not None and (best is None or strong > best[0]):
            best = (strong, place)
    return None if best is None else best[1]


def _strong_keys(values: Sequence[str], binds: bool) -> int | None:
    """Return how many of the values of an argument only keys look like; None where it does not have the keys."""
    if not values or all(value.lower() in MODES for value in values):
        return None
    looks = [evidence(value) or int(len(value) == 1 or key_named(value, marked=True) is not None) for value in values]
    share, strong = sum(look > 0 for look in looks) / len(looks), sum(look == 2 for look in looks)
    many = len(looks) >= MANY or strong == len(looks)
    enough = strong >= 1 if binds else strong >= max(1, 0.2 * len(looks)) and many
    different = len(set(values)) >= 0.6 * len(values)
    nearly_all = share >= 0.95 and len(values) >= _ALL_KEYS and different and strong > 0
    return strong if share >= 0.6 and (enough or nearly_all) else None
