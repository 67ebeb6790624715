"""Findings of the audit, and the severity of each code."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any, Literal, TypeVar

from msgspec import Struct

from glimber.core.notation.keys import Spot

Severity = Literal["error", "warning", "note"]

CureKind = Literal["take-off", "free-key", "free-spot", "clear", "send-own", "leave", "fall-through", "here"]


class Cure(Struct, frozen=True):
    """A cure for a finding in one step: ``words`` for the person, the rest for ``core/audit/cures.py``.

    ``binding`` is the one that is changed; ``spot`` the place that is let leave, or fall through.
    """

    kind: CureKind
    words: str
    binding: str | None = None
    spot: Spot | None = None


class Finding(Struct, frozen=True):
    """One thing the audit has to say. ``where`` is a trigger, a layer (``board:layer``) or a file and line.

    ``cure`` is there where something can be done about it in one step.
    """

    code: str
    severity: Severity
    where: str
    bindings: tuple[str, ...]
    text: str
    cure: Cure | None = None


Checked = TypeVar("Checked")
Run = Callable[[Checked], Iterator[Finding]]

SEVERITIES: dict[str, Severity] = {"unknown-reference": "error", "key-missing": "error", "picture-missing": "warning"}
"""The severity of every code. Those three are found in files; each check declares its own."""
CHECKS: dict[type, list[Callable[[Any], Iterator[Finding]]]] = {}
"""Every check, by the part it looks at."""


def check(part: type[Checked], codes: Mapping[str, Severity]) -> Callable[[Run[Checked]], Run[Checked]]:
    """Register a check of a kind of part, with the codes it can report and how severe each is."""
    SEVERITIES.update(codes)

    def register(run: Run[Checked]) -> Run[Checked]:
        CHECKS.setdefault(part, []).append(run)
        return run

    return register


def finding(code: str, where: str, bindings: tuple[str, ...], text: str, cure: Cure | None = None) -> Finding:
    """Return a finding with the severity of its code."""
    return Finding(code, SEVERITIES[code], where, bindings, text, cure)
