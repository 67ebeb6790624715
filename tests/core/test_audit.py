"""The audit: every code it knows, brought about and taken away again."""

from __future__ import annotations

import pytest

from glimber.core.audit import audit
from glimber.core.folio import Folio
from tests.helpers import FOLIO, PROGRAM, folio_of, layout_of

CROWN = '[bundles]\nCrown = ["Ctrl", "Alt", "Super"]\n'


def codes(folio: Folio) -> list[tuple[str, str]]:
    """All but what keycaps print: that is asked for by itself."""
    return [(finding.code, finding.where) for finding in audit(folio) if finding.code != "print-differs"]


def with_shortcut(text: str, more: str = "") -> Folio:
    return folio_of(
        {"programs/shoalwright.toml": PROGRAM + f'\n[commands.other]\nname = "Other"\nshortcut = "{text}"\n{more}'}
    )


def test_the_small_office_is_sound() -> None:
    assert codes(folio_of()) == []


@pytest.mark.parametrize("text", ["Ctrl+Shift+S", "Shift+Ctrl+s", "Ctrl+Shift+[KeyS]"])
def test_the_same_trigger_twice_in_a_program_however_it_is_spelt(text: str) -> None:
    found = audit(with_shortcut(text))
    assert [(one.code, one.severity) for one in found] == [("same-trigger", "error")]
    assert found[0].bindings == ("add-sounding", "other")
    assert "Add sounding and for Other" in found[0].text


def test_another_context_another_computer_and_another_program_do_not_collide() -> None:
    canvas = PROGRAM.replace('label = "Sounding"', 'label = "Sounding"\ncontext = "canvas"')
    other = '\n[commands.other]\nname = "Other"\ncontext = "sheet list"\nshortcut = "Ctrl+Shift+S"\n'
    assert codes(folio_of({"programs/shoalwright.toml": canvas + other})) == []
    computers = '\n[commands.other]\nname = "Other"\n[[commands.other.bindings]]\ntrigger = "Ctrl+K Ctrl+S"\ncomputers = ["bridge"]\n'
    there = PROGRAM.replace(
        'shortcut = "Ctrl+K Ctrl+S"', 'bindings = [{ trigger = "Ctrl+K Ctrl+S", computers = ["quay"] }]'
    )
    assert codes(folio_of({"programs/shoalwright.toml": there + computers})) == []
    assert codes(folio_of({"programs/shoalwright.toml": PROGRAM + computers})) == [("same-trigger", "Ctrl+K Ctrl+S")]


BASE = 'id = "base"\nname = "Base"\n[layers.keys]\n'


def draw(keys: str = "", head: str = "") -> str:
    return f'id = "draw"\nname = "Draw"\n{head}\n[layers.keys]\n{keys}'


@pytest.mark.parametrize(
    ("base", "layer", "expected"),
    [
        (BASE, draw(), ["no-way-in"]),
        (BASE, draw(head='front = "shoalwright"'), []),
        (BASE + 'KeyA = { hold = { enters = "draw", mode = "while" }, tap = "a" }', draw(), []),
        (BASE + 'KeyA = { tap = { enters = "draw", mode = "once" } }', draw(), []),
        (BASE + 'KeyA = { tap = { enters = "draw", mode = "stay" } }', draw(), ["no-way-out"]),
        (BASE + 'KeyA = { tap = { enters = "draw", mode = "stay" } }', draw("KeyB = { tap = { leaves = true } }"), []),
        (BASE + 'KeyA = { tap = { enters = "draw", mode = "switch" } }', draw(), []),
        (BASE + 'KeyA = { tap = { enters = "draw", mode = "switch" } }', draw('KeyA = "x"'), ["no-way-out"]),
        (BASE + 'KeyA = { tap = { enters = "draw", mode = "switch" } }', draw(head='unbound = "dead"'), ["no-way-out"]),
        (
            BASE + 'KeyA = { tap = { enters = "draw", mode = "switch" } }',
            draw('KeyA = "falls"', 'unbound = "dead"'),
            [],
        ),
        (BASE, draw('KeyA = { hold = { enters = "draw", mode = "while" } }'), ["no-way-in"]),  # only from within
    ],
)
def test_ways_into_layers_and_out_of_them(base: str, layer: str, expected: list[str]) -> None:
    assert [code for code, _ in codes(layout_of(base, layer))] == expected


def test_two_layers_that_only_enter_each_other_have_no_way_in() -> None:
    one = draw('KeyA = { hold = { enters = "more", mode = "while" } }')
    other = 'id = "more"\nname = "More"\n[layers.keys]\nKeyB = { hold = { enters = "draw", mode = "while" } }'
    assert codes(layout_of(BASE, one, other)) == [("no-way-in", "split-42:draw"), ("no-way-in", "split-42:more")]


def test_keycaps_that_say_something_else() -> None:
    keys = (
        'KeyA = "Escape"\nKeyB = "b"\nKeyC = { tap = { does = "shoalwright/quay-list" } }\nKeyD = { hold = "Ctrl+D" }\n'
    )
    found = [one for one in audit(layout_of(BASE + keys)) if one.code == "print-differs"]
    assert [(one.where, one.severity) for one in found] == [
        ("split-42:base:KeyA:tap", "note"), ("split-42:base:KeyC:tap", "note"),
    ]  # fmt: skip
    assert found[0].text == "The keycap of KeyA on split-42 says A; it does Escape."


def test_a_cap_of_another_layout() -> None:
    board = (
        'format = "glimber-board/1"\nid = "small"\nname = "Small"\n[[keys]]\nid = "KeyY"\nx = 0\ny = 0\nprint = "Y"\n'
    )
    layout = f'format = "glimber-layout/1"\nboard = "small"\n[[layers]]\n{BASE}'
    files = {"boards/small.toml": board, "layouts/small.toml": layout, "folio.toml": FOLIO + 'xkb = "de"\n' + CROWN}
    found = [one.text for one in audit(folio_of(files)) if one.code == "print-differs"]
    assert found == ["The keycap of KeyY on small says Y; it types Z (de)."]
