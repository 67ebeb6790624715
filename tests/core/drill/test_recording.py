"""A task run recorded from strikes: commands in order, sequences whole, programs told apart, what is no binding counted aside."""

from __future__ import annotations

import pytest

from glimber.core.drill.recording import Recording
from glimber.core.notation.keys import parse_trigger, strikes_of
from tests.helpers import PROGRAM, folio_of

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
