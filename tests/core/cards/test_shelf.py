"""The shelf, and the kinds of cards: nothing over an edge or another text, nothing too small, nothing missing."""

from __future__ import annotations

import re
from collections import Counter
from math import cos, radians, sin
from random import Random
from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.cards.frame import CannotDraw
from glimber.core.cards.grid import grid_of
from glimber.core.cards.kinds import KINDS, draw_card
from glimber.core.cards.tiles import two_sizes
from glimber.core.cards.tour import tour_of
from glimber.core.drawing.drawing import Circle, Drawing, Group, Rect, Text
from glimber.core.drawing.marks import lamp
from glimber.core.drawing.paper import PAPERS_MM, paper_of
from glimber.core.drawing.print_sheet import MARGIN, Edge, print_sheets
from glimber.core.drawing.short_labels import ShortForms, short_forms_of
from glimber.core.drawing.text import Setting, fit
from glimber.core.model.card_bindings import Known, Moved, chords_of, chosen, sequences_of
from glimber.core.model.card_subjects import About, about_fields, about_of_text, about_words, abouts
from glimber.core.model.folio import Binding, Card, Command, Folio, Program
from glimber.core.model.folio import Group as CommandGroup
from glimber.core.model.shelf import shelf
from glimber.core.notation.keys import parse_trigger
from glimber.store.cache.fonts import faces
from tests.helpers import folio_of

FACES = faces()
WORDS = ("sounding", "contour", "buoy", "hachure", "graticule", "Hydrographische", "Untiefenbezeichnung", "a", "to", "sheet-list",
         "Ναυτικός", "χάρτης", "Глубина", "мель", "航海", "図", "North/South", "x" * 30)  # fmt: skip
KEYS = (*"abcdefghijklmnopqrstuvwxyz", *"1234567890", "F1", "F5", "F12", "Left", "Home", "PageUp", "Num4", ",", ";")
HELD = ("", "Ctrl+", "Ctrl+Shift+", "Alt+", "Ctrl+Alt+", "Super+", "Ctrl+Alt+Shift+")
INKS = (("tide", "ring"), ("moss", "bar"), ("clay", "wedge"), ("plum", "pair"), ("slate", "square"))


def made(random: Random, count: int, sequences: int) -> Folio:
    """A folio with a program of so many chords and sequences, with names of all sorts."""
    groups = {f"g{n}": CommandGroup(f"g{n}", name(random, 2), *INKS[n]) for n in range(random.randint(0, 5))}
    commands, bindings, used = dict[str, Command](), list[Binding](), set[str]()
    for nth in range(count + sequences):
        stem = "" if nth < count else random.choice(("Ctrl+K ", "g ", "Ctrl+K h ", "Ctrl+Alt+B Ctrl+X "))
        trigger = stem + random.choice(HELD) + random.choice(KEYS)
        if trigger in used:
            continue
        used.add(trigger)
        slug = f"c{nth}"
        label = name(random, 1) if random.random() < 0.3 else None
        group = random.choice(list(groups)) if groups and random.random() < 0.8 else None
        commands[slug] = Command(slug, "wright", name(random, random.randint(1, 5)), label, group, careful=random.random() < 0.1)
        reason = name(random, 6) if random.random() < 0.3 else None
        bindings.append(Binding(slug, parse_trigger(trigger), f"wright/{slug}", given_id=True, reason=reason))
    program = Program("wright", name(random, random.randint(1, 3)), (), groups, commands, tuple(bindings))
    return replace(folio_of(), programs={"wright": program}, layouts={}, cards={}, runs={})


def name(random: Random, words: int) -> str:
    return " ".join(random.choice(WORDS) for _ in range(words))


def box(text: Text) -> tuple[float, float, float, float]:
    # Capitals and the x-height are what must not touch: descenders may reach into the room below a line.
    return text.box(0.72, 0.0)


def assert_good(sheets: list[Drawing], card: Card) -> None:
    """Every text within its tile and its sheet, over no other text, and not too small."""
    paper = paper_of(card.paper, card.landscape)
    for sheet in sheets:
        texts: list[Text] = []
        for group in sheet.groups:
            own = [item for item in group.items if isinstance(item, Text)]
            tile = group.items[0] if group.items else None
            for text in own:
                assert text.size >= min(paper.least_label, paper.least_note) - 1e-6, (card.kind, text)
                if group.key and isinstance(tile, Rect) and card.kind not in ("branch", "sheet"):
                    left, top, right, bottom = box(text)
                    inside = left >= tile.x - 0.05 and right <= tile.x + tile.w + 0.05
                    assert inside and top >= tile.y - 0.05 and bottom <= tile.y + tile.h + 0.05, (card, text)
            if not group.angle:
                texts += own
        boxes = [(text, box(text)) for text in texts if text.text.strip()]
        for text, (left, top, right, bottom) in boxes:
            assert left >= -0.01 and top >= -0.01 and right <= sheet.width + 0.01 and bottom <= sheet.height + 0.01, (card, text)
        boxes.sort(key=lambda one: one[1][1])
        for at, (one, a) in enumerate(boxes):
            for other, b in boxes[at + 1 :]:
                if b[1] >= a[3] - 0.02:
                    break
                assert a[2] <= b[0] + 0.03 or b[2] <= a[0] + 0.03, (card.kind, card.paper, one, other)


