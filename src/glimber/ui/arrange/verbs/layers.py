"""Actions on layers: add, rename, reorder, remove, and set what their unbound keys do."""

from __future__ import annotations

from glimber.core.edit.layers import add_layer, bring_to_front, move_layer, remove_layer, rename_layer, set_unbound
from glimber.core.edit.starters import STARTERS
from glimber.core.model.folio import Folio, Unbound
from glimber.ui.arrange.place import Place, layer_of
from glimber.ui.arrange.verbs.base import Verbs, act
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Choice


class LayerVerbs(Verbs):
    """Operations on the layer in front."""

    def actions(self) -> list[Action]:
        here = self.is_somewhere
        actions = [
            act("dead-all", "All unbound keys of the layer: dead, or fall through", "Shift+D", self.all_dead_or_fall, when=here),
            act("new", "A new layer", "n", self.new_layer, when=here),
            act("rename", "Rename the layer", "F2", self.rename_layer, when=here),
            act("front", "Turn the layer on with a program", "Shift+F", self.front_program, when=self.is_above_base),
            act("up", "Move the layer up", "{", lambda: self.move_layer(-1), when=self.is_above_base),
            act("down", "Move the layer down", "}", lambda: self.move_layer(1), when=self.is_above_base),
            act("remove", "Remove the layer; its commands go to the bench", "Shift+Delete", self.remove_layer,
                when=self.is_above_base),
        ]  # fmt: skip
        return [self.for_layouts(action) for action in actions]

    def is_above_base(self) -> bool:
        """Return True if the layer in front is not the base: that one always stays where it is."""
        place = self.place
        return place is not None and self.is_on_layout() and place.layer != self.folio.layouts[place.board].base.id

    def all_dead_or_fall(self) -> None:
        """All unbound keys of the layer: dead where they fell through, and the other way round."""
        place = self.place
        if place is not None:
            layer = layer_of(self.folio, place)
            state: Unbound = "falls" if layer.unbound == "dead" else "dead"
            words = "fall through" if state == "falls" else "be dead"
            self.desk.edit(f"let unbound keys of {layer.name} {words}",
                      lambda folio: set_unbound(folio, place.board, place.layer, state))  # fmt: skip

    def new_layer(self) -> None:
        """A new layer, blank or from a starter."""
        place = self.place
        if place is None:
            return

        def named(name: object) -> None:
            choices = [
                Choice(starter, f"{len(keys)} keys" if keys else "nothing on it") for starter, keys in STARTERS.items()
            ]
            self.host.choose(
                f"Begin {name} with", lambda starter: self._new_layer(place, str(name), str(starter)), choices
            )

        self.host.choose("Name of the new layer", named)

    def _new_layer(self, place: Place, name: str, starter: str) -> None:
        made: list[str] = []

        def change(folio: Folio) -> Folio:
            after, id = add_layer(folio, place.board, name, starter)
            made.append(id)
            return after

        if self.desk.edit(f"new layer {name}", change):
            self.desk.move_to(Place(place.board, made[-1], place.key))

    def rename_layer(self) -> None:
        """Rename the layer."""
        place = self.place
        if place is not None:
            name = layer_of(self.folio, place).name

            def taken(new: object) -> None:
                self.desk.edit(
                    f"call {name} {new}", lambda folio: rename_layer(folio, place.board, place.layer, str(new))
                )

            self.host.choose(f"Call {name}", taken, text=name)

    def front_program(self) -> None:
        """Let the layer come in automatically while a program is in front."""
        place = self.place
        if place is not None:
            choices = [Choice("no program", value=False)]
            choices += [Choice(program.name, value=program.id) for program in self.folio.programs.values()]

            def taken(id: object) -> None:
                program = str(id) if id else None
                self.desk.edit(
                    f"turn {place.layer} on with {program or 'nothing'}",
                    lambda folio: bring_to_front(folio, place.board, place.layer, program),
                )

            self.host.choose("Turned on with", taken, choices)

    def move_layer(self, by: int) -> None:
        """Move the layer up or down in the order."""
        place = self.place
        if place is not None:
            self.desk.edit(f"move {place.layer} {'down' if by > 0 else 'up'}",
                      lambda folio: move_layer(folio, place.board, place.layer, by))  # fmt: skip

    def remove_layer(self) -> None:
        """Take the layer away; what is on it waits on the bench."""
        place = self.place
        if place is not None:
            name = layer_of(self.folio, place).name
            if self.desk.edit(f"remove {name}", lambda folio: remove_layer(folio, place.board, place.layer)):
                self.desk.tell(f"{name} is gone, its commands are on the bench. Ctrl+Z takes it back.")
