"""One simulated person: what is planted, the tries they make, and what they would truly do in the weeks ahead."""

from __future__ import annotations

from collections.abc import Sequence as Rows
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Final

from msgspec.structs import replace

from benchmarks.people.sorts import Sort
from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Sequence, Spot, Trigger, chord_of, strikes_of
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Change, SlipKind, Try
from glimber.core.stats.reach import Reach

NOW: Final = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)
TROUBLES: Final = (
    "neighbour-slips",
    "hand-goes-elsewhere",
    "mix-up",
    "gesture-slips",
    "wrong-layer",
    "modifier-slips",
    "old-habit",
    "stuck",
    "still-learning",
)
BINDINGS: Final = 30
A_ROUND: Final = 5
PROMPTS: Final = 5


@dataclass
class Known:
    """One binding in the person's head and hand. ``share``: how often the planted trouble strikes; ``to``: where it then goes."""

    binding: Binding
    start: float
    floor: float
    tau: float
    trouble: str | None = None
    share: float = 0.0
    to: tuple[Trigger, ...] = ()
    law: str = "exponential"

    def unknown(self, tries: float) -> float:
        """Chance, warm and rested, that the trigger does not come to mind after so many tries."""
        if self.trouble == "stuck":
            return self.share
        if self.trouble == "still-learning":
            return self.floor + (0.92 - self.floor) * 2.0 ** (-tries / (60 + 90 * self.share))
        if self.law == "power":
            return self.floor + (self.start - self.floor) * (1 + tries / self.tau) ** -1.2
        if self.law == "step":
            return self.floor if tries >= self.tau else self.start
        return self.floor + (self.start - self.floor) * 2.718281828 ** (-tries / self.tau)


