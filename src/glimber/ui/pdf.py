"""Drawings as a PDF: a page for each in its true size, text as text in embedded type, bookmarks by title."""

from __future__ import annotations

import io
import os
from collections.abc import Sequence
from pathlib import Path

from pypdf import PdfReader, PdfWriter
from PySide6.QtCore import QBuffer, QByteArray, QMarginsF, QSizeF
from PySide6.QtGui import QGuiApplication, QPageLayout, QPageSize, QPainter, QPdfWriter

from glimber.core.cards.drawing import Drawing
from glimber.store.files import write_atomically
from glimber.ui.draw import paint
from glimber.ui.type import load_fonts

_DOTS: int = 1200


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
    return _with_bookmarks(bytes(data.data()), [sheet.title for sheet in sheets])


def _with_bookmarks(data: bytes, titles: Sequence[str]) -> bytes:
    writer = PdfWriter(clone_from=PdfReader(io.BytesIO(data)))
    for page, title in enumerate(titles):
        writer.add_outline_item(title=title, page_number=page)
    out = io.BytesIO()
    writer.write(out)
    return out.getvalue()
