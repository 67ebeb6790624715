"""A process of its own that edits texts: it is pure Python work, and must not take the interpreter from a frame."""

from __future__ import annotations

import os
from collections.abc import Mapping
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path

from glimber.readers.parent import die_with_parent
from glimber.store.toml.normal_form import Part
from glimber.store.toml.writing import Edited, edited_texts


class SaveHelper:
    """``start`` begins the process; until it is up, and after it broke, the work is done here."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None
        self._ready: Future[bool] | None = None

    def start(self) -> None:
        """Begin the process, without waiting for it."""
        self._pool = ProcessPoolExecutor(1, get_context("spawn"), die_with_parent, (os.getpid(),))
        self._ready = self._pool.submit(_warm)

    def edit(
        self, folder: Path, texts: Mapping[str, bytes], before: Mapping[str, Part], after: Mapping[str, Part]
    ) -> Edited:
        """As ``edited_texts``, over there where it can be."""
        if self._pool is not None and self._ready is not None and self._ready.done():
            try:
                return self._pool.submit(edited_texts, folder, dict(texts), before, after).result()
            except BrokenProcessPool:
                self._pool = None
        return edited_texts(folder, texts, before, after)

    def close(self) -> None:
        """End the process."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None


def _warm() -> bool:
    """Return what a first edit would have to load is loaded."""
    import signal

    signal.signal(
        signal.SIGINT, signal.SIG_IGN
    )  # Ctrl+C in a terminal goes to everybody; this process ends with its window
    import glimber.store.toml.reading  # noqa: F401  # loaded with this module; named for what it is

    return True
