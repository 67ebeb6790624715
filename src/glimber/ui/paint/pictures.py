"""Pictures of one's own, as they are painted: within the folio, within limits, and never more than the place they get."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Final

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PySide6.QtGui import QImageReader, QPainter, QPixmap

from glimber.readers.safesvg import SvgError, safe_svg
from glimber.store.faults import StoreError
from glimber.store.files import read_given

LARGEST: Final = 8_000_000
MOST_PIXELS: Final = 50_000_000
MOST_SIDE: Final = 4096


def picture(folder: Path, name: str, width: float, height: float, ratio: float) -> QPixmap:
    """Return a picture of a folio as large as it fits into a place of this size; an empty one where it cannot be shown."""
    path = (folder / name).resolve()
    if not path.is_relative_to(folder.resolve()):
        return QPixmap()
    try:
        stamp = path.stat().st_mtime_ns
    except (OSError, ValueError):
        return QPixmap()
    return _picture(path, stamp, max(1, round(width * ratio)), max(1, round(height * ratio)), ratio)


@lru_cache(maxsize=64)
def _picture(path: Path, stamp: int, width: int, height: int, ratio: float) -> QPixmap:
    """``stamp``: when it was saved, so that a changed picture is read again."""
    place = QSize(min(width, MOST_SIDE), min(height, MOST_SIDE))
    try:
        data = read_given(path, LARGEST)
        found = _drawn(safe_svg(data), place) if path.suffix.lower() == ".svg" else _read(data, place)
    except (StoreError, SvgError):
        return QPixmap()
    found.setDevicePixelRatio(ratio)
    return found


def _read(data: bytes, place: QSize) -> QPixmap:
    buffer = QBuffer()
    buffer.setData(QByteArray(data))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)
    size = reader.size()
    if not size.isValid() or size.isEmpty() or size.width() * size.height() > MOST_PIXELS:
        return QPixmap()
    reader.setScaledSize(_within(size.width(), size.height(), place))
    found: QPixmap = QPixmap.fromImage(reader.read())
    return found


def _drawn(data: bytes, place: QSize) -> QPixmap:
    from PySide6.QtSvg import QSvgRenderer

    renderer = QSvgRenderer(QByteArray(data))
    size = renderer.defaultSize()
    if not renderer.isValid() or size.isEmpty():
        return QPixmap()
    pixmap = QPixmap(_within(size.width(), size.height(), place))
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    renderer.render(painter)
    painter.end()
    return pixmap


def _within(width: int, height: int, place: QSize) -> QSize:
    """Return the size with the sides' proportion that fits the place, at least a pixel each way."""
    scale = min(place.width() / width, place.height() / height)
    return QSize(max(1, round(width * scale)), max(1, round(height * scale)))
