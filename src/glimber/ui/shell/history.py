"""The history: a line for each step, with its time, its room and what it changed; from there the folio goes back to a moment."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Final

from glimber.core.edit.edit import EditError
from glimber.store.faults import StoreError
from glimber.ui.session.host import Host
from glimber.ui.session.pages import Page, PageAction
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.model.folio import Folio
    from glimber.core.session.journal import Entry
    from glimber.ui.session.pages import PageRow

_MOST_LINES: Final = 400


class HistoryPages:
    """Shows the steps, the newest first, and the difference before anything goes back."""

    def __init__(self, session: Session, host: Host) -> None:
        self._session, self._host = session, host

    def show(self) -> None:
        """Show every step that is known, of today and of earlier days."""
        try:
            self._session.flush()
        except StoreError as error:
            self._session.notified.emit(str(error))
            return
        entries = [entry for entry in self._session.edits.steps.journal().undo if entry.names]
        if not entries:
            self._session.notified.emit("Nothing was changed yet.")
            return
        from glimber.ui.widgets.page_rows import Head, Plain

        rows: list[PageRow] = []
        day = None
        for entry in reversed(entries):
            at = entry.at.astimezone()
            if at.date() != day:
                day = at.date()
                rows.append(Head(f"{day:%-d %B %Y}"))
            where = " · ".join(filter(None, (entry.room.capitalize(), _what(entry))))
            rows.append(Plain(f"{at:%H:%M}  {', '.join(entry.names)}", where, entry))
        actions = (
            PageAction("Enter", "goes back to right before it", self._ask_back, of_row=True),
            PageAction("U", "takes only this step back", self._ask_single, of_row=True),
        )
        about = "Ctrl+Z takes them back one by one, those of earlier days too. What others changed outside Glimber stays."
        title = "1 step" if len(entries) == 1 else f"{len(entries)} steps"
        self._host.show_page(Page(f"History: {title}", lambda: rows, actions, about))

    def _ask_back(self, value: object) -> None:
        """Ask whether to go back to the moment before an entry, with the difference shown."""
        entry = _entry(value)
        steps, at = self._session.edits.steps, entry.at.astimezone()
        to = steps.journal().id_before(entry)
        today = at.date() == self._session.now().astimezone().date()
        words = f"back to {at:%H:%M}" if today else f"back to {at:%-d %B %H:%M}"
        title = f"As it was before: {', '.join(entry.names)}"
        self._compare(title, lambda: steps.folio_at(to, self._session.opened), lambda: self._session.edits.go_back(to, words))

    def _ask_single(self, value: object) -> None:
        """Ask whether to take only one step back, with the difference shown."""
        entry = _entry(value)
        steps, words = self._session.edits.steps, f"undo {', '.join(entry.names)}"
        self._compare(words.capitalize(), lambda: steps.folio_without(entry.id, self._session.opened),
                      lambda: self._session.edits.take_back(entry.id, words))  # fmt: skip

    def _compare(self, title: str, folio: Callable[[], Folio], carry_out: Callable[[], object]) -> None:
        """Show what would differ in the files; Enter does it."""
        from glimber.store.toml.writing import edited_files
        from glimber.ui.widgets.page_rows import Head, diff_rows

        session = self._session
        try:
            after = edited_files(session.opened, folio())
        except (EditError, StoreError) as error:
            session.notified.emit(str(error))
            return
        rows: list[PageRow] = []
        for name, text in after.items():
            now = session.opened.texts.get(name, b"").decode("utf-8", "replace").splitlines()
            lines = diff_rows(now, (text or b"").decode("utf-8", "replace").splitlines())
            rows += [Head(name), *lines[:_MOST_LINES]] if lines else []
        if not rows:
            session.notified.emit("Nothing of it is left: the folio is as it was then.")
            return

        def do(_: object) -> None:
            try:
                carry_out()
            except (EditError, StoreError) as error:
                session.notified.emit(str(error))
                return
            session.notified.emit(f"{title}. Ctrl+Z takes it back.")

        about = "− what is there now, + what will be there. What others changed since stays."
        self._host.show_page(Page(title, lambda: rows, (PageAction("Enter", "does it", do),), about))


def _entry(value: object) -> Entry:
    from glimber.core.session.journal import Entry

    assert isinstance(value, Entry)
    return value


def _what(entry: Entry) -> str:
    """Return which files an entry changed."""
    names = [patch.name for patch in entry.patches]
    return names[0] if len(names) == 1 else f"{len(names)} files"
