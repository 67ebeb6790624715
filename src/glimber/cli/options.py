"""Commands that take their options as one struct, with a field for each option."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from functools import wraps
from typing import TypeVar, get_type_hints

from msgspec import NODEFAULT, Struct
from msgspec.structs import FieldInfo, fields

Result = TypeVar("Result")


def spelled_out(command: Callable[..., Result]) -> Callable[..., Result]:
    """Return a command that Typer can register: each struct parameter becomes one option per field, with the field's annotation
    and default. Typer itself has no options that belong together."""
    values: dict[str, type[Struct]] = {}
    spelled: list[inspect.Parameter] = []
    for name, parameter in inspect.signature(command, eval_str=True).parameters.items():
        kind = parameter.annotation
        if isinstance(kind, type) and issubclass(kind, Struct):
            values[name] = kind
            hints = get_type_hints(kind, include_extras=True)
            spelled += [_parameter(field, hints[field.name]) for field in fields(kind)]
        else:
            spelled.append(parameter.replace(kind=inspect.Parameter.KEYWORD_ONLY))

    @wraps(command)
    def run(**given: object) -> Result:
        for name, kind in values.items():
            given[name] = kind(**{field: given.pop(field) for field in kind.__struct_fields__})
        return command(**given)

    run.__signature__ = inspect.Signature(spelled)  # type: ignore[attr-defined]
    run.__annotations__ = {one.name: one.annotation for one in spelled}
    return run


def _parameter(field: FieldInfo, annotation: object) -> inspect.Parameter:
    default = inspect.Parameter.empty if field.default is NODEFAULT else field.default
    return inspect.Parameter(field.name, inspect.Parameter.KEYWORD_ONLY, default=default, annotation=annotation)
