"""The places where the tries that a verdict rests on were made: on another computer, or of the same keys in another context."""

from __future__ import annotations

from collections import Counter

from glimber.core.model.describe import count_words
from glimber.core.stats.ledger import Ledger, Weighed


def evidence_words(ledger: Ledger, row: Weighed, computer: str | None) -> str:
    """Return a sentence for tries that say little of this computer or context; nothing where they were made here.

    Source: docs/measures.md, "Held to"; tries in one context or on one computer say nothing sure of another.
    """
    sentences = [_of_computers(row, computer), _of_contexts(ledger, row)]
    return " ".join(one for one in sentences if one)


def _of_computers(row: Weighed, computer: str | None) -> str:
    by = Counter(one.computer for one in row.tries)
    here = by.pop(computer, 0) if computer is not None else sum(by.values())
    if not by or computer is None:
        return ""
    where = " and ".join(sorted(by))
    if not here:
        tries = "The try was" if sum(by.values()) == 1 else f"All {sum(by.values())} tries were"
        return f"{tries} on {where}, none on this computer."
    return f"{count_words(sum(by.values()), 'try was', 'tries were')} on {where}, {here} on this computer."


def _of_contexts(ledger: Ledger, row: Weighed) -> str:
    """Return what the same keys do in other contexts of the program, where that was tried less than here."""
    command = row.command
    if command.context is None:
        return ""
    others = [
        other for other in ledger.rows.values()
        if other.binding.trigger == row.binding.trigger and other.command.program == command.program
        and other.command.context not in (None, command.context) and other.count < row.count
    ]  # fmt: skip
    return " ".join(
        f"In {other.command.context} the same keys do {other.command.name}: {count_words(other.count, 'try', 'tries')} there, "
        "and these say nothing sure of it."
        for other in others
    )
