"""Reports of a Glimber that crashed, kept in the person's folder for program state and nowhere else."""

from __future__ import annotations

import faulthandler
import os
import platform
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import Final

from glimber import __version__
from glimber.store.system.logs import log_file

REPORTS_KEPT: Final = 5
_LAST_LINES: Final = 60
_open: list[object] = []


def reports_folder() -> Path:
    """Return where reports are."""
    from platformdirs import user_state_path

    return user_state_path("glimber") / "reports"


def _running(process: int) -> Path:
    return reports_folder() / f"running-{process}.txt"


def arm(now: datetime) -> Path | None:
    """From now on an end in the middle leaves a report; the report of the last one that ended so, None where none did."""
    found = None
    with suppress(OSError):
        folder = reports_folder()
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        for left in sorted(folder.glob("running-*.txt")):
            process = left.stem.partition("-")[2]
            if not process.isdigit() or not _runs(int(process), left):
                found = _report(left, now)
        mine = _running(os.getpid()).open("w", encoding="utf-8")
        what = f"Glimber {__version__}, Python {platform.python_version()}, {platform.platform()}"
        mine.write(f"{what}\nstarted {now:%Y-%m-%d %H:%M}\n\n")
        mine.flush()
        faulthandler.enable(mine)
        _open.append(mine)
        for old in sorted(folder.glob("crash-*.txt"))[:-REPORTS_KEPT]:
            old.unlink()
    return found


def _runs(process: int, left: Path) -> bool:
    """Return True if a process still runs that began before its file was last written."""
    if process == os.getpid():
        return bool(_open)  # else of one that had the same number before
    try:
        began = Path(f"/proc/{process}").stat().st_mtime
    except OSError:
        return False
    return began <= left.stat().st_mtime + 1


def _report(left: Path, now: datetime) -> Path:
    """Return what a process left, made into a report with the end of the log file."""
    target = left.with_name(f"crash-{now:%Y-%m-%d-%H%M%S}.txt")
    text = left.read_text("utf-8", "replace")
    with suppress(OSError):
        lines = log_file().read_text("utf-8", "replace").splitlines()[-_LAST_LINES:]
        text += "\nThe end of the log file:\n" + "\n".join(lines) + "\n"
    target.write_text(text, "utf-8")
    target.chmod(0o600)
    left.unlink()
    return target


def keep_report(why: str) -> Path | None:
    """End without taking the report away: the next start tells it, with ``why``. Returns the report; None where there is none."""
    faulthandler.disable()
    path = _running(os.getpid())
    with suppress(OSError):
        with path.open("a", encoding="utf-8") as report:
            report.write(f"{why}\n")
        return path
    return None


def disarm() -> None:
    """It ended as it should: nothing is left."""
    faulthandler.disable()
    for one in _open:
        one.close()  # type: ignore[attr-defined]
    _open.clear()
    with suppress(OSError):
        _running(os.getpid()).unlink(missing_ok=True)
