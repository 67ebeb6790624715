"""What a prompt shows, what a spot means in front of a program, and a task run recorded from strikes."""

from __future__ import annotations

import pytest

from glimber.core.model.folio import Binding, Command
from glimber.core.model.meaning import Meanings
from glimber.core.notation.keys import parse_trigger, strikes_of
from glimber.core.practice.cues import Cue, cue_of
from glimber.core.practice.recording import Recording
from tests.helpers import PROGRAM, folio_of, layer_text, layout_text

PLAIN = Command("lead", "shoalwright", "Lead line")
RICH = Command("lead", "shoalwright", "Lead line", words=("plummet", "the bottom is asked for", "how deep is it"), icon="anchor")
BOUND = Binding("lead", parse_trigger("Ctrl+L"), "shoalwright/lead")
PICTURED = Binding("lead", parse_trigger("Ctrl+L"), "shoalwright/lead", picture="icons/lead.svg")


@pytest.mark.parametrize(("command", "binding", "wish", "nth", "cue"), [
    (RICH, BOUND, "name", 0, Cue("name", "Lead line")), (RICH, BOUND, "situation", 0, Cue("situation", "the bottom is asked for")),
    (RICH, BOUND, "situation", 1, Cue("situation", "how deep is it")),
    (RICH, BOUND, "situation", 2, Cue("situation", "the bottom is asked for")), (RICH, BOUND, "picture", 0, Cue("icon", "anchor")),
    (RICH, PICTURED, "picture", 0, Cue("picture", "icons/lead.svg")), (PLAIN, BOUND, "situation", 0, Cue("name", "Lead line")),
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


NAMES = """format = "glimber-program/1"
name = "Namewell"

[commands]
next = { name = "Next name", shortcut = "Ctrl+N" }
save = { name = "Save names", shortcut = "Ctrl+Shift+S" }
"""
LONGER = '\n[commands]\nmark = { name = "Mark", shortcut = "Ctrl+M" }\nmark-all = { name = "Mark all", shortcut = "Ctrl+M Ctrl+A" }\n'
FOLIO = folio_of({"programs/shoalwright.toml": PROGRAM + LONGER, "programs/namewell.toml": NAMES})
SOUNDING, SAVE, NEXT = "shoalwright/add-sounding", "namewell/save", "namewell/next"


def recorded(*triggers: str) -> Recording:
    found = Recording(FOLIO)
    for text in triggers:
        trigger = parse_trigger(text)
        for strike in strikes_of(trigger, FOLIO.legend, {}) or ():
            found = found.with_strikes((strike,))
    return found


@pytest.mark.parametrize(("struck", "commands", "unknown"), [
    (("Ctrl+Shift+S",), [SOUNDING], 0),  # two programs answer to it: the first
    (("Ctrl+N", "Ctrl+Shift+S"), [NEXT, SAVE], 0),  # the one that was used last
    (("Ctrl+N", "Super+D", "Ctrl+Shift+S"), [NEXT, "everywhere/show-desktop", SAVE], 0),  # the desktop's belong to none
    (("Ctrl+K Ctrl+L",), ["shoalwright/lead-line"], 0),
    (("Ctrl+K", "Ctrl+N"), [NEXT], 0),  # begun, and left
    (("Ctrl+K", "x"), [], 1),
    (("a", "b", "Ctrl+Shift+S"), [SOUNDING], 2),
    (("Ctrl+M",), ["shoalwright/mark"], 0),
    (("Ctrl+M Ctrl+A",), ["shoalwright/mark-all"], 0),  # the longer one takes the place of its beginning
    (("Ctrl+M", "Ctrl+M Ctrl+A"), ["shoalwright/mark", "shoalwright/mark-all"], 0),
    (("Ctrl+M", "Ctrl+N"), ["shoalwright/mark", NEXT], 0),
    (("Ctrl+Shift+S", "Ctrl+Shift+S"), [SOUNDING, SOUNDING], 0),  # as often as it was done
])  # fmt: skip
def test_strikes_are_the_commands_they_carry_out(struck: tuple[str, ...], commands: list[str], unknown: int) -> None:
    found = recorded(*struck)
    assert (list(found.commands), found.unknown) == (commands, unknown)


def test_one_is_taken_out_by_its_place() -> None:
    found = recorded("Ctrl+M", "Ctrl+N").without(0)
    assert found.commands == (NEXT,)
    assert recorded("Ctrl+M").without(0).with_strikes((strikes_of(parse_trigger("Ctrl+A"), FOLIO.legend, {}) or ())[:1]).commands == ()
