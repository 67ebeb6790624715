"""A process of its own that edits texts: it is pure Python work, and must not take the interpreter from a frame."""

from __future__ import annotations

import contextlib
import os
import signal
from collections.abc import Mapping
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path
from typing import Final

from glimber.readers.parent import die_with_parent
from glimber.store.toml.normal_form import Part
from glimber.store.toml.writing import Edited, edited_texts

PATIENCE_S: Final = 20.0
"""The longest that the process is waited for: an edit of 5,000 bindings takes it a second."""


class SaveHelper:
    """``start`` begins the process; until it is up, and after it broke or gave no answer, the work is done here."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None
        self._ready: Future[int] | None = None

    def start(self) -> None:
        """Begin the process, without waiting for it."""
        self._pool = ProcessPoolExecutor(1, get_context("spawn"), die_with_parent, (os.getpid(),))
        self._ready = self._pool.submit(_warm)

    def edit(
        self, folder: Path, texts: Mapping[str, bytes], before: Mapping[str, Part], after: Mapping[str, Part]
    ) -> Edited:
        """As ``edited_texts``, over there where it can be."""
        pool = self._pool
        if pool is not None and self._ready is not None and self._ready.done():
            try:
                return pool.submit(edited_texts, folder, dict(texts), before, after).result(PATIENCE_S)
            except (BrokenProcessPool, TimeoutError, CancelledError):
                self._give_up()
        return edited_texts(folder, texts, before, after)

    def _give_up(self) -> None:
        """End a process that broke or hangs; the end of this one would wait for it."""
        with contextlib.suppress(BrokenProcessPool, ProcessLookupError):
            if self._ready is not None:
                os.kill(self._ready.result(), signal.SIGKILL)
        self.close()

    def close(self) -> None:
        """End the process."""
        pool, self._pool = self._pool, None
        if pool is not None:
            pool.shutdown(wait=False, cancel_futures=True)


def _warm() -> int:
    """Load what a first edit would have to, and return the id of this process."""
    # Ctrl+C in a terminal goes to everybody; this process ends with its window.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    import glimber.store.toml.reading  # noqa: F401  # loaded with this module; named for what it is

    return os.getpid()
