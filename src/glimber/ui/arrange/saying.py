"""What is said of the keys in front, whatever they do: reason, label, icon, group, pin; and unbound keys one by one."""

from __future__ import annotations

from glimber.core.edits.commands import edit_binding, put_in_group
from glimber.core.edits.layers import set_unbound
from glimber.core.folio.folio import INKS, MARKS, Binding, Folio
from glimber.ui.arrange.layers import LayerDoing
from glimber.ui.arrange.place import bindings_at, layer_of
from glimber.ui.choose import Choice


class SayingDoing(LayerDoing):
    """Operations on everything but what the keys do."""

    def _bindings(self) -> list[Binding]:
        """What is bound on the spots in front."""
        if self.place is None:
            return []
        found = [self.folio.by_trigger[spot] for spot in self.place.spots() if spot in self.folio.by_trigger]
        if not found:
            self.room.session.told.emit("Nothing is bound there.")
        return found

    def _say(self, what: str, title: str, name: str, text: str, hint: str) -> None:
        found = self._bindings()

        def taken(value: object) -> None:
            said = str(value).strip() or None

            def change(folio: Folio) -> Folio:
                for binding in found:
                    folio = edit_binding(folio, binding.id, **{what: said})
                return folio

            self.edit(f"{name} of {found[0].spot.key}", change)

        if found:
            self.choose(title, taken, text=text, hint=hint)

    def write_reason(self) -> None:
        """Why it is there: the sentence that is recalled."""
        found = self._bindings()
        if found:
            self._say(
                "reason",
                f"Why {found[0].spot.key}?",
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
            self._say("label", f"Label on {found[0].spot.key}", "label", found[0].label or "", hint)

    def choose_icon(self) -> None:
        """An icon of the set, by search, or a picture of one's own in icons/."""
        from glimber.store.cache.icons import icon_names

        found = self._bindings()
        if not found:
            return
        own = sorted(path.name for path in (self.room.session.folder / "icons").glob("*.svg"))
        choices = [Choice("no icon", value=("icon", None))]
        choices += [Choice(name, "a picture of your own", value=("picture", f"icons/{name}")) for name in own]
        choices += [Choice(name.replace("-", " "), value=("icon", name)) for name in sorted(icon_names())]

        def taken(value: object) -> None:
            what, name = value  # type: ignore[misc]

            def change(folio: Folio) -> Folio:
                for binding in found:
                    said = {"icon": None, "picture": None, str(what): name}
                    folio = edit_binding(folio, binding.id, **said)
                return folio

            self.edit(f"icon of {found[0].spot.key}", change)

        self.choose("Icon, by name", taken, choices)

    def choose_group(self) -> None:
        """The group, and with it ink and mark, of all commands that are selected."""
        place = self.place
        refs = list(dict.fromkeys(b.command for b in bindings_at(self.folio, place) if b.command)) if place else []
        if not refs:
            self.room.session.told.emit("No command is on the keys in front.")
            return
        program = self.folio.programs[refs[0].partition("/")[0]]
        choices = [Choice(group.name, f"{group.ink}, {group.mark}") for group in program.groups.values()]
        self.choose(
            f"Group of {len(refs)} commands" if len(refs) > 1 else f"Group of {self.folio.commands[refs[0]].name}",
            lambda name: self.edit(f"group {name}", lambda folio: put_in_group(folio, refs, str(name))),
            choices, free=True, hint="Choose one, or write a new name. Nothing takes them out of their group.",
        )  # fmt: skip

    def choose_look(self) -> None:
        """Ink and mark of the group that the command in front is in: all its commands are drawn so."""
        found = self._bindings()
        command = self.folio.command_of(found[0]) if found else None
        group = self.folio.group_of(command)
        if command is None or group is None:
            if found:
                self.room.session.told.emit("It is in no group; U puts it in one.")
            return

        def inked(ink: object) -> None:
            def marked(mark: object) -> None:
                self.edit(
                    f"draw {group.name} in {ink}, {mark}",
                    lambda folio: put_in_group(folio, [command.ref], group.name, str(ink), str(mark)),
                )

            self.choose(
                f"Mark of {group.name}",
                marked,
                [Choice(mark, "as now" if mark == group.mark else "") for mark in MARKS],
            )

        self.choose(f"Ink of {group.name}", inked, [Choice(ink, "as now" if ink == group.ink else "") for ink in INKS])

    def pin(self) -> None:
        """Pin what is on the spots in front so that nothing moves it, or take the pin off."""
        found = self._bindings()
        if found:
            on = not all(binding.pinned for binding in found)

            def change(folio: Folio) -> Folio:
                for binding in found:
                    folio = edit_binding(folio, binding.id, pinned=on)
                return folio

            self.edit(f"{'pin' if on else 'unpin'} {found[0].spot.key}", change)

    def dead_or_falls(self) -> None:
        """Unbound keys in front: dead where they fell through, and the other way round."""
        place = self.place
        if place is None:
            return
        layer = layer_of(self.folio, place)
        keys = [key for key in place.keys if key not in layer.by_key]
        if not keys:
            self.room.session.told.emit("Only an unbound key can be dead or fall through.")
            return
        dead = layer.unset.get(place.key, layer.unbound) == "dead"
        state = "falls" if dead else "dead"
        self.edit(f"let {keys[0]} {'fall through' if dead else 'be dead'}",
                  lambda folio: set_unbound(folio, place.board, place.layer, state, keys))  # fmt: skip
