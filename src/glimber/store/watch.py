"""Notices a saved change in a folio's files at once, by whatever way the editor saves."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

from glimber.store.folder import FOLDERS


class FolioWatch:
    """A thread that calls ``changed`` after files of a folio changed on disk; saves close together are one call."""

    def __init__(self, folder: Path, changed: Callable[[], None]) -> None:
        self._folder, self._changed = folder.resolve(), changed
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="folio-watch", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        """End the thread; it notices within a fraction of a second."""
        self._stop.set()
        if self._thread.is_alive():
            self._thread.join(timeout=3)

    def _run(self) -> None:
        from watchfiles import watch

        steps = watch(self._folder, debounce=120, step=30, rust_timeout=200, yield_on_timeout=True, stop_event=self._stop,
                      watch_filter=lambda _, path: self._is_ours(path), raise_interrupt=False)  # fmt: skip
        for changes in steps:
            if self._stop.is_set():
                return
            if changes:
                self._changed()

    def _is_ours(self, path: str) -> bool:
        inside = Path(path).relative_to(self._folder) if Path(path).is_relative_to(self._folder) else None
        if inside is None or inside.suffix != ".toml" or inside.name.startswith("."):
            return False
        return str(inside) == "folio.toml" or inside.parts[0] in FOLDERS
