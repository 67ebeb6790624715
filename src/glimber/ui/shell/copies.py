"""The copies of the folio's files looked through: each against what is there now, and put back."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from glimber.store.backups import Copy, copies_in, place_of, put_back
from glimber.store.faults import StoreError
from glimber.store.files import read_given
from glimber.ui.session.host import Host
from glimber.ui.session.jobs import Work
from glimber.ui.session.pages import Page, PageAction
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.ui.session.pages import PageRow

_JOB: Final = "copies"
_MOST_LINES: Final = 400


class Copies:
    """Shows them, the newest first; a file that is put back is read at once, and what was there is a copy then."""

    def __init__(self, session: Session, host: Host) -> None:
        self._session, self._host = session, host

    def show(self) -> None:
        """All copies, with when they were made and how large they are."""
        copies = copies_in(self._session.folder)
        if not copies:
            self._session.notified.emit("There are no copies yet: the first edit of a file makes one.")
            return
        from glimber.ui.widgets.page_rows import Head, Plain

        whole = sum(one.size for one in copies) / 1e6
        rows: list[PageRow] = []
        day = None
        for one in copies:
            if one.at.date() != day:
                day = one.at.date()
                rows.append(Head(f"{day:%-d %B %Y}"))
            name = place_of(self._session.folder, one) or one.what
            rows.append(Plain(f"{one.at:%H:%M}  {name}", f"{one.size / 1000:.0f} kB", one))
        looks = PageAction("Enter", "compares it with what is there now", self._look_at, of_row=True)
        about = f"{whole:.1f} MB in all. Times are UTC. Each edit copies the file first; Ctrl+, sets how much is kept."
        title = "1 copy of a file" if len(copies) == 1 else f"{len(copies)} copies of files"
        self._host.show_page(Page(title, lambda: rows, (looks,), about))

    def _look_at(self, value: object) -> None:
        session = self._session
        assert isinstance(value, Copy)
        copy = value
        from glimber.ui.widgets.page_rows import Plain, diff_rows

        if copy.is_log:
            title = f"The practice log as it was on {copy.at:%-d %B %H:%M}"
            takes = PageAction("Enter", "adds what is missing now", lambda _: self._take_in(copy))
            line = Plain("Records of this copy that are not in the log are added", "nothing is lost, nothing comes twice")
            self._host.show_page(Page(title, lambda: [line], (takes,)))
            return
        name = place_of(session.folder, copy)
        if name is None:
            session.notified.emit(f"{copy.path.name}: it is not known which file of the folio this is a copy of.")
            return
        try:
            was = read_given(copy.path).decode("utf-8", "replace").splitlines()
            now = session.opened.texts.get(name, b"").decode("utf-8", "replace").splitlines()
        except StoreError as error:
            session.notified.emit(str(error))
            return
        lines = diff_rows(now, was)[:_MOST_LINES]
        if not lines:
            session.notified.emit(f"{name} is as it was then.")
            return
        back = PageAction("Enter", "restores the file", lambda _: self._put_back(copy))
        about = f"− what is there now, + as it was on {copy.at:%-d %B %Y %H:%M}. What is there now is copied before."
        self._host.show_page(Page(name, lambda: lines, (back,), about))

    def _put_back(self, copy: Copy) -> None:
        session = self._session
        try:
            session.flush()
            name = put_back(session.folder, copy, session.now())
        except StoreError as error:
            session.notified.emit(str(error))
            return
        session.notified.emit(f"{name} is as it was; what was there is the newest copy.")
        session.read_again()

    def _take_in(self, copy: Copy) -> None:
        session = self._session
        folder, setting = session.folder, session.folio.settings.log

        def work(work: Work) -> int:
            from glimber.store.practice.jsonl import all_lines, parse_lines
            from glimber.store.practice.log import merge, open_log, open_log_reading

            with open_log_reading(copy.path.parent, copy.path.name) as then:
                records = parse_lines("\n".join(all_lines(then))).records
            with open_log(folder, setting) as log:
                return merge(log, records)

        def done(count: int) -> None:
            session.notified.emit(f"{count} records that were missing are in the practice log again.")
            session.weigh_later()

        session.jobs.run(_JOB, work, done)
