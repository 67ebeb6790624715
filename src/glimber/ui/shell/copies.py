"""The copies of the folio's files looked through: each against what is there now, and put back."""

from __future__ import annotations

import difflib
from functools import partial
from typing import Final

from glimber.store.backups import Copy, copies_in, place_of, put_back
from glimber.store.faults import StoreError
from glimber.store.files import read_given
from glimber.ui.session.host import Choice, Host, carry_out
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

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
            self._session.told.emit("There are no copies yet: the first edit of a file makes one.")
            return
        whole = sum(one.size for one in copies) / 1e6
        choices = []
        for one in copies:
            name = place_of(self._session.folder, one) or one.what
            text = f"{one.at:%-d %b %Y %H:%M}  {name}"
            choices.append(Choice(text, f"{one.size / 1000:.0f} kB", value=partial(self._look_at, one)))
        title = f"{len(copies)} copies, {whole:.1f} MB; the moments are UTC"
        self._host.choose(title, carry_out, choices, hint="Enter looks at one against what is there now")

    def _look_at(self, copy: Copy) -> None:
        session = self._session
        if copy.is_log:
            self._host.choose(f"The practice log as it was on {copy.at:%-d %B %H:%M}", carry_out,
                              [Choice("Take in what is missing", "nothing is lost, nothing comes twice",
                                      value=partial(self._take_in, copy))])  # fmt: skip
            return
        name = place_of(session.folder, copy)
        if name is None:
            session.told.emit(f"{copy.path.name}: which file of the folio it is of cannot be told.")
            return
        try:
            was = read_given(copy.path).decode("utf-8", "replace").splitlines()
            now = session.opened.texts.get(name, b"").decode("utf-8", "replace").splitlines()
        except StoreError as error:
            session.told.emit(str(error))
            return
        lines = [line for line in difflib.unified_diff(now, was, n=0, lineterm="") if line[:3] not in ("---", "+++")]
        if not lines:
            session.told.emit(f"{name} is as it was then.")
            return
        back = partial(self._put_back, copy)
        choices = [Choice(f"Put {name} back as it was", "what is there now is copied first", value=back)]
        choices += [
            Choice(f"{'−' if line[0] == '-' else '+'}  {line[1:]}") for line in lines[:_MOST_LINES] if line[0] in "+-"
        ]
        self._host.choose(f"{name}: − now, + as it was", carry_out, choices)

    def _put_back(self, copy: Copy) -> None:
        session = self._session
        try:
            session.flush()
            name = put_back(session.folder, copy, session.now())
        except StoreError as error:
            session.told.emit(str(error))
            return
        session.told.emit(f"{name} is as it was; what was there is the newest copy.")
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
            session.told.emit(f"{count} records that were missing are in the practice log again.")
            session.weigh_later()

        session.jobs.run(_JOB, work, done)
