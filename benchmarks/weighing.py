"""Weighing everything anew, as after every round: off the interface's thread, so told for information."""

from __future__ import annotations

import time
from datetime import UTC, datetime

from benchmarks.figures import Figure, office


def figures() -> list[Figure]:
    """Seconds to measure the office's bindings and to reach a verdict on each."""
    from glimber.core.weigh.measures import measure
    from glimber.core.weigh.verdict import verdicts
    from glimber.store.practice.log import open_log
    from glimber.store.toml.reading import open_folio

    opened = open_folio(office())
    with open_log(opened.folder, opened.folio.settings.log) as log:
        practice = log.practice()
    took = []
    for _ in range(4):
        began = time.perf_counter()
        ledger = measure(opened.folio, practice, datetime.now(UTC), "bench")
        verdicts(ledger)
        took.append(time.perf_counter() - began)
    note = f"{len(ledger.rows)} bindings, {len(practice.tries)} tries"
    return [Figure("weighing a folio anew", min(took), "s", note=note)]
