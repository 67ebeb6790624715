"""Readers on input that nobody meant: 10,000 damaged sources of each kind, none of which may raise or take long."""

from __future__ import annotations

import random
import time

from benchmarks.figures import Figure

INPUTS = 10_000
LIMIT_S = 1.0
HARD = [b"Ctrl+", "⌘+".encode(), b"<", b">", b"+", b"((", b"[[", b"{", b"}",
        b'"', b"'", b"\\", b" / ", b", ", b"|", b"F1 to F9999",
        b"rowspan=99999 ", b"A-Z", b"<C-", b"9" * 300, b"\n\n", b"&#x1F600;", b":::", b"- - -", b"#"]  # fmt: skip


def figures() -> list[Figure]:
    """How many inputs of each kind raised, which must be none, and the longest that one took."""
    from tests.readers.test_kinds import SOURCES as SHAPES
    from tests.readers.test_kinds import pdf
    from tests.readers.test_readers import SOURCES

    from glimber.readers.registry import read

    found = []
    bodies: dict[str, list[bytes]] = {kind: [body] for kind, (_, body) in SOURCES.items()}
    for kind, text, _ in SHAPES.values():
        bodies.setdefault(kind, []).append(text.encode())
    bodies["pdf"] = [pdf([("Ctrl+S", "Save chart"), ("F5", "Refresh")])]
    for kind, shapes in bodies.items():
        chance, raised, longest = random.Random(kind), 0, 0.0
        for number in range(INPUTS):
            body = shapes[number % len(shapes)]
            data = chance.randbytes(chance.randrange(600)) if number % 10 == 0 else damaged(chance, body)
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
    """A real source with pieces of it cut out, copied elsewhere or overwritten, and signs that are hard to read put in."""
    if chance.random() < 0.5:
        at = chance.randint(0, len(body))
        body = body[:at] + chance.choice(HARD) * chance.choice((1, 1, 3, 40)) + body[at:]
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
