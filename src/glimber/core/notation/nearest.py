"""The nearest known word, for error messages."""

from __future__ import annotations

from collections.abc import Iterable


def nearest(word: str, known: Iterable[str]) -> str | None:
    """Return the known word most like ``word`` regardless of case, or None when nothing is alike."""
    from difflib import get_close_matches  # only a mistake needs it, not every start

    by_lower = {name.lower(): name for name in sorted(known, reverse=True)}
    found = get_close_matches(word.lower(), by_lower, n=1, cutoff=0.6)
    return by_lower[found[0]] if found else None


def did_you_mean(word: str, known: Iterable[str]) -> str:
    """Return a sentence that suggests the nearest known word, or an empty string."""
    near = nearest(word, known)
    return f"; did you mean {near}?" if near else ""
