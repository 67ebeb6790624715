"""Drawings as a PDF: a page for each in its true size, text as text in embedded type, bookmarks by title."""

from __future__ import annotations

import io
import os
from collections.abc import Sequence
from pathlib import Path
from typing import Final

from pypdf import PdfReader, PdfWriter
from pypdf.generic import RectangleObject
from PySide6.QtCore import QBuffer, QByteArray, QMarginsF, QSizeF
from PySide6.QtGui import QGuiApplication, QPageLayout, QPageSize, QPainter, QPdfWriter

from glimber.core.drawing.drawing import Drawing
from glimber.store.files import write_atomically
from glimber.ui.paint.draw import paint
from glimber.ui.paint.fonts import load_fonts

_DOTS: Final = 1200
_PT_PER_MM: Final = 72 / 25.4


def write_pdf(sheets: Sequence[Drawing], to: Path) -> None:
    """Write drawings as the pages of a PDF. Raises StoreError when the file cannot be written."""
    write_atomically(to, pdf_bytes(sheets))


def pdf_bytes(sheets: Sequence[Drawing]) -> bytes:
    """A PDF with a page for each drawing, exactly as large as it."""
    if QGuiApplication.instance() is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        pdf_bytes.app = QGuiApplication(["glimber"])  # type: ignore[attr-defined]  # kept: Qt drops it otherwise
    load_fonts()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(sheets[0].title if sheets else "")
    writer.setCreator("Glimber")
    writer.setResolution(_DOTS)
    painter = QPainter()
    for place, sheet in enumerate(sheets):
        size = QPageSize(
            QSizeF(sheet.width, sheet.height), QPageSize.Unit.Millimeter, "", QPageSize.SizeMatchPolicy.ExactMatch
        )
        writer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF()))
        if place:
            writer.newPage()
        else:
            painter.begin(writer)
        paint(painter, sheet, _DOTS / 25.4)
    painter.end()
    return _finished(bytes(data.data()), sheets)


def _finished(data: bytes, sheets: Sequence[Drawing]) -> bytes:
    """Bookmarks by title, and pages exactly as large as their drawings: Qt's are whole points."""
    writer = PdfWriter(clone_from=PdfReader(io.BytesIO(data)))
    for number, (page, sheet) in enumerate(zip(writer.pages, sheets, strict=True)):
        top = float(page.mediabox.top)
        box = RectangleObject((0, top - sheet.height * _PT_PER_MM, sheet.width * _PT_PER_MM, top))
        page.mediabox = page.cropbox = page.trimbox = page.bleedbox = page.artbox = box
        writer.add_outline_item(title=sheet.title, page_number=number)
    out = io.BytesIO()
    writer.write(out)
    return out.getvalue()
