"""Keys on other systems, in words and back."""

from __future__ import annotations

import pytest

from glimber.core.model.systems import as_called_on, keys_of_from, keys_of_words


@pytest.mark.parametrize(
    ("system", "trigger", "called"),
    [
        ("mac", "Alt+Super+S", "Option+Cmd+S"),
        ("mac", "Super+K Super++", "Cmd+K Cmd++"),
        ("windows", "Super+L", "Win+L"),
        ("linux", "Alt+Super+S", "Alt+Super+S"),
        ("mac", "F5", "F5"),
    ],
)
def test_modifiers_are_called_as_a_system_calls_them(system: str, trigger: str, called: str) -> None:
    assert as_called_on(system, trigger) == called


@pytest.mark.parametrize(
    "keys_of", [(), (("mac", ("Super+S",)),), (("mac", ("Super+S", "F2")), ("windows", ("Ctrl+K Ctrl+S",))), (("mac", (";",)),)]
)
def test_what_is_read_of_them_is_typed_back(keys_of: tuple[tuple[str, tuple[str, ...]], ...]) -> None:
    assert keys_of_from(keys_of_words(keys_of)) == keys_of
