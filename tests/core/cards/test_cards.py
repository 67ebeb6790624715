"""Board cards: labels never overflow their key or overlap, whatever they are called; the same drawing everywhere."""

from __future__ import annotations

from math import hypot
from xml.etree import ElementTree

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.cards.board import board_card as board_sheets
from glimber.core.cards.frame import CannotDraw, Kit
from glimber.core.cards.kinds import draw_card
from glimber.core.drawing.drawing import Circle, Drawing, Group, Icons, Image, Path, Picture, Rect, Text
from glimber.core.drawing.paper import PAPERS_MM
from glimber.core.drawing.svg import to_svg
from glimber.core.drawing.text import fit, wrap
from glimber.core.edit.commands import edit_command
from glimber.core.model.card_bindings import NOTHING_KNOWN
from glimber.core.model.folio import Card, Command, Folio
from glimber.core.sheets.keys import key_card
from glimber.core.sheets.welcome import welcome_card
from glimber.store.cache.fonts import carried_fonts, faces
from glimber.ui.paint.look import PAPER
from tests.helpers import folio_of

FACES = faces()


def board_card(folio: Folio, card: Card, stamp: str = "", icons: Icons = lambda name: None) -> Drawing:
    """The sheet with the board."""
    return board_sheets(folio, card, Kit(FACES, stamp, icons, NOTHING_KNOWN))[0]


def boxes(group: Group) -> list[tuple[Text, tuple[float, float, float, float]]]:
    # Capitals and the x-height are what must not touch: descenders may reach into the room below a line.
    return [(item, item.box(0.72, 0.0)) for item in group.items if isinstance(item, Text)]


def assert_clean(drawing: Drawing) -> None:
    """Every text within its key and within the sheet; no two texts of a group over each other."""
    loose = []
    for group in drawing.groups:
        found = boxes(group)
        tile = group.items[0]
        if group.key and isinstance(tile, Rect):
            for text, (left, top, right, bottom) in found:
                inside = left >= tile.x - 0.01 and right <= tile.x + tile.w + 0.01
                assert inside and top >= tile.y - 0.01 and bottom <= tile.y + tile.h + 0.01, (group.key, text.text)
        elif not group.key:
            loose += found
        for i, (one, a) in enumerate(found):
            for other, b in found[i + 1 :]:
                apart = a[2] <= b[0] + 0.02 or b[2] <= a[0] + 0.02 or a[3] <= b[1] + 0.02 or b[3] <= a[1] + 0.02
                assert apart, (group.key, one.text, other.text)
    for text, (left, top, right, bottom) in loose:
        assert left >= 0 and top >= 0 and right <= drawing.width + 0.01 and bottom <= drawing.height + 0.01, text.text


def test_every_card_of_the_office_is_clean(office: Folio) -> None:
    for card in office.cards.values():
        assert_clean(board_card(office, card, "Chart office, 25 Nov"))


@pytest.mark.parametrize("paper", [name for name in PAPERS_MM if name != "strip"])
@pytest.mark.parametrize("landscape", [True, False])
def test_every_paper_either_way(office: Folio, paper: str, landscape: bool) -> None:
    card = replace(office.cards["draw"], paper=paper, landscape=landscape)
    drawing = board_card(office, card)
    short, long = PAPERS_MM[paper]
    assert (drawing.width, drawing.height) == ((long, short) if landscape else (short, long))
    assert_clean(drawing)


@pytest.mark.parametrize("paper", [name for name in PAPERS_MM if name not in ("strip", "index")])
def test_what_a_knob_does_is_written_inside_its_round(office: Folio, paper: str) -> None:
    card = next(card for card in office.cards.values() if card.board == "pad-21")
    drawing = board_card(office, replace(card, paper=paper))
    knobs = [(group, group.items[0]) for group in drawing.groups if group.key in ("knob-1", "knob-2")]
    assert len(knobs) == 2
    for group, round_ in knobs:
        assert isinstance(round_, Circle)
        texts = [item for item in group.items if isinstance(item, Text)]
        assert len(texts) >= 3
        for text in texts:
            left, _, right, _ = text.box(0.0, 0.0)
            height = FACES[text.weight].cap * text.size
            for x in (left, right):
                for y in (text.y, text.y - height):
                    assert hypot(x - round_.x, y - round_.y) <= round_.r, text.text


