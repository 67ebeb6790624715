"""Read linked sources again and compare them with the folio."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from glimber.core.edit.compare import Incoming, compare, likely_program, merged
from glimber.core.model.describe import count_words
from glimber.core.model.folio import Folio
from glimber.readers.found import Options, for_this_system
from glimber.readers.process import read_apart
from glimber.store.agreements import refuse_unagreed
from glimber.store.faults import StoreError
from glimber.store.settings import load_settings
from glimber.store.system.accessibility import BusOffError, NotRunningError
from glimber.store.system.sources import read_source


def changed_outside(folio: Folio, folder: Path, checkpoint: Callable[[], None] = lambda: None) -> list[str]:
    """Return a sentence for every linked source that has rows to import, or that cannot be read."""
    found = []
    for source in folio.settings.sources.values():
        checkpoint()
        try:
            refuse_unagreed(source, folder)
            name, data = read_source(source, folder)
        except (BusOffError, NotRunningError):
            continue  # it is compared when it runs again
        except StoreError as error:
            found.append(f"{source.id}: {error}")
            continue
        options = Options(source.column, lambda count: checkpoint(), system=load_settings().system, bundles=folio.bundles)
        rows = merged(
            Incoming(row.command, row.triggers, row.group, row.note, row.slow_way, row.words, row.keys_of)
            for row in for_this_system(read_apart(name, data, options).found)
        )
        program = source.program or likely_program(folio, rows)
        count = sum(one.to_take for one in compare(folio, program, rows)) if program is not None else len(rows)
        if count:
            found.append(f"{source.id}: {count_words(count, 'row')} to import")
    return found
