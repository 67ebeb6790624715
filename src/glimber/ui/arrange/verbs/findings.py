"""Actions on findings, and the search for free places."""

from __future__ import annotations

from collections.abc import Callable

from glimber.core.audit.finding import Finding
from glimber.core.edit.edit import add_trigger
from glimber.ui.arrange.desk import ArrangeDesk
from glimber.ui.arrange.verbs.base import Panes, Verbs, act
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Choice, Host


class FindingVerbs(Verbs):
    """``finding`` and ``command``: those in front in the lists beside the board while these have the focus; ``heaviest``: what
    is first on the bench."""

    def __init__(
        self,
        desk: ArrangeDesk,
        host: Host,
        finding: Callable[[], Finding | None],
        command: Callable[[], str | None],
        heaviest: Callable[[], str | None],
    ) -> None:
        super().__init__(desk, host)
        self._finding, self._on_bench, self._heaviest = finding, command, heaviest

    def actions(self, panes: Panes) -> list[Action]:
        def cure() -> None:
            one = self._finding()
            if one is not None:
                self.cure(one)

        return [
            act("cure", "Apply the fix of the finding", "Enter", cure, scope=panes.findings),
            act("free", "Free places for the command", "o", self.free_places),
        ]

    def _command(self) -> str | None:
        """Return the command in front: that of the key, or else the one on the bench."""
        binding = self.folio.by_trigger.get(self.place.spot) if self.place is not None else None
        return self._on_bench() or (binding.command if binding else None) or self._heaviest()

    def cure(self, one: Finding) -> None:
        """Do what cures a finding."""
        from glimber.core.audit.cures import cure

        how = one.cure
        if how is None:
            self.desk.tell("There is no automatic fix: change one of the keys.")
            return
        self.desk.edit(how.words, lambda folio: cure(folio, one, self.desk.session.computer))

    def free_places(self) -> None:
        """Free spots and chords for the command in front, or the one in front on the bench."""
        from glimber.core.decide.free_places import free_chords, free_spots
        from glimber.ui.widgets.chips import words_of

        ref = self._command()
        if ref is None:
            self.desk.tell("No command is in front.")
            return
        command, folio = self.stored.commands[ref], self.stored
        found = [
            *free_spots(folio, ref, most=16),
            *free_chords(folio, ref, self.desk.session.computer, most=16),
        ]
        found.sort(key=lambda one: one.score)
        choices = [
            Choice(
                f"{one.trigger}", f"{one.reach_ms:.0f} ms   {'; '.join(one.why)}", words_of(one.trigger), one.trigger
            )
            for one in found
        ]

        by_words = {str(one.trigger): one.trigger for one in found}

        def taken(value: object) -> None:
            trigger = by_words[str(value)]
            done = self.desk.edit(f"give {command.name} {trigger}", lambda folio: add_trigger(folio, ref, trigger))
            if done:
                self.desk.go_trigger(ref, trigger)

        self.host.choose(f"Free places for {command.name}, the easiest first", taken, choices)
