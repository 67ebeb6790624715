"""Cards that can be read: labels in place, paper covered, size of type and time, over made programs of 20 to 800 shortcuts."""

from __future__ import annotations

import time
from random import Random
from statistics import median
from typing import TYPE_CHECKING

from msgspec.structs import replace

from benchmarks.figures import Figure

if TYPE_CHECKING:
    from glimber.core.drawing.drawing import Drawing
    from glimber.core.model.folio import Card, Folio

COUNTS = (20, 100, 300, 800)
IN_PLACE, NUMBERED, COVERED, LEAST_PT, LAYOUT_MS, LAYOUT_RATIO = 95.0, 5.0, 55.0, 7.0, 30.0, 1.0
_VERBS = "Add Insert Move Show Hide Next Previous Select Copy Rotate Split Join Label Export Check Smooth Widen Trace".split()
_THINGS = ("sounding", "contour line", "buoy", "hachures", "graticule", "sheet", "light sector", "leading line", "wreck",
           "tide level", "depth range", "compass rose", "anchorage", "drying height", "chart title", "neatline")  # fmt: skip
_MORE = ("", "", "", " of the current sheet", " (all sheets)", " to the north", " with its neighbours", " at the cursor")
_HELD = ("", "Shift+", "Ctrl+", "Ctrl+Shift+", "Alt+", "Ctrl+Alt+", "Super+", "Ctrl+Alt+Shift+", "Alt+Shift+")
_KEYS = (*"abcdefghijklmnopqrstuvwxyz1234567890", "F1", "F2", "F3", "F5", "F8", "Left", "Right", "Home", "Delete", ",", ".")


