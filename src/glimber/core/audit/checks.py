"""All checks, each on the parts of a folio it reads; a part that is the same value as before is not checked again."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from glimber.core.audit.finding import Finding
from glimber.core.audit.layers import layer_findings
from glimber.core.audit.places import place_findings
from glimber.core.audit.programs import bundle_findings, elsewhere_findings, program_findings
from glimber.core.model.folio import EVERYWHERE, Binding, Folio, Layout

Check = tuple[object, tuple[object, ...], Callable[[], Iterable[Finding]]]


class AuditMemory:
    """Findings of the last audit, by the part they were found in and the values that were read for it."""

    def __init__(self) -> None:
        self._known: dict[object, tuple[tuple[object, ...], tuple[Finding, ...]]] = {}

    def look(self, folio: Folio, computer: str | None) -> list[Finding]:
        """The findings of a folio; an edit costs no more than what it can affect."""
        known: dict[object, tuple[tuple[object, ...], tuple[Finding, ...]]] = {}
        found: list[Finding] = []
        for part, values, run in _checks(folio, computer):
            before = self._known.get(part)
            if before is not None and len(before[0]) == len(values) and all(map(_same, before[0], values)):
                known[part] = before
            else:
                known[part] = (values, tuple(run()))
            found += known[part][1]
        self._known = known
        return found


def audit(folio: Folio, computer: str | None = None, memory: AuditMemory | None = None) -> list[Finding]:
    """All findings of a folio, programs first, in folio order. ``computer``: the one that is asked about."""
    return (memory or AuditMemory()).look(folio, computer)


def _same(one: object, other: object) -> bool:
    return one is other or (isinstance(one, str | int | float | tuple | frozenset | None) and one == other)


def _checks(folio: Folio, computer: str | None) -> Iterator[Check]:
    """Each part with the values its check reads: those that an edit leaves alone are the same objects."""
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
    yield ("bundles", (*common, *programs), lambda: bundle_findings(folio))
    for program in programs:
        yield (
            ("program", program.id), (*common, program, desktop, folio.keyboard),
            lambda program=program: program_findings(folio, program, computer),  # type: ignore[misc]
        )  # fmt: skip
        if computer is not None:
            yield (
                ("elsewhere", program.id), (program, computer, on_boards),
                lambda program=program: elsewhere_findings(folio, program, computer),  # type: ignore[misc]
            )  # fmt: skip
    for layout in folio.layouts.values():
        board = folio.boards.get(layout.board)
        yield (
            ("layers", layout.board), (*common, layout, board, *programs),
            lambda layout=layout: layer_findings(folio, layout),  # type: ignore[misc]
        )  # fmt: skip
        for layer in layout.layers:
            yield (
                ("places", layout.board, layer.id),
                (*common, layer, board, *programs, *_ways(layout), _all_of(folio, layer.bindings)),
                lambda layout=layout, layer=layer: place_findings(folio, layout, layer, computer),  # type: ignore[misc]
            )  # fmt: skip


def _ways(layout: Layout) -> tuple[Binding, ...]:
    """The keys that bring layers in: what is held with a key depends on them, and not on the rest of other layers."""
    return tuple(binding for layer in layout.layers for binding in layer.bindings if binding.enters is not None)


def _all_of(folio: Folio, bindings: Iterable[Binding]) -> tuple[tuple[Binding, ...], ...]:
    """All bindings of the commands that some are for: uses are shared among them, wherever they are."""
    return tuple(folio.bindings_of[binding.command] for binding in bindings if binding.command is not None)
