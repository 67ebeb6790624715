"""Files put in place whole, with a dated copy of what was there. Nothing here knows TOML."""

from __future__ import annotations

import contextlib
import os
import tempfile
from datetime import datetime
from pathlib import Path
from typing import Final

from glimber.store.faults import StoreError

BACKUPS_KEPT: Final = 200


def write_atomically(path: Path, data: bytes) -> None:
    """Replace a file so that at any moment either the old or the new one is whole. Raises StoreError."""
    temporary = None
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=path.parent, prefix=".saving-", delete=False) as file:
            temporary = Path(file.name)
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        temporary.chmod(path.stat().st_mode & 0o777 if path.exists() else 0o644)
        temporary.replace(path)
        directory = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(directory)
        finally:
            os.close(directory)
    except OSError as error:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink()
        raise StoreError(f"{path}: cannot be written ({error.strerror}); nothing was changed there") from error


def back_up(folder: Path, name: str, now: datetime) -> None:
    """Copy a file into backups/ under the moment it was replaced; the newest 200 copies are kept."""
    source = folder / name
    if not source.exists():
        return
    stamp = now.strftime("%Y-%m-%d-%H%M%S")
    target = folder / "backups" / f"{stamp}-{name.replace('/', '-')}"
    number = 1
    while target.exists():
        number += 1
        target = target.with_name(f"{stamp}-{number}-{name.replace('/', '-')}")
    write_atomically(target, source.read_bytes())
    with contextlib.suppress(OSError):
        for old in sorted((folder / "backups").iterdir())[:-BACKUPS_KEPT]:
            old.unlink()
