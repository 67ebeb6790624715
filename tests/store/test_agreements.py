"""Somebody else's pack: nothing outside its folder is read or written before the person agrees, and nothing waits to be set."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from msgspec.structs import replace
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.core.practice.tries import Change
from glimber.store.agreements import UnagreedPlaceError, agree, refuse_unagreed, unagreed
from glimber.store.pack import pack_bytes, unpack
from glimber.store.practice.jsonl import to_json
from glimber.store.practice.log import open_log
from glimber.store.settings import UserSettings, save_settings, settings_file
from glimber.store.toml.reading import open_folio
from tests.helpers import NOON, write_folio

CHANGE = Change("0190-c", NOON, "bridge", "home-view", "rebind", "shoalwright/home-view", "F5", "F6", "nearer")


@pytest.fixture(autouse=True)
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    for name in ("CONFIG", "STATE", "CACHE", "DATA"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / name.lower()))
    monkeypatch.setenv("HOME", str(tmp_path))
    return tmp_path


def stranger(tmp_path: Path, source: str, changes: tuple[Change, ...] = (CHANGE,)) -> bytes:
    folder = write_folio(tmp_path / "theirs")
    settings = folder / "folio.toml"
    settings.write_text(settings.read_text() + f'\n[sources.k]\n{source}\nprogram = "shoalwright"\n')
    return pack_bytes(folder, "".join(f"{to_json(one)}\n" for one in changes).encode())


@pytest.mark.parametrize(("source", "place"), [
    ('path = "~/.config/shoal.conf"', "{home}/.config/shoal.conf"), ('path = "/etc/shoal.conf"', "/etc/shoal.conf"),
    ('path = "../outside.conf"', "{home}/outside.conf"), ('system = "gsettings"', "the desktop's settings"),
    ('system = "line-editor"', "the line editor's settings"), ('path = "keys.conf"', None), ('path = "icons/../keys.conf"', None),
])  # fmt: skip
def test_places_outside_the_folio_wait_for_agreement(home: Path, source: str, place: str | None) -> None:
    mine = home / "mine"
    laid_out = unpack(stranger(home, source), mine)
    expected = () if place is None else (place.format(home=home),)
    assert laid_out.asks == expected and tuple(unagreed(mine)) == expected
    linked = open_folio(mine).folio.settings.sources["k"]
    if place is None:
        refuse_unagreed(linked, mine)
        return
    with pytest.raises(UnagreedPlaceError, match="was not agreed to on this computer"):
        refuse_unagreed(linked, mine)
    agree(mine, unagreed(mine))
    refuse_unagreed(linked, mine)


def test_a_strangers_pack_sets_nothing(home: Path) -> None:
    target = home / ".config" / "shoal.conf"
    target.parent.mkdir()
    target.write_text("home_view = F5\n")
    (home / "p.glimber").write_bytes(stranger(home, 'path = "~/.config/shoal.conf"'))
    run = CliRunner()
    answer = json.loads(run.invoke(app, ["unpack", str(home / "p.glimber"), str(home / "mine"), "--json"]).stdout)
    assert answer["asks"] == [str(target)]
    with open_log(home / "mine", "practice.db") as log:
        assert [one.applied for one in log.records(Change)] == [NOON]  # it came in as set, not as to be set
        log.add(replace(CHANGE, id="0190-d", at=NOON.replace(year=2027)))
    done = json.loads(run.invoke(app, ["set", str(home / "mine"), "--json", "--yes"]).stdout)
    assert done["set"] == [] and target.read_text() == "home_view = F5\n"
    assert any("came in a pack and was not agreed to" in one["why"] for one in done["left"])
    assert json.loads(run.invoke(app, ["agree", str(home / "mine"), "--list", "--json"]).stdout) == {"places": [str(target)], "agreed": False}
    assert run.invoke(app, ["agree", str(home / "mine"), "--list"]).stdout == f"{target}\n"
    agreed = run.invoke(app, ["agree", str(home / "mine")]).stdout
    assert agreed == f"{target}: agreed to on this computer\n"
    assert unagreed(home / "mine") == []


def test_settings_are_the_persons_alone(home: Path) -> None:
    save_settings(UserSettings(computer="bridge"))
    assert settings_file().stat().st_mode & 0o777 == 0o600
    settings_file().chmod(0o644)
    save_settings(UserSettings(computer="quay"))
    assert settings_file().stat().st_mode & 0o777 == 0o600
