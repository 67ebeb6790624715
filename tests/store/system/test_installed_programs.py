"""What the desktop knows of programs: their entries, their icons, and the English behind a translation."""

from __future__ import annotations

import struct
from pathlib import Path

import pytest
from msgspec.structs import replace

from glimber.store.system.installed_programs import LARGEST_ICON, english_of, entry_named, icon_file, with_icon
from tests.helpers import folio_of

ENTRY = """# made up
[Desktop Entry]
Type=Application
Name=Shoalwright
Name[de]=Untiefenwerk
Exec=env CHART=1 /opt/charts/shoal-edit %F
Icon=org.velmar.Shoalwright
StartupWMClass=ShoalMain
[Desktop Action New]
Name=New chart
"""


@pytest.fixture
def data(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder for data of programs, the only one there is."""
    monkeypatch.setenv("XDG_DATA_DIRS", str(tmp_path / "share"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "own"))
    for key in ("LC_ALL", "LC_MESSAGES", "LANG", "LANGUAGE"):
        monkeypatch.delenv(key, raising=False)
    put(tmp_path / "share/applications/org.velmar.Shoalwright.desktop", ENTRY.encode())
    put(tmp_path / "share/applications/broken.desktop", b"Name=no section\n\xff")
    put(tmp_path / "share/applications/link.desktop", b"[Desktop Entry]\nType=Link\nName=Wherry\n")
    return tmp_path / "share"


def put(path: Path, text: bytes) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(text)
    return path


@pytest.mark.parametrize("name", ["shoalwright", "Shoalwright", "shoal-edit", "SHOALMAIN", "org.velmar.shoalwright"])
def test_a_program_is_known_by_any_of_its_names(data: Path, name: str) -> None:
    found = entry_named(name)
    assert found is not None and (found.id, found.command, found.icon) == ("org.velmar.Shoalwright", "shoal-edit", "org.velmar.Shoalwright")


@pytest.mark.parametrize("name", ["wherry", "shoal", "no section", ""])
def test_what_is_no_program_has_no_entry(data: Path, name: str) -> None:
    assert entry_named(name) is None


def test_a_drawing_comes_before_the_largest_picture(data: Path) -> None:
    assert icon_file("chart") is None and icon_file("") is None
    small, large = (put(data / f"icons/hicolor/{size}x{size}/apps/chart.png", b"png") for size in (48, 256))
    assert icon_file("chart") == large
    large.write_bytes(b"x" * (LARGEST_ICON + 1))
    assert icon_file("chart") == small
    drawing = put(data / "icons/hicolor/scalable/apps/chart.svg", b"<svg/>")
    assert icon_file("chart") == drawing and icon_file(str(small)) == small
    assert icon_file("ch*t") is None and icon_file("/nowhere/chart.png") is None


def test_a_program_gets_its_icon_once(data: Path, tmp_path: Path) -> None:
    folio, folder = folio_of(), tmp_path / "folio"
    folder.mkdir()
    assert with_icon(folio, folder, "shoalwright") is folio and with_icon(folio, folder, "wherry") is folio
    put(data / "pixmaps/org.velmar.Shoalwright.png", b"png")
    after = with_icon(folio, folder, "shoalwright")
    assert after.programs["shoalwright"].picture == "icons/shoalwright.png"
    assert (folder / "icons/shoalwright.png").read_bytes() == b"png"
    own = replace(folio.programs["shoalwright"], picture="icons/mine.svg")
    mine = replace(folio, programs={**folio.programs, "shoalwright": own})
    assert with_icon(mine, folder, "shoalwright") is mine


def catalogue(order: str, *messages: tuple[str, str]) -> bytes:
    """Messages as a catalogue has them. Source: "The Format of GNU MO Files"."""
    head, at, table, texts = 28, 28 + 16 * len(messages), [b"", b""], b""
    for pair in messages:
        for place, text in enumerate(pair):
            data = text.encode()
            table[place] += struct.pack(f"{order}2I", len(data), at + len(texts))
            texts += data + b"\0"
    return struct.pack(f"{order}7I", 0x950412DE, 0, len(messages), head, head + 8 * len(messages), 0, 0) + b"".join(table) + texts


@pytest.mark.parametrize("order", ["<", ">"])
@pytest.mark.parametrize(("settings", "known"), [
    ({"LANG": "de_DE.UTF-8"}, True), ({"LANG": "C.UTF-8", "LANGUAGE": "fr:de"}, True), ({"LC_ALL": "de@euro"}, True),
    ({"LANG": "C"}, False), ({"LANG": "fr_FR.UTF-8"}, False), ({}, False),
])  # fmt: skip
def test_the_english_names_behind_a_translation(
    data: Path, monkeypatch: pytest.MonkeyPatch, order: str, settings: dict[str, str], known: bool
) -> None:
    text = catalogue(order, ("", "Content-Type: text/plain"), ("_Save", "_Speichern"), ("menu\x04_Open", "Ö_ffnen"), ("%d tab\0%d tabs", "%d Reiter\0x"))
    put(data / "locale/de/LC_MESSAGES/shoalwright.mo", text)
    for key, value in settings.items():
        monkeypatch.setenv(key, value)
    found = english_of(("nowhere", "shoalwright"))
    assert found == ({"_Speichern": "_Save", "Ö_ffnen": "_Open", "%d Reiter": "%d tab"} if known else {})


@pytest.mark.parametrize("broken", [b"", b"\xde\x12\x04\x95", b"x" * 40, catalogue("<", ("_Save", "_Speichern"))[:40]])
def test_a_broken_catalogue_says_nothing(data: Path, monkeypatch: pytest.MonkeyPatch, broken: bytes) -> None:
    put(data / "locale/de/LC_MESSAGES/shoalwright.mo", broken)
    monkeypatch.setenv("LANG", "de_DE.UTF-8")
    assert english_of(("shoalwright",)) == {}
