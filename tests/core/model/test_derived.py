"""What is derived from a value is kept as long as the value, and never found under another."""

from __future__ import annotations

import gc
import weakref

from msgspec.structs import replace

from glimber.core.model.chord_layers import chord_layers
from glimber.core.model.derived import DerivedCache, Same
from glimber.core.notation.legend import Legend
from tests.helpers import folio_of


class Thing:
    """A value that can be told apart only by its identity."""


def test_a_key_by_identity_holds_its_value() -> None:
    thing = Thing()
    seen, key = weakref.ref(thing), Same(thing)
    assert key == Same(thing) and hash(key) == hash(Same(thing)) and key != Same(Thing()) and key != thing
    del thing
    gc.collect()
    assert seen() is not None  # its address can be no other's
    del key
    gc.collect()
    assert seen() is None


def test_it_is_derived_once_for_each_owner_and_key() -> None:
    cache: DerivedCache[Thing, str, list[int]] = DerivedCache()
    one, other, made = Thing(), Thing(), list[str]()

    def derive(name: str) -> list[int]:
        made.append(name)
        return []

    for owner, key in ((one, "a"), (one, "a"), (one, "b"), (other, "a")):
        cache.get(owner, key, lambda key=key: derive(key))  # type: ignore[misc]
    assert made == ["a", "b", "a"]


def test_layers_follow_the_legend() -> None:
    folio = folio_of({})
    us = {code for layer in chord_layers(folio, "shoalwright") for code in layer.bindings}
    levels = {**folio.legend.levels, "KeyS": ("a", "A"), "KeyA": ("s", "S")}
    other = replace(folio, legend=Legend("turned", levels))
    turned = {code for layer in chord_layers(other, "shoalwright") for code in layer.bindings}
    assert "KeyS" in us and "KeyS" not in turned and "KeyA" in turned
