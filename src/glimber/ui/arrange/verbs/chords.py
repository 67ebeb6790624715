"""Actions on the ordinary keyboard as a program's board: the same keys as on a layout, done to the program's chords."""

from __future__ import annotations

from collections.abc import Sequence

from glimber.core.edit.chords import (
    bound_at,
    clear_chords,
    copy_chord,
    exchange_chords,
    give_chord,
)
from glimber.core.edit.edit import EditError, move_binding
from glimber.core.edit.family import held_with
from glimber.core.edit.spots import Does, set_spot
from glimber.core.model.chord_boards import program_of_board, trigger_at
from glimber.core.model.folio import Binding, Folio
from glimber.core.model.meaning import following
from glimber.core.notation.keys import Sequence as Keys
from glimber.core.notation.keys import Spot, Trigger
from glimber.ui.arrange.place import Place, layout_of
from glimber.ui.arrange.verbs.base import Verbs
from glimber.ui.session.host import Asked
from glimber.ui.widgets.families import Families, Family


class ChordVerbs(Verbs):
    """Every operation is one edit of the stored folio: the trigger changes, id and history stay."""

    def is_on(self, place: Place) -> bool:
        """Return True if a place is on the ordinary keyboard."""
        return program_of_board(place.board) is not None

    def program_of(self, place: Place) -> str:
        """Return the program whose chords are in front."""
        return program_of_board(place.board) or ""

    def trigger(self, place: Place) -> Keys:
        """Return the chord or sequence that the key in front stands for."""
        found = trigger_at(self.stored, place.board, place.layer, place.key)
        if found is None:
            raise EditError(f"{place.key} is not a key of {place.board}")
        return found

    def bindings(self, place: Place) -> list[Binding]:
        """Return everything bound on the key in front."""
        return bound_at(self.stored, self.program_of(place), self.trigger(place))

    def has_any(self, place: Place) -> bool:
        """Return True if something is on the key, or behind it."""
        program, trigger = self.program_of(place), self.trigger(place)
        return bool(bound_at(self.stored, program, trigger) or following(self.stored, program, trigger))

    def enter(self, place: Place) -> bool:
        """Go behind a stem, or press other keys for the command in front; False where the key is free."""
        found = self.bindings(place)
        if not found:
            return self._go_behind(place)
        binding, folio = found[0], self.stored
        command = folio.commands[binding.command or ""]

        def taken(trigger: Trigger) -> None:
            swap = isinstance(trigger, Keys) and bool(bound_at(self.stored, command.program, trigger))
            if self.desk.edit(
                f"move {command.name} to {trigger}", lambda now: move_binding(now, binding.id, trigger, swap).folio
            ):
                self.desk.go_trigger(command.ref, trigger)

        self.host.ask_keys(
            Asked(folio, command.program, command.name, taken, command.context, self.desk.session.computer)
        )
        return True

    def _go_behind(self, place: Place) -> bool:
        trigger = self.trigger(place)
        behind = [layer.id for layer in layout_of(self.folio, place).layers if layer.id.startswith(f"after {trigger},")]
        if behind:
            self.desk.go_layer(behind[0])
        return bool(behind)

    def give(self, ref: str, place: Place) -> None:
        """Put a command on the key in front."""
        command, trigger, program = self.stored.commands[ref], self.trigger(place), self.program_of(place)
        if command.program != program:
            names = self.stored.programs
            self.desk.tell(
                f"{command.name} is a command of {names[command.program].name}, not of {names[program].name}."
            )
            return
        if self.desk.edit(f"put {command.name} on {trigger}", lambda folio: give_chord(folio, ref, trigger)):
            self.desk.tell(f"{command.name} is on {trigger}. It waits on the change sheet until it is set.")

    def move(self, start: Place, to: Place) -> None:
        """Put what is on one key on another; what is there goes where that came from."""
        if not (self.is_on(start) and self.is_on(to)):
            self.desk.tell(
                "A chord and a key of a layout do different things: C copies the command from one to the other."
            )
            return
        if self.program_of(start) != self.program_of(to):
            names = self.stored.programs
            one, other = names[self.program_of(start)].name, names[self.program_of(to)].name
            self.desk.tell(f"A command of {one} cannot be put into {other}.")
            return
        one_, other_, program = self.trigger(start), self.trigger(to), self.program_of(to)
        if self.desk.edit(f"move {one_} to {other_}", lambda folio: exchange_chords(folio, program, one_, other_)):
            self.desk.tell(
                f"{one_} is {other_} now. It waits on the change sheet until it is set in {self._name(program)}."
            )

    def _name(self, program: str) -> str:
        return self.stored.programs[program].name

    def copy(self, start: Spot, targets: Sequence[Spot]) -> None:
        """Let a command have further places: chords, or keys of a layout."""
        binding = self.folio.by_trigger.get(start)
        if binding is None or binding.command is None:
            self.desk.tell("Only a command can be copied to a chord: this key sends something of its own.")
            return
        ref = binding.command

        def change(folio: Folio) -> Folio:
            for spot in targets:
                trigger = trigger_at(folio, spot.board, spot.layer, spot.key)
                if trigger is None:
                    folio = set_spot(folio, spot, Does(command=ref))
                elif program_of_board(spot.board) != ref.partition("/")[0]:
                    raise EditError(
                        f"{folio.commands[ref].name} is not a command of {self._name(program_of_board(spot.board) or '')}"
                    )
                else:
                    folio = copy_chord(folio, ref, [trigger])
            return folio

        where = self.desk.called_spot(targets[0]) if len(targets) == 1 else f"{len(targets)} keys"
        self.desk.edit(f"copy {self.stored.commands[ref].name} to {where}", change)

    def ask_family(self) -> None:
        """Ask what every chord of the layer in front is to become, and show what would move and what is in the way."""
        place = self.desk.place
        if place is None:
            return
        program, chords = self.program_of(place), self.trigger(place).chords
        if len(chords) > 1:
            words, family = f"After {Keys(chords[:-1])}", following(self.stored, program, Keys(chords[:-1]))
        else:
            words = f"Held with {'+'.join(chords[-1].modifiers) or 'nothing'}"
            family = held_with(self.stored, program, chords[-1].modifiers)
        if not family:
            self.desk.tell("No chord of this layer is bound.")
            return
        found = Family(program, words, tuple(one.id for one in family))
        Families(self.desk.session, self.host, self.desk.edit).ask_how(found)

    def bench(self, place: Place) -> None:
        """Take the chords in front off; their commands wait on the bench."""
        program = self.program_of(place)
        triggers = [self.trigger(place.to(key)) for key in place.keys]
        behind = sum(len(following(self.stored, program, trigger)) for trigger in triggers)
        if behind and not any(bound_at(self.stored, program, trigger) for trigger in triggers):
            self.desk.tell(f"{behind} sequences begin here: Enter shows them, Q shows them as a tree.")
            return
        name = str(triggers[0]) if len(triggers) == 1 else f"{len(triggers)} chords"
        self.desk.edit(f"take {name} to the bench", lambda folio: clear_chords(folio, program, triggers))
