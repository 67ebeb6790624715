"""Every kind of slip, declared once: what it says of knowing and of the hand, the cause it points to, and its words.

A new kind is an entry of ``SLIPS``, its id in ``SlipKind``, and what the judge takes for it.
"""

from __future__ import annotations

from typing import Final, Literal

from msgspec import Struct

SlipKind = Literal["neighbour", "mirror", "layer", "gesture", "modifiers", "mix-up", "old habit", "unfinished", "stray"]


class Words(Struct, frozen=True):
    """A cause in words: its name, what it is judged by, and how a case names it."""

    name: str
    judged_by: str
    in_case: str


class OwnCause(Struct, frozen=True):
    """A cause that a kind of slip points to on its own.

    ``prior``: how likely it is the trouble of a binding, before any try; ``background``: the share of a folio's tries that are
    slips of this kind without any trouble. Source: docs/measures.md, "Causes".
    """

    prior: float
    background: float
    words: Words


class Slip(Struct, frozen=True):
    """A kind of slip. ``by_hand``: what was wanted was known, and the hand missed; ``cause`` None: it says no more than that it
    was not known, or that the hand goes to one other place."""

    kind: SlipKind
    by_hand: bool = False
    cause: OwnCause | None = None


SLIPS: Final = (
    Slip("neighbour", True, OwnCause(0.06, 0.04, Words("A key beside it", "the hand misses by one key", "keys beside it"))),
    Slip("mirror"),
    Slip("layer", False, OwnCause(0.03, 0.008, Words("Layer", "the right key on another layer", "another layer"))),
    Slip("gesture", True, OwnCause(0.03, 0.008, Words("Gesture", "the right key, struck differently", "another gesture"))),
    Slip("modifiers", True, OwnCause(0.03, 0.008, Words("Modifiers", "the right key with other modifiers", "other modifiers"))),
    Slip("mix-up"),
    Slip("old habit", False, OwnCause(0.01, 0.003, Words("Old habit", "where it was before", "an old habit"))),
    Slip("unfinished", False,
         OwnCause(0.02, 0.005, Words("Unfinished", "the first steps and no more", "begun and not finished"))),
    Slip("stray"),
)  # fmt: skip
"""In the order in which the columns of tries number them."""
SLIP_KINDS: Final[tuple[SlipKind, ...]] = tuple(one.kind for one in SLIPS)
HAND_KINDS: Final = frozenset(one.kind for one in SLIPS if one.by_hand)
WITHOUT_CAUSE: Final = tuple(one.kind for one in SLIPS if one.cause is None)
OWN_CAUSES: Final[dict[str, OwnCause]] = {one.kind: one.cause for one in SLIPS if one.cause is not None}
CAUSE_WORDS: Final[dict[str, Words]] = {
    "none": Words("Nothing", "clean answers", "nothing"),
    "knowing": Words("Not known", "no answer, another command, or a key far away", "not known"),
    **{kind: cause.words for kind, cause in OWN_CAUSES.items()},
    "place": Words("One other place", "the same wrong key again and again", "the hand goes to one other place"),
}
"""Every cause in words; a place is a cause of its own, wherever it is."""
