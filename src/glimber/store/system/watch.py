"""Notices saved changes at once, by whatever way the editor saves: in place, or by renaming a new file over the old one."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import Final

from glimber.store.folder import FOLDERS

_AGAIN_S: Final = 0.5
_POLL_MS: Final = 500
_EXHAUSTED: Final = ("watch limit", "Too many open files", "No space left")
"""The message where inotify has no instance or watch left. Source: inotify_init(2), inotify_add_watch(2)."""


class PathsWatch:
    """A thread that calls ``changed`` with the files that were saved; saves close together are one call.

    Folders are watched, not files: a file that is renamed over another is a new one.
    """

    def __init__(self, folders: Iterable[Path], is_ours: Callable[[Path], bool], changed: Callable[[set[Path]], None]):
        self._folders = [folder for folder in dict.fromkeys(folder.resolve() for folder in folders) if folder.is_dir()]
        self._is_ours, self._changed = is_ours, changed
        self._stop = threading.Event()
        self._polling = False
        self._thread = threading.Thread(target=self._run, name="watch", daemon=True)

    def start(self) -> None:
        if self._folders:
            self._thread.start()

    def stop(self) -> None:
        """End the thread; it notices within a fraction of a second."""
        self._stop.set()
        if self._thread.is_alive():
            self._thread.join(timeout=3)

    def _run(self) -> None:
        while not self._stop.is_set():
            there = self._identities()
            for changes in self._steps():
                if self._stop.is_set():
                    return
                if changes:
                    self._changed(changes)
                if self._identities() != there:
                    break  # another folder has the name now: what is watched is the one that was
            else:
                self._stop.wait(_AGAIN_S)  # nothing is there to be watched
            if not self._stop.is_set() and self._identities() != there:
                self._changed(set(self._folders))

    def _steps(self) -> Iterator[set[Path]]:
        """Return what was saved since the last look, and every now and then nothing; ends where no folder is there."""
        from watchfiles import watch

        folders = [folder for folder in self._folders if folder.is_dir()]
        if not folders:
            return
        steps = watch(*folders, debounce=120, step=30, rust_timeout=200, yield_on_timeout=True, stop_event=self._stop,
                      watch_filter=lambda _, path: self._is_ours(Path(path)), raise_interrupt=False,
                      force_polling=self._polling or None, poll_delay_ms=_POLL_MS)  # fmt: skip
        try:
            for changes in steps:
                yield {Path(path) for _, path in changes}
        except (OSError, RuntimeError) as error:
            # The system lets a person watch so many places and no more; otherwise it is a folder that went just then.
            self._polling = self._polling or any(sign in str(error) for sign in _EXHAUSTED)

    def _identities(self) -> list[tuple[int, int] | None]:
        """Device and inode of each watched folder, None where it is not there."""
        return [_identity(folder) for folder in self._folders]


def _identity(folder: Path) -> tuple[int, int] | None:
    try:
        state = folder.stat()
    except OSError:
        return None
    return state.st_dev, state.st_ino


class FolioWatch(PathsWatch):
    """Watches the files of a folio."""

    def __init__(self, folder: Path, changed: Callable[[], None]) -> None:
        self._folio = folder.resolve()
        super().__init__([folder], self._is_a_file_of_it, lambda _: changed())

    def _is_a_file_of_it(self, path: Path) -> bool:
        inside = path.relative_to(self._folio) if path.is_relative_to(self._folio) else None
        if inside is None or str(inside) in FOLDERS:
            return inside is not None  # a folder that was renamed into place, or away
        if inside.suffix != ".toml" or inside.name.startswith("."):
            return False
        return str(inside) == "folio.toml" or inside.parts[0] in FOLDERS


class FilesWatch(PathsWatch):
    """Watches some files, wherever they are."""

    def __init__(self, files: Iterable[Path], changed: Callable[[set[Path]], None]) -> None:
        wanted = {file.resolve() for file in files}
        super().__init__({file.parent for file in wanted}, lambda path: path.resolve() in wanted, changed)
