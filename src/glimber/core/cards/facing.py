"""The facing card: a layer before and after its changes, or two layers of one board or of two, with arrows for what moved."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import cos, pi, sin

from msgspec.structs import replace

from glimber.core.cards.board import Place, Sheet, subject
from glimber.core.cards.frame import CannotDraw, Kit
from glimber.core.cards.key_face import KeyFace, key_faces
from glimber.core.drawing.drawing import Drawing, Group, Path, Stroke
from glimber.core.model.board import Board
from glimber.core.model.card_bindings import Known
from glimber.core.model.folio import Binding, Card, Folio, Layer, Layout
from glimber.core.notation.keys import NotationError, Spot, Trigger, parse_trigger


def facing_card(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    """Draw a facing card: two layers that it names, one and that of another board ``beside`` it, or one before its changes
    (all that are known, or ``changed_since``) and now.

    Raises CannotDraw, for a layer of which no change is known too.
    """
    board, layers = subject(folio, card)
    boards = [board, board]
    if card.beside is not None:
        if len(layers) != 1:
            raise CannotDraw(f"{card.title} names {len(layers)} layers and one beside them; a facing card shows two")
        other = replace(card, board=card.beside.partition(":")[0], layers=(card.beside.partition(":")[2],))
        boards[1], layers = subject(folio, other)[0], [*layers, *subject(folio, other)[1]]
        sides = [(folio, layer, f"{of.id} · {layer.name}") for of, layer in zip(boards, layers, strict=True)]
    elif len(layers) == 2:
        sides = [(folio, layers[0], layers[0].name), (folio, layers[1], layers[1].name)]
    elif len(layers) == 1:
        before = folio_before(folio, kit.known, card.changed_since or "")
        layout = before.layouts[board.id]
        was = layout.layer(layers[0].id)
        if was is None or _where(was) == _where(layers[0]):
            since = f" since {card.changed_since}" if card.changed_since else ""
            raise CannotDraw(
                f"{card.title}: no binding of {layers[0].name} has moved{since}; a facing card shows what moved"
            )
        sides = [(before, was, "Before"), (folio, layers[0], "Now")]
    else:
        raise CannotDraw(f"{card.title} names {len(layers)} layers; a facing card shows one before and after, or two")
    sheet = _Facing(folio, card, kit, boards, sides)
    if card.beside is not None and not sheet.can_be_read():
        raise CannotDraw(
            f"{card.title}: the keys of two boards cannot be read on {card.paper}; choose a larger paper or turn it"
        )
    return sheet.draw()


def folio_before(folio: Folio, known: Known, since: str) -> Folio:
    """Return the folio with the spots that bindings had before their changes: the newest is taken back first."""
    at = {binding.id: binding.trigger for binding in folio.all_bindings()}
    for move in sorted(known.moves, key=lambda move: move.at, reverse=True):
        if move.at < since or str(at.get(move.binding)) != move.now:
            continue
        try:
            at[move.binding] = parse_trigger(move.was, folio.bundles)
        except NotationError:
            continue  # of a board or a bundle that is no more
    layouts = {id: _layout_before(layout, at) for id, layout in folio.layouts.items()}
    return replace(folio, layouts=layouts)


def _layout_before(layout: Layout, at: Mapping[str, Trigger]) -> Layout:
    moved: dict[str, list[Binding]] = {layer.id: [] for layer in layout.layers}
    for layer in layout.layers:
        for binding in layer.bindings:
            was = at.get(binding.id, binding.trigger)
            if isinstance(was, Spot) and was.board == layout.board and was.layer in moved:
                moved[was.layer].append(replace(binding, trigger=was))
    return replace(layout, layers=tuple(replace(layer, bindings=tuple(moved[layer.id])) for layer in layout.layers))


def _where(layer: Layer) -> dict[str, str]:
    return {binding.id: str(binding.trigger) for binding in layer.bindings}


class _Facing(Sheet):
    """Two boards on one sheet; arrows lie over both."""

    def __init__(
        self, folio: Folio, card: Card, kit: Kit, boards: Sequence[Board], sides: Sequence[tuple[Folio, Layer, str]]
    ) -> None:
        super().__init__(folio, card, kit, boards[0], [layer for _, layer, _ in sides], boards)
        self.key_faces: list[dict[str, KeyFace]] = [
            key_faces(one, board, layer) for board, (one, layer, _) in zip(boards, sides, strict=True)
        ]
        self.names = [name for _, _, name in sides]

    def over(self, places: Sequence[Place]) -> list[Group]:
        """Return an arrow for everything that is on another key there."""
        first, second = ({self._what(binding): binding for binding in layer.bindings} for layer in self.layers)
        arrows = []
        for what, binding in first.items():
            there = second.get(what)
            if there is None or (there.spot.board, there.spot.keys) == (binding.spot.board, binding.spot.keys):
                continue
            start, end = self.boards[0].centre(binding.spot.keys), self.boards[1].centre(there.spot.keys)
            if start is not None and end is not None:
                command = self.folio.command_of(binding)
                beside = places[0].top == places[1].top
                path = _arrow(_at(places[0], start), _at(places[1], end), places[0].u, self.paper.unit, beside)
                arrows.append(Group((path,), name=f"{command.name if command else binding.id} moved"))
        return arrows

    def _what(self, binding: Binding) -> str:
        """Return what is followed from one to the other: a command on two layers, else the binding itself."""
        return binding.command or binding.id


def _at(place: Place, point: tuple[float, float]) -> tuple[float, float]:
    return place.x0 + point[0] * place.u, place.y0 + point[1] * place.u


def _arrow(start: tuple[float, float], end: tuple[float, float], u: float, unit: float, beside: bool) -> Path:
    """Return a curve from the foot of one key to the head of the other, with an open head; over the top between boards side by
    side."""
    (x1, y1), (x2, y2) = start, end
    if beside:
        down, y1, y2 = 1, y1 - 0.42 * u, y2 - 0.46 * u
        over = min(y1, y2) - max(1.1 * u, 0.06 * abs(x2 - x1))
        curve: tuple[str | float, ...] = ("C", x1, over, x2, over, x2, y2)
    else:
        down = 1 if y2 >= y1 else -1
        y1, y2 = y1 + down * 0.42 * u, y2 - down * 0.46 * u
        bend = 0.45 * max(abs(y2 - y1), 12.0 * unit)
        curve = ("C", x1, y1 + down * bend, x2, y2 - down * bend, x2, y2)
    steps: list[tuple[str | float, ...]] = [("M", x1, y1), curve]
    heading = down * pi / 2
    for turn in (pi * 0.82, -pi * 0.82):
        steps += [("M", x2, y2), ("L", x2 + 2.2 * unit * cos(heading + turn), y2 + 2.2 * unit * sin(heading + turn))]
    return Path(tuple(steps), stroke=Stroke("rose", 0.5 * unit))
