"""The ledger as it is shown: one row for each weighed binding, with nothing left to compute.

No NumPy here: the window shows the last summary in its first frame, before anything is weighed again.
"""

from __future__ import annotations

from msgspec import Struct


class Row(Struct, frozen=True):
    """One strip. ``parts_s``: knowing time, hand time, slips, blanks, in seconds a week; ``slow_s`` the slow way's;
    ``settling``: how far a change has settled, in words; ``clean`` the chance of a clean hit, ``aside`` until when it is set
    aside."""

    id: str
    name: str
    place: str
    ink: str
    mark: str
    grip: float
    parts_s: tuple[float, float, float, float]
    weekly_s: float | None
    slow_s: float | None
    choice: str
    reason: str
    words: str
    settling: str | None
    tries: int
    program: str = ""
    layer: str = ""
    group: str = ""
    clean: float | None = None
    lost_s: float | None = None
    aside: str | None = None


class Summary(Struct, frozen=True):
    """Rows, most seconds a week first, and the numbers of the top line."""

    rows: tuple[Row, ...] = ()
    due: int = 0
    open_verdicts: int = 0
