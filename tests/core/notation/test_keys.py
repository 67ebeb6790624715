"""The trigger notation: canonical, stable, and clear about what is wrong."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.notation.keycodes import CODES, EVDEV_CODES, MODIFIERS, NAMED_KEYS
from glimber.core.notation.keys import (
    GESTURES,
    Chord,
    NotationError,
    Sequence,
    Spot,
    Typed,
    chord_of,
    parse_keys,
    parse_sent,
    parse_spot,
    parse_trigger,
    strikes_of,
)
from glimber.core.notation.legend import US

CANONICAL = [tuple(line.split("\t")) for line in Path(__file__).with_name("canonical.txt").read_text().splitlines()]
WRONG = [
    ("", 0, "a chord"), ("Crtl+K", 0, "did you mean Ctrl"), ("Ctrl+Ctrl+K", 5, "Ctrl only once"), ("Ctrl+Lefft", 5, "did you mean Left"), ("Ctrl + S", 5, "no spaces within a chord"), ("Ctrl+K Alt + Shift + S", 11, "no spaces"),
    ("Ctrl+", 5, "a key after the modifiers"), ("Ctrl+[Numpadd4]", 6, "did you mean Numpad4"), ("Ctrl+K Foo+B", 7, "a modifier"),
    ('"open', 5, "a closing quote"), ('"a" b', 3, "nothing after the closing quote"), ('"a\\x"', 3, "one of"),
    ("split-42:draw:KeyS:touch", 19, "a gesture"), ("split-42:draw:KeyS&KeyS:tap", 14, "two different ones"),
    ("split-42::KeyS:tap", 9, "the id of a layer"), ("a:b:c:d:e", 0, "four parts"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "canonical"), CANONICAL)
def test_canonical_form(text: str, canonical: str) -> None:
    assert str(parse_trigger(text)) == canonical
    assert str(parse_trigger(canonical)) == canonical


@pytest.mark.parametrize(("text", "at", "expected"), WRONG)
def test_error_says_where_and_what_was_expected(text: str, at: int, expected: str) -> None:
    with pytest.raises(NotationError, match=expected.replace("(", r"\(")) as caught:
        parse_trigger(text)
    assert caught.value.at == at


def test_kinds() -> None:
    assert parse_trigger("Ctrl+K").kind == "chord"
    assert parse_trigger("Ctrl+K S").kind == "sequence"
    assert parse_trigger('"text"').kind == "text"
    assert parse_trigger("split-42:draw:KeyS:tap").kind == "spot"


def test_bundles_are_modifiers_only_where_they_are_known() -> None:
    assert str(parse_trigger("Shift+Crown+O", ["Crown"])) == "Shift+Crown+O"
    with pytest.raises(NotationError):
        parse_trigger("Crown+O")


def test_a_spot_cannot_be_sent_and_a_chord_is_no_spot() -> None:
    with pytest.raises(NotationError, match="which a spot can send"):
        parse_sent("split-42:draw:KeyS:tap")
    with pytest.raises(NotationError, match="a spot such as"):
        parse_spot("Ctrl+K")
    with pytest.raises(NotationError):
        parse_keys("KeyJ&KeyK&KeyL")


def test_a_quotation_mark_may_be_the_first_of_several_keys() -> None:
    assert [str(chord) for chord in parse_trigger('" Ctrl+S').chords] == ['"', "Ctrl+S"]
    assert str(parse_trigger('" a"')) == '" a"', "a text that is typed"
    with pytest.raises(NotationError, match="closing quote"):
        parse_trigger('"note')


modifiers = st.sets(st.sampled_from(MODIFIERS), max_size=4)
names = st.sampled_from(sorted(NAMED_KEYS)).filter(lambda name: name not in MODIFIERS)
characters = st.characters(categories=["L", "N", "P", "S"]).filter(str.isprintable)
places = st.sampled_from(sorted(CODES))
slugs = st.from_regex(r"[a-z][a-z0-9-]{0,8}", fullmatch=True)


@st.composite
def chord_texts(draw: st.DrawFn) -> str:
    key = draw(st.one_of(names, characters, places.map(lambda code: f"[{code}]")))
    return "+".join([*draw(st.permutations(sorted(draw(modifiers)))), key])


@st.composite
def spot_texts(draw: st.DrawFn) -> str:
    keys = draw(st.lists(st.one_of(places, slugs), min_size=1, max_size=2, unique=True))
    return f"{draw(slugs)}:{draw(slugs)}:{'&'.join(keys)}:{draw(st.sampled_from(GESTURES))}"


sequence_texts = st.lists(chord_texts(), min_size=1, max_size=4).map(" ".join)
typed_texts = st.text(min_size=1).map(lambda text: str(Typed(text)))


@given(st.one_of(sequence_texts, spot_texts(), typed_texts))
def test_formatted_text_reads_back_as_the_same_trigger(text: str) -> None:
    first = parse_trigger(text)
    assert parse_trigger(str(first)) == first
    assert str(parse_trigger(str(first))) == str(first)


@given(st.text(max_size=30))
def test_any_text_gives_a_trigger_or_an_error_that_points_into_it(text: str) -> None:
    try:
        trigger = parse_trigger(text, ["Crown"])
    except NotationError as error:
        assert 0 <= error.at <= len(text)
        assert error.expected
    else:
        assert isinstance(trigger, Sequence | Spot | Typed)


@pytest.mark.parametrize(("text", "strikes"), [
    ("Ctrl+S", [({"Ctrl"}, "KeyS")]), ("?", [({"Shift"}, "Slash")]), ("Ctrl+?", [({"Ctrl", "Shift"}, "Slash")]),
    ("4", [(set(), "Digit4")]), ("Num4", [(set(), "Numpad4")]), ("Shift+[Numpad4]", [({"Shift"}, "Numpad4")]),
    ("Crown+O", [({"Ctrl", "Alt", "Super"}, "KeyO")]), ('"Ab"', [({"Shift"}, "KeyA"), (set(), "KeyB")]),
    ("g i", [(set(), "KeyG"), (set(), "KeyI")]),
])  # fmt: skip
def test_what_the_hand_does_for_it(text: str, strikes: list[tuple[set[str], str]]) -> None:
    bundles = {"Crown": ("Ctrl", "Alt", "Super")}
    sent = parse_sent(text, bundles)
    assert strikes_of(sent, US, bundles) == tuple((frozenset(held), code) for held, code in strikes)


def test_a_key_the_keyboard_lacks_has_no_strike() -> None:
    assert strikes_of(parse_sent("Ctrl+ß"), US, {}) is None


@given(st.sets(st.sampled_from(MODIFIERS)), places)
def test_what_was_struck_is_named_by_a_chord_that_asks_for_the_same_strike(held: set[str], code: str) -> None:
    strike = (frozenset(held), code)
    chord = chord_of(strike, US)
    if code.startswith(("Shift", "Control", "Alt", "Meta")):
        return  # the two sides of a modifier struck alone are one
    assert strikes_of(Sequence((chord,)), US, {}) == (strike,)
    if str(chord.key) not in chord.modifiers:
        assert parse_trigger(str(chord)) == Sequence((chord,))


def test_every_number_of_the_kernel_names_one_place() -> None:
    assert len(set(EVDEV_CODES.values())) == len(EVDEV_CODES)
    assert EVDEV_CODES[5] == "Digit4" and EVDEV_CODES[75] == "Numpad4" and EVDEV_CODES[183] == "F13"
    assert Chord((), "KeyS", by_place=True).key in CODES
