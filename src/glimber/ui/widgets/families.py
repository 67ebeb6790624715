"""Change the keys of several commands at once: ask which and how, show what is in the way, then move them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Final

from msgspec import Struct

from glimber.core.edit.edit import EditError
from glimber.core.edit.family import (
    Change,
    FamilyMove,
    held_with,
    in_row,
    modifiers_of,
    move_family,
    of_group,
    plan_family,
    put_behind,
    stem_of,
    with_modifiers,
)
from glimber.core.model.describe import count_words
from glimber.core.model.folio import Binding, Folio
from glimber.core.model.meaning import following
from glimber.core.notation.keys import Sequence as Keys
from glimber.ui.session.host import Choice, Host
from glimber.ui.session.pages import Page, PageAction
from glimber.ui.widgets.page_rows import Plain

if TYPE_CHECKING:
    from glimber.ui.session.pages import PageRow
    from glimber.ui.session.session import Session

_ROWS: Final = (("One row up", 1), ("One row down", -1))


class Family(Struct, frozen=True):
    """Bindings of a program that belong together: in words, and the ids they had when they were chosen."""

    program: str
    words: str
    bindings: tuple[str, ...]

    @property
    def named(self) -> str:
        """Return it as it stands within a sentence."""
        return self.words[:1].lower() + self.words[1:]


class Families:
    """Asks for and carries out what changes several keys; ``edit`` makes one edit, with its name, and tells whether it did."""

    def __init__(self, session: Session, host: Host, edit: Callable[[str, Callable[[Folio], Folio]], bool]) -> None:
        self._session, self._host, self._edit = session, host, edit

    def ask_which(self, chosen: Sequence[Binding]) -> None:
        """Ask which family: the bindings chosen by hand, or those that one of them belongs to; then how."""
        families = self.families(chosen)
        if not families:
            self._session.notified.emit("Choose commands that have chords or sequences first.")
        elif len(families) == 1:
            self.ask_how(families[0])
        else:
            choices = [Choice(one.words, count_words(len(one.bindings), "key"), value=one) for one in families]
            self._host.choose("Change the keys of which commands?", lambda one: self.ask_how(one), choices)  # type: ignore[arg-type]

    def families(self, chosen: Sequence[Binding]) -> list[Family]:
        """Return the families that bindings make up: all of them, and of the first its group, modifiers and first keys."""
        folio = self._session.folio
        keyed = [one for one in chosen if isinstance(one.trigger, Keys) and one.command is not None]
        if not keyed:
            return []
        first, program = keyed[0], str(keyed[0].command).partition("/")[0]
        of_one = [one for one in keyed if str(one.command).startswith(f"{program}/")]
        found = [self._family(program, "The selected commands", of_one)] if len(of_one) > 1 else []
        command, keys = folio.command_of(first), first.trigger
        assert isinstance(keys, Keys)
        if command is not None and command.group is not None:
            group = folio.programs[program].groups[command.group]
            found.append(self._family(program, f"The group {group.name}", of_group(folio, program, group.id)))
        held = keys.chords[-1].modifiers
        found.append(self._family(program, f"Held with {'+'.join(held) or 'nothing'}", held_with(folio, program, held)))
        if len(keys.chords) > 1:
            stem = Keys(keys.chords[:-1])
            found.append(self._family(program, f"After {stem}", following(folio, program, stem)))
        return found

    def _family(self, program: str, words: str, bindings: Sequence[Binding]) -> Family:
        return Family(program, words, tuple(one.id for one in bindings))

    def ask_how(self, family: Family) -> None:
        """Ask what the keys of a family become."""
        choices = [
            Choice("Other modifiers", "Ctrl+Shift, Alt, none", value=lambda: self.ask_modifiers(family)),
            Choice("After other keys", "Ctrl+M, or none", value=lambda: self._ask_stem(family)),
            *(Choice(words, "on this keyboard", value=lambda up=up, words=words: self.show(family, words.lower(), in_row(up)))
              for words, up in _ROWS),
        ]  # fmt: skip

        def taken(ask: object) -> None:
            if callable(ask):
                ask()

        self._host.choose(f"{family.words}: {count_words(len(family.bindings), 'key')} become", taken, choices)

    def ask_modifiers(self, family: Family, held: str = "") -> None:
        """Ask for other modifiers; ``held`` is proposed."""

        def taken(text: object) -> None:
            try:
                modifiers = modifiers_of(str(text))
            except EditError as error:
                self._session.notified.emit(str(error))
                return
            self.show(family, f"held with {'+'.join(modifiers) or 'nothing'}", with_modifiers(modifiers))

        self._host.choose(f"{family.words}: held with which modifiers?", taken, text=held)

    def _ask_stem(self, family: Family) -> None:
        def taken(text: object) -> None:
            try:
                stem = stem_of(str(text), self._session.folio.bundles)
            except EditError as error:
                self._session.notified.emit(str(error))
                return
            self.show(family, f"after {stem or 'no other key'}", put_behind(stem))

        self._host.choose(f"{family.words}: after which keys? Such as Ctrl+M, or none", taken)

    def show(self, family: Family, words: str, change: Change) -> None:
        """Show where each key of a family would go and what is in the way; Enter moves what can."""
        session = self._session

        def moves() -> list[FamilyMove]:
            folio = session.folio
            bindings = [folio.bindings[id] for id in family.bindings if id in folio.bindings]
            return plan_family(folio, family.program, bindings, change, session.computer)

        def rows() -> list[PageRow]:
            planned = sorted(moves(), key=lambda move: not move.in_the_way)
            return [Plain(f"{move.command}: {move.start} → {move.to}", move.in_the_way or "free") for move in planned]

        free = sum(not move.in_the_way and move.to != move.start for move in moves())
        stays = len(family.bindings) - free
        about = f"{free} can move as one step of undo" + (f"; {stays} stay." if stays else ".")

        def move(_: object) -> None:
            if self._edit(f"{family.named}: {words}", lambda folio: move_family(folio, family.program, moves())):
                session.notified.emit(f"{count_words(free, 'key')} moved. They wait on the change sheet until they are set.")

        actions = (PageAction("Enter", f"Move {free}", move),) if free else ()
        name = session.folio.programs[family.program].name
        self._host.show_page(Page(f"{name}: {family.named}, {words}", rows, actions, about))
