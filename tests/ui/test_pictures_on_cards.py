"""Pictures of one's own on keys: the same in every output, and nothing of one that is not to be trusted."""

from __future__ import annotations

from base64 import b64decode
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QColor, QImage

from glimber.core.cards.kinds import draw_card
from glimber.core.drawing.drawing import Image, Picture
from glimber.core.drawing.svg import to_svg
from glimber.core.model.shelf import shelf
from glimber.store.cache.fonts import faces
from glimber.store.cache.pictures import LARGEST, icons_of
from glimber.store.toml.reading import open_folio
from glimber.ui.paint.look import PAPER
from glimber.ui.paint.pdf import pdf_bytes
from glimber.ui.paint.png import write_png
from tests.helpers import LAYOUT, write_folio

SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 10"><rect width="20" height="10" fill="#12ab34"/></svg>'


def encoded(kind: str, width: int = 40, height: int = 20) -> bytes:
    image = QImage(width, height, QImage.Format.Format_RGB32)
    image.fill(QColor("#12ab34"))
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    assert image.save(buffer, kind)  # type: ignore[call-overload]
    return bytes(data.data())


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    layout = LAYOUT.replace('reason = "S as in sounding"', 'picture = "icons/buoy.x", reason = "S as in sounding"')
    path = write_folio(tmp_path / "small", {"layouts/split-42.toml": layout})
    (path / "icons").mkdir(exist_ok=True)
    return path


def with_picture(folder: Path, name: str, data: bytes) -> Any:
    """The card of the draw layer with labels and icons, its picture of this name."""
    layout = folder / "layouts" / "split-42.toml"
    layout.write_text(layout.read_text().replace("icons/buoy.x", name))
    (folder / "icons" / "buoy.x").unlink(missing_ok=True)
    if name.startswith("icons/"):
        (folder / name).write_bytes(data)
    folio = open_folio(folder).folio
    card = shelf(folio)["board-split-42-draw"].card
    from msgspec.structs import replace

    return draw_card(folio, replace(card, shows=("labels", "icons")), faces(), "", icons_of(folder))[0]


@pytest.mark.parametrize(("name", "data"), [
    ("icons/buoy.png", encoded("PNG")), ("icons/buoy.jpg", encoded("JPG")), ("icons/buoy.jpeg", encoded("JPG")), ("icons/buoy.svg", SVG.encode()),
])  # fmt: skip
def test_a_picture_is_on_its_key_in_every_output(folder: Path, qapp: Any, tmp_path: Path, name: str, data: bytes) -> None:
    sheet = with_picture(folder, name, data)
    key = sheet.find("KeyS")
    (image,) = [item for item in key.items if isinstance(item, Image)]
    tile = key.items[0]
    assert tile.x <= image.x and image.x + image.w <= tile.x + tile.w and image.w == pytest.approx(2 * image.h)
    root = ElementTree.fromstring(to_svg(sheet, PAPER))
    (drawn,) = root.iter("{http://www.w3.org/2000/svg}image")
    mime, _, kept = drawn.get("href", "").removeprefix("data:").partition(";base64,")
    assert b64decode(kept) == data and mime in ("image/png", "image/jpeg", "image/svg+xml")
    write_png(sheet, tmp_path / "card.png")
    picture = QImage(str(tmp_path / "card.png"))
    at = picture.pixelColor(round((image.x + image.w / 2) * 300 / 25.4), round((image.y + image.h / 2) * 300 / 25.4))
    assert abs(at.red() - 0x12) < 12 and abs(at.green() - 0xAB) < 12 and abs(at.blue() - 0x34) < 12
    assert pdf_bytes([sheet]).startswith(b"%PDF")


@pytest.mark.parametrize(("name", "data"), [
    ("icons/buoy.svg", SVG.replace("<rect", "<script/><rect").encode()), ("icons/buoy.svg", b"<svg"), ("icons/buoy.svg", b""),
    ("icons/buoy.svg", SVG.replace('viewBox="0 0 20 10"', 'width="0" height="0"').encode()),
    ("icons/buoy.svg", SVG.replace('viewBox="0 0 20 10"', 'viewBox="0 0 1e99 1"').encode()),
    ("icons/buoy.png", b"\x89PNG\r\n\x1a\n" + b"\x00\x00\x00\rIHDR\x7f\xff\xff\xff\x7f\xff\xff\xff"), ("icons/buoy.png", b"a letter"),
    ("icons/buoy.png", b"\x89PNG\r\n\x1a\n"), ("icons/buoy.jpg", b"\xff\xd8\xff"), ("icons/buoy.jpg", b"\xff\xd8" + b"\xff\xe0\x00\x00" * 5),
    ("icons/buoy.png", encoded("PNG") + b"\0" * LARGEST), ("../outside.png", b""), ("/etc/hostname.png", b""), ("icons/gone.gif", b""),
])  # fmt: skip
def test_a_picture_that_cannot_be_shown_leaves_the_label(folder: Path, qapp: Any, name: str, data: bytes) -> None:
    (folder.parent / "outside.png").write_bytes(encoded("PNG"))
    key = with_picture(folder, name, data).find("KeyS")
    assert not [item for item in key.items if isinstance(item, Image)]
    assert "Sounding" in [getattr(item, "text", "") for item in key.items]


@pytest.mark.parametrize(("width", "height", "proportion"), [(20, 20, 1.0), (400, 10, 8.0), (10, 400, 0.125), (80, 10, 8.0), (79, 10, 7.9)])
def test_very_flat_pictures_stay_within_bounds(folder: Path, qapp: Any, width: int, height: int, proportion: float) -> None:
    (folder / "icons" / "flat.png").write_bytes(encoded("PNG", width, height))
    found = icons_of(folder)("icons/flat.png")
    assert isinstance(found, Picture) and found.proportion == pytest.approx(proportion)
