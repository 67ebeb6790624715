"""What a document may say: every bound just under, at and just over, and what holds where nothing is said."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from msgspec import Struct, convert, to_builtins

from glimber.core.model.board import Key, Knob
from glimber.core.model.folio import Folio, KeyTiming, Timing, TourStop
from glimber.store.toml import documents as docs
from glimber.store.toml.shape import mistakes
from tests.held import differences, flat, hold

HELD = Path(__file__).with_name("defaults.json")
LEAST: dict[str, dict[str, Any]] = {
    "FolioDoc": {"format": "f", "title": "t"}, "Timing": {}, "SourceDoc": {}, "GroupDoc": {"name": "n"}, "BindingDoc": {},
    "ShortcutDoc": {"trigger": "a"}, "CommandDoc": {"name": "n"}, "ProgramDoc": {"format": "f", "name": "n"},
    "LayerDoc": {"id": "i", "name": "n"}, "LayoutDoc": {"format": "f", "board": "b", "layers": [{"id": "i", "name": "n"}]}, "KeyTiming": {},
    "Key": {"id": "i", "x": 0, "y": 0}, "Knob": {"id": "i", "x": 0, "y": 0}, "HomesDoc": {}, "BoardDoc": {"format": "f", "id": "i", "name": "n"},
    "TourStop": {"keys": ["a"], "text": "t"}, "CardDoc": {"format": "f", "title": "t", "kind": "grid"}, "RunDoc": {"format": "f", "name": "n", "commands": []},
    "StemDoc": {"name": "n"}, "SpotDoc": {},
}  # fmt: skip
PARTS: tuple[type[Struct], ...] = (Timing, KeyTiming, Key, Knob, TourStop)
KINDS: dict[str, type[Struct]] = {
    name: one for name, one in vars(docs).items() if isinstance(one, type) and issubclass(one, docs.Document) and one is not docs.Document
} | {one.__name__: one for one in PARTS}
POSITIVE = ([0.001, 1_000_000], [0, 1_000_000.5, float("nan"), float("inf"), "1"])
NUMBER = ([-1000, 1000, 0.5], [-1000.5, 1000.5, float("nan"), "0"])
SIZE, MS = ([0.001, 100], [0, 100.5, float("nan")]), ([1, 60_000], [0, 60_001, 1.5, True])
POINT = ([[0, 0], [-1000, 1000]], [[0], [0, 0, 0], [0, 1000.5]])
BOUNDS: list[tuple[str, str, list[Any], list[Any]]] = [
    ("FolioDoc", "working_days", [0.001, 7], [0, 7.001]), ("FolioDoc", "sure", [0.5, 0.999], [0.499, 1]), ("FolioDoc", "least_gain_s", [0, 9e9], [-0.001]),
    *(("FolioDoc", name, *POSITIVE) for name in ("target_ms", "horizon_weeks", "recovery_s", "careful_recovery_s")),
    ("FolioDoc", "bundles", [{}, {"Crown": ["Ctrl"]}], [{"Crown": []}, {"Crown": ["Control"]}]), ("FolioDoc", "title", ["x"], ["", 1]),
    ("FolioDoc", "abbreviations", [{"a": "b"}], [{"": "b"}, {"a": ""}]), ("FolioDoc", "away", ["none", "left", "right"], ["both", ""]),
    *(("Timing", name, *MS) for name in ("hold_ms", "again_ms", "together_ms", "sequence_ms")), ("Timing", "policy", ["timer", "eager"], ["late"]),
    *(("KeyTiming", name, *MS) for name in ("hold_ms", "again_ms", "together_ms")), ("SourceDoc", "watch", [True, False], [1, "yes"]),
    ("BindingDoc", "share", [0, 1], [-0.001, 1.001]), ("SpotDoc", "repeat_ms", *MS), ("CommandDoc", "uses_per_day", [0, 0.1, 100_000], [-0.001, 100_000.5, float("nan")]),
    ("LayoutDoc", "layers", [LEAST["LayoutDoc"]["layers"]], [[]]), ("LayerDoc", "unbound", ["falls", "dead"], ["none"]),
    *(("Key", name, *NUMBER) for name in ("x", "y", "angle")), *((kind, "w", *SIZE) for kind in ("Key", "Knob")), ("Key", "h", *SIZE),
    ("Key", "pivot", *POINT), ("HomesDoc", "left", *POINT), ("HomesDoc", "right", *POINT), ("Key", "reach", ["easy", "avoid"], ["far"]),
    ("CardDoc", "weakest", [1, 10_000], [0, -1, 1.5]), ("CardDoc", "most_used", [1, 500], [0, -1]), ("CardDoc", "paper", ["A3", "large-screen"], ["A7"]), ("CardDoc", "shows", [[], ["grip"]], [[""], [1]]),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "name", "good", "bad"), BOUNDS)
def test_bounds_of_a_field(kind: str, name: str, good: list[Any], bad: list[Any]) -> None:
    model = KINDS[kind]
    for value in good:
        assert not mistakes({**LEAST[kind], name: value}, model)
        assert convert({**LEAST[kind], name: value}, model) is not None
    for value in bad:
        found = mistakes({**LEAST[kind], name: value}, model)
        assert found
        assert all(path[0] == name for path, _ in found)


def defaults(_: Folio | None = None) -> Any:
    return {kind: to_builtins(convert(least, KINDS[kind])) for kind, least in LEAST.items()}


def test_what_holds_where_nothing_is_said() -> None:
    assert not differences(HELD, dict(flat(json.loads(json.dumps(defaults())))))
    assert set(KINDS) == set(LEAST)


if __name__ == "__main__":
    hold(HELD, defaults)
