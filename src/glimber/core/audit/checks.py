"""Run all checks, each on the parts of a folio it reads; a part whose values have not changed is not checked again.

A check is a function of a module of this package, registered with ``check``; nothing else names it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from importlib import import_module
from pkgutil import iter_modules

import glimber.core.audit
from glimber.core.audit.finding import CHECKS, Finding
from glimber.core.audit.parts import ElsewherePart, FolioPart, LayerPart, LayoutPart, Part, ProgramPart
from glimber.core.model.folio import EVERYWHERE, Binding, Folio, Layout

for _module in iter_modules(glimber.core.audit.__path__, "glimber.core.audit."):
    if _module.name != __name__:
        import_module(_module.name)

Named = tuple[object, tuple[object, ...], Part]


def run_checks(part: Part) -> Iterator[Finding]:
    """Run every check of a part, in the order they were registered."""
    for run in CHECKS.get(type(part), ()):
        yield from run(part)


class AuditMemory:
    """Findings of the last audit, by the part they were found in and the values that were read for it."""

    def __init__(self) -> None:
        self._known: dict[object, tuple[tuple[object, ...], tuple[Finding, ...]]] = {}

    def look(self, folio: Folio, computer: str | None) -> list[Finding]:
        """Return the findings of a folio; an edit costs no more than what it can affect."""
        known: dict[object, tuple[tuple[object, ...], tuple[Finding, ...]]] = {}
        found: list[Finding] = []
        for name, values, part in _parts(folio, computer):
            before = self._known.get(name)
            if before is not None and len(before[0]) == len(values) and all(map(_same, before[0], values)):
                known[name] = before
            else:
                known[name] = (values, tuple(run_checks(part)))
            found += known[name][1]
        self._known = known
        return found


def audit(folio: Folio, computer: str | None = None, memory: AuditMemory | None = None) -> list[Finding]:
    """Return all findings of a folio, programs first, in folio order. ``computer``: the one that is asked about."""
    return (memory or AuditMemory()).look(folio, computer)


def _same(one: object, other: object) -> bool:
    return one is other or (isinstance(one, str | int | float | tuple | frozenset | None) and one == other)


def _parts(folio: Folio, computer: str | None) -> Iterator[Named]:
    """Yield each part with the values its checks read: those that an edit leaves alone are the same objects."""
    common = (folio.legend, folio.settings, computer)
    desktop = folio.programs.get(EVERYWHERE)
    programs = tuple(folio.programs.values())
    on_boards = frozenset(
        binding.command
        for layout in folio.layouts.values()
        for layer in layout.layers
        for binding in layer.bindings
        if binding.lives_on(computer)
    )
    yield ("bundles", (*common, *programs), FolioPart(folio, computer))
    for program in programs:
        yield (
            ("program", program.id), (*common, program, desktop, folio.keyboard),
            ProgramPart(folio, computer, program),
        )  # fmt: skip
        if computer is not None:
            yield (
                ("elsewhere", program.id), (program, computer, on_boards),
                ElsewherePart(folio, computer, program),
            )  # fmt: skip
    for layout in folio.layouts.values():
        board = folio.boards.get(layout.board)
        yield (
            ("layers", layout.board), (*common, layout, board, *programs),
            LayoutPart(folio, computer, layout),
        )  # fmt: skip
        for layer in layout.layers:
            yield (
                ("places", layout.board, layer.id),
                (*common, layer, board, *programs, *_ways(layout), _all_of(folio, layer.bindings)),
                LayerPart(folio, computer, layout, layer),
            )  # fmt: skip


def _ways(layout: Layout) -> tuple[Binding, ...]:
    """Return the keys that bring layers in: what is held with a key depends on them, and not on the rest of other layers."""
    return tuple(binding for layer in layout.layers for binding in layer.bindings if binding.enters is not None)


def _all_of(folio: Folio, bindings: Iterable[Binding]) -> tuple[tuple[Binding, ...], ...]:
    """Return all bindings of the commands that some are for: uses are shared among them, wherever they are."""
    return tuple(folio.bindings_of[binding.command] for binding in bindings if binding.command is not None)