def assert_whole(folio: Folio, sheets: list[Drawing], card: Card, wanted: list[str]) -> None:
    """Each binding is on the card once, and its whole name can be read: there, or at its number below."""
    groups = [group for sheet in sheets for group in sheet.groups if group.key]
    keys = [key for group in groups for key in (group.key or "").split()]
    assert Counter(key for key in keys if key in folio.bindings) == Counter(wanted)
    loose = " ".join(text.text for sheet in sheets for group in sheet.groups if not group.key for text in items(group))
    short, named = short_forms_of(folio), set[str]()
    for group in groups:
        written = plain(" ".join(text.text for text in items(group)))
        for id in (group.key or "").split():
            command = folio.command_of(folio.bindings[id]) if id in folio.bindings else None
            if command is None or (card.kind == "sheet" and command.name in named):
                continue
            assert command.name in group.name
            named.add(command.name)
            label = command.name if card.kind == "sheet" else folio.bindings[id].label or command.short
            forms = [label] if card.kind == "sheet" else [*short.ways(label), *short.cut(label)]
            in_place = any(plain(form) in written for form in forms)
            assert in_place or (re.search(r"\d", written) and plain(command.name) in plain(loose)), (card.kind, label)


def plain(text: str) -> str:
    """A text without blanks and hyphens: broken between lines it is the same."""
    return text.replace(" ", "").replace("-", "")


def items(group: Group) -> list[Text]:
    return [item for item in group.items if isinstance(item, Text)]


@pytest.mark.slow
def test_every_card_of_the_office_is_good_on_every_paper(office: Folio) -> None:
    for shelved in shelf(office).values():
        for paper in PAPERS_MM:
            for landscape in (True, False):
                card = replace(shelved.card, paper=paper, landscape=landscape)
                if paper == "strip" and card.kind != "strip" and (card.kind in ("board", "sheet", "keyboard") or not landscape):
                    try:  # what a strip cannot hold it says; what it says it holds it holds
                        assert_good(draw_card(office, card, FACES), card)
                    except CannotDraw as error:
                        assert "too narrow" in str(error) or "cannot be read on strip" in str(error)
                    continue
                try:
                    sheets = draw_card(office, card, FACES, "Chart office, 25 Nov")
                except CannotDraw as error:
                    assert card.kind in ("keyboard", "board") and "cannot be read on" in str(error)
                    assert paper == "index" or (card.kind == "keyboard" and paper in ("A6", "A5", "screen"))
                    continue
                assert_good(sheets, card)
                if card.kind == "board":
                    keys = [group.key for sheet in sheets for group in sheet.groups if group.key]
                    board = office.boards[card.board or ""]
                    assert sorted(keys) == sorted([*board.by_id, *board.knob_ids])


@pytest.mark.parametrize("seed", range(100))
def test_whatever_is_in_a_program_is_on_its_cards_once(seed: int) -> None:
    random = Random(seed)
    folio = made(random, random.choice((1, 3, 9, 30, 90, 160)), random.choice((0, 1, 6, 25, 70)))
    paper, landscape = (random.choice(("A4", "A5", "A6", "index", "screen", "large-screen", "Letter")), random.random() < 0.5)
    shows = random.choice((("labels",), ("labels", "legend"), ("labels", "legend", "reasons")))
    everything = chosen(folio, Card("", "", "grid", program="wright"))
    kinds = {"grid": chords_of(everything), "branch": sequences_of(everything), "sheet": everything, "keyboard": chords_of(everything)}
    for kind, found in kinds.items():
        card = Card("c", folio.programs["wright"].name, kind, program="wright", paper=paper, landscape=landscape, shows=shows)  # type: ignore[arg-type]
        if not found:
            with pytest.raises(CannotDraw):
                draw_card(folio, card, FACES)
            continue
        try:
            sheets = draw_card(folio, card, FACES, "Chart office, 25 Nov")
        except CannotDraw as error:
            assert kind == "keyboard" and "cannot be read on" in str(error) and paper in ("A5", "A6", "index", "screen")
            continue
        assert_good(sheets, card)
        assert_whole(folio, sheets, card, [one[0].id for one in found])
        assert len({sheet.title for sheet in sheets}) == len(sheets)


