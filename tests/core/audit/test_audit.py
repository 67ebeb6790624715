"""The audit: every code it knows, brought about and taken away again."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.audit.checks import AuditMemory
from glimber.core.audit.checks import audit as whole_audit
from glimber.core.audit.finding import SEVERITIES, Finding
from glimber.core.edit.spots import clear_spots
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Spot
from glimber.core.notation.legend import Legend
from tests.helpers import FOLIO, PROGRAM, folio_of, layer_text, layout_of, layout_text

CROWN = '[bundles]\nCrown = ["Ctrl", "Alt", "Super"]\n'


def audit(folio: Folio, computer: str | None = None, memory: AuditMemory | None = None) -> list[Finding]:
    """All but the one finding that the small office has: P waits for its hold."""
    return [one for one in whole_audit(folio, computer, memory) if one.where != "split-42:base:KeyP:hold"]


def codes(folio: Folio) -> list[tuple[str, str]]:
    """All but what keycaps print and what is dead: those are asked for by themselves."""
    return [(one.code, one.where) for one in audit(folio) if one.code not in ("print-differs", "dead-here")]


def with_shortcut(text: str, more: str = "") -> Folio:
    return folio_of({"programs/shoalwright.toml": PROGRAM + f'\n[commands.other]\nname = "Other"\nshortcut = "{text}"\n{more}'})


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
    there = PROGRAM.replace('shortcut = "Ctrl+K Ctrl+S"', 'bindings = [{ trigger = "Ctrl+K Ctrl+S", computers = ["quay"] }]')
    assert codes(folio_of({"programs/shoalwright.toml": there + computers})) == []
    assert codes(folio_of({"programs/shoalwright.toml": PROGRAM + computers})) == [("same-trigger", "Ctrl+K Ctrl+S")]


BASE = 'id = "base"\nname = "Base"\n[layers.keys]\n'


def draw(keys: str = "", head: str = "") -> str:
    return f'id = "draw"\nname = "Draw"\n{head}\n[layers.keys]\n{keys}'


@pytest.mark.parametrize(("base", "layer", "expected"), [
    (BASE, draw(), ["no-way-in"]),
    (BASE, draw(head='front = "shoalwright"'), []),
    (BASE + 'KeyA = { hold = { enters = "draw", mode = "while" }, tap = "a" }', draw(), []),
    (BASE + 'KeyA = { tap = { enters = "draw", mode = "once" } }', draw(), []),
    (BASE + 'KeyA = { tap = { enters = "draw", mode = "stay" } }', draw(), ["no-way-out"]),
    (BASE + 'KeyA = { tap = { enters = "draw", mode = "stay" } }', draw("KeyB = { tap = { leaves = true } }"), []),
    (BASE + 'KeyA = { tap = { enters = "draw", mode = "switch" } }', draw(), []),
    (BASE + 'KeyA = { tap = { enters = "draw", mode = "switch" } }', draw('KeyA = "x"'), ["no-way-out"]),
    (BASE + 'KeyA = { tap = { enters = "draw", mode = "switch" } }', draw(head='unbound = "dead"'), ["no-way-out"]),
    (BASE + 'KeyA = { tap = { enters = "draw", mode = "switch" } }', draw('KeyA = "falls"', 'unbound = "dead"'), []),
    (BASE, draw('KeyA = { hold = { enters = "draw", mode = "while" } }'), ["no-way-in"]),  # only from within
])  # fmt: skip
def test_ways_into_layers_and_out_of_them(base: str, layer: str, expected: list[str]) -> None:
    assert [code for code, _ in codes(layout_of(base, layer)) if code.startswith("no-way")] == expected


DESKTOP = '\n[commands.plan]\nname = "Plan"\nshortcut = "Super+D"\n'
TYPED = '\n[commands.a]\nname = "A"\nshortcut = "\\"/so\\""\n[commands.b]\nname = "B"\nshortcut = "\\"/sounding\\""\n'
DIGITS = '\n[commands.a]\nname = "A"\nshortcut = "Ctrl+4"\n[commands.b]\nname = "B"\nshortcut = "Ctrl+Num4"\n'
THERE = '\n[commands.a]\nname = "A"\n[[commands.a.bindings]]\ntrigger = "F9"\ncomputers = ["quay"]\n'


@pytest.mark.parametrize(
    ("program", "code", "where", "said"),
    [
        (DESKTOP, "desktop-takes", "Super+D", "The desktop takes Super+D for Show desktop before Shoalwright sees it"),
        ('\n[commands.a]\nname = "A"\nshortcut = "Ctrl+K"\n', "stem-complete", "Ctrl+K", "only after 1000 ms, because Ctrl+K Ctrl+L"),
        (TYPED, "typed-prefix", '"/so"', "the longer one cannot be finished"),
        (DIGITS, "place-or-print", "Ctrl+4", "the same digit of the number pad does something else"),
        ('\n[commands.a]\nname = "A"\nshortcut = "Ctrl++"\n', "place-or-print", "Ctrl++", "= without Shift does nothing"),
        ('\n[commands.a]\nname = "A"\nshortcut = "Ctrl+ü"\n', "no-such-key", "Ctrl+Ü", "no key prints Ü in the keyboard layout us"),
        (THERE, "not-on-this-computer", "F9", "A has a key on quay, and none on bridge"),
        ('\n[commands.a]\nname = "A"\nshortcut = "Ctrl+Alt+Super+O"\n', "bundle-clash", "Ctrl+Alt+Super+O", "bundle Crown is not free"),
    ],
)  # fmt: skip
def test_what_is_said_of_a_programs_shortcuts(program: str, code: str, where: str, said: str) -> None:
    found = audit(folio_of({"programs/shoalwright.toml": PROGRAM + program}), "bridge")
    assert [(one.code, one.where, one.severity) for one in found] == [(code, where, SEVERITIES[code])]
    assert said in found[0].text


@pytest.mark.parametrize("trigger", ["Ctrl+[Semicolon]", "Ctrl+;", "Ctrl+Я", '"grüße"', "Ctrl+AltGr+E"])
def test_keys_by_place_of_other_scripts_and_typed_texts_are_there(trigger: str) -> None:
    folio = folio_of({"programs/shoalwright.toml": PROGRAM + f"\n[commands.a]\nname = 'A'\nshortcut = '{trigger}'\n"})
    expected = ["no-such-key"] if "Я" in trigger else []
    assert [one.code for one in audit(folio)] == expected
    russian = replace(folio, legend=Legend("ru", {"KeyZ": ("я", "Я"), "Semicolon": ("ж", "Ж")}))
    assert "no-such-key" not in {one.code for one in audit(russian) if "Я" in one.where}


@pytest.mark.parametrize(("count", "told"), [(0, []), (1, [1]), (3, [1, 1, 1]), (4, [4])])
def test_a_bundle_of_two_modifiers_meets_shortcuts_that_spell_them_out(count: int, told: list[int]) -> None:
    more = "".join(f'\n[commands.c{n}]\nname = "C{n}"\nshortcut = "Alt+Super+{"GHJK"[n]}"\n' for n in range(count))
    settings = f'{FOLIO}\n{CROWN}Pair = ["Alt", "Super"]\nOne = ["Super"]\n'
    found = audit(folio_of({"folio.toml": settings, "programs/shoalwright.toml": PROGRAM + more}), "bridge")
    assert [len(one.bindings) for one in found if one.code == "bundle-clash"] == told
    assert not [one.text for one in found if "bundle One" in one.text]
    assert count < 4 or f"has {count} shortcuts with Alt+Super, Alt+Super+G among them: the bundle Pair" in found[0].text


@pytest.mark.parametrize(("count", "crowded"), [(36, False), (37, True)])
def test_more_than_36_commands_on_a_layer_are_a_crowd(count: int, crowded: bool) -> None:
    shape = folio_of().boards["split-42"]
    keys = [f'{key.id} = {{ tap = {{ does = "shoalwright/c{n}" }} }}' for n, key in enumerate(shape.keys[:count])]
    commands = "".join(f'\n[commands.c{n}]\nname = "C{n}"\n' for n in range(count))
    folio = folio_of({"programs/shoalwright.toml": PROGRAM + commands, "layouts/split-42.toml": layout_text(layer_text("base", *keys))})
    assert [one.where for one in audit(folio) if one.code == "crowded-layer"] == ["split-42:base"] * crowded


def test_only_what_an_edit_can_affect_is_checked_again(monkeypatch: pytest.MonkeyPatch) -> None:
    from glimber.core.audit import checks as module

    looked: list[str] = []
    real = module.run_checks

    def counted(part: Any) -> Any:
        looked.append(type(part).__name__)
        return real(part)

    monkeypatch.setattr(module, "run_checks", counted)
    folio, memory = folio_of(), AuditMemory()
    first = audit(folio, "bridge", memory)
    assert len(looked) == 1 + 2 * 2 + 1 + 2  # the folio, programs here and elsewhere, the layout, its layers
    looked.clear()
    assert audit(folio, "bridge", memory) == first and looked == []
    after = clear_spots(folio, [folio.bindings["range-d"].spot])
    assert audit(after, "bridge", memory) == audit(after, "bridge")
    assert looked[:2] == ["LayoutPart", "LayerPart"]  # only that layout and that layer


def test_an_edit_on_one_layer_is_seen_in_what_is_said_of_another_and_of_the_program() -> None:
    """Uses are shared among all bindings of a command, and a key on a board is one on this computer too."""
    busy = '\n[commands.a]\nname = "A"\nuses_per_day = 18\n[[commands.a.bindings]]\ntrigger = "F9"\ncomputers = ["quay"]\n'
    base = BASE + 'thumb-left-1 = { tap = { enters = "draw", mode = "while" } }\nKeyG = { tap = { does = "shoalwright/a" } }'
    layout = layout_text(base, layer_text("draw", 'Enter = { tap = { does = "shoalwright/a" } }'))
    folio = folio_of({"layouts/split-42.toml": layout, "programs/shoalwright.toml": PROGRAM + busy})
    memory = AuditMemory()
    before = {one.code for one in audit(folio, "bridge", memory)}
    assert not before & {"awkward-busy", "not-on-this-computer"}
    one, two = (Spot("split-42", layer, (key,), "tap") for layer, key in (("base", "KeyG"), ("draw", "Enter")))
    folio = clear_spots(folio, [one])
    assert "awkward-busy" in {found.code for found in audit(folio, "bridge", memory)}
    folio = clear_spots(folio, [two])
    assert "not-on-this-computer" in {found.code for found in audit(folio, "bridge", memory)}
    assert audit(folio, "bridge", memory) == audit(folio, "bridge")


def test_a_cap_of_another_layout() -> None:
    board = 'format = "glimber-board/1"\nid = "small"\nname = "Small"\n[[keys]]\nid = "KeyY"\nx = 0\ny = 0\nprint = "Y"\n'
    layout = f'format = "glimber-layout/1"\nboard = "small"\n[[layers]]\n{BASE}'
    files = {"boards/small.toml": board, "layouts/small.toml": layout, "folio.toml": FOLIO + 'xkb = "de"\n' + CROWN}
    found = [one.text for one in audit(folio_of(files)) if one.code == "print-differs"]
    assert found == ["The keycap Y on small types Z (de)."]


def test_another_way_in_is_seen_in_what_is_held_with_a_key() -> None:
    """What is held with the keys of a layer depends on the keys that bring it in, which are on other layers."""
    draw = layer_text("draw", 'thumb-left-2 = "Ctrl+K Ctrl+L"')
    memory, found = AuditMemory(), []
    for key in ("thumb-right-1", "thumb-left-1", "thumb-right-1"):
        folio = layout_of(layer_text("base", key + ' = { tap = "Space", hold = { enters = "draw", mode = "while" } }'), draw)
        findings = audit(folio, "bridge", memory)
        assert findings == audit(folio, "bridge")
        found.append([one.code for one in findings if one.code == "held-stretch"])
    assert found == [[], ["held-stretch"], []]
