"""Configuration lines: the keys of a line are replaced, the line's other words and every other line stay."""

from __future__ import annotations

from collections.abc import Sequence

from glimber.writers.lines import Format, rewrite
from glimber.writers.wanted import Rewritten, Wanted


def write(data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Set what is wanted in the lines of a configuration."""
    return rewrite(Format("config"), data, wanted)


WRITERS = {"config": write}