@pytest.mark.parametrize("paper", ["A4", "A5", "A6"])
@pytest.mark.parametrize("count", [1, 9, 40, 90])
def test_many_keys_after_a_prefix_and_many_commands_on_a_key(count: int, paper: str) -> None:
    random = Random(count)
    keys = [held + key for key in KEYS for held in HELD][:count]
    triggers = [*(f"Ctrl+B {key}" for key in keys), *(f"Ctrl+K h {key}" for key in keys[:6]), *["Alt+B"] * count]
    commands = {f"c{n}": Command(f"c{n}", "wright", name(random, random.randint(1, 5))) for n in range(len(triggers))}
    bindings = tuple(Binding(id, parse_trigger(keys), f"wright/{id}", given_id=True)
                     for id, keys in zip(commands, triggers, strict=True))  # fmt: skip
    program = Program("wright", "Shoalwright", commands=commands, bindings=bindings)
    folio = replace(folio_of(), programs={"wright": program}, layouts={}, cards={}, runs={})
    short = short_forms_of(folio)
    for kind, wanted in (("branch", bindings[:-count]), ("grid", bindings[-count:]), ("keyboard", bindings[-count:])):
        card = Card("c", "Shoalwright", kind, program="wright", paper=paper)  # type: ignore[arg-type]
        try:
            sheets = draw_card(folio, card, FACES, "")
        except CannotDraw as error:
            assert kind == "keyboard" and "cannot be read on" in str(error)
            continue
        assert_good(sheets, card)
        assert_whole(folio, sheets, card, [binding.id for binding in wanted])
        if kind == "branch" and paper == "A4":
            texts = {group.key: plain(" ".join(text.text for text in items(group))) for sheet in sheets for group in sheet.groups}
            placed = [any(plain(form) in texts[one.id] for form in short.ways(commands[one.id].name)) for one in wanted]
            assert sum(placed) >= 0.9 * len(placed)


@pytest.mark.parametrize(("count", "counted"), [(24, False), (120, True)])
def test_a_legend_names_the_groups_that_come_most(count: int, counted: bool) -> None:
    keys = [held + key for held in HELD for key in KEYS][: count + 9]
    groups = {f"g{n}": CommandGroup(f"g{n}", f"Group number {n}", *INKS[n % len(INKS)]) for n in range(count)}
    commands = {f"c{n}": Command(f"c{n}", "wright", f"Buoy {n}", group=f"g{max(0, n - 9)}") for n in range(count + 9)}
    bindings = tuple(Binding(id, parse_trigger(key), f"wright/{id}", given_id=True) for id, key in zip(commands, keys, strict=True))
    program = Program("wright", "Shoalwright", (), groups, commands, bindings)
    folio = replace(folio_of(), programs={"wright": program}, layouts={}, cards={}, runs={})
    for kind in ("grid", "keyboard"):
        card = Card("c", "Shoalwright", kind, program="wright", paper="A4")  # type: ignore[arg-type]
        sheets = draw_card(folio, card, FACES, "")
        assert_good(sheets, card)
        said = [[text.text for group in sheet.groups if not group.key for text in items(group)] for sheet in sheets]
        assert any("Group number 0" in texts for texts in said)  # ten of its commands: the most of all
        assert any("more groups" in text for texts in said for text in texts) is counted


@pytest.mark.parametrize("count", [4, 12, 13, 40, 41, 90])
def test_a_table_fills_its_sheet(count: int) -> None:
    folio = made(Random(3), count, 0)
    card = next(one.card for one in shelf(folio).values() if one.card.kind == "grid")
    (sheet, *_) = draw_card(folio, card, FACES, "")
    tiles = [group.items[0] for group in sheet.groups if group.key]
    caps = [item for group in sheet.groups[1:] for item in group.items if isinstance(item, Rect) and item.fill == "tile"]
    rects = [one for one in (*tiles, *caps) if isinstance(one, Rect)]
    left, right = min(one.x for one in rects), max(one.x + one.w for one in rects)
    top, bottom = min(one.y for one in rects), max(one.y + one.h for one in rects)
    margin = paper_of(card.paper, card.landscape).margin
    assert (right - left) * (bottom - top) >= 0.55 * (sheet.width - 2 * margin) * (sheet.height - 2 * margin)


