"""Audit the settings of a folio."""

from __future__ import annotations

import re
from collections.abc import Iterator

from glimber.core.audit.finding import Finding, check, finding
from glimber.core.audit.parts import FolioPart

_PASSWORD = re.compile(r"://[^/\s:@]+:[^/\s@]+@|[?&](?:ssl)?password=[^&]")


@check(FolioPart, {"password-in-folio": "warning"})
def passwords(part: FolioPart) -> Iterator[Finding]:
    """Report a server's address that has its password in it: the file is shared, copied and kept under version control."""
    if _PASSWORD.search(part.folio.settings.log):
        text = "The address of the practice log has a password in it; put it into ~/.pgpass and take it out here."
        yield finding("password-in-folio", "folio.toml", (), text)
