"""A folio in one file, and laid out again."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path

import pytest
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.store.faults import FolioError, StoreError
from glimber.store.pack import LaidOut, pack_bytes, unpack
from glimber.store.practice.log import open_log
from glimber.store.toml.reading import open_folio
from tests.helpers import tries_of, write_folio


def test_a_folio_goes_round_through_a_pack(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "small", {"icons/lead.svg": "<svg/>", "notes.txt": "not part of it"})
    data = pack_bytes(folder)
    assert data == pack_bytes(folder)  # the same folder, the same bytes
    assert {one.external_attr >> 16 for one in zipfile.ZipFile(io.BytesIO(data)).infolist()} == {0o644}
    assert unpack(data, tmp_path / "other") == LaidOut()
    assert open_folio(tmp_path / "other").folio == open_folio(folder).folio
    assert (tmp_path / "other/icons/lead.svg").read_text() == "<svg/>" and not (tmp_path / "other/notes.txt").exists()


def packed(**parts: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        for name, text in parts.items():
            file.writestr(name, text)
    return out.getvalue()


@pytest.mark.parametrize(("parts", "error", "said"), [
    ({"programs/a.toml": ""}, StoreError, "no folio.toml"),
    ({"folio.toml": "title = 3"}, FolioError, "folio.toml"),
    ({"folio.toml": "", "run.sh": ""}, StoreError, "run.sh has no place"),
    ({"folio.toml": "", "icons/../../x.svg": ""}, StoreError, "outside its folder"),
    ({"folio.toml": "", "icons/deep/x.svg": ""}, StoreError, "has no place"),
])  # fmt: skip
def test_a_bad_pack_writes_nothing(parts: dict[str, str], error: type[Exception], said: str, tmp_path: Path) -> None:
    with pytest.raises(error, match=said):
        unpack(packed(**parts), tmp_path / "new")
    assert not (tmp_path / "new").exists()


def test_packing_and_unpacking_on_the_command_line_with_the_tries(tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "small")
    with open_log(folder, "practice.db") as log:
        log.add(*tries_of("sounding-s", "split-42:draw:KeyS:tap", ["hit"] * 6))
    pack, out = str(tmp_path / "small.glimber"), str(tmp_path / "out")

    def run(*arguments: str, status: int = 0) -> str:
        result = CliRunner().invoke(app, arguments)
        assert result.exit_code == status, result.output
        return result.stdout or result.stderr

    assert json.loads(run("pack", str(folder), pack, "--with-tries", "--json"))["wrote"] == [pack]
    assert json.loads(run("unpack", pack, out, "--json")) == {"folio": out, "tries": 6, "bad": [], "asks": []}
    assert "already there and not empty" in run("unpack", pack, out, status=2)
    assert "not a pack" in run("unpack", str(folder / "folio.toml"), str(tmp_path / "no"), status=2)
    assert "cannot be read" in run("unpack", str(tmp_path / "gone"), str(tmp_path / "no"), status=2)
    rows = json.loads(run("read", pack, "--json"))
    folder_rows = json.loads(run("read", str(folder), "--json"))
    assert rows["kind"] == "pack" and rows["rows"] == folder_rows["rows"] and len(rows["rows"]) == 7


def test_folders_are_made_for_it_and_none_is_left_where_it_fails(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    data = pack_bytes(write_folio(tmp_path / "small"))
    unpack(data, tmp_path / "deep" / "down" / "office")
    assert open_folio(tmp_path / "deep/down/office").folio == open_folio(tmp_path / "small").folio

    def full(path: Path, data: bytes) -> None:
        if path.name != "folio.toml":
            raise OSError(28, "No space left on device")
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)

    monkeypatch.setattr("glimber.store.pack.write_atomically", full)
    (tmp_path / "there").mkdir()
    for place in ("other/down/office", "there/office"):
        with pytest.raises(StoreError, match="cannot be written"):
            unpack(data, tmp_path / place)
    assert not list((tmp_path / "there").iterdir())
    assert not (tmp_path / "other").exists()