# The shelf


def test_a_folio_has_cards_by_itself(office: Folio) -> None:
    bare = replace(office, cards={})
    found = shelf(bare)
    assert [id for id in found if id.startswith("grid-")] == ["grid-everywhere", "grid-namewell", "grid-shoalwright"]
    assert {id for id in found if id.startswith("branch-")} == {"branch-namewell", "branch-shoalwright"}
    binding = {f"board-{b}-{layer.id}" for b, one in office.layouts.items() for layer in one.layers if layer.bindings}
    assert {id for id in found if id.startswith("board-")} == binding
    assert [id for id in found if id.startswith("strip-")] == ["strip-survey-line"] and not any(one.own for one in found.values())
    for shelved in found.values():
        assert draw_card(bare, shelved.card, FACES)


def test_what_has_a_file_is_not_there_twice(office: Folio) -> None:
    found = shelf(office)
    assert found["draw"].own and "board-split-42-draw" not in found and "board-pad-21-layers" in found
    changed = replace(office, cards={"grid-shoalwright": Card("grid-shoalwright", "All of it", "grid", program="shoalwright")})
    assert shelf(changed)["grid-shoalwright"].own and shelf(changed)["grid-shoalwright"].card.title == "All of it"
    assert [one.heading for one in found.values()] == sorted([one.heading for one in found.values()],
                                                            key=[one.heading for one in found.values()].index)  # fmt: skip


def test_an_empty_folio_has_none() -> None:
    assert shelf(replace(folio_of(), programs={}, layouts={}, cards={}, runs={})) == {}


@pytest.mark.parametrize("kind", ["poster"])
def test_a_kind_that_cannot_be_drawn_says_so(office: Folio, kind: str) -> None:
    with pytest.raises(CannotDraw, match=f"is a {kind} card; expected one of {', '.join(KINDS)}"):
        draw_card(office, Card("x", "X", kind), FACES)  # type: ignore[arg-type]


# Which bindings


def test_the_desktops_chords_are_hatched_and_free_ones_are_empty() -> None:
    grid = grid_of(folio_of(), Card("g", "G", "grid", program="shoalwright"))
    assert grid.columns == (("Shift",), ("Ctrl", "Shift"))
    assert [(row.key, sorted(row.cells)) for row in grid.rows] == [("S", [("Ctrl", "Shift")]), ("Num4", [("Shift",)])]
    folio = folio_of({"programs/shoalwright.toml": 'format = "glimber-program/1"\nname = "Shoalwright"\n'
                      '[commands.deep]\nname = "Deep"\nshortcut = "d"\n[commands.shore]\nname = "Shore"\nshortcut = "Super+S"\n',
                      "layouts/split-42.toml": 'format = "glimber-layout/1"\nboard = "split-42"\n[[layers]]\nid = "base"\nname = "B"\n'})  # fmt: skip
    rows = {row.key: row for row in grid_of(folio, Card("g", "G", "grid", program="shoalwright")).rows}
    assert rows["D"].taken == {("Super",)} and rows["S"].taken == frozenset()


@pytest.mark.parametrize(("card", "wanted"), [
    (Card("", "", "grid", program="everywhere"), {"show-desktop"}),
    (Card("", "", "grid", find="lead line"), {"lead-line"}),
    (Card("", "", "grid", find="sounding s"), {"sounding-s", "add-sounding"}),
    (Card("", "", "grid", groups=("survey",), program="shoalwright"), {"add-sounding", "sounding-s", "range-held", "range-d"}),
    (Card("", "", "grid", board="split-42", layers=("draw",)), {"sounding-s", "range-held", "range-d"}),
    (Card("", "", "grid", weakest=2), {"sounding-s", "lead-line"}),
    (Card("", "", "grid", most_used=1), {"sounding-s"}),
    (Card("", "", "grid", most_used=2), {"sounding-s", "lead-line"}),
    (Card("", "", "grid", changed_since="2026-11-20"), {"range-d"}),
    (Card("", "", "grid", program="nowhere"), set()),
])  # fmt: skip
def test_what_a_card_is_about(card: Card, wanted: set[str]) -> None:
    known = Known(
        {"sounding-s": 0.1, "lead-line": 0.2, "range-d": 0.3},
        (Moved("2026-11-20T00:00:00.000Z", "range-d", "a", "b"), Moved("2026-11-19T", "lead-line", "a", "b")),
        {"sounding-s": 300.0, "lead-line": 90.0, "add-sounding": 10.0},
    )
    assert {binding.id for binding, _ in chosen(folio_of(), card, known)} == wanted


# Print sheets