names = st.text(st.characters(codec="utf-8", categories=["L", "N", "P", "S", "Zs"]), min_size=1, max_size=80)


@given(st.lists(names.filter(str.strip), min_size=3, max_size=3))
@settings(max_examples=60)
def test_no_name_however_long_overflows_its_key(three: list[str]) -> None:
    folio = folio_of()
    program = folio.programs["shoalwright"]
    commands: dict[str, Command] = dict(program.commands)
    for id, name in zip(("add-sounding", "depth-range", "lead-line"), three, strict=True):
        commands[id] = replace(commands[id], name=name, label=None)
    long = replace(folio, programs={**folio.programs, "shoalwright": replace(program, commands=commands)})
    assert_clean(board_card(long, Card("draw", three[0], "board", "split-42", ("draw",)), three[1]))


def test_a_name_that_does_not_fit_is_numbered_and_stands_below_in_full() -> None:
    folio = folio_of()
    program = folio.programs["shoalwright"]
    name = "Recalculate every sounding of the northern approaches sheet"
    commands = {**program.commands, "add-sounding": replace(program.commands["add-sounding"], name=name, label=None)}
    folio = replace(folio, programs={**folio.programs, "shoalwright": replace(program, commands=commands)})
    drawing = board_card(folio, Card("d", "Draw", "board", "split-42", ("draw",)))
    key = drawing.find("KeyS")
    assert key is not None and name in key.name
    assert "see 1" in [item.text for item in key.items if isinstance(item, Text)]
    below = " ".join(text.text for group, text in drawing.texts() if not group.key)
    assert f"1 {name}" in below


def test_marks_go_with_inks_and_every_gesture_has_its_line(office: Folio) -> None:
    drawing = board_card(office, office.cards["draw"])
    s = drawing.find("KeyS")
    assert s is not None
    texts = [item.text for item in s.items if isinstance(item, Text)]
    assert any("ounding" in text or text == "see 1" for text in texts) and "–" in texts and "S" in texts
    inked = [item for item in s.items if getattr(item, "fill", None) == "tide" or
             getattr(getattr(item, "stroke", None), "colour", None) == "tide"]  # fmt: skip
    assert len(inked) >= 2  # the band and the mark


@pytest.mark.parametrize("kind", ["sheet", "keyboard", "grid"])
@pytest.mark.parametrize("proportion", [0.125, 1.0, 8.0])
def test_the_icon_of_a_program_stands_before_its_title(office: Folio, kind: str, proportion: float) -> None:
    card = Card("c", "Shoalwright by key", kind, program="shoalwright")  # type: ignore[arg-type]
    pictured = replace(office.programs["shoalwright"], picture="icons/shoal.png")
    folio = replace(office, programs={**office.programs, "shoalwright": pictured})

    def titles(of: Folio, found: Picture | None) -> tuple[list[Image], float]:
        sheet = draw_card(of, card, FACES, icons=lambda name: found if name == "icons/shoal.png" else None)[0]
        items = [item for group in sheet.groups for item in group.items]
        title = next(item for item in items if isinstance(item, Text) and item.text.startswith("Shoalwright"))
        return [item for item in items if isinstance(item, Image)], title.x

    none, at = titles(office, None)
    (one,), moved = titles(folio, Picture("AAAA", "image/png", proportion))
    assert none == [] and one.x == at and one.x + one.w < moved and one.y >= 0
    assert titles(folio, None) == (none, at)  # a picture that cannot be shown takes no room


def test_dead_keys_have_their_print_struck_through_and_falling_ones_do_not(office: Folio) -> None:
    draw = board_card(office, office.cards["draw"]).find("Tab")
    base = board_card(office, office.cards["base"]).find("KeyQ")
    assert draw is not None and any(isinstance(item, Path) for item in draw.items)
    assert base is not None and not any(isinstance(item, Path) for item in base.items)


