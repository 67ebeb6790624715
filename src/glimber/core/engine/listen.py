"""From key events to what the hand struck: on the ordinary keyboard, and on a board that the engine works out."""

from __future__ import annotations

import copy
from typing import Protocol

from msgspec import Struct

from glimber.core.engine.engine import Machine
from glimber.core.engine.events import Act, Event, Struck
from glimber.core.engine.keymap import keymap_of
from glimber.core.model.folio import Folio
from glimber.core.notation.keycodes import MODIFIER_CODES, MODIFIER_PLACES, MODIFIERS
from glimber.core.notation.keys import Spot, Strike, parse_sent, strikes_of


class Unit(Struct, frozen=True):
    """One thing struck, modifiers and layer keys aside.

    ``down`` is when its key went down and ``t`` when it was decided, in ms. ``strikes`` is what the computer sees;
    ``spot`` is known only on a board, with the ``layers`` its key was looked for on. ``held`` are the modifiers that
    were down and are no part of a spot itself.
    """

    down: float
    t: float
    strikes: tuple[Strike, ...] = ()
    spot: Spot | None = None
    layers: tuple[str, ...] = ()
    held: frozenset[str] = frozenset()
    bound: bool = True
    modifier: bool = False


class Listener(Protocol):
    """Turns events into units. It lives as long as a round, so that keys held from one prompt to the next count."""

    def feed(self, event: Event) -> list[Unit]: ...

    def advance(self, t: float) -> list[Unit]: ...

    def settle(self) -> list[Unit]: ...

    def pending_until(self) -> float | None:
        """Return the time at which something will be decided if no event comes, in ms; None when nothing is open."""

    def copy(self) -> Listener:
        """Return another one that has heard the same."""


def plain_strike(code: str, modifiers: frozenset[str]) -> Strike:
    """A strike of the ordinary keyboard; the two sides of a modifier struck alone are one."""
    modifier = MODIFIER_CODES.get(code)
    return modifiers, MODIFIER_PLACES[modifier][0] if modifier else code


class KeyboardListener:
    """The ordinary keyboard: a key that is not a modifier is a strike with the modifiers then down."""

    def __init__(self) -> None:
        self._down: dict[str, float] = {}
        self._alone: str | None = None

    def feed(self, event: Event) -> list[Unit]:
        if event.kind == "down" and event.key not in self._down:
            self._down[event.key] = event.t
            if event.key in MODIFIER_CODES:
                self._alone = event.key
                return []
            self._alone = None
            modifiers = frozenset(MODIFIER_CODES[code] for code in self._down if code in MODIFIER_CODES)
            return [Unit(event.t, event.t, (plain_strike(event.key, modifiers),))]
        if event.kind == "up" and event.key in self._down:
            down = self._down.pop(event.key)
            if event.key == self._alone:
                self._alone = None
                modifiers = frozenset(MODIFIER_CODES[code] for code in self._down if code in MODIFIER_CODES)
                return [Unit(down, event.t, (plain_strike(event.key, modifiers),), modifier=True)]
        return []

    def copy(self) -> KeyboardListener:
        other = KeyboardListener()
        other._down, other._alone = dict(self._down), self._alone
        return other

    def pending_until(self) -> float | None:
        return None

    def holds_modifier(self) -> bool:
        """Return True if a modifier is down just now."""
        return any(code in MODIFIER_CODES for code in self._down)

    def advance(self, t: float) -> list[Unit]:
        return []

    def settle(self) -> list[Unit]:
        return []


class SpellListener:
    """Modifiers and key given one after another: what was struck before the key goes with it, struck again it goes away."""

    def __init__(self) -> None:
        self._given: list[str] = []
        self._down: set[str] = set()

    def copy(self) -> SpellListener:
        other = SpellListener()
        other._given, other._down = list(self._given), set(self._down)
        return other

    @property
    def given(self) -> tuple[str, ...]:
        """The modifiers given so far."""
        return tuple(self._given)

    def feed(self, event: Event) -> list[Unit]:
        if event.kind == "up":
            self._down.discard(event.key)
        if event.kind != "down" or event.key in self._down:
            return []
        self._down.add(event.key)
        modifier = MODIFIER_CODES.get(event.key)
        if modifier is None:
            strike = plain_strike(event.key, frozenset(self._given))
            self._given.clear()
            return [Unit(event.t, event.t, (strike,))]
        if modifier in self._given:
            self._given.remove(modifier)
            return []
        before = frozenset(self._given)
        self._given.append(modifier)
        return [Unit(event.t, event.t, (plain_strike(event.key, before),), modifier=True)]

    def pending_until(self) -> float | None:
        return None

    def advance(self, t: float) -> list[Unit]:
        return []

    def settle(self) -> list[Unit]:
        return []


