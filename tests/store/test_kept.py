"""A folio kept among the caches: used only while its files are the same, and made of nothing but Glimber's own values."""

from __future__ import annotations

import pickle
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

from glimber.store.cache import kept
from glimber.store.folder import Opened


@pytest.fixture
def unread(monkeypatch: pytest.MonkeyPatch) -> None:
    """Reading the files is an error."""

    def read(*_: Any, **__: Any) -> Opened:
        raise AssertionError("the files were read")

    monkeypatch.setattr("glimber.store.toml.reading.read_files", read)


def test_what_is_kept_is_opened_without_reading_a_file(small: Opened, unread: None) -> None:
    kept.keep(small)
    assert kept.open_quickly(small.folder).folio == small.folio


@pytest.mark.parametrize("change", ["a byte of a file", "another file", "something that is no value of ours", "cut off"])
def test_what_does_not_fit_is_as_if_it_were_not_there(small: Opened, unread: None, change: str) -> None:
    kept.keep(small)
    file: Path = kept._file(small.folder)
    if change == "a byte of a file":
        (small.folder / "folio.toml").write_bytes((small.folder / "folio.toml").read_bytes() + b"\n")
    elif change == "another file":
        (small.folder / "cards").mkdir(exist_ok=True)
        (small.folder / "cards" / "new.toml").write_text("")
    elif change == "cut off":
        file.write_bytes(file.read_bytes()[:-9])
    else:
        file.write_bytes(kept._basis(small.texts) + pickle.dumps(Fraction(1, 2)))
    with pytest.raises(AssertionError, match="the files were read"):
        kept.open_quickly(small.folder)