def grounds(page: Drawing) -> list[tuple[float, float, float, float]]:
    """Left, top, right and bottom of every card on a page, in mm, with its turn."""
    found = []
    for group in page.groups:
        for item in group.items:
            if isinstance(item, Rect) and item.fill == "paper":
                turn = radians(group.angle)
                corners = []
                for x, y in ((item.x, item.y), (item.x + item.w, item.y + item.h)):
                    dx, dy = x - group.pivot[0], y - group.pivot[1]
                    corners.append((group.pivot[0] + dx * cos(turn) - dy * sin(turn), group.pivot[1] + dx * sin(turn) + dy * cos(turn)))
                (xs, ys) = zip(*corners, strict=True)
                found.append((min(xs), min(ys), max(xs), max(ys)))
    return found


@pytest.mark.parametrize("per_page", [1, 2, 4, 9])
@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_print_sheets_have_every_card_once_on_the_page(office: Folio, per_page: int, paper: str) -> None:
    sheets = [sheet for one in shelf(office).values() for sheet in draw_card(office, one.card, FACES)]
    pages = print_sheets(sheets, paper, per_page)
    assert len(pages) >= -(-len(sheets) // per_page) and max(len(grounds(page)) for page in pages) <= per_page
    found = [box for page in pages for box in grounds(page)]
    for (left, top, right, bottom), sheet in zip(found, sheets, strict=True):
        wide, high = sorted((sheet.width, sheet.height))
        assert min(right - left, bottom - top) <= wide + 1e-6
        assert min(right - left, bottom - top) / max(right - left, bottom - top) == pytest.approx(wide / high)
    for page in pages:
        assert sorted((page.width, page.height)) == list(PAPERS_MM[paper])
        for left, top, right, bottom in grounds(page):
            assert min(left, top) >= -0.03 and right <= page.width + 0.03 and bottom <= page.height + 0.03


def blank_card(paper: str, landscape: bool, angle: float = 0.0) -> Drawing:
    """A card that is its paper and a mark in its upper left corner, which is turned by itself."""
    short, long = PAPERS_MM[paper]
    width, height = (long, short) if landscape else (short, long)
    ground = Group((Rect(0, 0, width, height, fill="paper"),))
    return Drawing(width, height, paper, "", (ground, Group((Circle(9, 5, 1),), "mark", angle=angle, pivot=(7, 4))))


@pytest.mark.parametrize(("papers", "on", "pages"), [
    (["A5"] * 2, "A4", 1), (["A5"] * 4, "A4", 2), (["A6"] * 4, "A4", 1), (["A6"] * 8, "A4", 2), (["A5", "A6", "A6"], "A4", 1),
    (["A4", "A6", "A6"], "A4", 2), (["A4", "A5", "A4"], "A4", 3), (["A5"] * 4, "A3", 1), (["index"] * 4, "A4", 1), (["strip"] * 4, "A4", 1),
])  # fmt: skip
@pytest.mark.parametrize("landscape", [False, True])
def test_what_fits_is_printed_in_its_true_size(papers: list[str], on: str, pages: int, landscape: bool) -> None:
    cards = [blank_card(paper, landscape) for paper in papers]
    made = print_sheets(cards, on, 4 if papers != ["A5"] * 4 or on == "A3" else 2)
    assert len(made) == pages
    boxes = [box for page in made for box in grounds(page)]
    for (left, top, right, bottom), card in zip(boxes, cards, strict=True):
        assert sorted((right - left, bottom - top)) == pytest.approx(sorted((card.width, card.height)))
    for page in made:
        mine = grounds(page)
        for nth, (left, top, right, bottom) in enumerate(mine):
            for other in mine[nth + 1 :]:
                assert right <= other[0] + 1e-6 or other[2] <= left + 1e-6 or bottom <= other[1] + 1e-6 or other[3] <= top + 1e-6


@pytest.mark.parametrize("angle", [0.0, 30.0, -90.0, 270.0, 180.0])
def test_what_is_turned_on_a_card_turns_with_it(angle: float) -> None:
    """The mark of a card on its side is at its upper right corner, as far in as it was."""
    (page,) = print_sheets([blank_card("A5", True, angle), blank_card("A5", True, angle)], "A5", 1)[:1]
    (left, top, right, _), mark = grounds(page)[0], page.find("mark")
    assert mark is not None and isinstance(mark.items[0], Circle)

    def turned(x: float, y: float, by: float, about: tuple[float, float]) -> tuple[float, float]:
        turn, dx, dy = radians(by), x - about[0], y - about[1]
        return about[0] + dx * cos(turn) - dy * sin(turn), about[1] + dx * sin(turn) + dy * cos(turn)

    x, y = turned(mark.items[0].x, mark.items[0].y, mark.angle, mark.pivot)
    was_x, was_y = turned(9, 5, angle, (7, 4))
    if page.width > page.height:
        assert (x - left, y - top) == pytest.approx((was_x, was_y))
    else:
        assert (right - x, y - top) == pytest.approx((was_y, was_x))


def test_cards_of_one_size_are_made_smaller_where_more_are_asked_for_on_a_page() -> None:
    (page,) = print_sheets([blank_card("A4", False)] * 2, "A4", 2)
    for left, top, right, _ in grounds(page):
        assert right - left < 200 and min(left, top) >= MARGIN - 1e-6


@pytest.mark.parametrize("per_page", [1, 2, 4])
@pytest.mark.parametrize("edge", ["long", "short"])
def test_backs_lie_behind_their_fronts_when_the_paper_is_turned(office: Folio, per_page: int, edge: Edge) -> None:
    """A point of a card's front and the same point of its back are one point of the paper."""
    card = replace(shelf(office)["draw"].card, paper="index", shows=("labels", "blanks"))
    sheets = [*draw_card(office, card, FACES), *draw_card(office, shelf(office)["strip-survey-line"].card, FACES)]
    assert [sheet.back for sheet in sheets] == [False, True, *[False] * (len(sheets) - 2)]
    pages = print_sheets(sheets, "A4", per_page, edge)
    assert [page.back for page in pages] == [False, True] * (len(pages) // 2)
    (left, top, right, bottom), back = grounds(pages[0])[0], grounds(pages[1])[0]
    width, height = pages[0].width, pages[0].height
    turned = (edge == "long") == (height >= width)  # about the upright axis, else about the lying one
    assert back == pytest.approx((width - right, top, width - left, bottom) if turned else (left, height - bottom, right, height - top))


# What a card is about, and how it says it in little room


def test_a_card_is_about_what_was_chosen(office: Folio) -> None:
    found = {(about.text, about.detail): about for about in abouts(office)}
    grid = Card("mine", "Mine", "grid", program="namewell")
    survey = found["Survey", "group of Shoalwright"]
    relief = found["Relief", "group of Shoalwright"]
    one = replace(grid, **about_fields(grid, survey))
    assert (one.program, one.groups) == ("shoalwright", ("survey",))
    both = replace(one, **about_fields(one, relief))
    assert about_words(office, both) == "Shoalwright, Survey, Relief"
    assert replace(both, **about_fields(both, survey)).groups == ("relief",)
    weak = replace(both, **about_fields(both, about_of_text("weakest 3", office)))
    assert (weak.groups, weak.weakest) == (("survey", "relief"), 3)
    assert about_words(office, replace(weak, **about_fields(weak, About("Everything", "")))) == "everything"


@pytest.mark.parametrize(("text", "fields"), [
    ("since 2026-11-20", {"changed_since": "2026-11-20"}), ("weakest 12", {"weakest": 12}), ("most used 20", {"most_used": 20}), ("used 0", {"find": "used 0"}), ("weakest 0", {"find": "weakest 0"}),
    ("Tide", {"find": "Tide"}), ("keys s KeyD", {"board": "split-42", "layers": (), "keys": ("KeyS", "KeyD")}),
    ("keys s nothing", {"find": "keys s nothing"}),
])  # fmt: skip
def test_a_written_text_says_what_a_card_is_about(text: str, fields: dict[str, object]) -> None:
    assert dict(about_of_text(text, folio_of()).fields) == fields


def test_one_key_is_drawn_through_every_layer(office: Folio) -> None:
    card = replace(shelf(office)["draw"].card, keys=("KeyS", "KeyD"), layers=())
    (sheet, *_) = draw_card(office, card, FACES)
    layers = office.layouts["split-42"].layers
    assert {group.key for group in sheet.groups if group.key} == {f"{key}.{one.id}" for key in card.keys for one in layers}
    assert {one.name for one in layers} <= {text.text for _, text in sheet.texts()}
    with pytest.raises(CannotDraw, match="KeyNone is not a key of split-42"):
        draw_card(office, replace(card, keys=("KeyNone",)), FACES)


def test_words_are_abbreviated_before_they_are_cut() -> None:
    face, short = FACES[500], ShortForms({"sounding": "sdg", "previous": "prev."}, {}, {})
    text = "Previous sounding"
    wide = face.width("Prev. sdg", 3.0)
    assert fit(text, face, wide + 0.01, 3.5, 3.0, 3.0, short=short) == Setting(("Prev. sdg",), 3.0)
    assert fit(text, face, wide - 0.01, 3.5, 3.0, 3.0, short=short).short
    assert fit(text, face, face.width(text, 3.0) + 0.01, 3.5, 3.0, 3.0, short=short).lines == (text,)


def test_only_the_weakest_are_blank(office: Folio) -> None:
    """Two of four that are known; what is not known stays."""
    ids = ["sounding-s", "contour-z", "hachures-f", "next-p"]
    known = Known({id: place / 10 for place, id in enumerate(ids)})
    card = replace(shelf(office)["draw"].card, shows=("labels", "weak-blanks"))
    blank, answers, *_ = draw_card(office, card, FACES, known=known)
    said = {text.text for _, text in answers.texts()} - {text.text for _, text in blank.texts()}
    assert said == {"Add", "sounding", "Close"}  # contour stands on another key too
    assert answers.back and not blank.back


@pytest.mark.parametrize(("fitting", "two"), [
    ([3.0], (3.0, 3.0)), ([3.0, 2.55], (2.55, 2.55)), ([3.0, 2.54], (3.0, 2.54)),  # 0.85 of the largest does for all
    ([3.0, 3.0, 2.0], (3.0, 2.0)), ([4.0, 3.0, 3.0, 3.0, 2.0], (3.0, 2.0)), ([5.0, 2.1, 2.1, 2.0], (5.0, 2.0)),
])  # fmt: skip
def test_two_sizes_make_the_type_as_large_as_it_can_be(fitting: list[float], two: tuple[float, float]) -> None:
    assert two_sizes(fitting) == two


@pytest.mark.parametrize("paper", ["A4", "A5", "A6", "screen"])
def test_labels_of_a_card_have_two_sizes_at_most(office: Folio, paper: str) -> None:
    for one in shelf(office).values():
        if one.card.kind == "board":
            for sheet in draw_card(office, replace(one.card, paper=paper), FACES):
                labels = {round(item.size, 3) for group in sheet.groups if group.key for item in group.items
                          if isinstance(item, Text) and item.weight == 500}  # fmt: skip
                assert len(labels) <= 2, (one.card.id, labels)


# Before and after


def moved(*moves: tuple[str, str, str, str]) -> Known:
    return Known({}, tuple(Moved(*move) for move in moves))


def place(layer: str, key: str) -> str:
    return f"split-42:{layer}:{key}:tap"


def test_a_facing_card_draws_what_moved_as_arrows() -> None:
    folio = folio_of()
    card = Card("f", "Draw", "facing", "split-42", ("draw",), paper="A4")
    known = moved(("2026-11-01", "sounding-s", place("draw", "KeyG"), place("draw", "KeyA")),
                  ("2026-11-09", "sounding-s", place("draw", "KeyA"), place("draw", "KeyS")))  # fmt: skip
    (sheet,) = draw_card(folio, card, FACES, known=known)
    arrows = [group for group in sheet.groups if group.name.endswith(" moved")]
    assert [group.name for group in arrows] == ["Add sounding moved"]
    keys = [group for group in sheet.groups if group.key]
    half = len(keys) // 2
    before, now = ({group.key: group for group in side} for side in (keys[:half], keys[half:]))
    assert "Add sounding" in before["KeyG"].name and "Add sounding" not in before["KeyS"].name
    assert "Add sounding" in now["KeyS"].name
    later = replace(card, changed_since="2026-11-05")
    before = {group.key: group for group in draw_card(folio, later, FACES, known=known)[0].groups if group.key and "Add" in group.name}
    assert set(before) == {"KeyA", "KeyS"}


@pytest.mark.parametrize("known", [
    Known(), moved(("2026", "sounding-s", place("draw", "KeyG"), place("draw", "KeyQ"))), moved(("2026", "gone", "a", "b")),
    moved(("2026", "sounding-s", "no trigger at all ((", place("draw", "KeyS"))),
])  # fmt: skip
def test_a_facing_card_of_what_never_moved_says_so(known: Known) -> None:
    with pytest.raises(CannotDraw, match="no binding of Draw has moved"):
        draw_card(folio_of(), Card("f", "Draw", "facing", "split-42", ("draw",)), FACES, known=known)


def test_a_facing_card_of_two_layers_follows_commands(office: Folio) -> None:
    card = Card("f", "Two", "facing", "split-42", ("draw", "travel"), paper="A4")
    (sheet, *_) = draw_card(office, card, FACES)
    assert sum(group.key == "KeyS" for group in sheet.groups) == 2
    with pytest.raises(CannotDraw, match="names 3 layers; a facing card"):
        draw_card(office, replace(card, layers=("draw", "travel", "base")), FACES)


def test_a_facing_card_of_two_boards_sets_them_side_by_side_at_one_scale(office: Folio) -> None:
    card = Card("f", "Board and pad", "facing", "split-42", ("draw",), beside="pad-21:base", paper="A4")
    (sheet,) = draw_card(office, card, FACES)
    keys = [group.key for group in sheet.groups if group.key]
    assert len(keys) == sum(len(office.boards[id].keys) + len(office.boards[id].knobs) for id in ("split-42", "pad-21"))
    assert {group.name for group in sheet.groups if group.name.endswith(" moved")} == {f"{name} moved" for name in ("Zoom in", "Zoom out", "Home view")}  # fmt: skip
    texts = {text.text for _, text in sheet.texts()}
    assert {"split-42 · Draw", "pad-21 · Pad", "split-42 · Draw and pad-21 · Pad"} <= texts
    for group in sheet.groups:
        for item in group.items:
            if isinstance(item, Rect):
                assert item.x >= -0.01 and item.x + item.w <= sheet.width + 0.01


@pytest.mark.parametrize(("changes", "says"), [
    ({"beside": "pad-99:base"}, "pad-99 has no layout in this folio"), ({"beside": "pad-21:nowhere"}, "nowhere is not a layer of pad-21"),
    ({"layers": ("draw", "travel")}, "names 2 layers and one beside them"), ({"paper": "index"}, "two boards cannot be read on index"),
])  # fmt: skip
def test_a_facing_card_of_two_boards_says_what_is_wrong(office: Folio, changes: dict[str, Any], says: str) -> None:
    card = Card("f", "Board and pad", "facing", "split-42", ("draw",), beside="pad-21:base", paper="A4")
    with pytest.raises(CannotDraw, match=says):
        draw_card(office, replace(card, **changes), FACES)


# Tours, blanks, lamps


def test_a_tour_goes_through_groups_and_shared_reasons(office: Folio) -> None:
    bare = replace(shelf(office)["draw"].card, tour=())
    stops = tour_of(office, bare)
    keys = {key for stop in stops for key in stop.keys}
    bound = {one.spot.keys[0] for one in office.layouts["split-42"].layer("draw").bindings if one.command}  # type: ignore[union-attr]
    assert keys >= bound and any(stop.text == "Why: the way they point." for stop in stops)
    assert tour_of(office, shelf(office)["draw"].card) == shelf(office)["draw"].card.tour
    grid = shelf(office)["grid-shoalwright"].card
    drawn = {group.key for sheet in draw_card(office, grid, FACES) for group in sheet.groups if group.key}
    assert drawn <= {key for stop in tour_of(office, grid) for key in stop.keys}


@pytest.mark.parametrize("id", ["draw", "sheet-shoalwright", "keyboard-shoalwright", "grid-shoalwright", "branch-shoalwright", "strip-survey-line"])
def test_blanks_say_nothing_and_have_their_answers_behind(office: Folio, id: str) -> None:
    card = shelf(office)[id].card
    sheets = draw_card(office, replace(card, shows=(*card.shows, "blanks")), FACES)
    assert len(sheets) % 2 == 0 and sheets[0].title.endswith("blank") and sheets[1].title.endswith("answers")
    names = {command.name for command in office.commands.values()} | {command.short for command in office.commands.values()}
    said = [sheets[0].description, *(group.name for group in sheets[0].groups), *(text.text for _, text in sheets[0].texts())]
    assert not names & set(said) and not any(name in one for one in said for name in names if len(name) > 8)
    keyed = [[group.key for group in sheet.groups if group.key] for sheet in sheets[:2]]
    assert keyed[0] == keyed[1]


@pytest.mark.parametrize(("grip", "step"), [(0.0, 0), (0.09, 0), (0.11, 1), (0.49, 2), (0.51, 3), (0.89, 4), (0.91, 5), (1.0, 5)])
def test_lamps_grow_with_the_grip(grip: float, step: int) -> None:
    _, inner = lamp(grip, 0, 0, 2)
    assert isinstance(inner, Circle) and inner.fill == f"lamp-{step}" and inner.r == pytest.approx(0.25 + 0.65 * step / 5)
    folio = folio_of()
    card = Card("g", "G", "grid", program="shoalwright", shows=("labels", "grip"))
    sheet = draw_card(folio, card, FACES, known=Known({"add-sounding": grip}))[0]
    lit = {group.key for group in sheet.groups for item in group.items if isinstance(item, Circle) and item.fill == f"lamp-{step}"}
    assert lit == {"add-sounding"}
