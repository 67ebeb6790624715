"""Spellings found in the world: each in our notation, ranges and alternates, and what is no key binding at all."""

from __future__ import annotations

import contextlib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.notation.keys import NotationError, parse_trigger
from glimber.core.notation.spelling import NotKeysError, may_be_keys, read_spelling, spell

SPELT = dict(line.split("\t") for line in Path(__file__).with_name("spelt.txt").read_text().splitlines())
MANY = {
    "<Alt-Key-F3> <Meta-Key-F3>": ["Alt+F3", "Super+F3"],
    "Ctrl+Y or Ctrl+Shift+Z": ["Ctrl+Y", "Ctrl+Shift+Z"],
    "F3 / Ctrl+G": ["F3", "Ctrl+G"],
    "Ctrl+1 … Ctrl+9": [f"Ctrl+{n}" for n in range(1, 10)],
    "Ctrl+1 ... 9": [f"Ctrl+{n}" for n in range(1, 10)],
    "F1–F4": ["F1", "F2", "F3", "F4"],
    "Alt+1 to Alt+3": ["Alt+1", "Alt+2", "Alt+3"],
    "Ctrl+Z, Ctrl+Shift+Z": ["Ctrl+Z", "Ctrl+Shift+Z"],
    "G, I": ["g", "i"],
    "g, I": ["g", "Shift+I"],
    "Ctrl+S (or F2)": ["Ctrl+S", "F2"],
    "m, <KEY_PPAGE>, <NAK>": ["m", "PageUp", "Ctrl+U"],
    "<super> KEY_Q | <alt> KEY_F4": ["Super+Q", "Alt+F4"],
    "o, <LF>, <KEY_ENTER>": ["o", "Enter"],
    "none": [],
    "": [],
    "—": [],
}
NO_KEYS = {
    "Ctrl+Click": "mouse", "Double-click": "mouse", "Middle mouse button": "mouse", "Shift+drag": "mouse",
    "Ctrl+Mouse wheel": "mouse", "Ctrl+Scroll": "wheel", "Three-finger swipe": "touch", "Pinch": "touch",
}  # fmt: skip


def test_the_quick_look_lets_every_spelling_through_and_most_names_not() -> None:
    assert all(may_be_keys(spelt) for spelt in [*SPELT, *NO_KEYS])
    assert not any(may_be_keys(name) for name in ("Add sounding", "Depth range 4", "Name the strait", "Export sheet…"))


@pytest.mark.parametrize(("spelt", "canonical"), SPELT.items())
def test_one_trigger(spelt: str, canonical: str) -> None:
    assert [str(trigger) for trigger in read_spelling(spelt)] == [canonical]


@pytest.mark.parametrize(("spelt", "triggers"), MANY.items())
def test_several_triggers_or_none(spelt: str, triggers: list[str]) -> None:
    assert [str(trigger) for trigger in read_spelling(spelt)] == triggers


@pytest.mark.parametrize(("spelt", "why"), NO_KEYS.items())
def test_what_is_no_key_binding_says_why(spelt: str, why: str) -> None:
    with pytest.raises(NotKeysError, match=why):
        read_spelling(spelt)


@pytest.mark.parametrize("spelt", ["Crtl+K", "see the manual", "Ctrl+", "or", "Ctrl+1 … Ctrl+999"])
def test_what_cannot_be_read_says_what_was_expected(spelt: str) -> None:
    with pytest.raises(NotationError) as caught:
        read_spelling(spelt)
    assert caught.value.expected


@given(st.text(max_size=60))
def test_any_text_is_read_or_refused_and_what_is_read_is_stable(text: str) -> None:
    try:
        found = read_spelling(text)
    except (NotationError, NotKeysError):
        return
    for trigger in found:
        assert parse_trigger(str(trigger)) == trigger


@given(st.sampled_from(sorted(SPELT)))
def test_our_own_notation_is_a_spelling_of_itself(spelt: str) -> None:
    for trigger in read_spelling(spelt):
        assert read_spelling(str(trigger)) == (trigger,)


@pytest.mark.parametrize("text", ["⌘+", "⌘⇧+", "⌃+", "Ctrl+", "⌘+ or Ctrl+S", "Ctrl+S, ⇧+"])
def test_a_plus_without_a_key_is_a_fault(text: str) -> None:
    with pytest.raises(NotationError):
        read_spelling(text)


@given(st.text('⌘⇧⌃⌥❖⊞✦+,- <>^CMS[]"aF1/|;.…', max_size=14))
def test_every_spelling_ends(text: str) -> None:
    """Read or refused, and in bounded time: what is left of a word gets shorter with every sign taken off it."""
    with contextlib.suppress(NotKeysError, NotationError):
        read_spelling(text)


@pytest.mark.parametrize(("text", "triggers"), [
    ("^A, ^E", ["Ctrl+A", "Ctrl+E"]), ("C-x, C-s", ["Ctrl+X", "Ctrl+S"]), ("C-x C-s", ["Ctrl+X Ctrl+S"]), ("M-Left, M-Right", ["Alt+Left", "Alt+Right"]),
    ("Ctrl+K, Ctrl+S", ["Ctrl+K Ctrl+S"]), ("g^C", ["g Ctrl+C"]), ("g<Tab>", ["g Tab"]), ("gEnter", ["g Enter"]), ("Esc+V", ["Escape v"]),
    ("kEnter", ["NumEnter"]), ("alt-exclamation", ["Alt+!"]),
])  # fmt: skip
def test_spellings_of_terminals(text: str, triggers: list[str]) -> None:
    assert [str(one) for one in spell(text).triggers] == triggers
