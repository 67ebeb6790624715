"""SVG, PDF and PNG of a card are the same picture: each is turned into pixels by another program than the one that wrote it."""

from __future__ import annotations

import io
import shutil
import subprocess
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtSvg import QSvgRenderer

from glimber.core.cards.kinds import draw_card
from glimber.core.drawing.drawing import Drawing, Text
from glimber.core.drawing.svg import to_svg
from glimber.core.model.folio import Folio
from glimber.core.model.shelf import shelf
from glimber.store.cache.fonts import faces
from glimber.ui.paint.look import PAPER
from glimber.ui.paint.outlines import outlined
from glimber.ui.paint.pdf import pdf_bytes, write_pdf
from glimber.ui.paint.png import write_png

WIDE = 900
BLUR = 3
MEAN, STRONG = 2.5, 0.012
"""Of 255: how far pixels may be apart in the mean of small squares; and which share of squares may be further apart than 40."""


def pixels(image: QImage) -> Any:
    """Grey values, in squares of some pixels: edges that are smoothed in another way are the same picture."""
    scaled = image.convertToFormat(QImage.Format.Format_RGB32).scaledToWidth(WIDE, Qt.TransformationMode.SmoothTransformation)
    grey = scaled.convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(grey.constBits(), np.uint8).reshape(grey.height(), grey.bytesPerLine())[:, : grey.width()].astype(float)
    height, width = (side // BLUR * BLUR for side in rows.shape)
    return rows[:height, :width].reshape(height // BLUR, BLUR, width // BLUR, BLUR).mean(axis=(1, 3))


def from_svg(text: str, size: tuple[int, int]) -> QImage:
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    QSvgRenderer(text.encode()).render(painter, QRectF(0, 0, *size))
    painter.end()
    return image


def from_pdf(file: Path) -> QImage:
    subprocess.run(["pdftoppm", "-r", "220", "-png", "-singlefile", str(file), str(file.with_suffix(""))], check=True)
    return QImage(str(file.with_suffix(".png")))


def apart(one: Any, other: Any) -> tuple[float, float]:
    height = min(one.shape[0], other.shape[0])
    assert abs(one.shape[0] - other.shape[0]) <= 1
    difference = np.abs(one[:height] - other[:height])[1:-1, 1:-1]
    return float(difference.mean()), float((difference > 40).mean())


def without_text(sheet: Drawing) -> Drawing:
    return replace(sheet, groups=tuple(
        replace(group, items=tuple(item for item in group.items if not isinstance(item, Text))) for group in sheet.groups))  # fmt: skip


@pytest.mark.skipif(shutil.which("pdftoppm") is None, reason="poppler-utils is not installed")
@pytest.mark.parametrize("id", ["draw", "grid-shoalwright", "branch-shoalwright", "strip-survey-line", "side-pad"])
def test_the_three_outputs_are_the_same_picture(office: Folio, qapp: Any, tmp_path: Path, id: str) -> None:
    """Text of the SVG is compared as text: the toolkit's own reader of SVG sets small type in whole pixels."""
    sheet = draw_card(office, shelf(office)[id].card, faces(), "Chart office, 25 Nov")[0]
    png, pdf = tmp_path / "a.png", tmp_path / "b.pdf"
    write_png(sheet, png)
    write_pdf([sheet], pdf)
    picture = QImage(str(png))
    mean, strong = apart(pixels(picture), pixels(from_pdf(pdf)))
    assert mean < MEAN and strong < STRONG
    bare = without_text(sheet)
    write_png(bare, png)
    reference, size = pixels(QImage(str(png))), (picture.width(), picture.height())
    mean, strong = apart(reference, pixels(from_svg(to_svg(bare, PAPER), size)))
    assert mean < MEAN and strong < STRONG
    missing = replace(bare, groups=bare.groups[:1])
    assert apart(reference, pixels(from_svg(to_svg(missing, PAPER), size)))[0] > mean  # what is missing would be seen
    written = [
        (one.text or "", float(one.get("x", "")), float(one.get("y", "")), float(one.get("font-size", "")), one.get("text-anchor"))
        for one in ElementTree.fromstring(to_svg(sheet, PAPER)).iter("{http://www.w3.org/2000/svg}text")
    ]
    wanted = [(text.text, text.x, text.y, text.size, text.anchor) for _, text in sheet.texts()]
    assert len(written) == len(wanted)
    for one, other in zip(written, wanted, strict=True):
        assert (one[0], one[4]) == (other[0], other[4]) and one[1:4] == pytest.approx(other[1:4], abs=0.001)
    # With its type as outlines the whole of the SVG can be compared, and no viewer's fonts matter.
    drawn = to_svg(outlined(sheet), PAPER)
    assert "<text" not in drawn and "@font-face" not in drawn
    mean, strong = apart(pixels(picture), pixels(from_svg(drawn, size)))
    assert mean < MEAN and strong < STRONG


def test_a_document_has_its_title_language_and_nested_bookmarks(qapp: Any) -> None:
    from pypdf import PdfReader

    sheets = [Drawing(50, 40, title, "", ()) for title in ("Shoalwright", "Shoalwright", "Namewell")]
    pdf = PdfReader(io.BytesIO(pdf_bytes(sheets, "Chart office")))
    assert pdf.metadata is not None and pdf.metadata.title == "Chart office"
    root: Any = pdf.trailer["/Root"]
    assert root["/Lang"] == "en" and root["/ViewerPreferences"]["/DisplayDocTitle"] == True  # noqa: E712  # it is an object of its own
    first, below, second = pdf.outline
    assert (first["/Title"], [one["/Title"] for one in below], second["/Title"]) == ("Shoalwright", ["Sheet 2"], "Namewell")
