"""Actions on the notes of the selected keys: reason, label, icon, group, pin; and unbound keys one by one."""

from __future__ import annotations

from glimber.core.edit.commands import edit_binding, put_in_group
from glimber.core.edit.layers import set_unbound
from glimber.core.model.folio import INKS, MARKS, Binding, Folio, Unbound
from glimber.ui.arrange.place import bindings_at, layer_of
from glimber.ui.arrange.verbs.base import Verbs, act
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Choice


class SayingVerbs(Verbs):
    """Operations on everything but what the keys do."""

    def actions(self) -> list[Action]:
        bound = self.is_bound
        return [
            act("why", "Write the reason", "w", self.write_reason, when=bound),
            act("label", "Its short label", "t", self.write_label, when=bound),
            act("icon", "Its icon", "i", self.choose_icon, when=bound),
            act("group", "The group of all that is selected", "u", self.choose_group, when=self.is_somewhere),
            act("look", "Ink and mark of its group", "Shift+U", self.choose_look, when=bound),
            act("pin", "Pin or unpin it", "k", self.pin, when=bound),
            self.for_layouts(act("dead", "Unbound keys: dead, or fall through", "d", self.dead_or_falls)),
        ]

    def is_bound(self) -> bool:
        """Return True if any spot in front is bound."""
        return self.place is not None and any(spot in self.folio.by_trigger for spot in self.place.spots())

    def _bindings(self) -> list[Binding]:
        """Return what is bound on the spots in front."""
        if self.place is None:
            return []
        return [self.folio.by_trigger[spot] for spot in self.place.spots() if spot in self.folio.by_trigger]

    def _say(self, what: str, title: str, name: str, text: str, hint: str) -> None:
        found = self._bindings()

        def taken(value: object) -> None:
            message = str(value).strip() or None

            def change(folio: Folio) -> Folio:
                for binding in found:
                    folio = edit_binding(folio, binding.id, **{what: message})
                return folio

            self.desk.edit(f"{name} of {self.desk.called_spot(found[0].spot)}", change)

        if found:
            self.host.choose(title, taken, text=text, hint=hint)

    def write_reason(self) -> None:
        """Why it is there: the sentence that is recalled."""
        found = self._bindings()
        if found:
            self._say(
                "reason",
                f"Why {self.desk.called_spot(found[0].spot)}?",
                "write the reason",
                found[0].reason or "",
                "First letter, direction, twin…",
            )

    def write_label(self) -> None:
        """A short label; the command's exact name stays what it is."""
        found = self._bindings()
        if found:
            command = self.folio.command_of(found[0])
            hint = f"The exact name stays {command.name}." if command else ""
            self._say("label", f"Label on {self.desk.called_spot(found[0].spot)}", "label", found[0].label or "", hint)

    def choose_icon(self) -> None:
        """An icon of the set, by search, or a picture of one's own in icons/."""
        from glimber.store.cache.icons import icon_names

        found = self._bindings()
        if not found:
            return
        own = sorted(path.name for path in (self.desk.session.folder / "icons").glob("*.svg"))
        names = {name.replace("-", " "): name for name in sorted(icon_names())}
        choices = [Choice("no icon")]
        choices += [Choice(name, "a picture of your own") for name in own]
        choices += [Choice(words) for words in names]

        def taken(value: object) -> None:
            words = str(value)
            picture = f"icons/{words}" if words in own else None

            def change(folio: Folio) -> Folio:
                for binding in found:
                    folio = edit_binding(folio, binding.id, icon=names.get(words), picture=picture)
                return folio

            self.desk.edit(f"icon of {self.desk.called_spot(found[0].spot)}", change)

        self.host.choose("Icon, by name", taken, choices)

    def choose_group(self) -> None:
        """The group, and with it ink and mark, of all commands that are selected."""
        place = self.place
        refs = list(dict.fromkeys(b.command for b in bindings_at(self.folio, place) if b.command)) if place else []
        if not refs:
            self.desk.tell("No command is on the keys in front.")
            return
        program = self.folio.programs[refs[0].partition("/")[0]]
        choices = [Choice(group.name, f"{group.ink}, {group.mark}") for group in program.groups.values()]
        self.host.choose(
            f"Group of {len(refs)} commands" if len(refs) > 1 else f"Group of {self.folio.commands[refs[0]].name}",
            lambda name: self.desk.edit(f"group {name}", lambda folio: put_in_group(folio, refs, str(name))),
            choices, free=True, hint="Choose one, or write a new name. Nothing takes them out of their group.",
        )  # fmt: skip

    def choose_look(self) -> None:
        """Ink and mark of the group that the command in front is in: all its commands are drawn so."""
        found = self._bindings()
        command = self.folio.command_of(found[0]) if found else None
        group = self.folio.group_of(command)
        if command is None or group is None:
            if found:
                self.desk.tell("It is in no group; U puts it in one.")
            return

        def inked(ink: object) -> None:
            def marked(mark: object) -> None:
                self.desk.edit(
                    f"draw {group.name} in {ink}, {mark}",
                    lambda folio: put_in_group(folio, [command.ref], group.name, str(ink), str(mark)),
                )

            self.host.choose(
                f"Mark of {group.name}",
                marked,
                [Choice(mark, "as now" if mark == group.mark else "") for mark in MARKS],
            )

        self.host.choose(
            f"Ink of {group.name}", inked, [Choice(ink, "as now" if ink == group.ink else "") for ink in INKS]
        )

    def pin(self) -> None:
        """Pin what is on the spots in front so that nothing moves it, or take the pin off."""
        found = self._bindings()
        if found:
            on = not all(binding.pinned for binding in found)

            def change(folio: Folio) -> Folio:
                for binding in found:
                    folio = edit_binding(folio, binding.id, pinned=on)
                return folio

            self.desk.edit(f"{'pin' if on else 'unpin'} {self.desk.called_spot(found[0].spot)}", change)

    def dead_or_falls(self) -> None:
        """Unbound keys in front: dead where they fell through, and the other way round."""
        place = self.place
        if place is None:
            return
        layer = layer_of(self.folio, place)
        keys = [key for key in place.keys if key not in layer.by_key]
        if not keys:
            self.desk.tell("Only an unbound key can be dead or fall through.")
            return
        dead = layer.unset.get(place.key, layer.unbound) == "dead"
        state: Unbound = "falls" if dead else "dead"
        self.desk.edit(f"let {self.desk.called(place, keys[0])} {'fall through' if dead else 'be dead'}",
                  lambda folio: set_unbound(folio, place.board, place.layer, state, keys))  # fmt: skip
