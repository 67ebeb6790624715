"""What a key does, everywhere."""

from __future__ import annotations

import pytest

from glimber.core.model.what_is import keys_written, one_more, what_is
from glimber.core.notation.keys import parse_trigger
from tests.helpers import folio_of, text_of

PROGRAM = text_of("what-keys-do.toml")
OTHER = 'format = "glimber-program/1"\nname = "Namewell"\n[commands]\nsave = { name = "Keep names", shortcut = "Ctrl+S" }\n'
DESKTOP = 'format = "glimber-program/1"\nname = "Everywhere"\n[commands]\nlock = { name = "Lock", shortcut = "Super+L" }\n'
LAYOUT = text_of("what-keys-do-layout.toml")
FOLIO = folio_of({"programs/shoalwright.toml": PROGRAM, "programs/namewell.toml": OTHER, "programs/everywhere.toml": DESKTOP,
                  "layouts/split-42.toml": LAYOUT})  # fmt: skip


@pytest.mark.parametrize(("keys", "found"), [
    ("Ctrl+S", [("Save chart", "Shoalwright"), ("Keep names", "Namewell"), ("Ctrl+S", "sent by S held on Base of split-42"),
                ("Save all", "Shoalwright, with Ctrl+Shift+S"), ("Free", "in Everywhere")]),
    ("Super+L", [("Lock", "the desktop"), ("Free", "in Shoalwright, Namewell")]),
    ("Ctrl+K", [("Begins 1 sequence", "Shoalwright, Sheet"), ("Free", "in Everywhere, Namewell")]),
    ("Delete", [("Drop vertex", "Shoalwright, canvas"), ("Free", "in Everywhere, Namewell")]),
    ("Shift+[BracketLeft]", [("Fold", "Shoalwright"), ("Free", "in Everywhere, Namewell")]),
    ("F9", [("Free", "in Everywhere, Shoalwright, Namewell")]),
    ("split-42:base:KeyS:tap", [("Ctrl+S", "hold on Base of split-42"), ("Save chart", "Shoalwright"), ("Keep names", "Namewell"),
                                ("Save all", "Shoalwright, with Ctrl+Shift+S")]),
    ("split-42:base:KeyD:tap", [("Free", "on every layer of split-42")]),
])  # fmt: skip
def test_everything_that_keys_do(keys: str, found: list[tuple[str, str]]) -> None:
    got = {(one.text, one.detail) for one in what_is(FOLIO, parse_trigger(keys))}
    assert got == set(found)


def test_what_is_bound_can_be_gone_to() -> None:
    assert [one.binding for one in what_is(FOLIO, parse_trigger("Super+L"))] == ["lock", None]


@pytest.mark.parametrize(("text", "keys"), [
    ("Ctrl+S", "Ctrl+S"), (" ctrl+s ", "Ctrl+S"), ("{", "{"), ("Ctrl+{", "Ctrl+{"), ("F5", "F5"), ("Escape", "Escape"),
    ("Ctrl+K Ctrl+C", "Ctrl+K Ctrl+C"), ("s", None), ("7", None), ("sounding", None), ("Ctrl+", None), ("save chart", None),
    ("Ctrl+Ж", None), ("", None),
])  # fmt: skip
def test_what_is_written_is_keys_or_a_name(text: str, keys: str | None) -> None:
    found = keys_written(FOLIO, text)
    assert (str(found) if found is not None else None) == keys


@pytest.mark.parametrize(("before", "strike", "after"), [
    (None, ({"Ctrl"}, "KeyK"), "Ctrl+K"), ("Ctrl+K", ({"Ctrl"}, "KeyC"), "Ctrl+K Ctrl+C"), ("Ctrl+S", ({"Ctrl"}, "KeyC"), "Ctrl+C"),
    ("Ctrl+K Ctrl+C", ({"Ctrl"}, "KeyC"), "Ctrl+C"),
])  # fmt: skip
def test_one_more_key_goes_on_only_where_a_sequence_does(before: str | None, strike: tuple[set[str], str], after: str) -> None:
    keys = parse_trigger(before) if before is not None else None
    assert str(one_more(FOLIO, keys, (frozenset(strike[0]), strike[1]))) == after  # type: ignore[arg-type]
