"""The branch card: a program's sequences as a tree from the first key to the command, drawn as one, its stems named."""

from __future__ import annotations

from collections.abc import Sequence as Series
from functools import partial
from math import ceil
from typing import Final

from msgspec import Struct, field

from glimber.core.cards.frame import CannotDraw, Footnotes, Frame, Kit, Note, note_sheets, numbered
from glimber.core.cards.grid import Entry
from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Drawing, Group, Item, Path, Rect, Stroke
from glimber.core.drawing.paper import paper_of
from glimber.core.drawing.short_labels import short_forms_of
from glimber.core.drawing.text import LINE, fit
from glimber.core.model.card_bindings import NOTHING_KNOWN, Known, chosen, label_of, sequences_of
from glimber.core.model.folio import Card, Folio, Program
from glimber.core.notation.keys import Sequence

_MOST_COLUMNS: Final = 3
_GAP: Final = 3.0
"""mm between a chip and the next at least."""
_LABEL: Final = 7.5
"""Room for a label at least, in sizes of its type."""
_SEE: Final = 3.6
"""Room for the number of a note, in sizes of its type."""
_LEAF: Final = 2.0
_LEAVES: Final = (_LEAF, 2.7)
"""Least height of a leaf with one line and with two, in sizes of its type."""
_TALLEST: Final = 14.0
"""A leaf at most, in mm."""
_BETWEEN: Final = 0.6
"""Room between two trees, in leaves."""
_FEWEST: Final = 4.0
"""Lines of a tree that begins at the foot of a column, at least."""
_IN_PLACE: Final = 0.95
"""Share of labels in place that is as good as all of them."""


class Node(Struct):
    """One step: its chord as it is written, what follows, and what it does where a sequence ends with it."""

    chord: str
    name: str = ""
    entries: list[Entry] = field(default_factory=list)
    after: dict[str, Node] = field(default_factory=dict)

    @property
    def leaves(self) -> int:
        """Return how many lines it takes: one for each command and each end."""
        return len(self.entries) + sum(node.leaves for node in self.after.values())

    @property
    def depth(self) -> int:
        return 1 + max((node.depth for node in self.after.values()), default=0)


def tree_of(folio: Folio, card: Card, known: Known = NOTHING_KNOWN) -> list[Node]:
    """Return the sequences of a card as trees, by first step, in order of their strokes."""
    root = Node("")
    for binding, command, trigger in sorted(sequences_of(chosen(folio, card, known)), key=lambda one: str(one[2])):
        node = root
        for at, chord in enumerate(trigger.chords):
            node = node.after.setdefault(str(chord), Node(str(chord), _stem(folio, command.program, trigger, at + 1)))
        node.entries.append(Entry(binding.id, label_of(binding, command), command.name, folio.group_of(command), command.careful,
                                  binding.reason, known.grips.get(binding.id) if "grip" in card.shows else None))  # fmt: skip
    return list(root.after.values())


def _stem(folio: Folio, program: str, trigger: Sequence, steps: int) -> str:
    """Return what a stem is called, and how it ends where it stays open."""
    found: Program | None = folio.programs.get(program)
    wanted = trigger.chords[:steps]
    for stem in found.stems if found else ():
        if stem.trigger.chords == wanted:
            ends = f", stays open until {stem.ends}" if stem.stays_open else ""
            return f"{stem.name}{ends}"
    return ""


