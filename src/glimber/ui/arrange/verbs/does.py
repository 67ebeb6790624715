"""Actions that make a key do more than send a chord: bring layers in, leave, hold a bundle, type a text, play steps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, Final

from msgspec.structs import replace

from glimber.core.edit.edit import EditError
from glimber.core.edit.spots import Does, clear_spots, set_spot, with_bundle
from glimber.core.model.folio import Folio, Step, Wait
from glimber.core.notation.keys import Chord, Typed, parse_sent
from glimber.core.notation.keys import Sequence as Keys
from glimber.ui.arrange.desk import ArrangeDesk
from glimber.ui.arrange.place import Place, layer_of, layout_of
from glimber.ui.arrange.verbs.base import Verbs, act
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Choice, Host

if TYPE_CHECKING:
    from glimber.ui.capture.keyboard_grab import HoldMaker

EVEN_MS: Final = 10
"""Pauses between recorded steps are made even to this."""


class DoesVerbs(Verbs):
    """Everything a spot can do."""

    def __init__(self, desk: ArrangeDesk, host: Host, hold: HoldMaker) -> None:
        super().__init__(desk, host)
        self._hold = hold

    def actions(self) -> list[Action]:
        what = "What the key does: layers, bundles, steps, text"
        return [self.for_layouts(act("what", what, "e", self.what_it_does, "what it does", "E"))]

    def what_it_does(self) -> None:
        """Everything a spot can do besides sending a chord, as a list to choose from."""
        place = self.place
        if place is None:
            return
        layout = layout_of(self.folio, place)
        ways = {"while": "while held", "switch": "or off", "once": "for one key", "stay": "until left"}
        if place.gesture != "hold":
            ways = {mode: ways[mode] for mode in ("switch", "once", "stay", "while")}
        choices = [
            Choice(f"Turn {layer.name} on {words}", "layer", value=Does(enters=layer.id, mode=mode))
            for layer in layout.layers[1:]
            if layer.id != place.layer
            for mode, words in ways.items()
        ]
        if place.layer != layout.base.id:
            choices.append(Choice(f"Leave {layer_of(self.folio, place).name}", "layer", value=Does(leaves=True)))
        choices += [
            Choice(f"Hold {name}", "+".join(held), value=Does(bundle=name))
            for name, held in self.folio.bundles.items()
        ]
        choices += [
            Choice("Hold modifiers as one…", "a bundle, such as Crown Ctrl+Alt+Shift", value="bundle"),
            Choice("Type a text…", "exactly as written", value="text"),
            Choice("Play steps, recorded as you strike them…", "pauses are evened out", value="record"),
            Choice("Play steps, written…", "Ctrl+K, 80 ms, \"buoy\"", value="steps"),
            Choice("Repeat while held…", "at an interval in ms", value="repeat"),
            Choice("Send something on release…", "besides what it sends when pressed", value="release"),
            Choice("Nothing: clear the key", "its command goes to the bench", value="clear"),
        ]  # fmt: skip
        self.host.choose(
            f"{self.desk.called(place)}, {place.gesture}: what it does", lambda value: self._does(place, value), choices
        )

    def _does(self, place: Place, value: object) -> None:
        name = self.desk.called(place)
        if isinstance(value, Does):
            what = value.enters or value.bundle or "leave"
            self._set(
                place, f"let {name} {'bring in' if value.enters else 'hold' if value.bundle else ''} {what}", value
            )
        elif value == "clear":
            self.desk.edit(f"take {name} to the bench", lambda folio: clear_spots(folio, place.spots()))
        elif value == "record":
            self._record(place)
        elif value == "bundle":
            hint = "a name, then the modifiers: Crown Ctrl+Alt+Shift"
            self.host.choose("The bundle it holds", lambda text: self._make_bundle(place, str(text)), hint=hint)
        else:
            asked: dict[object, tuple[str, str, Callable[[str], Does]]] = {
                "text": ("The text it types", "", lambda text: Does(sends=Typed(text))),
                "steps": ("Its steps, with commas between", "chords, texts in quotes, pauses such as 80 ms", self._steps_of),
                "repeat": ("Interval between repeats, in ms", "60",
                           lambda text: replace(self._now(place), repeat_ms=_whole(text))),
                "release": ("What it sends on release", "Escape",
                            lambda text: replace(self._now(place), release=(parse_sent(text, self.folio.bundles),))),
            }  # fmt: skip
            title, hint, read = asked[value]
            self.host.choose(title, lambda text: self._written(place, str(text), read), hint=hint)

    def _make_bundle(self, place: Place, text: str) -> None:
        *names, held = text.replace(":", " ").split() or [""]

        def change(folio: Folio) -> Folio:
            folio = with_bundle(folio, "-".join(names), held)
            for spot in place.spots():
                folio = set_spot(folio, spot, Does(bundle="-".join(names)))
            return folio

        self.desk.edit(f"let {self.desk.called(place)} hold {'-'.join(names)}", change)

    def _written(self, place: Place, text: str, read: Callable[[str], Does]) -> None:
        try:
            does = read(text)
        except (ValueError, EditError) as error:
            self.desk.tell(str(error))
            return
        self._set(place, f"change what {self.desk.called(place)} does", does)

    def _set(self, place: Place, name: str, does: Does) -> None:
        def change(folio: Folio) -> Folio:
            for spot in place.spots():
                folio = set_spot(folio, spot, does)
            return folio

        self.desk.edit(" ".join(name.split()), change)

    def _now(self, place: Place) -> Does:
        """Return what the spot does now, to be added to."""
        binding = self.folio.by_trigger.get(place.spot)
        if binding is None:
            raise EditError("set what it sends first")
        return Does(binding.command, binding.sends, binding.steps, binding.repeat_ms, binding.release)

    def _steps_of(self, text: str) -> Does:
        steps: list[Step] = []
        for part in _parts(text):
            if part.endswith("ms") and part[:-2].strip().isdigit():
                steps.append(Wait(int(part[:-2])))
            else:
                steps.append(parse_sent(part, self.folio.bundles))
        if not steps:
            raise EditError("no steps: expected chords, texts in quotes or pauses such as 80 ms")
        return Does(steps=tuple(steps))

    def _record(self, place: Place) -> None:
        """Record steps from real keys until Escape; the pauses between them become one even pause."""
        from glimber.ui.arrange.modes.typist import Typist

        recorded: list[tuple[Chord, float]] = []
        name = self.desk.called(place)

        def ended() -> None:
            if recorded:
                does = Does(steps=even_steps(recorded))
                self._set(place, f"let {name} play {len(recorded)} steps", does)

        def words() -> str:
            return f"Recording the steps of {name}, {len(recorded)} so far: strike them, then Esc."

        Typist(self.desk, self._hold, lambda chord, t: recorded.append((chord, t)), words, ended)


def even_steps(struck: Sequence[tuple[Chord, float]]) -> tuple[Step, ...]:
    """Recorded chords with one even pause between them: the middle one of the pauses there were, to 10 ms."""
    gaps = sorted(later[1] - earlier[1] for earlier, later in pairwise(struck))
    pause = round(gaps[len(gaps) // 2] / EVEN_MS) * EVEN_MS if gaps else 0
    steps: list[Step] = []
    for place, (chord, _) in enumerate(struck):
        if place and pause:
            steps.append(Wait(pause))
        steps.append(Keys((chord,)))
    return tuple(steps)


def _parts(text: str) -> list[str]:
    """Return a list with commas between; commas inside quotes belong to the text."""
    parts, current, quoted = [], "", False
    for place, character in enumerate(text):
        if character == '"' and (place == 0 or text[place - 1] != "\\"):
            quoted = not quoted
        if character == "," and not quoted:
            parts.append(current)
            current = ""
        else:
            current += character
    return [part.strip() for part in (*parts, current) if part.strip()]


def _whole(text: str) -> int:
    value = text.strip().removesuffix("ms").strip()
    if not value.isdigit() or not 0 < int(value) <= 60_000:
        raise ValueError(f"{text!r} is not a time; expected a number of ms up to 60,000")
    return int(value)
