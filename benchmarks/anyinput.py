"""Readers on input that nobody meant: 10,000 damaged sources of each kind, none of which may raise or take long."""

from __future__ import annotations

import random
import time

from benchmarks.figures import Figure

INPUTS = 10_000
LIMIT_S = 1.0


def figures() -> list[Figure]:
    """How many inputs of each kind raised, which must be none, and the longest that one took."""
    from tests.readers.test_readers import SOURCES

    from glimber.readers.registry import read

    found = []
    for kind, (_, body) in SOURCES.items():
        chance, raised, longest = random.Random(kind), 0, 0.0
        for number in range(INPUTS):
            data = chance.randbytes(chance.randrange(600)) if number % 4 == 0 else damaged(chance, body)
            began = time.perf_counter()
            try:
                read(kind, data)
            except Exception as error:
                raised += 1
                print(f"{kind}: {error!r} on {data!r}"[:400])
            longest = max(longest, time.perf_counter() - began)
        found.append(Figure(f"{INPUTS:,} damaged inputs of {kind}: raised", raised, "", 0))
        found.append(Figure(f"{INPUTS:,} damaged inputs of {kind}: longest", longest, "s", LIMIT_S))
    return found


def damaged(chance: random.Random, body: bytes) -> bytes:
    """A real source with pieces of it cut out, copied elsewhere or overwritten."""
    for _ in range(chance.randint(1, 4)):
        at, length = chance.randint(0, len(body)), chance.randrange(60)
        piece = body[chance.randint(0, len(body)) :][:length]
        way = chance.randrange(3)
        if way == 0:
            body = body[:at] + body[at + length :]
        elif way == 1:
            body = body[:at] + piece + body[at:]
        else:
            body = body[:at] + chance.randbytes(length % 9) + body[at + length % 9 :]
    return body
