"""Reasons that a key suggests by itself."""

from __future__ import annotations

import pytest

from glimber.core.practice.mnemonics import proposed_reason
from tests.helpers import LAYOUT, folio_of

COMMANDS = [
    ("sounding", "Add sounding", "Ctrl+S", "survey"), ("coast", "Trace the coast", "Ctrl+C", "survey"), ("of", "Depth of the sea", "Ctrl+O", "survey"),
    ("next", "Next sheet", "Alt+Right", "view"), ("back", "Go back", "Alt+Left", "view"), ("quay", "Quay list", "Alt+Up", "view"),
    ("open", "Show wrecks", "F6", "chart"), ("hide", "Hide wrecks", "Shift+F6", "chart"), ("other", "Lay buoy", "Shift+F7", "chart"),
    ("plain", "Light list", "F7", "view"), ("steps", "Chart index", "Ctrl+K Ctrl+I", "view"), ("none", "Ungrouped", "F9", None),
    ("none-shift", "Ungrouped too", "Shift+F9", None),
]  # fmt: skip
TEXT = 'format = "glimber-program/1"\nname = "Charts"\n[groups]\nsurvey = { name = "Survey" }\nview = { name = "View" }\nchart = { name = "Chart" }\n[commands]\n' + "".join(
    f'{id} = {{ name = "{name}", {f"group = {chr(34)}{group}{chr(34)}, " if group else ""}bindings = [{{ id = "{id}", trigger = "{keys}" }}] }}\n'
    for id, name, keys, group in COMMANDS)  # fmt: skip


@pytest.mark.parametrize(("id", "reason"), [
    ("sounding", "S as in sounding"), ("coast", "C as in coast"), ("of", None), ("next", "the arrow points where it goes"),
    ("back", "the arrow points where it goes"), ("quay", None), ("open", "without Shift, beside Hide wrecks"),
    ("hide", "with Shift, beside Show wrecks"), ("other", None), ("plain", None), ("steps", "I as in index"), ("none", None),
])  # fmt: skip
def test_what_a_key_suggests(id: str, reason: str | None) -> None:
    folio = folio_of({"programs/charts.toml": TEXT})
    assert proposed_reason(folio, folio.bindings[id]) == reason


def test_the_print_of_a_spot_is_its_letter() -> None:
    folio = folio_of({"layouts/split-42.toml": LAYOUT})
    assert proposed_reason(folio, folio.bindings["sounding-s"]) == "S as in sounding"
