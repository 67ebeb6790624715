"""The declaration of a reader. A module of this package declares its own in ``READERS``, and nothing else names them."""

from __future__ import annotations

import re
from collections.abc import Callable

from msgspec import Struct

from glimber.readers.found import Found, Options


class Reader(Struct, frozen=True):
    """A kind of source, and how it is recognised and read.

    ``endings`` of file names, with their dot; ``signs``: how sure a pattern found in the first characters makes of the kind,
    0 to 1; ``unpacks``: the reader has limits of its own for what a source unpacks to.
    """

    kind: str
    read: Callable[[bytes, Options], Found]
    endings: tuple[str, ...] = ()
    signs: tuple[tuple[float, re.Pattern[str]], ...] = ()
    unpacks: bool = False