def made_folio(count: int, seed: int = 1) -> Folio:
    """A folio with one program of so many shortcuts, about one in six a sequence."""
    from glimber.core.model.folio import INKS, MARKS, Binding, Command, Folio, Group, Program, Settings
    from glimber.core.notation.keys import parse_trigger
    from glimber.store.toml.reading import shipped_board

    random = Random(seed)
    ids = [f"group-{at}" for at in range(max(2, min(16, count // 12)))]
    groups = {id: Group(id, random.choice(_THINGS).capitalize(), INKS[at % 8], MARKS[at % 8]) for at, id in enumerate(ids)}
    names = [f"{verb} {thing}{more}" for verb in _VERBS for thing in _THINGS for more in dict.fromkeys(_MORE)]
    random.shuffle(names)
    stems = ("Ctrl+K ", "g ", "Ctrl+J ", "Ctrl+K h ")
    triggers = [held + key for held in _HELD for key in _KEYS]
    triggers += [stem + held + key for stem in stems for held in _HELD[:4] for key in _KEYS]
    chords, sequences = triggers[: len(_HELD) * len(_KEYS)], triggers[len(_HELD) * len(_KEYS) :]
    random.shuffle(chords)
    random.shuffle(sequences)
    most = min(len(chords), count - count // 6)
    used = [*chords[:most], *sequences[: count - most]]
    commands = {f"c{at}": Command(f"c{at}", "wright", names[at], group=random.choice(ids)) for at in range(count)}
    bindings = tuple(Binding(f"c{at}", parse_trigger(trigger), f"wright/c{at}") for at, trigger in enumerate(used))
    program = Program("wright", "Shoalwright", groups=groups, commands=commands, bindings=bindings)
    board = shipped_board("full-105")
    return Folio(Settings("Chart office"), boards={board.id: board}, programs={"wright": program})


def automatic(folio: Folio, kind: str) -> list[Card]:
    """The automatic cards of a kind."""
    from glimber.core.model.shelf import shelf

    return [one.card for one in shelf(folio).values() if one.card.kind == kind]


def in_place(folio: Folio, sheets: list[Drawing]) -> tuple[int, int]:
    """How many bindings have their label in place, in full or short, and how many are on the card."""
    from glimber.core.drawing.drawing import Text
    from glimber.core.drawing.short_labels import short_forms_of

    short = short_forms_of(folio)
    written: dict[str, str] = {}
    for sheet in sheets:
        for group in sheet.groups:
            text = _plain(" ".join(item.text for item in group.items if isinstance(item, Text)))
            for id in (group.key or "").split():
                written[id] = written.get(id, "") + text
    good, count = 0, 0
    for many in folio.bindings_of.values():
        command = folio.command_of(many[0])
        here = [written[binding.id] for binding in many if binding.id in written]
        if command is not None and here:
            forms = [_plain(form) for form in (*short.ways(command.short), *short.cut(command.short))]
            # A family (Ctrl+1 … 9) is one row: its name is that of all.
            family = any(binding.id in (group.key or "").split() and " " in (group.key or "")
                         for binding in many for sheet in sheets for group in sheet.groups)  # fmt: skip
            count += 1
            good += family or any(form in text for form in forms for text in here)
    return good, count


def _plain(text: str) -> str:
    return text.replace(" ", "").replace("-", "")


def covered(sheet: Drawing, table: bool = False) -> float:
    """Share of the paper inside its margins that rows and tiles take, in percent: the boxes of its groups, in cells of 2 mm.
    Of a table the box around it: its empty places say what is free."""
    from glimber.core.drawing.drawing import Path, Rect, Text
    from glimber.core.drawing.paper import PAPERS_MM

    step, cells = 2.0, set[tuple[int, int]]()
    around: list[tuple[float, float, float, float]] = []
    for group in sheet.groups[1:]:
        boxes: list[tuple[float, float, float, float]] = []
        for item in group.items:
            if isinstance(item, Text):
                boxes.append(item.box(0.72, 0.2))
            elif isinstance(item, Rect):
                boxes.append((item.x, item.y, item.x + item.w, item.y + item.h))
            elif isinstance(item, Path) and len(item.steps) == 2:
                xs, ys = [float(at[1]) for at in item.steps], [float(at[2]) for at in item.steps]
                boxes.append((min(xs), min(ys), max(xs), max(ys)))
        if group.key or not table:
            around += boxes
        for left, top, right, bottom in [_box(boxes)] if group.key and boxes else boxes:
            cells |= {(x, y) for x in range(int(left / step), int(right / step) + 1)
                      for y in range(int(top / step), int(bottom / step) + 1)}  # fmt: skip
    margin = 10.0 if min(sheet.width, sheet.height) >= min(PAPERS_MM["A5"]) else 6.0
    inner = (sheet.width - 2 * margin) * (sheet.height - 2 * margin) / step**2
    if table and around:
        left, top, right, bottom = _box(around)
        return min(100.0, 100 * (right - left) * (bottom - top) / (inner * step**2))
    return min(100.0, 100 * len(cells) / inner)


def _box(boxes: list[tuple[float, float, float, float]]) -> tuple[float, float, float, float]:
    return min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)


def figures() -> list[Figure]:
    """Each kind of card over the made programs: the worst of them."""
    from glimber.core.cards.kinds import draw_card
    from glimber.store.cache.fonts import faces
    from glimber.ui.paint.draw import to_pixmap
    from glimber.ui.shell.app import application

    application("dark")
    found, type_ = list[Figure](), faces()
    drawn: dict[str, list[tuple[int, Folio, list[Drawing]]]] = {}
    for count in COUNTS:
        folio = made_folio(count)
        for kind in ("sheet", "keyboard", "grid"):
            for card in automatic(folio, kind):
                drawn.setdefault(kind, []).append((count, folio, draw_card(folio, card, type_, "Chart office")))
    for kind, many in drawn.items():
        shares = [100 * good / total for _, folio, sheets in many for good, total in [in_place(folio, sheets)]]
        least = 100.0 if kind == "sheet" else IN_PLACE
        found.append(Figure(f"{kind} cards: labels in place, worst of {len(many)}", min(shares), "%", least, least=True))
        sizes = [text.size for _, _, sheets in many for sheet in sheets for _, text in sheet.texts()]
        found.append(Figure("  smallest type", min(sizes) * 72 / 25.4 + 1e-9, "pt", LEAST_PT, least=True))
        if kind != "keyboard":
            # The last of several sheets holds what is left.
            full = [covered(sheet, kind == "grid") for _, _, sheets in many for sheet in (sheets[:-1] or sheets)]
            found.append(Figure("  paper covered, worst full sheet", min(full), "%", COVERED, least=True,
                                note=f"median {median(full):.0f}"))  # fmt: skip
    folio = made_folio(300)
    (card,) = automatic(folio, "sheet")
    taken = []
    for _ in range(9):
        fresh = replace(folio)
        began = time.perf_counter()
        draw_card(fresh, card, type_)
        taken.append((time.perf_counter() - began) * 1000)
    painted = []
    sheet = draw_card(folio, card, type_)[0]
    for _ in range(5):
        began = time.perf_counter()
        to_pixmap(sheet, 1600)
        painted.append((time.perf_counter() - began) * 1000)
    return [
        *found,
        Figure("laying out a sheet card of 300 shortcuts, median", median(taken), "ms", LAYOUT_MS),
        # Both are slowed alike where the machine is: the time alone differs threefold from hour to hour on a shared one.
        Figure("  of the time of painting its first sheet 1600 px wide", median(taken) / median(painted), "x", LAYOUT_RATIO,
               note=f"{median(painted):.1f} ms"),
    ]  # fmt: skip