class BoardListener:
    """A board whose layers the engine works out: the stand-in board, or a device."""

    def __init__(self, folio: Folio, board: str, front: str | None) -> None:
        self.folio = folio
        self.machine = Machine(keymap_of(folio, board), front)
        self._held: list[tuple[frozenset[str], Spot]] = []
        self.board = board

    def copy(self) -> BoardListener:
        other = copy.copy(self)
        other.machine, other._held = self.machine.copy(), list(self._held)
        return other

    def pending_until(self) -> float | None:
        return self.machine.pending_until()

    def feed(self, event: Event) -> list[Unit]:
        units = self._heard(self.machine.advance(event.t))
        return units + self._heard(self.machine.feed(event))

    def advance(self, t: float) -> list[Unit]:
        return self._heard(self.machine.advance(t))

    def settle(self) -> list[Unit]:
        return self._heard(self.machine.settle())

    def _heard(self, acts: list[Act]) -> list[Unit]:
        """Units of the gestures just decided; modifiers that a spot holds down go with what is struck after."""
        units = []
        for struck in self.machine.struck():
            self._follow([act for act in acts if act.t <= struck.t and act.spot != _spot_of(struck)])
            unit = self._unit(struck)
            if unit is not None:
                units.append(unit)
        self._follow(acts)
        return units

    def _follow(self, acts: list[Act]) -> None:
        for act in acts:
            modifiers = _only_modifiers(act.sends)
            if act.spot is None or modifiers is None:
                continue
            if act.do == "press" and (modifiers, act.spot) not in self._held:
                self._held.append((modifiers, act.spot))
            elif act.do == "release" and (modifiers, act.spot) in self._held:
                self._held.remove((modifiers, act.spot))

    def _unit(self, struck: Struck) -> Unit | None:
        effect = struck.effect
        held = frozenset(name for modifiers, _ in self._held for name in modifiers)
        if effect is None:
            if self._moves_layers(struck):
                return None  # a layer key let go too early: a hesitation
            spot = Spot(self.board, struck.layers[-1], struck.keys, struck.gesture)
            return Unit(struck.down, struck.t, (), spot, struck.layers, held, bound=False)
        if not effect.visible:
            return None
        texts = [text for _, text in effect.steps] or ([effect.sends] if effect.sends else [])
        if texts and _only_modifiers(texts[0]) is not None and len(texts) == 1:
            return None
        strikes = [self._strikes(text, held) for text in texts]
        seen = tuple(strike for part in strikes for strike in part) if all(strikes) else ()
        return Unit(struck.down, struck.t, seen, effect.spot, struck.layers, held, bound=not struck.plain)

    def _strikes(self, text: str, held: frozenset[str]) -> tuple[Strike, ...]:
        sent = parse_sent(text, self.folio.bundles)
        strikes = strikes_of(sent, self.folio.legend, self.folio.bundles) or ()
        return tuple((modifiers | held, code) for modifiers, code in strikes)

    def _moves_layers(self, struck: Struck) -> bool:
        layer = self.machine.keymap.layer(struck.layers[-1])
        return any(
            effect.enters is not None or effect.leaves or _only_modifiers(effect.sends) is not None
            for key in struck.keys
            for effect in layer.keys.get(key, {}).values()
        )


def _spot_of(struck: Struck) -> Spot | None:
    return struck.effect.spot if struck.effect else None


def _only_modifiers(sends: str | None) -> frozenset[str] | None:
    """Return the modifiers of a chord that has no other key; None for anything else that is sent."""
    if not sends or sends[0] == '"' or not set(sends.split("+")) <= set(MODIFIERS):
        return None
    return frozenset(sends.split("+"))
