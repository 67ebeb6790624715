"""The order of what is found: exact name, beginning, beginning of a word, words in order, words anywhere, nearly."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Final, TypeVar

T = TypeVar("T")
EXACT, PREFIX, WORD, IN_ORDER, ANYWHERE, NEARLY = range(6)
LEAST_ALIKE: Final = 80
_LEAST_LETTERS: Final = 3


def rank(text: str, name: str, words: str = "") -> int | None:
    """Return how well a name fits what was typed, 0 the best; None where it does not. ``words``: what else it answers to."""
    wanted, called = " ".join(text.casefold().split()), " ".join(name.casefold().split())
    if not wanted or wanted == called:
        return EXACT
    if called.startswith(wanted):
        return PREFIX
    if f" {wanted}" in f" {called}":
        return WORD
    if _in_order(wanted.split(), called.split()):
        return IN_ORDER
    other = words.casefold()
    if all(word in called or word in other for word in wanted.split()):
        return ANYWHERE
    return None


def _in_order(wanted: list[str], words: list[str]) -> bool:
    """Return True if each word begins a word of the name, one after another."""
    at = 0
    for part in wanted:
        at = next((place + 1 for place in range(at, len(words)) if words[place].startswith(part)), -1)
        if at < 0:
            return False
    return True


def best_first(
    text: str,
    items: Iterable[T],
    name: Callable[[T], str],
    words: Callable[[T], str] = lambda item: "",
    uses: Callable[[T], float] = lambda item: 0.0,
) -> list[T]:
    """Return the items that fit what was typed, best first; of equals what is used more, then as they came. Where nothing fits,
    what is spelt nearly so."""
    ranked = [(place, item, rank(text, name(item), words(item))) for place, item in enumerate(items)]
    found = [(how, -uses(item), place, item) for place, item, how in ranked if how is not None]
    if not found and len(text.strip()) >= _LEAST_LETTERS:
        found += [(NEARLY, -score, place, item) for place, item, score in _nearly(text, ranked, name)]
    return [item for *_, item in sorted(found, key=lambda one: one[:3])]


def _nearly(text: str, ranked: list[tuple[int, T, int | None]], name: Callable[[T], str]) -> list[tuple[int, T, float]]:
    """Return what is spelt nearly so, with how much alike."""
    from rapidfuzz import fuzz, process, utils

    left = {place: name(item) for place, item, how in ranked if how is None}
    items = {place: item for place, item, _ in ranked}
    alike = process.extract(text, left, scorer=fuzz.WRatio, processor=utils.default_process, limit=60, score_cutoff=LEAST_ALIKE)
    return [(place, items[place], score) for _, score, place in alike]
