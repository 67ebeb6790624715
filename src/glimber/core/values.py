"""Dataclasses whose methods are compiled when they are first called.

``dataclasses.dataclass`` writes and compiles the text of six methods or more of a frozen class while its module is loaded, which
was a sixth of all that ran before the first painted frame; nine of ten of those methods are not called before it.
Here a class has its fields at once, and each method from its first call on. To a type checker it is
``dataclasses.dataclass``, and ``fields``, ``replace``, ``asdict`` take it for one. One thing is different: a class below a
frozen one that is not decorated itself can set no attribute at all.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any, Final

if TYPE_CHECKING:
    from dataclasses import dataclass as dataclass
else:

    def dataclass(cls: type | None = None, /, *, frozen: bool = False, slots: bool = False, order: bool = False) -> Any:
        """As ``dataclasses.dataclass``, of its options those that are used here."""
        made = partial(_made, frozen=frozen, slots=slots, order=order)
        return made if cls is None else made(cls)


_SIGNS: Final = {"__eq__": "==", "__lt__": "<", "__le__": "<=", "__gt__": ">", "__ge__": ">="}


def _made(cls: type, frozen: bool, slots: bool, order: bool) -> type:
    written = {name for name, value in vars(cls).items() if value is not None}
    cls.__doc__ = cls.__doc__ or cls.__name__  # else a signature is worked out for it
    made: Any = dataclasses.dataclass(init=False, repr=False, eq=False, slots=slots)(cls)
    late: dict[str, Callable[..., str]] = {"__init__": _init}
    late |= {name: _compares(name, sign) for name, sign in _SIGNS.items() if order or sign == "=="}
    if frozen:
        late["__hash__"] = _hash
        made.__setattr__, made.__delattr__ = _refuse_set, _refuse_delete
        if slots:  # what copies and pickles use by itself would set each field
            made.__getstate__, made.__setstate__ = _state, _take_state
    elif "__hash__" not in written:
        made.__hash__ = None
    for name in late.keys() - written:
        setattr(made, name, _late(made, name, late[name], frozen))
    if "__repr__" not in written:
        made.__repr__ = _repr
    return made  # type: ignore[no-any-return]


def _late(owner: type, name: str, text_of: Callable[..., str], frozen: bool) -> Callable[..., Any]:
    """Stands for a method until it is first called."""

    def method(self: object, *args: object, **named: object) -> Any:
        known: dict[str, Any] = {"_MISSING": dataclasses.MISSING, "_put": object.__setattr__}
        exec(text_of(dataclasses.fields(owner), known, owner, frozen), known)  # written of the names of fields alone
        compiled = known[name]
        compiled.__qualname__ = f"{owner.__qualname__}.{name}"
        setattr(owner, name, compiled)
        return compiled(self, *args, **named)

    return method


def _init(fields: tuple[dataclasses.Field[Any], ...], known: dict[str, Any], owner: type, frozen: bool) -> str:
    takes, keyed, lines = ["self"], list[str](), list[str]()
    for field in fields:
        name, given = field.name, field.name
        if field.default_factory is not dataclasses.MISSING:
            known[f"_make_{name}"], known[f"_default_{name}"] = field.default_factory, dataclasses.MISSING
            given = f"_make_{name}() if {name} is _MISSING else {name}" if field.init else f"_make_{name}()"
        elif field.default is not dataclasses.MISSING:
            known[f"_default_{name}"] = field.default
            given = name if field.init else f"_default_{name}"
        elif not field.init:
            continue
        if field.init:
            (keyed if field.kw_only else takes).append(
                f"{name}=_default_{name}" if f"_default_{name}" in known else name
            )
        lines.append(f"_put(self, {name!r}, {given})" if frozen else f"self.{name} = {given}")
    if hasattr(owner, "__post_init__"):
        lines.append("self.__post_init__()")
    return f"def __init__({', '.join([*takes, *(['*', *keyed] if keyed else [])])}):\n " + "\n ".join(lines or ["pass"])


def _compares(name: str, sign: str) -> Callable[..., str]:
    def text(fields: tuple[dataclasses.Field[Any], ...], *_: object) -> str:
        names = [field.name for field in fields if field.compare]
        mine, others = ("".join(f"{owner}.{name}, " for name in names) for owner in ("self", "other"))
        result = f"({mine}) {sign} ({others}) if other.__class__ is self.__class__ else NotImplemented"
        return f"def {name}(self, other):\n return {result}"

    return text


def _hash(fields: tuple[dataclasses.Field[Any], ...], *_: object) -> str:
    names = [field.name for field in fields if (field.compare if field.hash is None else field.hash)]
    return f"def __hash__(self):\n return hash(({''.join(f'self.{name}, ' for name in names)}))"


def _repr(self: Any) -> str:
    shown = (f"{field.name}={getattr(self, field.name)!r}" for field in dataclasses.fields(self) if field.repr)
    return f"{type(self).__qualname__}({', '.join(shown)})"


def _refuse_set(self: object, name: str, value: object) -> None:
    raise dataclasses.FrozenInstanceError(f"cannot assign to field {name!r}")


def _refuse_delete(self: object, name: str) -> None:
    raise dataclasses.FrozenInstanceError(f"cannot delete field {name!r}")


def _state(self: Any) -> list[Any]:
    return [getattr(self, field.name) for field in dataclasses.fields(self)]


def _take_state(self: Any, state: list[Any]) -> None:
    for field, value in zip(dataclasses.fields(self), state, strict=True):
        object.__setattr__(self, field.name, value)
