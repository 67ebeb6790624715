"""A card out of the room: into a file, onto the clipboard, onto paper."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Final

from PySide6.QtWidgets import QWidget

from glimber.core.cards.frame import CannotDraw
from glimber.core.drawing.drawing import Drawing
from glimber.core.model.card_bindings import Known
from glimber.core.model.shelf import shelf
from glimber.store.faults import StoreError
from glimber.ui.session.host import Choice, Host
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

_JOB: Final = "writing all cards"


class CardOutput:
    """Writes, copies and prints. ``sheets`` gives those of the card in front, ``sheets_of`` those of any: CannotDraw."""

    def __init__(
        self,
        session: Session,
        host: Host,
        room: QWidget,
        sheets: Callable[[], list[Drawing]],
        sheets_of: Callable[[str], list[Drawing]],
        known: Callable[[], Known],
    ) -> None:
        self._session, self._host, self._room = session, host, room
        self._sheets, self._sheets_of, self._known = sheets, sheets_of, known

    @property
    def writing(self) -> bool:
        """Return True if all cards are being written."""
        return self._session.jobs.running(_JOB)

    def stop(self) -> None:
        """No more of all cards is written; the file that was there before stays."""
        self._session.jobs.stop(_JOB)
        self._session.notified.emit("Writing is stopped; nothing was written.")

    def copy(self, drawing: Drawing) -> None:
        """A sheet on the clipboard, as a picture and as a drawing."""
        from PySide6.QtCore import QMimeData
        from PySide6.QtGui import QGuiApplication

        from glimber.core.drawing.svg import to_svg
        from glimber.store.cache.fonts import carried_fonts
        from glimber.ui.paint.draw import to_pixmap
        from glimber.ui.paint.look import PAPER

        data = QMimeData()
        data.setImageData(to_pixmap(drawing, 1600).toImage())
        data.setData("image/svg+xml", to_svg(drawing, PAPER, carried_fonts(drawing)).encode())
        QGuiApplication.clipboard().setMimeData(data)
        self._session.notified.emit(f"{drawing.title} is copied.")

    def ask_file(self, id: str) -> None:
        """Ask where, and write a card as PDF, SVG or PNG."""
        from PySide6.QtWidgets import QFileDialog

        kinds = "Document (*.pdf);;Drawing (*.svg);;Picture (*.png)"
        name, _ = QFileDialog.getSaveFileName(self._room, "Write card", f"{id}.pdf", kinds)
        if name:
            self.write(id, Path(name))

    def write(self, id: str, path: Path) -> None:
        """Write a card; show an error in the bottom line."""
        from glimber.ui.paint.export import write_card

        try:
            self._session.flush()
            wrote = write_card(self._session.opened, id, path, self._known())
        except (StoreError, CannotDraw) as error:
            self._session.notified.emit(str(error))
            return
        more = f" and {len(wrote) - 1} more" if len(wrote) > 1 else ""
        self._session.notified.emit(f"Written to {path}{more}.")

    def ask_all(self) -> None:
        """Ask where, and write every card into one PDF."""
        from PySide6.QtWidgets import QFileDialog

        name, _ = QFileDialog.getSaveFileName(self._room, "Write all cards", "cards.pdf", "Document (*.pdf)")
        if name:
            self.write_all(Path(name))

    def write_all(self, path: Path) -> None:
        """Write every card into one PDF off the event loop, with progress; report what could not be drawn."""
        from glimber.ui.paint.export import write_cards

        self._session.flush()
        opened, known, to = self._session.opened, self._known(), path.with_suffix(".pdf")
        count = len(shelf(opened.folio))

        def work(work: Work) -> list[str]:
            def watch(done: int) -> None:
                work.tell(done / max(1, count), f"Writing card {done + 1} of {count}… Esc stops.")

            return write_cards(opened, to, known=known, watch=watch)[1]

        def done(notes: list[str]) -> None:
            without = f" {'; '.join(notes)}." if notes else ""
            self._session.notified.emit(f"All cards are in {to}.{without}")

        job = self._session.jobs.run(_JOB, work, done)
        job.work.progressed.connect(lambda share, words: self._session.notified.emit(words))

    def print_these(self, whole: bool) -> None:
        """Ask how many to a page and show the card in front, or all, as they will be printed."""
        from glimber.ui.cards.printing import PER_PAGE, preview

        sheets, left_out = ([], []) if whole else (self._sheets(), [])
        for id in shelf(self._session.folio) if whole else ():
            try:
                sheets += self._sheets_of(id)
            except CannotDraw as error:
                left_out.append(str(error))
        if left_out:
            self._session.notified.emit(f"Without {'; '.join(left_out)}.")
        if not sheets:
            return
        fronts = sum(not sheet.back for sheet in sheets)
        counts = [count for count in PER_PAGE if count <= max(1, fronts)]

        def show(count: object) -> None:
            self.preview = preview(self._room, sheets, int(str(count)), self._session.notified.emit)

        if len(counts) == 1:
            show(counts[0])
            return
        self._host.choose("Cards on a page", show, [
            Choice(f"{count} to a page", "true size where they fit, marks to cut", value=count) for count in counts])  # fmt: skip
