"""Cards on paper: seen as they will be printed first, then printed by the system's own dialog."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Final

from PySide6.QtCore import QMarginsF, QSizeF, Qt
from PySide6.QtGui import QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtWidgets import QWidget

from glimber.core.drawing.drawing import Drawing
from glimber.core.drawing.paper import PAPERS_MM
from glimber.core.drawing.print_sheet import Edge, print_sheets
from glimber.ui.paint.draw import paint

_SIZES: Final = {
    QPageSize.PageSizeId.A3: "A3", QPageSize.PageSizeId.A4: "A4", QPageSize.PageSizeId.A5: "A5",
    QPageSize.PageSizeId.Letter: "Letter", QPageSize.PageSizeId.Legal: "Legal",
}  # fmt: skip
_EDGES: Final[dict[QPrinter.DuplexMode, Edge]] = {
    QPrinter.DuplexMode.DuplexLongSide: "long", QPrinter.DuplexMode.DuplexShortSide: "short",
    QPrinter.DuplexMode.DuplexAuto: "long",
}  # fmt: skip
PER_PAGE: Final = (1, 2, 4, 6, 9)


class Preview(QPrintPreviewDialog):
    """The system's preview; Qt does not keep the printer itself."""

    def __init__(self, printer: QPrinter, parent: QWidget) -> None:
        super().__init__(printer, parent)
        self.printed_on = printer


def preview(parent: QWidget, sheets: Sequence[Drawing], per_page: int, report: Callable[[str], object]) -> Preview:
    """Open the system's preview of sheets, so many on a page. The paper and which sides are printed are chosen there; backs
    follow their fronts when both sides are. ``report`` gets a line when something was printed."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(sheets[0].title if sheets else "Cards")
    printer.setFullPage(True)
    printer.setPageMargins(QMarginsF())
    # Backs are behind their fronts from the beginning where there are any.
    if any(sheet.back for sheet in sheets):
        printer.setDuplex(QPrinter.DuplexMode.DuplexLongSide)
    dialog = Preview(printer, parent)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setWindowTitle("Cards on paper")
    dialog.resize(960, 680)
    dialog.paintRequested.connect(partial(put_on, sheets=sheets, per_page=per_page))
    dialog.accepted.connect(lambda: report("The cards are on their way to the printer."))
    dialog.open()
    return dialog


def put_on(printer: QPrinter, sheets: Sequence[Drawing], per_page: int) -> None:
    """Paint sheets onto a printer's pages in their true size; where the printer leaves no margin of its own, it is cut."""
    layout = printer.pageLayout()
    paper = _SIZES.get(layout.pageSize().id(), "A4")
    pages = print_sheets(sheets, paper, per_page, _EDGES.get(printer.duplex()))
    painter = QPainter()
    for place, page in enumerate(pages):
        turned = QPageLayout.Orientation.Landscape if page.width > page.height else QPageLayout.Orientation.Portrait
        short, long = PAPERS_MM[paper]
        size = QPageSize(QSizeF(short, long), QPageSize.Unit.Millimeter, paper, QPageSize.SizeMatchPolicy.FuzzyMatch)
        printer.setPageLayout(QPageLayout(size, turned, QMarginsF()))
        if place:
            printer.newPage()
        elif not painter.begin(printer):
            return  # the printer cannot be painted on: its own dialog has shown the error
        paint(painter, page, printer.resolution() / 25.4)
    painter.end()
