"""Pictures of one's own as cards draw them: within the folio, within limits, checked before anything of them is shown."""

from __future__ import annotations

import struct
from base64 import b64encode
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Final

from glimber.core.drawing.drawing import Picture, Steps
from glimber.store.cache.icons import icon
from glimber.store.faults import StoreError
from glimber.store.files import read_given

LARGEST: Final = 2_000_000
MOST_PIXELS: Final = 50_000_000
ENDINGS: Final = (".png", ".jpg", ".jpeg", ".svg")
_FLATTEST: Final = 8.0


def icons_of(folder: Path) -> Callable[[str], Steps | Picture | None]:
    """Icons of the set by name, and the folio's own pictures by their file's name; None for what cannot be shown."""
    root = folder.resolve()

    def found(name: str) -> Steps | Picture | None:
        if not name.lower().endswith(ENDINGS):
            return icon(name)
        try:
            path = (root / name).resolve()
            return _read(path, path.stat().st_mtime_ns) if path.is_relative_to(root) else None
        except (OSError, ValueError, RuntimeError):  # nothing there; a name no file can have; links that go round
            return None

    return found


@lru_cache(maxsize=256)
def _read(path: Path, stamp: int) -> Picture | None:
    """``stamp``: when it was saved, so that a changed picture is read again."""
    try:
        data = read_given(path, LARGEST)
    except StoreError:
        return None
    if path.suffix.lower() == ".svg":
        return _drawing(data)
    size, mime = (
        (_png_size(data), "image/png") if data.startswith(b"\x89PNG\r\n\x1a\n") else (_jpeg_size(data), "image/jpeg")
    )
    if size is None or not 0 < size[0] * size[1] <= MOST_PIXELS:
        return None
    return Picture(b64encode(data).decode(), mime, _proportion(*size))


def _drawing(data: bytes) -> Picture | None:
    from glimber.readers.safesvg import SvgError, parse_svg, safe_svg

    try:
        root = parse_svg(safe_svg(data))
        box = [float(part) for part in root.get("viewBox", "").replace(",", " ").split()]
        width, height = box[2:] if len(box) == 4 else (_length(root.get("width")), _length(root.get("height")))
    except (SvgError, ValueError):
        return None
    if not (0 < width < 1e9 and 0 < height < 1e9):
        return None
    return Picture(b64encode(data).decode(), "image/svg+xml", _proportion(width, height))


def _length(text: str | None) -> float:
    return float((text or "").rstrip("pxmtci%n ") or 0)


def _proportion(width: float, height: float) -> float:
    return min(_FLATTEST, max(1 / _FLATTEST, width / height))


def _png_size(data: bytes) -> tuple[int, int] | None:
    if len(data) < 24 or data[12:16] != b"IHDR":
        return None
    width, height = struct.unpack(">II", data[16:24])
    return width, height


def _jpeg_size(data: bytes) -> tuple[int, int] | None:
    """From the first frame header; None for what is no JPEG."""
    if not data.startswith(b"\xff\xd8"):
        return None
    at = 2
    while at + 9 < len(data) and data[at] == 0xFF:
        marker, length = data[at + 1], struct.unpack(">H", data[at + 2 : at + 4])[0]
        if 0xC0 <= marker <= 0xCF and marker not in (0xC4, 0xC8, 0xCC):
            height, width = struct.unpack(">HH", data[at + 5 : at + 9])
            return width, height
        at += 2 + length
    return None
