"""What a prompt shows."""

from __future__ import annotations

import pytest

from glimber.core.drill.cues import Cue, cue_of
from glimber.core.drill.meaning import Meanings
from glimber.core.folio.folio import Binding, Command
from glimber.core.notation.keys import parse_trigger
from tests.helpers import folio_of, layer_text, layout_text

PLAIN = Command("lead", "shoalwright", "Lead line")
RICH = Command("lead", "shoalwright", "Lead line", words=("plummet", "the bottom is asked for", "how deep is it"), icon="anchor")
BOUND = Binding("lead", parse_trigger("Ctrl+L"), "shoalwright/lead")
PICTURED = Binding("lead", parse_trigger("Ctrl+L"), "shoalwright/lead", picture="icons/lead.svg")


@pytest.mark.parametrize(("command", "binding", "wish", "nth", "cue"), [
    (RICH, BOUND, "name", 0, Cue("name", "Lead line")),
    (RICH, BOUND, "situation", 0, Cue("situation", "the bottom is asked for")),
    (RICH, BOUND, "situation", 1, Cue("situation", "how deep is it")),
    (RICH, BOUND, "situation", 2, Cue("situation", "the bottom is asked for")),
    (RICH, BOUND, "picture", 0, Cue("icon", "anchor")),
    (RICH, PICTURED, "picture", 0, Cue("picture", "icons/lead.svg")),
    (PLAIN, BOUND, "situation", 0, Cue("name", "Lead line")),
    (PLAIN, BOUND, "picture", 0, Cue("name", "Lead line")),
])  # fmt: skip
def test_the_cue_that_is_wished_for_or_the_name(command: Command, binding: Binding, wish: str, nth: int, cue: Cue) -> None:
    assert cue_of(command, binding, wish, nth) == cue  # type: ignore[arg-type]


def test_what_a_spot_carries_out_depends_on_what_is_in_front() -> None:
    pad = layer_text("base", 'F13 = { tap = { id = "own", does = "shoalwright/add-sounding" } }', 'F14 = { tap = { id = "sent", sends = "Super+D" } }',
                     'F15 = { tap = { id = "nothing", sends = "F19" } }')  # fmt: skip
    folio = folio_of({"layouts/pad-21.toml": layout_text(pad, board="pad-21")})
    for program, own in (("shoalwright", "shoalwright/add-sounding"), ("everywhere", None), (None, None)):
        means = Meanings(folio, program).of_binding
        assert [means(folio.bindings[id]) for id in ("own", "sent", "nothing")] == [own, "everywhere/show-desktop", None]
