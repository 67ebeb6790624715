"""The linked sources of a folio: a file somewhere, the system, or a program that runs."""

from __future__ import annotations

import re
import shutil
import subprocess
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Final

from glimber.core.model.folio import Source
from glimber.store.faults import StoreError
from glimber.store.files import expanded, read_given

SECONDS: Final = 10
_OWN: Final = re.compile(r"^(\S+) custom-keybindings (\[.*\])$", re.M)
_COMMANDS: Final[Mapping[str, tuple[str, ...]]] = {
    "gsettings": ("gsettings", "list-recursively"),
    "line-editor": ("bash", "-c", "bind -p; bind -s"),
}


def path_of(source: Source, folder: Path) -> Path | None:
    """Return the file of a source, relative ones within the folio's folder; None for one of the running system."""
    return None if source.path is None else folder / expanded(source.path)


def read_source(source: Source, folder: Path) -> tuple[str, bytes]:
    """Return the name and the contents of a source. Raises StoreError where it cannot be read."""
    path = path_of(source, folder)
    if path is not None:
        return path.name, read_given(path)
    if source.running is not None:
        from glimber.store.system.running_menus import menus_apart

        name, menus = menus_apart(source.running)
        return f"{name}.menus", menus
    if source.system is None:
        raise StoreError(f"source {source.id} has none of path, system and running; add one of them to folio.toml")
    output = asked(_COMMANDS[source.system])
    return source.system, output + own_shortcuts(output) if source.system == "gsettings" else output


def asked(command: Sequence[str]) -> bytes:
    """Return what a program of the system prints. Raises StoreError where it is not there, fails or says nothing."""
    if shutil.which(command[0]) is None:
        raise StoreError(f"{command[0]} is not installed on this computer")
    try:
        done = subprocess.run(command, capture_output=True, timeout=SECONDS, check=False, stdin=subprocess.DEVNULL)
    except (OSError, subprocess.TimeoutExpired) as error:
        raise StoreError(f"{' '.join(command)}: gave no answer ({error})") from error
    if not done.stdout and (done.returncode or command[1] != "set"):
        raise StoreError(f"{' '.join(command)}: {done.stderr.decode('utf-8', 'replace').strip() or 'printed nothing'}")
    return done.stdout


def own_shortcuts(listing: bytes) -> bytes:
    """Return the shortcuts a person has made in the desktop's settings: they lie at paths that the listing only names."""
    found = []
    for schema, paths in _OWN.findall(listing.decode("utf-8", "replace")):
        for path in re.findall(r"'(/[^']*)'", paths):
            place = f"{schema}.custom-keybinding:{path}"
            for key in ("name", "binding"):
                try:
                    value = asked(("gsettings", "get", place, key)).decode("utf-8", "replace").strip()
                except StoreError:
                    break
                found.append(f"{place} {key} {value}\n")
    return "".join(found).encode()
