"""UUIDs that sort by time (RFC 9562, version 7)."""

from __future__ import annotations

from datetime import datetime


def uuid7(at: datetime, random: int | None = None) -> str:
    """Return a version 7 UUID for a moment; ``random`` (74 bits) is drawn from the system unless given."""
    import secrets  # with ciphers and what asks the system for its name: no first frame needs an id
    from uuid import UUID

    bits = secrets.randbits(74) if random is None else random & ((1 << 74) - 1)
    ms = int(at.timestamp() * 1000)
    return str(UUID(int=ms << 80 | 0x7 << 76 | (bits >> 62) << 64 | 0b10 << 62 | bits & ((1 << 62) - 1)))
