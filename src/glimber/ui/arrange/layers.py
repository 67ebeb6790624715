"""What is done to layers and boards, and what a key may do besides sending: bring layers in, leave, hold a bundle, play steps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import TYPE_CHECKING, Any

from glimber.core.edits.carry import carry_over, give_to_other_hand, held_by_hand, plan_carrying, with_board
from glimber.core.edits.edit import EditError
from glimber.core.edits.layers import (
    add_layer,
    add_layout,
    bring_to_front,
    move_layer,
    remove_layer,
    rename_layer,
    set_unbound,
)
from glimber.core.edits.spots import Does, clear_spots, set_spot
from glimber.core.edits.starters import STARTERS
from glimber.core.folio.folio import Folio, Step, Wait
from glimber.core.notation.keys import Chord, Typed, parse_sent
from glimber.core.notation.keys import Sequence as Keys
from glimber.ui.arrange.place import Place, layer_of, layout_of
from glimber.ui.choose import Choice
from glimber.ui.pressit import Asked

if TYPE_CHECKING:
    from glimber.ui.arrange.freeplay import FreePlay
    from glimber.ui.arrange.room import ArrangeRoom
    from glimber.ui.arrange.typist import Typist

EVEN_MS = 10
"""Pauses between recorded steps are made even to this."""


class LayerDoing:
    """Operations on layers, boards and on what spots do; the place and the edits come from the class built on this."""

    typist: Typist
    play: FreePlay
    folio: Any
    place: Any

    def __init__(self, room: ArrangeRoom) -> None:
        self.room = room
        self._recorded: list[tuple[Chord, float]] = []

    def edit(self, name: str, change: Callable[[Folio], Folio]) -> bool:
        raise NotImplementedError

    def ask_keys(self, asked: Asked, spelt: bool) -> None:
        """Have keys pressed or spelt."""
        if self.room.window_of is not None:
            self.room.window_of.ask_keys(asked, spelt)

    def choose(self, title: str, taken: Callable[[object], Any], choices: Sequence[Choice] = (), *, text: str = "",
               free: bool | None = None, hint: str = "") -> None:  # fmt: skip
        """Have something chosen or written."""
        if self.room.window_of is not None:
            self.room.window_of.chooser.ask(title, taken, choices, text=text, free=free, hint=hint)

    # What a spot does

    def what_it_does(self) -> None:
        """Everything a spot can do besides sending a chord, as a list to choose from."""
        place: Place | None = self.place
        if place is None:
            return
        layout = layout_of(self.folio, place)
        ways = {"while": "while held", "switch": "on and off", "once": "for one key", "stay": "until left"}
        if place.gesture != "hold":
            ways = {mode: ways[mode] for mode in ("switch", "once", "stay", "while")}
        choices = [
            Choice(f"brings in {layer.name} {words}", "layer", value=Does(enters=layer.id, mode=mode))
            for layer in layout.layers[1:]
            if layer.id != place.layer
            for mode, words in ways.items()
        ]
        if place.layer != layout.base.id:
            choices.append(Choice(f"leaves {layer_of(self.folio, place).name}", "layer", value=Does(leaves=True)))
        choices += [
            Choice(f"holds {name}", "+".join(held), value=Does(bundle=name))
            for name, held in self.folio.bundles.items()
        ]
        choices += [
            Choice("types a text…", "as it is written", value="text"),
            Choice("plays steps, recorded as they are struck…", "pauses are made even", value="record"),
            Choice("plays steps, written…", "Ctrl+K, 80 ms, \"buoy\"", value="steps"),
            Choice("repeats while held…", "every so many ms", value="repeat"),
            Choice("sends something when let go…", "besides what it sends when struck", value="release"),
            Choice("nothing: off the key", "to the bench", value="clear"),
        ]  # fmt: skip
        self.choose(f"What {place.key} does, {place.gesture}", lambda value: self._does(place, value), choices)

    def _does(self, place: Place, value: object) -> None:
        if isinstance(value, Does):
            what = value.enters or value.bundle or "leave"
            self._set(
                place, f"let {place.key} {'bring in' if value.enters else 'hold' if value.bundle else ''} {what}", value
            )
        elif value == "clear":
            self.edit(f"take {place.key} to the bench", lambda folio: clear_spots(folio, place.spots()))
        elif value == "record":
            self._record(place)
        else:
            asked: dict[object, tuple[str, str, Callable[[str], Does]]] = {
                "text": ("The text it types", "", lambda text: Does(sends=Typed(text))),
                "steps": ("Its steps, with commas between", "chords, texts in quotes, pauses such as 80 ms", self._steps_of),
                "repeat": ("Repeat every how many ms", "60", lambda text: replace(self._now(place), repeat_ms=_whole(text))),
                "release": ("What it sends when it is let go", "Escape",
                            lambda text: replace(self._now(place), release=(parse_sent(text, self.folio.bundles),))),
            }  # fmt: skip
            title, hint, read = asked[value]
            self.choose(title, lambda text: self._written(place, str(text), read), hint=hint)

    def _written(self, place: Place, text: str, read: Callable[[str], Does]) -> None:
        try:
            does = read(text)
        except (ValueError, EditError) as error:
            self.room.session.told.emit(str(error))
            return
        self._set(place, f"change what {place.key} does", does)

    def _set(self, place: Place, name: str, does: Does) -> None:
        def change(folio: Folio) -> Folio:
            for spot in place.spots():
                folio = set_spot(folio, spot, does)
            return folio

        self.edit(" ".join(name.split()), change)

    def _now(self, place: Place) -> Does:
        """What the spot does now, to be added to."""
        binding = self.folio.by_trigger.get(place.spot)
        if binding is None:
            raise EditError("let it send something first")
        return Does(binding.command, binding.sends, binding.steps, binding.repeat_ms, binding.release)

    def _steps_of(self, text: str) -> Does:
        steps: list[Step] = []
        for part in _parts(text):
            if part.endswith("ms") and part[:-2].strip().isdigit():
                steps.append(Wait(int(part[:-2])))
            else:
                steps.append(parse_sent(part, self.folio.bundles))
        if not steps:
            raise EditError("no steps: expected chords, texts in quotes or pauses such as 80 ms")
        return Does(steps=tuple(steps))

    def _record(self, place: Place) -> None:
        """Record steps from real keys until Escape; the pauses between them become one even pause."""
        self._recorded = []

        def ended() -> None:
            struck, self._recorded = self._recorded, []
            if struck:
                self._set(place, f"let {place.key} play {len(struck)} steps", Does(steps=even_steps(struck)))
            self.room.show_place()

        self.typist.start(self.folio, lambda chord, t: self._recorded.append((chord, t)), ended)
        self.room.session.told.emit(f"Recording the steps of {place.key}: strike them, then Esc.")

    # Unbound keys

    def all_dead_or_fall(self) -> None:
        """All unbound keys of the layer: dead where they fell through, and the other way round."""
        place: Place | None = self.place
        if place is not None:
            layer = layer_of(self.folio, place)
            state = "falls" if layer.unbound == "dead" else "dead"
            words = "fall through" if state == "falls" else "be dead"
            self.edit(f"let unbound keys of {layer.name} {words}",
                      lambda folio: set_unbound(folio, place.board, place.layer, state))  # fmt: skip

    # Layers

    def new_layer(self) -> None:
        """A new layer, blank or from a starter."""
        place: Place | None = self.place
        if place is None:
            self.add_board()
            return

        def named(name: object) -> None:
            choices = [
                Choice(starter, f"{len(keys)} keys" if keys else "nothing on it") for starter, keys in STARTERS.items()
            ]
            self.choose(f"Begin {name} with", lambda starter: self._new_layer(place, str(name), str(starter)), choices)

        self.choose("Name of the new layer", named)

    def _new_layer(self, place: Place, name: str, starter: str) -> None:
        made: list[str] = []

        def change(folio: Folio) -> Folio:
            after, id = add_layer(folio, place.board, name, starter)
            made.append(id)
            return after

        if self.edit(f"new layer {name}", change):
            self.room.move_to(Place(place.board, made[-1], place.key))

    def rename_layer(self) -> None:
        """Call the layer otherwise."""
        place: Place | None = self.place
        if place is not None:
            name = layer_of(self.folio, place).name

            def taken(new: object) -> None:
                self.edit(f"call {name} {new}", lambda folio: rename_layer(folio, place.board, place.layer, str(new)))

            self.choose(f"Call {name}", taken, text=name)

    def front_program(self) -> None:
        """Let the layer come in by itself while a program is in front."""
        place: Place | None = self.place
        if place is not None:
            choices = [Choice("no program", value=False)]
            choices += [Choice(program.name, value=program.id) for program in self.folio.programs.values()]

            def taken(id: object) -> None:
                program = str(id) if id else None
                self.edit(
                    f"bring {place.layer} in with {program or 'nothing'}",
                    lambda folio: bring_to_front(folio, place.board, place.layer, program),
                )

            self.choose("Comes in with", taken, choices)

    def move_layer(self, by: int) -> None:
        """Move the layer up or down in the order."""
        place: Place | None = self.place
        if place is not None:
            self.edit(f"move {place.layer} {'down' if by > 0 else 'up'}",
                      lambda folio: move_layer(folio, place.board, place.layer, by))  # fmt: skip

    def remove_layer(self) -> None:
        """Take the layer away; what is on it waits on the bench."""
        place: Place | None = self.place
        if place is not None:
            name = layer_of(self.folio, place).name
            if self.edit(f"remove {name}", lambda folio: remove_layer(folio, place.board, place.layer)):
                self.room.session.told.emit(f"{name} is gone, its commands are on the bench. Ctrl+Z takes it back.")

    # Boards

    def add_board(self) -> None:
        """Lay out another board of those that come with Glimber."""
        from glimber.store.toml.reading import shipped_board

        choices = self._other_boards("")

        def taken(id: object) -> None:
            board = shipped_board(str(id))
            if self.edit(f"lay out {board.id}", lambda folio: add_layout(with_board(folio, board), board.id)):
                self.room.go_board(board.id)

        self.choose("Lay out a board", taken, choices)

    def _other_boards(self, start: str) -> Sequence[Choice]:
        from glimber.store.toml.reading import shipped_board, shipped_board_ids

        known = dict.fromkeys((*self.folio.own_boards, *shipped_board_ids()))
        boards = [self.folio.boards.get(id) or shipped_board(id) for id in known if id != start]
        return [
            Choice(board.id, board.name, value=board.id)
            for board in boards
            if start or board.id not in self.folio.layouts
        ]

    def carry(self) -> None:
        """Carry the layout over to another board: first seen, then done."""
        place: Place | None = self.place
        if place is None:
            return

        from glimber.store.toml.reading import shipped_board

        def chosen(id: object) -> None:
            board = self.folio.boards.get(id) or shipped_board(str(id))
            folio = with_board(self.folio, board)
            plan = plan_carrying(folio, place.board, board.id)
            same, near, none = (len(plan.of(how)) for how in ("same", "near", "none"))
            left = f"{len(plan.left)} bindings would go to the bench"
            told = f"{same} keys are the same, {near} near, {none} have none there: {left}."
            choices = [
                Choice(f"Carry over, {board.id} instead of {place.board}", "bindings keep their history", value="move"),
                Choice(
                    f"Carry over, {board.id} beside {place.board}",
                    "copies, each with a history of its own",
                    value="copy",
                ),
            ]
            near_words = [f"{one.key} → {one.to or 'the bench'}" for one in plan.keys if one.how != "same"]
            choices += [Choice(f"   {words}", one.why, value="no") for words, one in
                        zip(near_words, [one for one in plan.keys if one.how != "same"], strict=True)]  # fmt: skip

            def done(value: object) -> None:
                if value in ("move", "copy") and self.edit(
                    f"carry {place.board} over to {board.id}",
                    lambda now: carry_over(with_board(now, board), plan, keep=value == "copy"),
                ):
                    self.room.go_board(board.id)

            self.choose(f"{place.board} on {board.name}", done, choices, hint=told)

        self.choose("Carry the layout over to", chosen, self._other_boards(place.board))

    def hand_away(self) -> None:
        """Show what a hand that is elsewhere held: left, then right, then neither."""
        place: Place | None = self.place
        if place is None:
            return
        shape = self.folio.boards[place.board]
        turn = {"": "left", "left": "right", "right": ""}
        now = next((key.hand or "" for key in shape.keys if key.id in self.room.dim), "")
        hand = turn.get(now, "")
        self.room.dim = frozenset(key.id for key in shape.keys if hand and key.hand == hand)
        self.room.show_place()
        if not hand:
            return
        held, given = held_by_hand(self.folio, place.board, hand), give_to_other_hand(self.folio, place.board, hand)
        names = [self.folio.commands[binding.command].name for binding in held]
        if not names:
            self.room.session.told.emit(f"The {hand} hand holds no commands on {place.board}.")
            return
        moved = [Choice(f"   {self._moved(id)}", f"{start.key} → {to.key} on {start.layer}", value="no")
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
                self.edit(f"give the {hand} hand's keys to the other",
                          lambda folio: give_to_other_hand(folio, place.board, hand).folio)  # fmt: skip

        self.choose(f"The {hand} hand is away; it held {len(names)} commands", taken, choices)

    def _moved(self, id: str) -> str:
        binding = self.folio.bindings[id]
        command = self.folio.command_of(binding)
        return command.name if command else id

    def play_device(self) -> None:
        """Free play on a board that is read as a device: a twin of it, or the main board, does not count."""
        from glimber.store.system.device import devices

        choices = [Choice(one.words, str(one.path), value=one.path) for one in devices()]
        if not choices:
            self.room.session.told.emit("The kernel lists no keyboard on this computer.")
            return
        self.choose("Which device is the board?", lambda path: self.play.start(path), choices)

    def free_play(self) -> None:
        """Begin or end free play."""
        if self.play.on:
            self.play.stop()
        else:
            self.play.start()


def even_steps(struck: Sequence[tuple[Chord, float]]) -> tuple[Step, ...]:
    """Recorded chords with one even pause between them: the middle one of the pauses there were, to 10 ms."""
    gaps = sorted(later[1] - earlier[1] for earlier, later in pairwise(struck))
    pause = round(gaps[len(gaps) // 2] / EVEN_MS) * EVEN_MS if gaps else 0
    steps: list[Step] = []
    for place, (chord, _) in enumerate(struck):
        if place and pause:
            steps.append(Wait(pause))
        steps.append(Keys((chord,)))
    return tuple(steps)


def _parts(text: str) -> list[str]:
    """A list with commas between; commas inside quotes belong to the text."""
    parts, current, quoted = [], "", False
    for place, character in enumerate(text):
        if character == '"' and (place == 0 or text[place - 1] != "\\"):
            quoted = not quoted
        if character == "," and not quoted:
            parts.append(current)
            current = ""
        else:
            current += character
    return [part.strip() for part in (*parts, current) if part.strip()]


def _whole(text: str) -> int:
    value = text.strip().removesuffix("ms").strip()
    if not value.isdigit() or not 0 < int(value) <= 60_000:
        raise ValueError(f"{text!r} is not a time; expected a number of ms up to 60,000")
    return int(value)
