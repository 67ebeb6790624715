"""Cards without their answers, for testing oneself: what is drawn is the card of a folio in which no command has a label."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from msgspec.structs import replace

from glimber.core.drawing.drawing import Drawing
from glimber.core.edit.edit import map_bindings
from glimber.core.model.card_bindings import Known
from glimber.core.model.folio import Binding, Command, Folio

BLANK = "\u2007"
"""A space as wide as a figure: a label that is there and cannot be read."""


def weak(known: Known) -> frozenset[str]:
    """Return the bindings that a card blanks where only the weakest are to be filled in: those of the lower half of all grips."""
    by_grip = sorted(known.grips, key=lambda id: known.grips[id])
    return frozenset(by_grip[: (len(by_grip) + 1) // 2])


def without_some_labels(folio: Folio, ids: Collection[str]) -> Folio:
    """Return the folio with the labels of these bindings blank."""

    def blanked(binding: Binding) -> Binding:
        if binding.id not in ids or not binding.command:
            return binding
        # Its command keeps its name for the other bindings, so the icon too must be one that is not there.
        return replace(binding, label=BLANK, icon=BLANK, picture=None)

    return map_bindings(folio, blanked)


def without_labels(folio: Folio) -> Folio:
    """Return the folio with every command's and binding's label blank."""
    programs = {
        id: replace(program, commands={slug: _blank(command) for slug, command in program.commands.items()},
                    bindings=tuple(replace(binding, label=None, icon=None, picture=None) for binding in program.bindings))
        for id, program in folio.programs.items()
    }  # fmt: skip
    layouts = {
        id: replace(layout, layers=tuple(replace(one, bindings=tuple(map(_unlabelled, one.bindings))) for one in layout.layers))
        for id, layout in folio.layouts.items()
    }  # fmt: skip
    return replace(folio, programs=programs, layouts=layouts)


def _unlabelled(binding: Binding) -> Binding:
    """Return what brings layers in, or types something, keeps its label: it is no command to be known."""
    return replace(binding, label=None, icon=None, picture=None) if binding.command else binding


def _blank(command: Command) -> Command:
    return replace(command, label=BLANK, icon=None, picture=None)


def blank_sheets(blank: Sequence[Drawing], answers: Sequence[Drawing]) -> list[Drawing]:
    """Sheets to be filled in, without what belongs there, and behind each its answers."""
    empty = [
        replace(sheet, title=f"{sheet.title}, blank", description="A card to be filled in; the answers are on its back.",
                groups=tuple(replace(group, name=group.key or "") for group in sheet.groups), back=False)
        for sheet in blank
    ]  # fmt: skip
    backs = [replace(sheet, title=f"{sheet.title}, answers") for sheet in answers]
    # Every blank sheet is a front with its answers behind; answers that go on further are fronts again.
    backs = [replace(sheet, back=place < len(empty)) for place, sheet in enumerate(backs)]
    both = [one for pair in zip(empty, backs, strict=False) for one in pair]
    return [*both, *empty[len(backs) :], *backs[len(empty) :]]
