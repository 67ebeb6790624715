"""Makes the demo folio: the chart office with sixteen days of practice by the simulated person."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from importlib import resources
from importlib.resources.abc import Traversable
from pathlib import Path

from glimber.core.practice.tries import Round, Try
from glimber.demo.days import DAYS, first_morning, practise
from glimber.demo.prepared import prepared
from glimber.store.faults import StoreError
from glimber.store.files import write_atomically
from glimber.store.practice.log import open_log
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import keep_ids


def copy_files(folder: Path) -> list[str]:
    """Lay the demo's files into a new or empty folder; their names. Raises StoreError."""
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise StoreError(f"{folder}: already there and not empty; nothing was changed")
    root = resources.files("glimber.demo") / "folio"
    names: list[str] = []

    def lay(item: Traversable, name: str) -> None:
        if item.is_dir():
            for child in sorted(item.iterdir(), key=lambda one: one.name):
                lay(child, f"{name}/{child.name}" if name else child.name)
        elif not name.endswith((".py", ".pyc")):
            write_atomically(folder / name, item.read_bytes())
            names.append(name)

    lay(root, "")
    for sub in ("icons", "backups", "boards"):
        (folder / sub).mkdir(exist_ok=True)
    return names


def default_folder() -> Path:
    """Return where the demo is made unless a folder is named: among the person's own data."""
    from platformdirs import user_data_path

    return user_data_path("glimber") / "chart-office"


def make_demo(
    folder: Path, now: datetime, computer: str, each_day: Callable[[int], bool] = lambda day: True
) -> list[str]:
    """Make the demo folio with its practice up to yesterday. What was written, by name. Raises StoreError.

    ``each_day`` is called with the number of days done; False from it ends the practice there.
    """
    names = copy_files(folder)
    opened = open_folio(folder)
    records = prepared(now, computer)
    if records is None:
        records = practise(opened.folio, now, computer, each_day=each_day)
    else:
        stopped = next((day for day in range(1, DAYS + 1) if not each_day(day)), DAYS)
        end = first_morning(now) + timedelta(days=stopped)
        records = [one for one in records if (one.began if isinstance(one, Round) else one.at) < end]
    tried = {record.binding for record in records if isinstance(record, Try)}
    keep_ids(opened, tried, now)
    with open_log(folder, opened.folio.settings.log) as log:
        log.add(*records)
    return [*names, opened.folio.settings.log]
