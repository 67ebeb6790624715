"""Findings of the audit, and the severity of each code."""

from __future__ import annotations

from types import MappingProxyType
from typing import Final, Literal

from msgspec import Struct

from glimber.core.notation.keys import Spot

Severity = Literal["error", "warning", "note"]

SEVERITIES: Final = MappingProxyType(
    {
        **dict.fromkeys(("unknown-reference", "same-trigger", "key-missing", "no-way-in", "no-way-out"), "error"),
        **dict.fromkeys(("desktop-takes", "fires-too", "stem-complete", "beside-careful", "awkward-busy", "held-stretch",
                         "slow-gesture", "typed-prefix", "bundle-clash"), "warning"),
        **dict.fromkeys(("place-or-print", "way-out-differs", "way-in-covered", "print-differs", "crowded-layer", "dead-here",
                         "not-on-this-computer", "sends-nothing-known"), "note"),
    }
)  # fmt: skip
"""Every code of the audit with its severity."""


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


def finding(code: str, where: str, bindings: tuple[str, ...], text: str, cure: Cure | None = None) -> Finding:
    """A finding with the severity of its code."""
    return Finding(code, SEVERITIES[code], where, bindings, text, cure)  # type: ignore[arg-type]
