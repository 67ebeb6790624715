"""The linked sources of a folio: a file somewhere, or the running system."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Mapping
from pathlib import Path
from typing import Final

from glimber.core.folio.folio import Source
from glimber.store.faults import StoreError
from glimber.store.files import expanded, read_given

SECONDS: Final = 10
_COMMANDS: Final[Mapping[str, tuple[str, ...]]] = {
    "gsettings": ("gsettings", "list-recursively"),
    "line-editor": ("bash", "-c", "bind -p; bind -s"),
}


def path_of(source: Source, folder: Path) -> Path | None:
    """The file of a source, relative ones within the folio's folder; None for one of the running system."""
    return None if source.path is None else folder / expanded(source.path)


def read_source(source: Source, folder: Path) -> tuple[str, bytes]:
    """The name and the contents of a source. Raises StoreError where it cannot be read."""
    path = path_of(source, folder)
    if path is not None:
        return path.name, read_given(path)
    if source.system is None:
        raise StoreError(f"source {source.id} has neither path nor system; add one of them to folio.toml")
    command = _COMMANDS[source.system]
    if shutil.which(command[0]) is None:
        raise StoreError(f"{command[0]} is not installed on this computer")
    try:
        done = subprocess.run(command, capture_output=True, timeout=SECONDS, check=False, stdin=subprocess.DEVNULL)
    except (OSError, subprocess.TimeoutExpired) as error:
        raise StoreError(f"{' '.join(command)}: gave no answer ({error})") from error
    if not done.stdout:
        raise StoreError(f"{' '.join(command)}: {done.stderr.decode('utf-8', 'replace').strip() or 'printed nothing'}")
    return source.system, done.stdout
