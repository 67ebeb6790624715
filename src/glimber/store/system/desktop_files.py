"""Install the desktop entry, icon, description, manual page and completions in the person's data folders, and remove them."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Mapping
from contextlib import suppress
from pathlib import Path
from typing import Final

from glimber.store.faults import StoreError
from glimber.store.files import write_atomically

SHARE: Final = Path(__file__).resolve().parents[2] / "share"
ID: Final = "org.glimber.Glimber"
ICON_SIZES: Final = (16, 24, 32, 48, 64, 128, 256)
Draw = Callable[[int], bytes]
"""The icon as PNG, of a size in px."""


def icon_svg() -> Path:
    """Return the icon as it was drawn."""
    return SHARE / "icons" / "glimber.svg"


def desktop_files(program: str, texts: Mapping[str, str], draw: Draw | None) -> dict[str, bytes]:
    """Return every file by its place in a folder for data. ``program``: how Glimber is started; ``texts``: the manual's page and
    the completions, by place; ``draw`` None: the icon is there as SVG only."""
    entry = (SHARE / f"{ID}.desktop").read_text("utf-8").replace("Exec=glimber", f"Exec={_quoted(program)}")
    found = {
        f"applications/{ID}.desktop": entry.encode(),
        f"metainfo/{ID}.metainfo.xml": (SHARE / f"{ID}.metainfo.xml").read_bytes(),
        f"icons/hicolor/scalable/apps/{ID}.svg": icon_svg().read_bytes(),
        **{place: text.encode() for place, text in texts.items()},
    }
    if draw is not None:
        found |= {f"icons/hicolor/{size}x{size}/apps/{ID}.png": draw(size) for size in ICON_SIZES}
    return found


def _quoted(program: str) -> str:
    """Return a program's path as an entry's Exec has it. Source: "Desktop Entry Specification", The Exec key."""
    if not any(char in program for char in " \t\"'\\><~|&;$*?#()`%"):
        return program
    inner = "".join(f"\\{char}" if char in '"`$\\' else char for char in program)
    return '"' + inner.replace("\\", "\\\\").replace("%", "%%") + '"'


def own_program() -> str:
    """Return how this Glimber is started from anywhere."""
    here = Path(sys.argv[0])
    beside = Path(sys.executable).with_name("glimber")
    if here.name == "glimber" and here.is_file():
        return str(here.absolute())
    return str(beside if beside.is_file() else shutil.which("glimber") or "glimber")


def data_folder() -> Path:
    """Return the person's folder for data of programs. Source: "XDG Base Directory Specification"."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def install(files: Mapping[str, bytes], folder: Path) -> list[Path]:
    """Write the files; where they are. Raises StoreError."""
    wrote = []
    for place, data in files.items():
        target = folder / place
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise StoreError(f"{target.parent}: cannot be made ({error.strerror})") from error
        write_atomically(target, data)
        wrote.append(target)
    _tell_desktop(folder)
    return wrote


def uninstall(places: Mapping[str, bytes], folder: Path) -> list[Path]:
    """Take away what ``install`` has written, and nothing else; what was there. Raises StoreError."""
    gone = []
    for place in places:
        target = folder / place
        try:
            target.unlink()
        except FileNotFoundError:
            continue
        except OSError as error:
            raise StoreError(f"{target}: cannot be deleted ({error.strerror})") from error
        gone.append(target)
        for above in target.parents:
            if above == folder:
                break
            with suppress(OSError):
                above.rmdir()  # only where nothing else is in it
    _forget_index(folder / "applications")
    return gone


def _forget_index(folder: Path) -> None:
    """The index that was made of our entry goes with it; one of other entries is made again."""
    if folder.is_dir() and [path.name for path in folder.iterdir()] == ["mimeinfo.cache"]:
        with suppress(OSError):
            (folder / "mimeinfo.cache").unlink()
            folder.rmdir()
            return
    _tell_desktop(folder.parent)


def _tell_desktop(folder: Path) -> None:
    """Rebuild the desktop's index of entries where there is one; without it the entry is found a little later."""
    index = "update-desktop-database"
    if shutil.which(index) is not None and (folder / "applications").is_dir():
        subprocess.run((index, str(folder / "applications")), check=False, capture_output=True)
