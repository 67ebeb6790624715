"""Drawings as a PDF: a page for each in its true size, text as text in embedded type, bookmarks by title."""

from __future__ import annotations

import io
import os
from collections.abc import Sequence
from pathlib import Path
from typing import Final

from pypdf import PdfReader, PdfWriter
from pypdf.generic import BooleanObject, DictionaryObject, NameObject, RectangleObject, TextStringObject
from PySide6.QtCore import QBuffer, QByteArray, QMarginsF, QSizeF
from PySide6.QtGui import QGuiApplication, QPageLayout, QPageSize, QPainter, QPdfWriter

from glimber.core.drawing.drawing import Drawing
from glimber.store.files import write_atomically
from glimber.ui.paint.draw import paint
from glimber.ui.paint.fonts import load_fonts

LANGUAGE: Final = "en"
_DOTS: Final = 1200
_PT_PER_MM: Final = 72 / 25.4


def write_pdf(sheets: Sequence[Drawing], to: Path, title: str = "") -> None:
    """Write drawings as the pages of a PDF. Raises StoreError when the file cannot be written."""
    write_atomically(to, pdf_bytes(sheets, title))


def start_toolkit() -> None:
    """Make what type is measured and drawn with, where no window has done so."""
    if QGuiApplication.instance() is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        start_toolkit.app = QGuiApplication(["glimber"])  # type: ignore[attr-defined]  # kept: Qt drops it otherwise
    load_fonts()


def pdf_bytes(sheets: Sequence[Drawing], title: str = "") -> bytes:
    """Return a PDF with a page for each drawing, exactly as large as it. ``title``: of the document; else that of the first
    sheet."""
    start_toolkit()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(title or (sheets[0].title if sheets else ""))
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
    """Bookmarks by title, the further sheets of a card below its first, and pages exactly as large as their drawings: Qt's are
    whole points. The language is that of the words which are not the person's own."""
    writer = PdfWriter(clone_from=PdfReader(io.BytesIO(data)))
    writer.root_object[NameObject("/Lang")] = TextStringObject(LANGUAGE)
    writer.root_object[NameObject("/ViewerPreferences")] = DictionaryObject({NameObject("/DisplayDocTitle"): BooleanObject(True)})
    parent, first, begun = None, "", 0
    for number, (page, sheet) in enumerate(zip(writer.pages, sheets, strict=True)):
        top = float(page.mediabox.top)
        box = RectangleObject((0, top - sheet.height * _PT_PER_MM, sheet.width * _PT_PER_MM, top))
        page.mediabox = page.cropbox = page.trimbox = page.bleedbox = page.artbox = box
        if parent is not None and sheet.title == first:
            writer.add_outline_item(title=f"Sheet {number + 1 - begun}", page_number=number, parent=parent)
        else:
            parent, first, begun = writer.add_outline_item(title=sheet.title, page_number=number), sheet.title, number
    out = io.BytesIO()
    writer.write(out)
    return out.getvalue()
