"""The parts of a folio that are checked one by one: an edit costs the checks of what it touches."""

from __future__ import annotations

from functools import cached_property

from msgspec import Struct

from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Folio, Layer, Layout, Program
from glimber.core.notation.keys import Spot, Strike, strikes_of

Strikes = tuple[Strike, ...]


class FolioPart(Struct, frozen=True):
    """The folio as a whole, for checks that concern all programs together."""

    folio: Folio
    computer: str | None


class ProgramPart(Struct, frozen=True, dict=True):
    """One program, whatever the boards do."""

    folio: Folio
    computer: str | None
    program: Program

    @cached_property
    def struck(self) -> list[tuple[Binding, Strikes]]:
        """Its shortcuts as the keyboard strikes them, those that can be struck."""
        legend, bundles = self.folio.legend, self.folio.bundles
        return [
            (binding, strikes)
            for binding in self.program.bindings
            if not isinstance(binding.trigger, Spot) and (strikes := strikes_of(binding.trigger, legend, bundles))
        ]


class ElsewherePart(Struct, frozen=True):
    """One program as it is on one computer."""

    folio: Folio
    computer: str
    program: Program


class LayoutPart(Struct, frozen=True):
    """The layers of one board as a whole."""

    folio: Folio
    computer: str | None
    layout: Layout


class LayerPart(Struct, frozen=True):
    """The keys of one layer, one by one."""

    folio: Folio
    computer: str | None
    layout: Layout
    layer: Layer

    @property
    def board(self) -> Board:
        return self.folio.boards[self.layout.board]


Part = FolioPart | ProgramPart | ElsewherePart | LayoutPart | LayerPart
