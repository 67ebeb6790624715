"""What keys print, from the system's keyboard data."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

from glimber.core.notation.keycodes import EVDEV_NUMBERS
from glimber.core.notation.keys import parse_trigger, strikes_of
from glimber.core.notation.legend import US
from glimber.store.faults import FolioError
from glimber.store.system.xkb import UnknownLayoutError, legend_of
from glimber.store.toml.reading import open_folio
from tests.helpers import FOLIO, write_folio

CROWN = '[bundles]\nCrown = ["Ctrl", "Alt", "Super"]\n'


@pytest.mark.parametrize(("layout", "code", "levels"), [
    ("de", "KeyY", ("z", "Z")),
    ("de", "KeyQ", ("q", "Q", "@")),
    ("de", "Digit2", ("2", '"', "²")),
    ("de", "Backquote", ("^", "°")),  # a dead key is printed as its accent
    ("fr", "KeyA", ("q", "Q")),
    ("us(dvorak)", "KeyS", ("o", "O")),
    ("ru", "KeyS", ("ы", "Ы")),
])  # fmt: skip
def test_levels_of_a_key(layout: str, code: str, levels: tuple[str, ...]) -> None:
    assert legend_of(layout).levels[code][: len(levels)] == levels


def test_the_usual_layout_is_what_the_system_says_of_it() -> None:
    from xkbcommon import xkb

    keymap = xkb.Context().keymap_new_from_names(layout="us")
    state = keymap.state_new()
    for code, levels in US.levels.items():
        assert state.key_get_string(EVDEV_NUMBERS[code] + 8) == levels[0], code


@pytest.mark.parametrize(
    ("layout", "trigger", "place"),
    [("de", "Ctrl+Z", "KeyY"), ("de", "@", "KeyQ"), ("fr", "Ctrl+A", "KeyQ"), ("ru", "Ctrl+S", "KeyS"), ("us", "Ctrl+Z", "KeyZ")],
)  # fmt: skip
def test_print_is_where_the_layout_has_it(layout: str, trigger: str, place: str) -> None:
    strikes = strikes_of(parse_trigger(trigger), legend_of(layout), {})  # type: ignore[arg-type]
    assert strikes is not None and strikes[0][1] == place
    assert ("AltGr" in strikes[0][0]) == (trigger == "@")


@pytest.mark.parametrize(("layout", "said"), [
    ("gernam", "is not a layout of this system"),
    ("de(neoo)", "not a variant of the layout de; did you mean neo"),
    ("mv(neo)", "neo is not a variant of the layout mv"),  # which has none
    ("d e", "expected one such as us, de or us\\(intl\\)"),
])  # fmt: skip
def test_a_layout_there_is_not(layout: str, said: str) -> None:
    with pytest.raises(UnknownLayoutError, match=said):
        legend_of(layout)


def test_a_folio_says_which_layout_and_a_wrong_one_has_its_line(tmp_path) -> None:  # type: ignore[no-untyped-def]
    folder = write_folio(tmp_path / "small", {"folio.toml": FOLIO + 'xkb = "de"\n' + CROWN})
    assert open_folio(folder).folio.legend.print_of("KeyY") == "Z"
    (folder / "folio.toml").write_text(FOLIO + 'xkb = "dee"\n' + CROWN)
    with pytest.raises(FolioError, match=r"folio\.toml:4: dee is not a layout of this system"):
        open_folio(folder)


def test_a_layout_that_cannot_be_looked_up_is_a_fault_with_its_line(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Without the optional package everything else works."""
    legend_of.cache_clear()
    monkeypatch.setitem(sys.modules, "xkbcommon", None)
    with pytest.raises(FolioError, match=r"folio.toml:\d+: .*glimber\[legends\]"):
        open_folio(
            write_folio(
                tmp_path / "german",
                {"folio.toml": FOLIO.replace("[bundles]", 'xkb = "de"\n[bundles]', 1) if "[bundles]" in FOLIO else FOLIO + 'xkb = "de"\n'},
            )
        )
    legend_of.cache_clear()
    assert legend_of("us") is US
