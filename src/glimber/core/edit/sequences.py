"""A program's sequences as a tree: by their first key, then by the next, with the names of groups and subgroups."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.commands import step_fault
from glimber.core.edit.edit import EditError, with_program
from glimber.core.model.folio import Binding, Folio, Stem
from glimber.core.notation.keys import Chord, NotationError, Sequence, parse_sent


class Branch(Struct, frozen=True):
    """One step of the tree. ``name`` is a group's, from its stem; ``bindings`` are complete here, ``branches`` go on."""

    chords: tuple[Chord, ...]
    name: str
    stays_open: bool
    bindings: tuple[Binding, ...]
    branches: tuple[Branch, ...]

    @property
    def trigger(self) -> Sequence:
        return Sequence(self.chords)

    def all_bindings(self) -> Iterator[Binding]:
        """Yield everything below, and what is complete here."""
        yield from self.bindings
        for branch in self.branches:
            yield from branch.all_bindings()


def sequence_tree(folio: Folio, program: str) -> tuple[Branch, ...]:
    """Return the first steps of all sequences of a program, with what follows each; single chords are no sequences."""
    here = folio.programs[program]
    bound = [
        (binding.trigger.chords, binding)
        for binding in here.bindings
        if isinstance(binding.trigger, Sequence) and len(binding.trigger.chords) > 1
    ]
    singles = [
        (binding.trigger.chords, binding)
        for binding in here.bindings
        if isinstance(binding.trigger, Sequence) and len(binding.trigger.chords) == 1
    ]
    stems = {stem.trigger.chords: stem for stem in here.stems}
    firsts = {chords[:1] for chords, _ in bound} | {chords[:1] for chords in stems}
    rows = [*bound, *((chords, binding) for chords, binding in singles if chords in firsts)]
    return _branches(rows, stems, ())


def _branches(
    rows: list[tuple[tuple[Chord, ...], Binding]], stems: dict[tuple[Chord, ...], Stem], start: tuple[Chord, ...]
) -> tuple[Branch, ...]:
    depth = len(start) + 1
    steps = dict.fromkeys(chords[:depth] for chords, _ in rows if len(chords) >= depth and chords[: depth - 1] == start)
    steps |= dict.fromkeys(chords[:depth] for chords in stems if len(chords) >= depth and chords[: depth - 1] == start)
    found = []
    for step in sorted(steps, key=lambda chords: str(Sequence(chords))):
        stem = stems.get(step)
        complete = tuple(binding for chords, binding in rows if chords == step)
        found.append(
            Branch(
                step, stem.name if stem else "", bool(stem and stem.stays_open), complete, _branches(rows, stems, step)
            )
        )
    return tuple(found)


def name_stem(folio: Folio, program: str, trigger: Sequence, name: str, stays_open: bool | None = None) -> Folio:
    """Call a group of sequences by a name; an empty name takes it away. Raises EditError."""
    here, name = folio.programs[program], " ".join(name.split())
    before = next((stem for stem in here.stems if stem.trigger == trigger), None)
    rest = tuple(stem for stem in here.stems if stem.trigger != trigger)
    if not name:
        if before is None:
            raise EditError(f"{trigger} has no name to take away")
        return with_program(folio, replace(here, stems=rest))
    open_now = (before.stays_open if before else False) if stays_open is None else stays_open
    closes = (before.closes if before else ()) or (("Escape", ""),)
    stem = Stem(trigger, name, open_now, closes if open_now else ())
    stems = tuple(stem if one.trigger == trigger else one for one in here.stems) if before else (*rest, stem)
    return with_program(folio, replace(here, stems=stems))


def close_with(folio: Folio, program: str, trigger: Sequence, text: str) -> Folio:
    """Say which keys close a group that stays open, and what each does: "Enter finish, Escape cancel". Raises EditError."""
    here = folio.programs[program]
    stem = next((stem for stem in here.stems if stem.trigger == trigger), None)
    if stem is None or not stem.stays_open:
        raise EditError(f"{trigger} does not stay open")
    closes: dict[str, str] = {}
    for part in filter(None, (part.strip() for part in text.split(","))):
        key, _, what = part.replace("=", " ", 1).partition(" ")
        try:
            sent = parse_sent(key, folio.bundles)
        except NotationError as error:
            raise EditError(str(error)) from error
        closes[str(sent)] = " ".join(what.split())
    if not closes:
        raise EditError("expected a key and what it does, such as Enter finish, Escape cancel")
    stems = tuple(replace(one, closes=tuple(closes.items())) if one is stem else one for one in here.stems)
    return with_program(folio, replace(here, stems=stems))


def take_place_of(folio: Folio, program: str, trigger: Sequence, text: str) -> Folio:
    """Say which dialog a group that stays open takes the place of, its steps with commas between; "none" for none.
    Raises EditError."""
    here = folio.programs[program]
    stem = next((stem for stem in here.stems if stem.trigger == trigger), None)
    if stem is None or not stem.stays_open:
        raise EditError(f"{trigger} does not stay open")
    steps = tuple(filter(None, (" ".join(part.split()) for part in text.split(",")))) if text.strip() != "none" else ()
    fault = next((fault for step in steps if (fault := step_fault(step))), None)
    if fault is not None:
        raise EditError(fault)
    stems = tuple(replace(one, slow_way=steps) if one is stem else one for one in here.stems)
    return with_program(folio, replace(here, stems=stems))


class Cell(Struct, frozen=True):
    """The position of a step when the tree is drawn from left to right: a column a step, a row for each way to its end.

    ``first``: it is on the row of the step before it; ``more``: another step that follows the same one stands below.
    Without a ``branch`` only the line to what stands below goes through it.
    """

    row: int
    column: int
    branch: Branch | None
    first: bool = False
    more: bool = False


def laid_out(branches: tuple[Branch, ...]) -> list[Cell]:
    """Return the tree in rows and columns, in reading order."""
    cells: list[Cell] = []
    _lay(branches, 0, 0, cells)
    return sorted(cells, key=lambda cell: (cell.row, cell.column))


def _lay(branches: tuple[Branch, ...], row: int, column: int, cells: list[Cell]) -> int:
    """Lay branches below each other; how many rows they take."""
    begin = row
    for branch in branches:
        more = branch is not branches[-1]
        cells.append(Cell(row, column, branch, branch is branches[0], more))
        used = max(1, _lay(branch.branches, row, column + 1, cells))
        if more:
            cells += [Cell(below, column, None, more=True) for below in range(row + 1, row + used)]
        row += used
    return row - begin
