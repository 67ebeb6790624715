"""The key engine: events a second, and whether twice as many take twice as long."""

from __future__ import annotations

import time
from random import Random

from benchmarks.figures import Figure, office

LEAST = 30_000.0


def figures() -> list[Figure]:
    """Random strikes with overlaps on the office's split board."""
    from glimber.core.engine.engine import run
    from glimber.core.engine.events import Event
    from glimber.core.engine.keymap import keymap_of
    from glimber.store.toml.reading import open_folio

    folio = open_folio(office()).folio
    keymap, random = keymap_of(folio, "split-42"), Random(3)
    keys = list(folio.boards["split-42"].by_id)

    def stream(count: int) -> list[Event]:
        t, down, found = 0.0, [], []
        while len(found) < count:
            t += random.choice([5, 20, 40, 90, 210])
            if down and random.random() < 0.5:
                found.append(Event(t, "up", down.pop(random.randrange(len(down)))))
            else:
                key = random.choice(keys)
                if key not in down and len(down) < 4:
                    down.append(key)
                    found.append(Event(t, "down", key))
        return found

    def rate(count: int) -> float:
        events = stream(count)
        began = time.perf_counter()
        run(keymap, events)
        return count / (time.perf_counter() - began)

    rate(2000)
    small, large = max(rate(5_000) for _ in range(3)), max(rate(40_000) for _ in range(3))
    return [
        Figure("engine, events a second", large, "/s", LEAST, least=True),
        Figure("engine, cost of an event in 40,000 / in 5,000", small / large, "×", 1.5),
    ]
