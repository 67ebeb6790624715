"""What the audit says: one finding, and how severe each code is."""

from __future__ import annotations

from dataclasses import dataclass
from types import MappingProxyType
from typing import Final, Literal

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


@dataclass(frozen=True)
class Finding:
    """One thing the audit has to say. ``where`` is a trigger, a layer (``board:layer``) or a file and line.

    ``cure`` says what can be done about it in one step, where there is such a thing; ``core/cures.py`` does it.
    """

    code: str
    severity: Severity
    where: str
    bindings: tuple[str, ...]
    text: str
    cure: str | None = None


def finding(code: str, where: str, bindings: tuple[str, ...], text: str, cure: str | None = None) -> Finding:
    """A finding with the severity of its code."""
    return Finding(code, SEVERITIES[code], where, bindings, text, cure)  # type: ignore[arg-type]