def branch_card(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    """Draw a branch card on as many sheets as it takes. Raises CannotDraw where there are no sequences."""
    trees = tree_of(folio, card, kit.known)
    if not trees:
        raise CannotDraw(f"{card.title} has no sequences to show")
    return _Branches(folio, card, kit).draw(trees)


class _LeafPlace(Struct, frozen=True):
    """Where a command is drawn, in mm: left end, middle, width of the chip before it (0: none), width in all, height."""

    x: float
    y: float
    chip: float
    width: float
    height: float


class _Way(Struct, frozen=True):
    """One way to set trees on a sheet: in columns, what is left for the next sheets, and the height of a leaf in mm. ``rank``:
    the share of labels in place in twentieths, sheets to come (negative), and size of type; the largest is the best."""

    rank: tuple[int, int, float]
    columns: int
    parts: list[list[Node]]
    rest: list[Node]
    leaf: float


class _Branches:
    def __init__(self, folio: Folio, card: Card, kit: Kit) -> None:
        self.card, self.faces, self.stamp = card, kit.faces, kit.stamp
        self.paper = paper_of(card.paper, card.landscape)
        self.frame, self.least = Frame(self.paper, kit.faces, sign=kit.sign), self.paper.least_label
        self.short = short_forms_of(folio)
        program = folio.programs.get(card.program or "")
        self.subtitle = f"sequences{f' of {program.name}' if program else ''}, from first key to command"

    def draw(self, trees: Series[Node]) -> list[Drawing]:
        frame, sheets, waiting, left = self.frame, list[Drawing](), list[Note](), list(trees)
        if max(self._least_width(tree) for tree in trees) - (_LABEL - _SEE) * self.least > frame.inner:
            raise CannotDraw(
                f"{self.card.title}: {self.paper.name} is too narrow for its longest sequence; turn it or choose another"
            )
        header, top = frame.header(self.card.title, self.subtitle, self.stamp)
        while left:
            entries = [entry for tree in left for entry in _entries(tree)]
            groups = [entry.group for entry in entries if entry.group]
            signs = ["! with care"] if any(entry.careful for entry in entries) else []
            signs += ["lamp: how firmly it is held"] if "grip" in self.card.shows else []
            legend = frame.legend(groups, "; ".join(signs)) if "legend" in self.card.shows else ([], 0.0)
            (drawn, rest), below, more = frame.filled(top, legend, partial(self._lay, left, top))
            description = ". ".join(words for tree in left for words in _spoken_lines(tree, ""))
            sheets.append(frame.sheet(self.card.title, description, [*drawn, Group((*header, *below))]))
            waiting += more
            left = rest
        if "reasons" in self.card.shows:
            waiting += [Note(words, reason) for tree in trees for words, reason in _reasons(tree, "")]
        sheets += note_sheets(frame, self.card.title, "continued", self.stamp, waiting)
        return numbered(sheets)

    def _lay(self, trees: Series[Node], top: float, room: float, notes: Footnotes) -> tuple[list[Group], list[Node]]:
        """Lay trees out in columns, with most labels in place, then on the fewest sheets, then as large as fits; return the
        groups and the trees that are left."""
        ways = []
        for columns in range(1, _MOST_COLUMNS + 1):
            wide = self.frame.inner / columns - 4.0 * self.paper.unit
            if columns > 1 and any(self._least_width(tree) > wide for tree in trees):
                break
            ways += [self._way(trees, columns, room, leaf * self.least) for leaf in _LEAVES]
        best = max(ways, key=lambda way: way.rank)
        groups: list[Group] = []
        wide = self.frame.inner / best.columns
        for place, part in enumerate(best.parts):
            y = top
            for tree in part:
                groups += self._tree(tree, self.frame.left + place * wide, y, wide - 4.0 * self.paper.unit, best.leaf, notes)
                y += (tree.leaves + _BETWEEN) * best.leaf
        return groups, best.rest

    def _way(self, trees: Series[Node], columns: int, room: float, least: float) -> _Way:
        """Return the trees set in so many columns, their leaves at least ``least`` mm high."""
        wide = self.frame.inner / columns - 4.0 * self.paper.unit
        parts, rest = _packed(trees, columns, max(1.0 + _BETWEEN, room / least))
        lines = max(map(_height, parts))
        size = min(room / lines / _LEAF, wide / max(self._least_width(tree) for tree in trees) * self.least, 5.2)
        leaf = min(room / lines, _TALLEST)
        shown = [fits for part in parts for tree in part for fits in self._labels_that_fit(tree, wide, leaf)]
        sheets = ceil(_height(rest) / (columns * room / least)) if rest else 0
        return _Way((int(20 * min(_IN_PLACE, sum(shown) / len(shown))), -sheets, size), columns, parts, rest, leaf)

    def _labels_that_fit(self, tree: Node, wide: float, leaf: float) -> list[bool]:
        """For each leaf of a tree, whether its label is likely to fit at the smallest type."""
        chips = self._chip_widths(tree, self.least)
        room = wide - sum(chips) - _GAP * (len(chips) - 1) - 6.0 * self.paper.unit
        lines = 1 if leaf < _LEAVES[1] * self.least else 1.8
        face = self.faces[500]
        return [min(face.width(form, self.least) for form in self.short.ways(entry.label)) <= room * lines
                for entry in _entries(tree)]  # fmt: skip

    def _tree(self, tree: Node, left: float, top: float, width: float, leaf: float, notes: Footnotes) -> list[Group]:
        widest = width / self._least_width(tree) * self.least
        size = max(self.least, min(leaf / 2.3, 4.6, widest))
        chips = self._chip_widths(tree, size)
        free = width - sum(chips) - _LABEL * size
        gap = max(_GAP, min(free / max(1, len(chips) - 1), width * 0.3))
        steps = [wide + gap for wide in chips]
        groups: list[Group] = []
        lines: list[Item] = []

        def place(node: Node, x: float, y: float, depth: int) -> float:
            """Draw a node and what follows from ``y`` down; the middle of its own chip."""
            chip_size, step = size, steps[depth]
            wide = self.faces[500].width(node.chord, chip_size) + chip_size * 0.9
            middles, at = list[tuple[float, float]](), y
            if node.entries and not node.after:
                for entry in node.entries:
                    groups.append(
                        self._leaf(node, entry, _LeafPlace(x, at + leaf / 2, wide, left + width - x, leaf), chip_size, notes)
                    )
                    at += leaf
                return y + leaf * len(node.entries) / 2
            for entry in node.entries:  # it does something and goes on as well
                groups.append(
                    self._leaf(
                        node, entry, _LeafPlace(x + step, at + leaf / 2, 0.0, left + width - x - step, leaf), chip_size, notes
                    )
                )
                middles.append((x + step, at + leaf / 2))
                at += leaf
            for child in node.after.values():
                middles.append((x + step, place(child, x + step, at, depth + 1)))
                at += leaf * child.leaves
            middle = (middles[0][1] + middles[-1][1]) / 2
            items = self._chip(node.chord, x, middle, wide, chip_size)
            if node.name:
                setting = fit(node.name, self.faces[400], max(wide, step * 0.8), leaf * max(1.0, node.leaves / 2 - 0.4),
                              max(self.least, size * 0.8), self.least, 3)  # fmt: skip
                if setting.short:
                    items += self.frame.lines(
                        x, middle + chip_size * 1.9, [f"see {notes.number(node.name)}"], self.least, 400, "prints"
                    )
                else:
                    items += self.frame.lines(x, middle + chip_size * 1.9, setting.lines, setting.size, 400, "prints")
            lines.extend(_curve(x + wide + 0.8, middle, end - 0.8, target, self.paper.unit) for end, target in middles)
            groups.append(Group(tuple(items), name=f"{node.chord} {node.name}".strip()))
            return middle

        place(tree, left, top, 0)
        return [Group(tuple(lines)), *groups]

    def _chip_widths(self, tree: Node, size: float) -> list[float]:
        """Return the widest chip at each depth of a tree, in mm."""
        widths: list[float] = []

        def look(node: Node, depth: int) -> None:
            wide = self.faces[500].width(node.chord, size) + size * 0.9
            widths[depth : depth + 1] = [max(wide, widths[depth]) if depth < len(widths) else wide]
            for child in node.after.values():
                look(child, depth + 1)

        look(tree, 0)
        return widths

    def _least_width(self, tree: Node) -> float:
        """Return width that a tree takes at the smallest type, with room for short labels."""
        chips = self._chip_widths(tree, self.least)
        return sum(chips) + _GAP * (len(chips) - 1) + _LABEL * self.least

    def _chip(self, text: str, x: float, y: float, wide: float, size: float) -> list[Item]:
        face = self.faces[500]
        return [Rect(x, y - size * 0.82, wide, size * 1.64, 0.9, "tile", Stroke("paper-line", 0.2)),
                self.frame.text(x + wide / 2, y + face.cap * size / 2, text, size, 500, "ink", "middle")]  # fmt: skip

    def _leaf(self, node: Node, entry: Entry, place: _LeafPlace, size: float, notes: Footnotes) -> Group:
        unit, face = self.paper.unit, self.faces[500]
        x, y, wide, leaf = place.x, place.y, place.chip, place.height
        items: list[Item] = self._chip(node.chord, x, y, wide, size) if wide else []
        at = x + (wide + 1.6 * unit if wide else 0.0)
        if entry.group:
            across = min(2.6 * unit, leaf * 0.4)
            items += marks.mark(entry.group.mark, at + across / 2, y, across, entry.group.ink)
            at += across + 1.4 * unit
        if entry.grip is not None:
            across = min(2.0 * unit, leaf * 0.32)
            items += marks.lamp(entry.grip, at + across / 2, y, across)
            at += across + 1.2 * unit
        if entry.careful:
            items.append(self.frame.text(at, y + face.cap * size / 2, "!", size, 700))
            at += face.width("! ", size)
        setting = fit(entry.label, face, x + place.width - at, leaf * 0.96, size, self.least, 2, self.short)
        if setting.short:
            items.append(
                self.frame.text(at, y + face.cap * self.least / 2, f"see {notes.number(entry.full)}", self.least, 600)
            )
        else:
            first = y + face.cap * setting.size / 2 - (len(setting.lines) - 1) * setting.size * LINE / 2
            items += self.frame.lines(at, first, setting.lines, setting.size, 400)
        return Group(tuple(items), entry.binding, entry.full)


def _curve(x1: float, y1: float, x2: float, y2: float, unit: float) -> Path:
    half = (x2 - x1) * 0.55
    return Path((("M", x1, y1), ("C", x1 + half, y1, x2 - half, y2, x2, y2)), stroke=Stroke("paper-line", 0.45 * unit))


def _entries(node: Node) -> list[Entry]:
    return [*node.entries, *(entry for child in node.after.values() for entry in _entries(child))]


def _spoken_lines(node: Node, before: str) -> list[str]:
    here = f"{before} {node.chord}".strip()
    return [*(f"{here}: {entry.full}" for entry in node.entries),
            *(words for child in node.after.values() for words in _spoken_lines(child, here))]  # fmt: skip


def _reasons(node: Node, before: str) -> list[tuple[str, str]]:
    here = f"{before} {node.chord}".strip()
    return [*((here, entry.reason) for entry in node.entries if entry.reason),
            *(one for child in node.after.values() for one in _reasons(child, here))]  # fmt: skip


def _height(trees: Series[Node]) -> float:
    """Return lines that trees take below each other."""
    return sum(tree.leaves + _BETWEEN for tree in trees) or 1.0


def _parts(trees: Series[Node], columns: int) -> list[list[Node]]:
    """Trees in columns of like height, in order."""
    share = _height(trees) / columns
    parts: list[list[Node]] = [[]]
    for tree in trees:
        if parts[-1] and len(parts) < columns and _height([*parts[-1], tree]) > share * 1.15:
            parts.append([])
        parts[-1].append(tree)
    return parts


def _packed(trees: Series[Node], columns: int, lines: float) -> tuple[list[list[Node]], list[Node]]:
    """Trees in columns of so many lines at most, and what is left. A tree that is taller than a column continues in the next,
    under the same stem."""
    parts = _parts(trees, columns)
    if max(map(_height, parts)) <= lines:
        return parts, []
    left, parts = list(trees), [[]]
    while left:
        free = lines - sum(tree.leaves + _BETWEEN for tree in parts[-1])
        if left[0].leaves + _BETWEEN <= free:
            parts[-1].append(left.pop(0))
            continue
        if left[0].leaves + _BETWEEN > lines and free >= min(_FEWEST, lines):
            first, rest = _cut(left[0], max(1, int(free - _BETWEEN)))
            parts[-1].append(first)
            left[:1] = [rest] if rest is not None else []
        if not left or len(parts) == columns:
            break
        parts.append([])
    return [part for part in parts if part], left


def _cut(tree: Node, lines: int) -> tuple[Node, Node | None]:
    """Return a tree's first so many leaves, and what is left under the same stem; None where nothing is."""
    first, rest = Node(tree.chord, tree.name), Node(tree.chord, tree.name)
    for entry in tree.entries:
        (first if first.leaves < lines else rest).entries.append(entry)
    for chord, child in tree.after.items():
        left = lines - first.leaves
        if rest.leaves or left <= 0:
            rest.after[chord] = child
        elif child.leaves <= left:
            first.after[chord] = child
        else:
            begun, more = _cut(child, left)
            first.after[chord] = begun
            if more is not None:
                rest.after[chord] = more
    return first, rest if rest.leaves else None