@dataclass
class Person:
    """A person of a sort, over the bindings of a folio. The same seed gives the same practice."""

    folio: Folio
    sort: Sort
    seed: int
    known: dict[str, Known] = field(default_factory=dict)
    changes: tuple[Change, ...] = ()

    def __post_init__(self) -> None:
        self.random = Random(f"{self.sort.name} {self.seed}")
        self.finger_scale = self.random.uniform(0.7, 1.7)
        self.distance_scale = self.random.uniform(0.6, 1.8)
        self.weak = self.random.choice(("left", "right"))
        self.reach = Reach(self.folio)
        self._near: dict[Trigger, list[Trigger]] = {}
        self._motor: dict[Trigger, float] = {}
        self._hand: dict[Trigger, float] = {}
        pool = [binding for binding in self.folio.drillable("bench") if self._usable(binding)]
        mine = self.random.sample(pool, BINDINGS)
        for binding in mine:
            self.known[binding.id] = Known(binding, self.random.uniform(0.25, 0.7), self.random.uniform(0.0, 0.02),
                                           self.random.uniform(*self.sort.tau), law=self.sort.law)  # fmt: skip
        self.favourite = self.random.choice([b.trigger for b in pool])
        self._plant(list(self.known.values()))

    def _usable(self, binding: Binding) -> bool:
        trigger = binding.trigger
        if isinstance(trigger, Spot):
            return (
                len(trigger.keys) == 1
                and trigger.keys[0] in self.folio.boards[trigger.board].by_id
                and trigger.gesture in ("tap", "hold")
            )
        return (
            isinstance(trigger, Sequence)
            and len(trigger.chords) == 1
            and strikes_of(trigger, self.folio.legend, self.folio.bundles) is not None
        )

    # What is planted

    def _plant(self, free: list[Known]) -> None:
        """One trouble of each sort that the bindings allow; the rest have none."""
        self.random.shuffle(free)
        for trouble in TROUBLES:
            found = next((known for known in free if known.trouble is None and self._can_have(known, trouble)), None)
            if found is None:
                continue
            if trouble == "mix-up":
                other = next(
                    (one for one in free if one is not found and one.trouble is None and self._alike(one, found)), None
                )
                if other is None:
                    continue
                found.to, other.to = (other.binding.trigger,), (found.binding.trigger,)
                other.trouble, other.share = trouble, self.random.uniform(0.22, 0.45)
            elif trouble == "old-habit":
                found.to = (self._elsewhere(found.binding),)
                self.changes = (self._change(found),)
            elif trouble == "hand-goes-elsewhere":
                found.to = (self._elsewhere(found.binding),)
            elif trouble == "neighbour-slips":
                found.to = tuple(self._beside(found.binding.trigger))
            elif trouble == "gesture-slips":
                found.to = (
                    replace(found.binding.spot, gesture="hold" if found.binding.spot.gesture == "tap" else "tap"),
                )
            elif trouble == "wrong-layer":
                layers = [
                    one.id
                    for one in self.folio.layouts[found.binding.spot.board].layers
                    if one.id != found.binding.spot.layer
                ]
                found.to = tuple(replace(found.binding.spot, layer=layer) for layer in layers)
            elif trouble == "modifier-slips":
                found.to = tuple(self._other_modifiers(found.binding.trigger))
                if self.sort.one_set:
                    found.to = (self.random.choice(found.to),)
            found.trouble = trouble
            found.share = self.random.uniform(0.32, 0.55) if trouble == "stuck" else self.random.uniform(0.22, 0.5)

    def _can_have(self, known: Known, trouble: str) -> bool:
        spot = isinstance(known.binding.trigger, Spot)
        if trouble in ("gesture-slips", "wrong-layer"):
            return spot
        if trouble == "modifier-slips":
            return not spot and bool(known.binding.trigger.chords[0].modifiers)  # type: ignore[union-attr]
        if trouble == "neighbour-slips":
            return len(self._beside(known.binding.trigger)) >= 4
        return True

    def _alike(self, one: Known, other: Known) -> bool:
        a, b = one.binding.trigger, other.binding.trigger
        if isinstance(a, Spot) and isinstance(b, Spot):
            return (a.board, a.layer, a.gesture) == (b.board, b.layer, b.gesture)
        same = (one.binding.command or "").partition("/")[0] == (other.binding.command or "").partition("/")[0]
        return same and isinstance(a, Sequence) and isinstance(b, Sequence) and a.chords[0].key != b.chords[0].key

    def _elsewhere(self, binding: Binding) -> Trigger:
        """A place of the same sort, beside it or anywhere."""
        beside = self._beside(binding.trigger)
        if beside and self.random.random() < 0.5:
            return self.random.choice(beside)
        trigger = binding.trigger
        if isinstance(trigger, Spot):
            keys = [key.id for key in self.folio.boards[trigger.board].keys if key.id not in trigger.keys]
            return replace(trigger, keys=(self.random.choice(keys),))
        return self._chord(
            trigger, self.random.choice([c for c in "ABCDEFGHIJKLMNOPQRSTUVWXYZ" if c != trigger.chords[0].key])
        )

    def _chord(self, trigger: Trigger, key: str) -> Trigger:
        assert isinstance(trigger, Sequence)
        return Sequence((replace(trigger.chords[0], key=key),))

    def _beside(self, trigger: Trigger) -> list[Trigger]:
        """The triggers of the keys beside the last one."""
        if trigger not in self._near:
            self._near[trigger] = self._triggers_beside(trigger)
        return self._near[trigger]

    def _triggers_beside(self, trigger: Trigger) -> list[Trigger]:
        if isinstance(trigger, Spot):
            board = self.folio.boards[trigger.board]
            return [replace(trigger, keys=(key,)) for key in sorted(board.neighbours.get(trigger.keys[0], frozenset()))]
        (held, code), *_ = strikes_of(trigger, self.folio.legend, self.folio.bundles) or [(frozenset(), "")]  # type: ignore[list-item]
        keys = sorted(self.folio.keyboard.neighbours.get(code, frozenset()))
        return [
            Sequence((chord_of((held, key), self.folio.legend),)) for key in keys if self.folio.legend.print_of(key)
        ]

    def _other_modifiers(self, trigger: Trigger) -> list[Trigger]:
        assert isinstance(trigger, Sequence)
        chord = trigger.chords[0]
        sets = [("Ctrl",), ("Alt",), ("Ctrl", "Shift"), ("Ctrl", "Alt"), ("Alt", "Shift"), ("Super",)]
        return [Sequence((replace(chord, modifiers=held),)) for held in sets if set(held) != set(chord.modifiers)]

    def _change(self, known: Known) -> Change:
        at = NOW - timedelta(days=40)
        return Change(f"change-{self.seed}", at, "bench", known.binding.id, "move", known.binding.command, str(known.to[0]),
                      str(known.binding.trigger), "planted", applied=at)  # fmt: skip

    # What is struck

    def hand(self, trigger: Trigger) -> float:
        """Chance that a key beside the wanted one is struck."""
        if trigger not in self._hand:
            board, key = self._key(trigger)
            side = board.by_id[key].hand if key in board.by_id else None
            bad = Random(f"{self.seed} {key}").random() < self.sort.bad_keys
            self._hand[trigger] = self.sort.hand * (self.sort.weak_hand if side == self.weak else 1.0) * (4.0 if bad else 1.0)
        return self._hand[trigger]

    def _key(self, trigger: Trigger) -> tuple[Board, str]:
        if isinstance(trigger, Spot):
            return self.folio.boards[trigger.board], trigger.keys[0]
        strikes = strikes_of(trigger, self.folio.legend, self.folio.bundles) or ()
        return self.folio.keyboard, strikes[-1][1] if strikes else ""

    def errors(self, known: Known, tries: float, cold: bool, tired: float = 0.0) -> dict[str, float]:
        """Chances of each fault at a try: not knowing, the planted one, and those of the hand."""
        sort = self.sort
        more = 1.0 + sort.tired * tired
        unknown = min(0.95, known.unknown(tries) + (sort.night if cold else 0.0))
        if not cold:
            unknown = sort.warm * unknown / (1 - unknown + sort.warm * unknown)
        planted = known.share if known.to else 0.0
        spot = isinstance(known.binding.trigger, Spot)
        return {
            "planted": planted, "unknown": min(0.95, unknown * more), "hand": min(0.5, self.hand(known.binding.trigger) * more),
            "gesture": sort.gesture if spot else 0.0, "layer": sort.layer if spot else 0.0,
            "modifiers": 0.0 if spot else sort.modifiers,
        }  # fmt: skip

    def clean(self, known: Known, tries: float, cold: bool = True) -> float:
        """The true chance of a clean hit."""
        whole = 1.0
        for chance in self.errors(known, tries, cold).values():
            whole *= 1 - chance
        return whole

    def _struck(self, known: Known, tries: int, cold: bool, tired: float) -> Trigger | None:
        """What is struck; None: nothing comes to mind."""
        wanted = known.binding.trigger
        for fault, chance in self.errors(known, tries, cold, tired).items():
            if self.random.random() >= chance:
                continue
            if fault == "planted":
                return self.random.choice(known.to)
            if fault == "unknown":
                return None if self.random.random() < self.sort.blank else self._guess(known)
            if fault == "hand" and (beside := self._beside(wanted)):
                return self.random.choice(beside)
            if fault == "gesture" and isinstance(wanted, Spot):
                return replace(wanted, gesture="hold" if wanted.gesture == "tap" else "tap")
            if fault == "layer" and isinstance(wanted, Spot):
                return replace(
                    wanted,
                    layer=self.random.choice(
                        [o.id for o in self.folio.layouts[wanted.board].layers if o.id != wanted.layer]
                    ),
                )
            if fault == "modifiers" and isinstance(wanted, Sequence):
                return self.random.choice(self._other_modifiers(wanted))
        return wanted

    def _guess(self, known: Known) -> Trigger:
        if self.random.random() < self.sort.favourite and type(self.favourite) is type(known.binding.trigger):
            return self.favourite
        if self.random.random() < 0.5:
            others = [one for one in self.known.values() if one is not known and self._alike(one, known)]
            if others:
                return self.random.choice(others).binding.trigger
        return self._elsewhere(known.binding)

    def practice(self, tries: int | None = None) -> Practice:
        """Rounds of five bindings, five prompts of each by turns, on many days, until every binding has so many tries."""
        most = min(tries or self.sort.tries, self.sort.tries)
        ids, done = list(self.known), dict.fromkeys(self.known, 0)
        made: list[Try] = []
        at = NOW - timedelta(days=30)
        number = 0
        while any(done[id] < most for id in ids):
            left = [id for id in ids if done[id] < most]
            asked = sorted(left, key=lambda id: (done[id], self.random.random()))[:A_ROUND]
            if number % 10 == 0:
                at = at.replace(hour=8, minute=0) + timedelta(days=1 if number else 0)
            tired = (number % 10) / 10
            for turn in range(PROMPTS):
                self.random.shuffle(asked)
                for id in asked:
                    if done[id] < most:
                        at += timedelta(seconds=3)
                        made.append(
                            self._try(
                                self.known[id], done[id], turn == 0, tired, f"round-{self.seed}-{number}", at, len(made)
                            )
                        )
                        done[id] += 1
            at += timedelta(minutes=25)
            number += 1
        late = made[-1].at - (NOW - timedelta(hours=1))
        if late > timedelta(0):
            days = timedelta(days=late.days + 1)
            made = [replace(one, at=one.at - days) for one in made]
        return Practice(tuple(made), self.changes)

    def _try(self, known: Known, tries: int, cold: bool, tired: float, round: str, at: datetime, nth: int) -> Try:
        struck, wanted = self._struck(known, tries, cold, tired), known.binding.trigger
        knows = 1 - known.unknown(tries)
        recall = (380 + 900 * (1 - knows)) * self.random.lognormvariate(0.0, 0.3)
        one = Try(f"{round}-{nth}", round, nth, at, "bench", known.binding.id, str(wanted), "press", "hit", cold=cold)
        if struck is None:
            return replace(one, outcome="blank")
        motor = self.motor_ms(wanted) * self.random.lognormvariate(0.0, 0.12)
        if struck == wanted:
            return replace(one, recall_ms=recall, motor_ms=motor)
        return replace(one, outcome="slip", slip=self._kind(known, struck), pressed=str(struck),
                       would_do=self._would_do(known, struck), recall_ms=recall * 1.2, motor_ms=motor)  # fmt: skip

    def motor_ms(self, trigger: Trigger) -> float:
        """The person's own time for a trigger, in ms."""
        if trigger not in self._motor:
            cost = self.reach.cost(trigger)
            self._motor[trigger] = 120.0 if cost is None else cost.scaled(self.finger_scale, self.distance_scale)
        return self._motor[trigger]

    def _kind(self, known: Known, struck: Trigger) -> SlipKind:
        """The first line of judging that fits; written here once more on purpose."""
        wanted = known.binding.trigger
        if known.trouble == "old-habit" and struck == known.to[0]:
            return "old habit"
        if isinstance(wanted, Spot) and isinstance(struck, Spot):
            if wanted.keys == struck.keys:
                return "gesture" if wanted.layer == struck.layer else "layer"
        elif (
            isinstance(wanted, Sequence)
            and isinstance(struck, Sequence)
            and wanted.chords[0].key == struck.chords[0].key
        ):
            return "modifiers"
        if struck in self._beside(wanted):
            return "neighbour"
        return "mix-up" if self._would_do(known, struck) else "stray"

    def _would_do(self, known: Known, struck: Trigger) -> str | None:
        if isinstance(struck, Spot):
            there = self.folio.by_trigger.get(struck)
            return there.command if there is not None else None
        program = (known.binding.command or "").partition("/")[0]
        return next((b.command for b in self.folio.programs[program].bindings if b.trigger == struck), None)

    # What the weeks ahead would truly cost

    def _stays(self, known: Known, to: Trigger | None) -> float:
        """The share of the planted trouble that is there at a place: all of it where the binding is now."""
        if to is None or not known.to:
            return 1.0 if known.to else 0.0
        if known.trouble == "neighbour-slips":
            return 0.0
        if known.trouble == "gesture-slips":
            return 0.0 if self._only_gesture(known, to) else 1.0
        if known.trouble == "mix-up" and self.sort.mixes_commands:
            return 1.0
        return 1.0 - 1.0 / len(known.to) if to in known.to else 1.0

    def _only_gesture(self, known: Known, to: Trigger) -> bool:
        if not isinstance(to, Spot) or to.gesture != "tap":
            return False
        layer = self.folio.layouts[to.board].layer(to.layer)
        there = layer.by_key.get(to.keys[0], {}) if layer is not None else {}
        return all(gesture == "tap" or one.id == known.binding.id for gesture, one in there.items())

    def cost_s(
        self,
        known: Known,
        to: Trigger | None,
        uses_day: float,
        days: int,
        recovery_s: float,
        slow_s: float,
        done: int,
        bad_key: float = 0.0,
    ) -> float:
        """Seconds of all uses in the days ahead, here or at another place, in expectation. ``bad_key``: what a key adds to the
        hand's errors for whoever is on it."""
        trigger = to or known.binding.trigger
        planted = known.share * self._stays(known, to)
        goes = to is not None and to in known.to and planted < known.share
        recall_s = 0.38 + 0.9 * known.unknown(done) * (0.0 if to is not None else 1.0)
        time_s = recall_s + self.motor_ms(trigger) / 1000
        hand = self.hand(trigger) + bad_key
        gesture = self.sort.gesture if isinstance(trigger, Spot) and not self._only_gesture(known, trigger) else 0.0
        hand += gesture + self.sort.layer if isinstance(trigger, Spot) else self.sort.modifiers
        total, uses = 0.0, 0.0
        for _ in range(days):
            uses += uses_day / 2
            if to is None:
                unknown = known.unknown(done + uses)
            else:
                unknown = known.floor + ((0.1 if goes else 0.5) - known.floor) * 2.718281828 ** (-uses / self.sort.relearn_tau)
            uses += uses_day / 2
            blank = unknown * self.sort.blank
            slip = unknown * (1 - self.sort.blank) + (1 - unknown) * (1 - (1 - planted) * (1 - hand))
            total += uses_day * (time_s + slip * recovery_s + blank * slow_s)
        return total


def crowd(folio: Folio, sorts: Rows[Sort], each: int) -> list[Person]:
    """So many people of every sort."""
    return [Person(folio, sort, number) for sort in sorts for number in range(each)]
