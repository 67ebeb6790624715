"""Many values held in a file: what no test of one rule sees changes something there.

A file is made anew by running its test's module, and looked through before it is committed: a value may only be another where a
rule was meant to be another.
"""

from __future__ import annotations

import json
import math
import tempfile
from collections.abc import Callable, Iterator, Mapping
from datetime import date, datetime, time
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import asdict

from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Sequence, Spot


def plain(value: Any) -> Any:
    """A value as JSON has it."""
    if isinstance(value, Spot | Sequence):
        return str(value)
    if isinstance(value, Struct):
        return plain(asdict(value))
    if isinstance(value, dict) or hasattr(value, "items"):
        return {str(key): plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [plain(one) for one in value]
    if isinstance(value, date | datetime | time):
        return str(value)
    return value.tolist() if hasattr(value, "tolist") else value


def flat(value: Any, path: str = "") -> Iterator[tuple[str, Any]]:
    if isinstance(value, dict):
        for key, one in value.items():
            yield from flat(one, f"{path}/{key}")
    elif isinstance(value, list | tuple):
        yield f"{path}#", len(value)
        for place, one in enumerate(value):
            yield from flat(one, f"{path}/{place}")
    else:
        yield path, value


def alike(one: Any, other: Any) -> bool:
    if isinstance(one, float) or isinstance(other, float):
        return isinstance(one, int | float) and isinstance(other, int | float) and math.isclose(one, other, rel_tol=1e-4, abs_tol=1e-6)
    return bool(one == other)


def differences(file: Path, now: Mapping[str, Any]) -> dict[str, tuple[Any, Any]]:
    """What is another than in the file, then and now by path."""
    held = dict(flat(json.loads(file.read_text())))
    paths = [*held, *(path for path in now if path not in held)]
    return {path: (held.get(path), now.get(path)) for path in paths if not alike(held.get(path), now.get(path))}


def hold(file: Path, values: Callable[[Folio], Any]) -> None:
    """Make a file anew from the chart office, with seven figures of each number."""
    from glimber.demo.build import copy_files
    from glimber.store.toml.reading import open_folio

    folder = Path(tempfile.mkdtemp()) / "office"
    copy_files(folder)
    rounded = json.loads(json.dumps(values(open_folio(folder).folio)), parse_float=lambda text: float(f"{float(text):.7g}"))
    text = json.dumps(rounded, separators=(",", ":"), ensure_ascii=False)
    file.write_text(text.replace('],"', '],\n"').replace('},"', '},\n"') + "\n")
