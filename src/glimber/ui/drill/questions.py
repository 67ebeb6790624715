"""The questions of the drill room: what a round is made of, what it asks for too, and on what it is answered."""

from __future__ import annotations

from glimber.ui.drill.setup import DrillSetup
from glimber.ui.session.host import Choice, Host
from glimber.ui.session.session import Session


class RoundQuestions:
    """Asks for parts of the next round and puts the answers into its setup."""

    def __init__(self, session: Session, host: Host, setup: DrillSetup) -> None:
        self._session, self._host, self._setup = session, host, setup

    def selection(self) -> None:
        """Ask which bindings the round is made from."""
        from glimber.core.decide.selection import Selection, selections

        ledger, session = self._session.ledger, self._session
        grips = {id: row.grip for id, row in ledger.rows.items() if row.count} if ledger is not None else {}
        changes = ledger.practice.changes if ledger is not None else ()
        uses = {id: row.uses_week for id, row in (ledger.rows if ledger is not None else {}).items() if not row.uses_guessed}
        found = selections(session.folio, session.computer, grips, changes, session.now(), uses)

        def taken(value: object) -> None:
            if isinstance(value, Selection):
                self._setup.select(value)
            self._setup.begin_button.setFocus()

        choices = [
            Choice(one.name, one.detail if one.of is None else f"{one.detail}, {len(one.of)}", value=one)
            for one in found
        ]
        self._host.choose("What is the round made of?", taken, choices)

    def binding(self) -> None:
        """Ask for another binding for the round."""
        from glimber.core.decide.round_choice import why_not

        session, asked = self._session, {one.binding for one in self._setup.due()}
        known = [one for one in session.folio.drillable(session.computer) if one.id not in asked]
        choices = [Choice(session.folio.commands[one.command or ""].name, why_not(session.folio, one, self._setup.options) or "",
                          value=one.id) for one in known]  # fmt: skip

        def taken(value: object) -> None:
            self._setup.add(str(value))
            self._setup.list.setFocus()

        self._host.choose("Which binding should be drilled too?", taken, choices)

    def hands(self) -> None:
        """Answer boards by the next way there is; ask of devices which one, and which board it is."""
        from glimber.store.system.device import devices

        hands, layouts = self._setup.options.hands, self._session.folio.layouts
        found = devices() if hands == "board" and self._setup.mode == "press" else []
        if not found or not layouts:
            self._setup.set_hands("board" if hands == "stand-in" else "stand-in")
            return

        def taken(value: object) -> None:
            if isinstance(value, tuple):
                self._setup.set_hands("device", *value)
            else:
                self._setup.set_hands("stand-in")
            self._setup.begin_button.setFocus()

        choices = [Choice(f"{device.words} is {board}", str(device.path), value=(device, board))
                   for device in found for board in layouts]  # fmt: skip
        choices.append(Choice("None: this keyboard stands in", value=""))
        self._host.choose("Which device is the board?", taken, choices)
