"""The shipped type: where its files are, and its metrics for laying out text."""

from __future__ import annotations

import contextlib
import json
from functools import cache
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from msgspec.structs import asdict

from glimber.core.drawing.metrics import Face
from glimber.store.cache.folio_cache import cache_file
from glimber.store.faults import StoreError
from glimber.store.files import write_atomically

if TYPE_CHECKING:
    from glimber.core.drawing.drawing import Drawing

WEIGHTS: Final = {400: "Regular", 500: "Medium", 600: "SemiBold", 700: "Bold"}


@cache
def _folder() -> Path:
    """Return where the package is, found without importing it: its import reads all its files."""
    spec = find_spec("font_manrope")
    assert spec is not None and spec.submodule_search_locations
    return Path(spec.submodule_search_locations[0]) / "files"


def font_file(weight: int) -> Path:
    """Return the Manrope file of a weight."""
    return _folder() / f"Manrope-{WEIGHTS[weight]}.ttf"


def face(weight: int) -> Face:
    """Metrics of a weight, read from the font file."""
    from fontTools.ttLib import TTFont

    with TTFont(font_file(weight), lazy=True) as font:
        units = font["head"].unitsPerEm
        widths = font["hmtx"].metrics
        advances = {chr(code): widths[name][0] / units for code, name in font.getBestCmap().items()}
        ascent, descent = font["hhea"].ascent / units, -font["hhea"].descent / units
        cap = getattr(font["OS/2"], "sCapHeight", 0) / units
    return Face("Manrope", weight, advances, ascent, descent, cap or 0.7)


@cache
def faces() -> dict[int, Face]:
    """Return all weights that drawings use; kept among the caches, since reading them takes longer than drawing a card."""
    state = [[state.st_size, state.st_mtime_ns] for state in (font_file(weight).stat() for weight in WEIGHTS)]
    file = cache_file("faces.json")
    try:
        kept = json.loads(file.read_text("utf-8"))
        if kept["state"] == state:
            return {one["weight"]: _face(one) for one in kept["faces"]}
    except (OSError, ValueError, KeyError, TypeError):
        pass
    found = {weight: face(weight) for weight in WEIGHTS}
    with contextlib.suppress(StoreError):
        text = json.dumps({"state": state, "faces": [_plain(one) for one in found.values()]})
        write_atomically(file, text.encode())
    return found


_UNITS: Final = 2000
"""Manrope's units an em. Advances are kept in them: a thousand are read at each start, and decimals take longer."""


def _plain(face: Face) -> dict[str, object]:
    plain = asdict(face)
    advances = plain.pop("advances")
    return {**plain, "chars": "".join(advances), "widths": [round(width * _UNITS) for width in advances.values()]}


def _face(plain: dict[str, Any]) -> Face:
    widths = [width / _UNITS for width in plain.pop("widths")]
    return Face(advances=dict(zip(plain.pop("chars"), widths, strict=True)), **plain)


def carried_fonts(drawing: Drawing) -> dict[int, str]:
    """For each weight a drawing uses, a font of Latin and the drawing's other characters, base64.

    An SVG carries it to look the same on a machine without the face. Latin is always whole, so that one font serves all
    cards of a folio.
    """
    wanted: dict[int, set[str]] = {}
    for _, text in drawing.texts():
        wanted.setdefault(text.weight, set()).update(text.text)
    return {weight: _carried(weight, "".join(sorted(chars - _LATIN))) for weight, chars in sorted(wanted.items())}


_LATIN: Final = frozenset(map(chr, [*range(0x20, 0x7F), *range(0xA0, 0x100)])) | set("–—…·←↑→↓−“”‘’")


@cache
def _carried(weight: int, others: str) -> str:
    import base64
    import io

    from fontTools import subset

    options = subset.Options(layout_features=["kern"], name_IDs=[1, 2], hinting=False)
    chosen = subset.Subsetter(options)
    chosen.populate(text="".join(sorted(_LATIN)) + others)
    data = io.BytesIO()
    with subset.load_font(str(font_file(weight)), options) as font:
        chosen.subset(font)
        font.save(data)
    return base64.b64encode(data.getvalue()).decode("ascii")
