"""What spellings come to in each way of reading them, and the tables of names and codes, as they were when somebody read it."""

from __future__ import annotations

from pathlib import Path

from glimber.core.notation.ids import free_id, slug_of
from glimber.core.notation.key_constants import key_of_virtual_code
from glimber.core.notation.keys import NotationError, parse_trigger
from glimber.core.notation.keywords import KEYS_SPELT, key_named, modifier_named
from glimber.core.notation.nearest import did_you_mean, nearest
from glimber.core.notation.spelling import NotKeysError, Ways, is_whole, may_be_keys, spell
from tests.recorded import assert_recorded

SPELLINGS = [line.encode().decode("unicode_escape").encode("latin-1").decode() if "\\" in line else line
             for line in Path(__file__).with_name("spellings.txt").read_text().splitlines()]  # fmt: skip
WAYS = {
    "": Ways(),
    "capitals": Ways(capitals=True),
    "caps": Ways(capitals=False),
    "steps": Ways(comma="steps"),
    "alternates": Ways(comma="alternates", blank="alternates"),
    "held": Ways(held_capitals=frozenset({"Alt", "Ctrl"})),
}


def _read(text: str, ways: Ways, whole: bool) -> str:
    try:
        spelt = spell(text, ways, whole)
    except (NotKeysError, NotationError) as error:
        return f"! {error}"
    return " | ".join(map(str, spelt.triggers)) + "".join(f" ({remark})" for remark in spelt.remarks)


def _spelling(text: str) -> list[str]:
    usual = _read(text, Ways(), whole=True)
    lines = [f"{text!r} = {usual}{' whole' if is_whole(text) else ''}{'' if may_be_keys(text) else ' unlikely'}"]
    others = {name: _read(text, ways, whole=False) for name, ways in WAYS.items()}
    return lines + [f"  {name or 'part'}: {read}" for name, read in others.items() if read != usual]


def test_spellings_are_read_as_they_were() -> None:
    assert_recorded("spellings", [line for text in SPELLINGS for line in _spelling(text)])


def _parsed(text: str) -> str:
    try:
        trigger = parse_trigger(text)
    except NotationError as error:
        return f"! {error}"
    return f"{trigger} ({type(trigger).__name__})"


def test_our_own_notation_is_parsed_as_it_was() -> None:
    assert_recorded("notation", [f"{text!r} = {_parsed(text)}" for text in SPELLINGS])


def test_names_and_codes_are_what_they_were() -> None:
    names = sorted({*KEYS_SPELT, "xf86back", "XF86AudioPlay", "KeyQ", "Digit1", "Numpad7", "Numpad_Add", "num 5", "kp_enter", "F13", "f35",
                    "left arrow", "arrow left", "back_space", "Sys Rq", "nowhere"})  # fmt: skip
    lines = [f"{name!r} = {key_named(name)} marked {key_named(name, marked=True)}, held {modifier_named(name)}" for name in names]
    lines += [f"{code} = {key_of_virtual_code(code)}" for code in range(256) if key_of_virtual_code(code)]
    assert_recorded("names-of-keys", lines)


def test_ids_and_guesses_are_what_they_were() -> None:
    named = ["Save sheet", "Größe ändern", "", "…", "a" * 59, "a" * 60, "a" * 61, "b" * 59 + " c", "C++ (build)"]
    lines = [f"{name!r} = {slug_of(name)}, {free_id(slug_of(name), {slug_of(name), f'{slug_of(name)}-2'})}" for name in named]
    known = ["keep", "move", "rebind", "drill", "practise", "Soundings"]
    words = ["kep", "keap", "moev", "rebnid", "dril", "practice", "soundings", "Sounding", "xyz", ""]
    lines += [f"{word!r}: {nearest(word, known)} {did_you_mean(word, known)!r}" for word in words]
    assert_recorded("ids-and-guesses", lines)
