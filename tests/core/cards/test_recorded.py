"""Every kind of card as it was drawn when somebody looked at it: a line for each group, so that no number changes unseen."""

from __future__ import annotations

from hashlib import sha256

import pytest
from benchmarks.readable_cards import made_folio
from msgspec.structs import replace

from glimber.core.cards.frame import CannotDraw
from glimber.core.cards.kinds import KINDS, draw_card
from glimber.core.cards.tour import tour_of
from glimber.core.drawing.drawing import Drawing, Group, Item, Path, Stroke
from glimber.core.model.card_bindings import Known
from glimber.core.model.card_options import CARD_OPTIONS
from glimber.core.model.folio import Card, Folio
from glimber.core.model.shelf import shelf
from glimber.store.cache.fonts import faces
from tests.recorded import assert_recorded

FACES = faces()


def _near(value: object) -> object:
    """To a hundredth of a mm; away from its halves, where the last bit of a number would decide."""
    return round(value + 0.0013, 2) if isinstance(value, float) else value


def _as_text(item: Item) -> str:
    values: list[object] = []
    for value in (getattr(item, field) for field in item.__struct_fields__):
        if isinstance(value, Stroke):
            values += [value.colour, _near(value.width)]
        elif isinstance(item, Path) and isinstance(value, tuple):
            values += [_near(one) for step in value for one in step]
        else:
            values.append(_near(value))
    return f"{type(item).__name__} {' '.join(map(str, values))}"


def _line(group: Group) -> str:
    drawn = "\n".join([f"{group.angle:.2f} {tuple(map(_near, group.pivot))}", *map(_as_text, group.items)])
    texts = " | ".join(item.text for item in group.items if hasattr(item, "text"))
    return f"{sha256(drawn.encode()).hexdigest()[:10]} {group.key or '-'} {group.name}: {texts}"


def _lines(title: str, drawings: list[Drawing]) -> list[str]:
    found = []
    for number, one in enumerate(drawings, start=1):
        found += [f"# {title}, sheet {number}: {one.width:.1f} x {one.height:.1f}, {one.description}", *map(_line, one.groups)]
    return found


def _cards(office: Folio, kind: str) -> list[Card]:
    """The cards of a kind that the office has, and some of them on other paper, with every option, and with blanks."""
    own = [one.card for one in shelf(office).values() if one.card.kind == kind]
    if kind == "facing":
        own = [replace(office.cards["draw"], kind="facing", id="facing", beside="pad-21:base")]
    shows = tuple(option.id for option in CARD_OPTIONS if kind in option.kinds and "blanks" not in option.id)
    return [*own, replace(own[0], paper="A6", landscape=not own[0].landscape), replace(own[0], paper="A5", shows=shows),
            replace(own[-1], paper="A3", shows=("labels", "blanks"))]  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_cards_are_drawn_as_they_were(office: Folio, kind: str) -> None:
    lines: list[str] = []
    for card in _cards(office, kind):
        title = f"{card.id} {card.paper} {'+'.join(card.shows)}"
        try:
            lines += _lines(title, draw_card(office, card, FACES, "30 Nov 2026"))
        except CannotDraw as error:
            lines.append(f"# {title}: {error}")
    assert_recorded(f"cards-{kind}", lines)


@pytest.mark.parametrize("kind", ["sheet", "keyboard", "grid", "branch"])
def test_cards_of_a_program_with_long_names_are_drawn_as_they_were(kind: str) -> None:
    folio, lines = made_folio(70), list[str]()
    for card in (one.card for one in shelf(folio).values() if one.card.kind == kind):
        for paper, landscape in (("A5", True), ("A4", False)):
            sheets = draw_card(folio, replace(card, paper=paper, landscape=landscape, title=f"{card.title} of the survey office, all of it"), FACES)
            lines += _lines(f"{card.id} {paper}", sheets)
    assert_recorded(f"made-{kind}", lines)


@pytest.mark.parametrize("kind", KINDS)
def test_cards_with_what_practice_knows_are_drawn_as_they_were(office: Folio, kind: str) -> None:
    ids = sorted(office.bindings)
    known = Known(grips={id: (n * 37 % 101) / 100 for n, id in enumerate(ids) if n % 7}, uses={id: n * 3.0 for n, id in enumerate(ids)})
    shows = tuple(option.id for option in CARD_OPTIONS if kind in option.kinds and option.id != "blanks")
    lines: list[str] = []
    for card in _cards(office, kind)[:3]:
        for these in (tuple(what for what in shows if what != "weak-blanks"), shows):
            try:
                lines += _lines(f"{card.id} {'+'.join(these)}", draw_card(office, replace(card, shows=these), FACES, "1 Dec 2026", known=known))
            except CannotDraw as error:
                lines.append(f"# {card.id}: {error}")
    assert_recorded(f"known-{kind}", lines)


def test_tours_say_what_they_said(office: Folio) -> None:
    lines: list[str] = []
    for folio in (office, made_folio(70), made_folio(6)):
        for one in shelf(folio).values():
            lines += [f"{one.card.id}: {' '.join(stop.keys)} = {stop.text}" for stop in tour_of(folio, one.card)]
    assert_recorded("tours", lines)