def test_a_card_shows_what_it_is_told_to() -> None:
    from glimber.store.cache.icons import icon, icon_names
    from tests.helpers import PROGRAM

    folio = folio_of({"programs/shoalwright.toml": PROGRAM.replace('label = "Sounding"', 'label = "Sounding"\nicon = "anchor"')})

    def key(*shows: str) -> Group:
        group = board_card(folio, Card("d", "D", "board", "split-42", ("draw",), shows=shows), icons=icon).find("KeyS")
        assert group is not None
        return group

    def texts(group: Group) -> list[str]:
        return [item.text for item in group.items if isinstance(item, Text)]

    def outlines(group: Group) -> list[Path]:
        return [item for item in group.items if isinstance(item, Path) and item.fill == "tide" and len(item.steps) > 10]

    assert "Sounding" in texts(key("labels")) and "Depth range" not in " ".join(texts(key("labels")))
    assert "–" in texts(key("labels", "holds"))
    if icon_names():  # the set comes with the window's packages
        assert len(outlines(key("labels", "icons"))) == 1 and "Sounding" in texts(key("labels", "icons"))
        assert len(outlines(key("icons"))) == 1 and "Sounding" not in texts(key("icons"))
        box = [float(value) for step in icon("anchor") or () for value in step[1:]]
        assert min(box) >= -0.01 and max(box) <= 1.01
    assert icon("no-such-icon") is None and not outlines(key("labels"))


def test_what_cannot_be_drawn_says_why(office: Folio) -> None:
    with pytest.raises(CannotDraw, match="expected a board card"):
        board_card(office, Card("x", "X", "strip", "split-42"))
    with pytest.raises(CannotDraw, match="names no board"):
        board_card(office, Card("x", "X", "board"))
    with pytest.raises(CannotDraw, match="has no layout"):
        board_card(office, Card("x", "X", "board", "full-105"))


def test_svg_is_xml_with_its_size_its_names_and_its_font(office: Folio) -> None:
    drawing = board_card(office, office.cards["draw"])
    text = to_svg(drawing, PAPER, carried_fonts(drawing))
    root = ElementTree.fromstring(text)
    space = "{http://www.w3.org/2000/svg}"
    assert root.get("width") == "210mm" and root.get("height") == "148mm"
    keys = {group.get("data-key"): group for group in root.iter(f"{space}g") if group.get("data-key")}
    assert len(keys) == 42
    assert "Add sounding" in (keys["KeyS"].findtext(f"{space}title") or "")
    assert "font/ttf;base64," in text and (root.findtext(f"{space}desc") or "").count("Add sounding") == 1


def test_names_with_marks_of_xml_stay_xml() -> None:
    folio = folio_of()
    card = Card("x", 'Tides <&> "quays"', "board", "split-42", ("draw",))
    root = ElementTree.fromstring(to_svg(board_card(folio, card), PAPER))
    assert 'Tides <&> "quays"' in (root.findtext("{http://www.w3.org/2000/svg}title") or "")


@given(names, st.floats(6, 40), st.floats(3, 20))
def test_fitted_text_fits(text: str, width: float, height: float) -> None:
    face = FACES[500]
    setting = fit(text, face, width, height, 4.0, 2.0)
    assert all(face.width(line, setting.size) <= width + 1e-6 for line in setting.lines)
    assert len(setting.lines) <= 3 and (len(setting.lines) == 1 or setting.height <= height + 1e-6)
    if not setting.short:
        written = "".join(setting.lines).replace(" ", "")
        assert written.replace("-", "") == "".join(text.split()).replace("-", "")


def test_words_break_only_between_words_and_after_hyphens() -> None:
    assert wrap("Show sea-marks", FACES[500], 3, FACES[500].width("Show sea-", 3)) == ["Show sea-", "marks"]
    assert wrap("Hydrography", FACES[500], 3, 5) is None


def test_the_key_card_and_the_welcome_are_clean() -> None:
    rows = [(f"Action number {i} with a rather long name", ["Ctrl+Shift+K", "F13"]) for i in range(23)]
    assert_clean(key_card("Weigh", "the keys that work here", rows, FACES))
    assert_clean(welcome_card("Chart office of the northern approaches and the outer islands", FACES))


def test_a_sheet_shows_the_keys_of_other_systems_beside_the_name() -> None:
    folio = edit_command(folio_of(), "shoalwright/lead-line", keys_of=(("mac", ("Shift+Super+L", "F2")), ("windows", ("Super+L",))))
    card = Card("c", "Both", "sheet", program="shoalwright", paper="A4")

    def texts(shows: tuple[str, ...]) -> str:
        (sheet,) = draw_card(folio, replace(card, shows=shows), FACES)
        return " ".join(item.text for group in sheet.groups for item in group.items if isinstance(item, Text))

    assert "macOS Shift+Cmd+L or F2 · Windows Win+L" in texts(("systems",))
    assert "macOS" not in texts(())
