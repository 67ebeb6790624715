"""Checking the real board: each key asked for once, and what the computer sees compared with what the folio says."""

from __future__ import annotations

from glimber.core.audit.drift import BoardCheck, Drift, take_over
from glimber.core.engine.events import Event
from glimber.core.engine.listen import KeyboardListener
from glimber.core.model.describe import place_words
from glimber.ui.arrange.desk import ArrangeDesk
from glimber.ui.capture.keyboard_grab import HoldMaker
from glimber.ui.session.host import Choice, Host


class RealCheck:
    """Asks for each key of the real board once. F1: nothing came; F2: leave it out; Escape ends."""

    def __init__(self, desk: ArrangeDesk, host: Host, hold: HoldMaker, check: BoardCheck) -> None:
        self._desk, self._host, self.check = desk, host, check
        self._listener = KeyboardListener()
        self._hold = hold(self.hear)
        self._hold.take()
        desk.begin(self)
        self._show()

    def let_go(self) -> None:
        """End it; what differed is listed, to be taken over or not."""
        self._hold.let_go()
        if self.check.drifts:
            self._list(self.check.drifts)
        else:
            struck = f"{self.check.at} of {len(self.check.asked)} were struck"
            self._desk.tell(f"{struck}; the board does what the folio says.")

    def _list(self, drifts: list[Drift]) -> None:
        folio = self._desk.folio
        of_words = {one.words(folio): one for one in drifts}

        def taken(words: object) -> None:
            drift = of_words[str(words)]
            name = self._desk.called_spot(drift.spot)
            self._desk.edit(f"take over {name} from the board", lambda folio: take_over(folio, drift))
            rest = [one for one in drifts if one is not drift]
            if rest:
                self._list(rest)

        hint = "Enter lets the folio say what the board does · Esc leaves the rest to be set on the board"
        title = f"Where the board differs: {len(drifts)}"
        self._host.choose(title, taken, [Choice(words) for words in of_words], hint=hint)

    def words(self) -> str:
        """Return what is asked for."""
        check, now = self.check, self.check.now
        if now is None:
            return ""
        where = place_words(self._desk.folio, now.spot)
        done = f"{check.at + 1} of {len(check.asked)}, {len(check.drifts)} differ"
        return f"On the real board strike {where}. {done}. F1: nothing comes, F2: leave it out, Esc ends."

    def hear(self, event: Event, late_ms: float) -> None:
        """Take what the real board sent."""
        check, now = self.check, self.check.now
        wanted = {code for _, code in now.strikes} if now is not None else set()
        if event.kind == "down" and event.key in ("F1", "F2", "Escape") and event.key not in wanted:
            if event.key == "Escape":
                self._desk.end_mode()
                return
            if event.key == "F1":
                check.nothing()
            else:
                check.skip()
        else:
            for unit in self._listener.feed(event):
                if not unit.modifier:
                    check.strike(unit.strikes[0], event.t)
        if check.now is None:
            self._desk.end_mode()
        else:
            self._show()

    def _show(self) -> None:
        now = self.check.now
        if now is not None:
            self._desk.go_spot(now.spot)
