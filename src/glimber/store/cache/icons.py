"""Outlines of icons, from the Phosphor set in the icon package: so that cards carry shapes and need no icon font."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import cache
from importlib.util import find_spec
from pathlib import Path
from typing import Any

from glimber.core.drawing.drawing import Steps


@cache
def _files() -> tuple[Path, Path] | None:
    """Return the font and its table of names; None where the icon package is not installed."""
    spec = find_spec("qtawesome")
    if spec is None or not spec.submodule_search_locations:
        return None
    folder = Path(spec.submodule_search_locations[0]) / "fonts"
    fonts, tables = sorted(folder.glob("phosphor-[0-9]*.ttf")), sorted(folder.glob("phosphor-charmap-*.json"))
    return (fonts[-1], tables[-1]) if fonts and tables else None


@cache
def icon_names() -> Mapping[str, int]:
    """Return names of all icons and their characters; empty where the icon package is not installed."""
    files = _files()
    if files is None:
        return {}
    table = json.loads(files[1].read_text("utf-8"))
    return {name.removeprefix("ph."): int(code, 16) for name, code in table.items()}


@cache
def _font() -> Any:
    from fontTools.ttLib import TTFont

    files = _files()
    assert files is not None
    # Lazily, and kept open: of five thousand outlines a sheet needs a dozen.
    font = TTFont(files[0], lazy=True)
    return font.getGlyphSet(), font.getBestCmap(), font["head"].unitsPerEm, font["hhea"].ascent


@cache
def _kept() -> dict[str, Steps]:
    """Outlines that were drawn before, from the person's caches: the font need not be opened for them."""
    try:
        plain = json.loads(_cache().read_text("utf-8"))
        return {str(name): tuple(map(tuple, steps)) for name, steps in plain.items()}
    except (OSError, ValueError, TypeError, AttributeError):
        return {}


def _cache() -> Path:
    """Return where outlines are kept; a font of another size or age has another file."""
    from glimber.store.cache.folio_cache import cache_file

    files = _files()
    state = files[0].stat() if files is not None else None
    return cache_file(f"icons-{state.st_size}-{state.st_mtime_ns}.json" if state is not None else "icons-none.json")


def keep_icons() -> None:
    """Keep the outlines drawn so far for the next start; a cache that cannot be written is only slower."""
    from glimber.store.faults import StoreError
    from glimber.store.files import write_atomically

    drawn = dict(_drawn)
    if drawn.keys() <= _kept().keys():
        return
    try:
        write_atomically(_cache(), json.dumps({**_kept(), **drawn}).encode())
    except StoreError:
        return
    _kept.cache_clear()


_drawn: dict[str, Steps] = {}


def icon(name: str) -> Steps | None:
    """Return the outline of an icon in a square of side 1, x right and y down; None for a name the set does not have."""
    if name not in _drawn:
        found = _kept().get(name) or _outline(name)
        if found is None:
            return None
        _drawn[name] = found
    return _drawn[name]


def _outline(name: str) -> Steps | None:
    code = icon_names().get(name)
    if code is None:
        return None
    from fontTools.pens.basePen import BasePen

    glyphs, characters, units, ascent = _font()
    steps: list[tuple[str | float, ...]] = []

    def place(*points: tuple[float, float]) -> tuple[float, ...]:
        return tuple(value for x, y in points for value in (x / units, (ascent - y) / units))

    class Outline(BasePen):  # type: ignore[misc]
        """Writes curves as a drawing has them; quadratic ones come as cubic by the base class."""

        def _moveTo(self, pt: tuple[float, float]) -> None:
            steps.append(("M", *place(pt)))

        def _lineTo(self, pt: tuple[float, float]) -> None:
            steps.append(("L", *place(pt)))

        def _curveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float], pt3: tuple[float, float]) -> None:
            steps.append(("C", *place(pt1, pt2, pt3)))

        def _closePath(self) -> None:
            steps.append(("Z",))

    glyphs[characters[code]].draw(Outline(glyphs))
    return tuple(steps)
