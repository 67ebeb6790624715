"""What cards are about, places in words, and the layers of an ordinary keyboard, for the office as when somebody read it."""

from __future__ import annotations

from datetime import date
from itertools import product

from benchmarks.readable_cards import made_folio
from msgspec import to_builtins
from msgspec.structs import replace

from glimber.core.model.card_bindings import Known, Moved, chosen, label_of
from glimber.core.model.card_subjects import about_fields, about_of_text, about_words, abouts
from glimber.core.model.chord_boards import beyond, chord_board_id, held_keys, spot_on_keyboard, with_chord_boards
from glimber.core.model.chord_layers import chord_layers, elsewhere, taken_by_desktop, trigger_on
from glimber.core.model.describe import count_words, day_words, key_words, place_words, seconds_words, way_words, what_it_does
from glimber.core.model.essentials import keys_lacking
from glimber.core.model.folio import Card, Folio, Settings
from glimber.core.model.meaning import meanings
from glimber.core.model.shelf import shelf
from glimber.core.model.walk import reading_order, step_from
from glimber.core.notation.keycodes import CODES
from glimber.core.notation.keys import Sequence, strikes_of
from tests.recorded import assert_recorded

TEXTS = ("weakest 12", "Weakest 0", "most used 3", "most used 0", "since 2026-11-20", "since today", "keys S D", "key KeyS", "keys S nothing",
         "keys", "survey", "shoalwright", "Draw", "everything", "  add   sounding ", "")  # fmt: skip


def test_what_cards_are_about(office: Folio) -> None:
    ids = sorted(office.bindings)
    moved = [Moved(f"2026-11-{1 + n % 29:02}T08:00:00+00:00", id, "Ctrl+A", "Ctrl+B") for n, id in enumerate(ids) if n % 6 == 0]
    known = Known(
        grips={id: (n * 37 % 100) / 100 for n, id in enumerate(ids) if n % 5},
        moves=tuple(moved),
        uses={id: float(n * 13 % 40) for n, id in enumerate(ids) if n % 4},
    )
    asked = [*abouts(office), *(about_of_text(text, office, board) for text in TEXTS for board in (None, "pad-21"))]
    lines = [f"{about.text}: {about.detail} {dict(about.fields)}" for about in asked]
    cards = [replace(Card("own", "Own", "sheet"), **about_fields(Card("own", "Own", "sheet"), about)) for about in asked]
    cards += list(office.cards.values())
    for card in cards:
        found = chosen(office, card, known)
        lines.append(f"= {about_words(office, card)}: {len(found)} of {', '.join(label_of(*one) for one in found[:12])}")
    for card, about in product((cards[0], *list(office.cards.values())), asked[::7]):
        lines.append(f"{card.id} with {about.text}: {about_fields(card, about)}")
    lines += [f"{id}: {shelved.heading} {shelved.card.title}" for id, shelved in shelf(office).items()]
    assert_recorded("subjects", lines)


def test_places_in_words_and_layers_of_the_keyboard(office: Folio) -> None:
    lines = [f"{id}: {place_words(office, one.trigger)} does {what_it_does(office, one)} {spot_on_keyboard(office, one)}"
             for id, one in office.bindings.items()]  # fmt: skip
    lines += [seconds_words(ms) for ms in (0.4, 999.4, 999.5, 1000, 59_949, 59_950, 60_000, 3_599_000, 3_600_000)]
    lines += [way_words((x, y)) for x, y in product((-2.0, -0.6, 0.0, 0.4, 1.0), repeat=2)]
    lines += [day_words(date(2026, month, day)) for month, day in ((1, 1), (11, 30))] + [count_words(n, "key") for n in (0, 1, 2)]
    views = with_chord_boards(office)
    for program in office.programs:
        board = chord_board_id(program)
        for layer in chord_layers(office, program):
            keys = {code: (str(trigger_on(office, layer, code)), [one.id for one in many]) for code, many in layer.bindings.items()}
            lines += [f"{program} {layer.id}: {sorted(held_keys(layer))} {keys}", f"  taken {dict(taken_by_desktop(office, layer))}",
                      f"  elsewhere {dict(elsewhere(office, program, layer))} beyond {beyond(views, board, layer.id)}"]  # fmt: skip
    for board in office.boards.values():
        order = reading_order(board)
        lines.append(f"{board.id}: {' '.join(order)}")
        lines += [f"  {key}: {' '.join(step_from(board, key, way) for way in ('left', 'right', 'up', 'down'))}" for key in order]
    lines += [f"{layout.board} lacks {keys_lacking(office, layout)}" for layout in office.layouts.values()]
    assert_recorded("places", lines)


def test_keys_in_words_and_what_strikes_mean(office: Folio) -> None:
    lines = [f"{board or '-'} {code}: {key_words(office, board, (code,))}" for board in ("", *office.boards) for code in sorted(CODES)]
    live: list[tuple[str, str | None, str | None]] = [
        (program, context, computer) for program, context, computer in product(office.programs, (None, "Draw", "Survey"), (None, "other"))
    ]
    for program, context, computer in live:
        table = meanings(office, program, context, computer)
        for binding in office.bindings.values():
            keys = strikes_of(binding.trigger, office.legend, office.bundles) if isinstance(binding.trigger, Sequence) else None
            for count in range(1, len(keys or ()) + 1):
                read = table.read((keys or ())[:count])
                if read.state != "none" and (len(read.bindings) > 1 or read.state != "complete" or context is None):
                    lines.append(f"{program} {context} {computer} {binding.trigger} {count}: {read.state} {[one.id for one in read.bindings]}")
            meant = table.of_binding(binding)
            if meant is not None and not isinstance(binding.trigger, Sequence):
                lines.append(f"{program} {context} {computer} {binding.id}: {meant}")
    assert_recorded("meanings", lines)


def test_settings_and_papers_are_what_they_were() -> None:
    lines = [f"{name} = {value}" for name, value in to_builtins(Settings("Office")).items()]
    for count in (5, 11, 12, 13, 14, 38, 39, 40, 41, 42, 70):
        folio = made_folio(count)
        lines += [f"{count}: {id} {one.card.kind} {one.card.paper} {one.card.landscape}" for id, one in shelf(folio).items()]
        lines += [f"{count}: {about_words(folio, replace(one.card, groups=tuple(folio.programs[one.card.program].groups)[:2]))}"
                  for one in shelf(folio).values() if one.card.program]  # fmt: skip
    assert_recorded("papers", lines)
