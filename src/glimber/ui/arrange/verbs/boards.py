"""Actions on boards: lay out, make from a drawing, carry over, give away a hand, free play."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from glimber.core.edit.layers import add_layout
from glimber.core.notation.ids import slug_of
from glimber.store.faults import StoreError
from glimber.store.files import read_given
from glimber.ui.arrange.desk import ArrangeDesk
from glimber.ui.arrange.verbs.base import Verbs, act
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Choice, Host

if TYPE_CHECKING:
    from glimber.core.decide.carry import CarryPlan
    from glimber.core.model.folio import Folio
    from glimber.ui.capture.keyboard_grab import HoldMaker


PlanShower = Callable[["Folio", "CarryPlan", Callable[[bool], None]], None]
"""Shows what carrying a layout over comes to; the flag is whether the old layout stays beside it."""


class BoardVerbs(Verbs):
    """Operations on whole boards."""

    def __init__(self, desk: ArrangeDesk, host: Host, hold: HoldMaker, show_plan: PlanShower) -> None:
        super().__init__(desk, host)
        self._hold, self._show_plan = hold, show_plan

    def actions(self) -> list[Action]:
        here = self.is_somewhere
        actions = [
            act("carry", "Carry the layout over to another board", "v", self.carry, when=here),
            act("hand", "One hand is away: what it held", "h", self.hand_away, when=here),
            act(
                "play",
                "Free play: press anything and see what it does",
                "y",
                self.free_play,
                "free play",
                "Y",
                when=here,
            ),
            act("device", "Free play on a board read as a device of its own", "Shift+Y", self.play_device, when=here),
            act("check", "Check the real board: strike each key once", "Shift+C", self.check_real, when=here),
        ]
        return [
            act("add-board", "Lay out another board", "Shift+B", self.add_board),
            *map(self.for_layouts, actions),
            act("drawing", "A board from a drawing", "Shift+O", self.ask_drawing),
        ]

    def add_board(self) -> None:
        """Lay out another board of those that come with Glimber."""
        from glimber.core.decide.carry import with_board
        from glimber.store.toml.reading import shipped_board

        choices = self._other_boards("")

        def taken(id: object) -> None:
            board = shipped_board(str(id))
            if self.desk.edit(f"lay out {board.id}", lambda folio: add_layout(with_board(folio, board), board.id)):
                self.desk.go_board(board.id)

        self.host.choose("Lay out a board", taken, choices)

    def _other_boards(self, start: str) -> Sequence[Choice]:
        from glimber.store.toml.reading import shipped_board, shipped_board_ids

        known = dict.fromkeys((*self.folio.own_boards, *shipped_board_ids()))
        boards = [self.folio.boards.get(str(id)) or shipped_board(id) for id in known if id != start]
        return [
            Choice(board.id, board.name, value=board.id)
            for board in boards
            if start or board.id not in self.folio.layouts
        ]

    def carry(self) -> None:
        """Carry the layout over to another board: first seen, then done."""
        from glimber.core.decide.carry import carry_over, plan_carrying, with_board

        place = self.place
        if place is None:
            return

        from glimber.store.toml.reading import shipped_board

        def chosen(id: object) -> None:
            board = self.folio.boards.get(str(id)) or shipped_board(str(id))
            folio = with_board(self.folio, board)
            plan = plan_carrying(folio, place.board, board.id)

            def done(keep: bool) -> None:
                name = f"carry {place.board} over to {board.id}"
                if self.desk.edit(name, lambda now: carry_over(with_board(now, board), plan, keep=keep)):
                    self.desk.go_board(board.id)

            self._show_plan(folio, plan, done)

        self.host.choose("Carry the layout over to", chosen, self._other_boards(place.board))

    def hand_away(self) -> None:
        """Show what a hand that is elsewhere held: left, then right, then neither."""
        from glimber.core.decide.carry import give_to_other_hand, held_by_hand

        place = self.place
        if place is None:
            return
        shape = self.folio.boards[place.board]
        turn = {"": "left", "left": "right", "right": ""}
        now = next((key.hand or "" for key in shape.keys if key.id in self.desk.lights.dim), "")
        hand = turn.get(now, "")
        dim = frozenset(key.id for key in shape.keys if hand and key.hand == hand)
        self.desk.light(replace(self.desk.lights, dim=dim))
        if not hand:
            return
        held, given = held_by_hand(self.folio, place.board, hand), give_to_other_hand(self.folio, place.board, hand)
        names = [self.folio.commands[binding.command].name for binding in held if binding.command]
        if not names:
            self.desk.tell(f"The {hand} hand holds no commands on {place.board}.")
            return
        called = self.desk.called_spot
        moved = [Choice(f"   {self._moved(id)}", f"{called(start)} → {called(to)} on {start.layer}", value="no")
                 for id, start, to in given.moves]  # fmt: skip
        choices = [
            Choice("Leave them where they are", f"{len(names)} commands", value="no"),
            Choice(
                "Put them on the other hand",
                f"{len(given.moves)} on free keys, {len(given.left)} find none",
                value="yes",
            ),
            *moved,
        ]

        def taken(value: object) -> None:
            if value == "yes":
                self.desk.edit(f"give the {hand} hand's keys to the other",
                          lambda folio: give_to_other_hand(folio, place.board, hand).folio)  # fmt: skip

        self.host.choose(f"The {hand} hand is away; it held {len(names)} commands", taken, choices)

    def _moved(self, id: str) -> str:
        binding = self.folio.bindings[id]
        command = self.folio.command_of(binding)
        return command.name if command else id

    # What the hand does

    def free_play(self, device: int | None = None) -> None:
        """Begin free play, or end it."""
        from glimber.ui.arrange.modes.freeplay import FreePlay

        if isinstance(self.desk.mode, FreePlay):
            self.desk.end_mode()
        elif self.place is not None:
            FreePlay(self.desk, self._hold, self.place, self.program(self.place), device)

    def play_device(self) -> None:
        """Free play on a board that is read as a device: a twin of it, or the main board, does not count."""
        from glimber.store.system.device import devices, open_device

        found = {one.words: one.path for one in devices()}
        if not found:
            self.desk.tell("The kernel lists no keyboard on this computer.")
            return

        def taken(words: object) -> None:
            try:
                self.free_play(open_device(found[str(words)]))
            except StoreError as error:
                self.desk.tell(str(error))

        choices = [Choice(words, str(path)) for words, path in found.items()]
        self.host.choose("Which device is the board?", taken, choices)

    def check_real(self) -> None:
        """Begin checking the real board, or end it."""
        from glimber.core.audit.drift import BoardCheck
        from glimber.ui.arrange.modes.realcheck import RealCheck

        if isinstance(self.desk.mode, RealCheck):
            self.desk.end_mode()
            return
        if self.place is None:
            return
        check = BoardCheck(self.folio, self.place.board)
        if check.now is None:
            self.desk.tell(f"Nothing on {self.place.board} sends what the computer could see.")
            return
        RealCheck(self.desk, self.host, self._hold, check)

    # Boards of drawings

    def ask_drawing(self) -> None:
        """Ask for an SVG drawing and make a board of it."""
        from PySide6.QtWidgets import QFileDialog

        name, _ = QFileDialog.getOpenFileName(None, "A drawing of the board", filter="Drawings (*.svg)")
        if name:
            self.from_drawing(Path(name))

    def from_drawing(self, path: Path) -> None:
        """A board of one's own from an SVG drawing, laid out with an empty layer; report what in it is no key."""
        from glimber.core.edit.shape import with_own_board
        from glimber.readers.drawing import DrawingError, board_from_svg

        tell = self.desk.tell
        id = slug_of(path.stem)
        if id in self.folio.layouts:
            tell(f"{id} is laid out already; give the drawing another name.")
            return
        try:
            board, wrong = board_from_svg(read_given(path), id, path.stem.replace("-", " ").capitalize())
        except (StoreError, DrawingError) as error:
            tell(f"{path.name}: {error}")
            return
        if self.desk.edit(f"draw {id}", lambda folio: add_layout(with_own_board(folio, board), id)):
            self.desk.go_board(id)
            rest = f"; left out: {wrong[0]}" if wrong else ""
            tell(f"{id} has {len(board.keys)} keys and {len(board.knobs)} knobs; fingers are assumed{rest}")
