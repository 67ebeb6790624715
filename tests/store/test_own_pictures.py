"""Pictures of one's own: what they are is read of their first bytes, and what is too large, broken or elsewhere is none."""

from __future__ import annotations

import struct
from base64 import b64decode
from pathlib import Path

import pytest

from glimber.core.drawing.drawing import Picture
from glimber.store.cache.pictures import icons_of

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" %s><path d="M0 0h4v4z"/></svg>'


def png(width: int, height: int, rest: bytes = b"") -> bytes:
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + b"IHDR" + struct.pack(">II", width, height) + rest


def jpeg(width: int, height: int, marker: int = 0xC0, before: bytes = b"") -> bytes:
    return b"\xff\xd8" + before + struct.pack(">BBHBHH", 0xFF, marker, 11, 8, height, width) + b"\0" * 9


def segment(marker: int, length: int) -> bytes:
    return struct.pack(">BBH", 0xFF, marker, length) + b"\0" * (length - 2)


def shown(folder: Path, name: str, data: bytes) -> Picture | None:
    (folder / name).write_bytes(data)
    found = icons_of(folder)(name)
    assert found is None or (isinstance(found, Picture) and b64decode(found.data) == data)
    return found


@pytest.mark.parametrize(("name", "data", "proportion"), [
    ("a.png", png(40, 20), 2.0),
    ("a.PNG", png(20, 40), 0.5),
    ("a.png", png(900, 100), 8.0),  # no flatter and no narrower than eight to one
    ("a.png", png(100, 900), 0.125),
    ("a.jpg", png(30, 10), 3.0),  # by what it is, not by what it is called
    ("a.jpeg", jpeg(60, 20), 3.0),
    ("a.jpg", jpeg(60, 20, 0xC2, segment(0xE0, 16) + segment(0xC4, 20) + segment(0xC8, 20) + segment(0xCC, 20) + segment(0xDB, 67)), 3.0),
    ("a.svg", SVG % b'viewBox="0 0 48 24"', 2.0),
    ("a.svg", SVG % b'width="10px" height="40px"', 0.25),
    ("a.svg", SVG % b'width="999999999" height="999999999"', 1.0),
    ("a.png", png(5000, 10_000), 0.5),
    ("a.png", png(10, 10, b"\0" * (2_000_000 - 24)), 1.0),
])  # fmt: skip
def test_a_picture_is_shown_in_its_proportion(tmp_path: Path, name: str, data: bytes, proportion: float) -> None:
    found = shown(tmp_path, name, data)
    assert found is not None and found.proportion == proportion
    assert found.mime == ("image/svg+xml" if name == "a.svg" else "image/png" if b"PNG" in data[:8] else "image/jpeg")


@pytest.mark.parametrize(("name", "data"), [
    ("a.png", png(5000, 10_001)), ("a.png", png(0, 10)), ("a.png", png(10, 10)[:23]), ("a.png", png(10, 10).replace(b"IHDR", b"IDAT")),
    ("a.png", png(10, 10, b"\0" * (2_000_000 - 23))), ("a.png", b""), ("a.jpg", b"\xff\xd8" + segment(0xE0, 16)),
    ("a.jpg", jpeg(60, 20)[:9]), ("a.jpg", b"GIF89a" + b"\0" * 40), ("a.svg", SVG % b'viewBox="0 0 0 24"'),
    ("a.svg", SVG % b'viewBox="0 0 48"'), ("a.svg", SVG % b'width="wide" height="4"'),
    ("a.svg", SVG % b'width="1000000000" height="999999999"'), ("a.svg", SVG % b'width="999999999" height="1000000000"'),
    ("a.svg", b"<svg"),
])  # fmt: skip
def test_what_is_no_picture_that_can_be_shown_is_none(tmp_path: Path, name: str, data: bytes) -> None:
    assert shown(tmp_path, name, data) is None


def test_only_what_is_in_the_folio_is_shown_and_a_changed_one_anew(tmp_path: Path) -> None:
    folder = tmp_path / "office"
    folder.mkdir()
    (tmp_path / "other.png").write_bytes(png(2, 1))
    (folder / "link.png").symlink_to(tmp_path / "other.png")
    found = icons_of(folder)
    assert found("../other.png") is None and found("link.png") is None and found("none.png") is None
    (folder / "round.png").symlink_to(folder / "round.png")
    assert found("a\0.png") is None and found("round.png") is None and found("x" * 300 + ".png") is None
    first = shown(folder, "a.png", png(2, 1))
    second = shown(folder, "a.png", png(1, 2))
    assert first is not None and second is not None and (first.proportion, second.proportion) == (2.0, 0.5)
