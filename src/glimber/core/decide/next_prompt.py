"""The choice of the next binding to ask for: the one whose next strike is worth most a second, new ones paced.

Source: docs/measures.md, "The next prompt".
"""

from __future__ import annotations

from collections import deque
from collections.abc import Collection
from typing import Final

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.practice.columns import BLANK, HIT, SLIP, Bools, Floats
from glimber.core.practice.pacing import Prompt
from glimber.core.practice.slip_kinds import HAND_KINDS, SlipKind
from glimber.core.practice.tries import Outcome
from glimber.core.stats.belief import Belief, day_of
from glimber.core.stats.ledger import Ledger

NOT_AGAIN: Final = 4
MOST_CLEAN: Final = 8
MOST_MISSES: Final = 4
USUAL_S: Final = {"hit": 1.3, "slip": 3.5, "blank": 5.3}
USUAL_TRIES: Final = 8.0
LONGEST_GAP_S: Final = 30.0
OPEN_NEW: Final = 5
"""New ones of a round that may be without two clean hits at a time."""
CLEAN_SHARE: Final = 0.7
CLEAN_OF: Final = 12
WEAK_BELOW: Final = 0.6
MOST_WEAK: Final = 10
"""With so many that will hardly be known tomorrow no new one comes: what is not held yet is bounded."""
SHOWN_BEFORE: Final = 3
"""A binding that was shown is asked for after two others."""
BLANKS_IN_A_ROW: Final = 2
"""After so many it goes on to another binding, and comes back shown first."""
HAND_BEFORE: Final = (1.0, 20.0)


class _Asked(Struct):
    """A binding within the round: what it was asked and answered."""

    clean: int = 0
    misses: int = 0
    blanks: int = 0
    new: bool = False
    show_again: bool = False
    ready: int = 0
    """The number of the prompt from which it may be asked for again."""


class Prompts(Struct):
    """The prompts of one round. ``pressed`` are asked for at least once: what slipped last time or was missed at work."""

    ids: list[str]
    belief: Belief
    stakes: Floats
    hand: Floats
    seconds: dict[str, float]
    day: float
    stated_known: Bools
    """True for what the person marked as known: it is asked for without being shown."""
    pressed: set[str] = field(default_factory=set)
    count: int = 0
    _asked: dict[str, _Asked] = field(default_factory=dict)
    _gains: Floats | None = None
    """Gains of a strike under each hypothesis, (48, b): within a round only those of the binding that was struck change much."""
    _last: deque[str] = field(default_factory=lambda: deque(maxlen=NOT_AGAIN))
    _answers: deque[bool] = field(default_factory=lambda: deque(maxlen=CLEAN_OF))

    def next(self, only: Collection[str] | None = None) -> Prompt | None:
        """Return the next prompt, None where nothing may be asked for any more; of some bindings ``only``, if given."""
        index, room = self._index(), self._room_for_new()
        order = sorted(range(len(self.ids)), key=lambda place: -index[place])
        order = order if only is None else [place for place in order if self.ids[place] in only]
        pressed = [place for place in order if self.ids[place] in self.pressed]
        for place in (*pressed, *order):
            if self._may(place, room, len(order)):
                return self._prompt(place)
        # With few bindings the last ones come again sooner than after four others.
        late = next((place for place in order if self._may(place, room, len(order), again=True)), None)
        return self._prompt(late) if late is not None else None

    def after(self, prompt: Prompt, outcome: Outcome, slip: SlipKind | None, took_s: float) -> Prompts:
        """Return the prompts after an answer; these stay as they are."""
        copied = replace(
            self,
            belief=self.belief.copy(),
            pressed=set(self.pressed),
            _gains=None if self._gains is None else self._gains.copy(),
            _asked={id: replace(one) for id, one in self._asked.items()},
            _last=deque(self._last, NOT_AGAIN),
            _answers=deque(self._answers, CLEAN_OF),
        )  # fmt: skip
        if prompt.binding in copied.ids:
            copied.answer(prompt, outcome, slip, took_s)
        return copied

    def clean(self, id: str) -> float:
        """Return the chance of a clean hit now."""
        place = self.ids.index(id)
        return float(self.belief.known(self.day)[place] * (1 - self.hand[place]))

    def worth(self, id: str) -> float:
        """Return the seconds a week that one strike now saves."""
        place = self.ids.index(id)
        return max(0.0, float(self.stakes[place] * (1 - self.hand[place]) * self._gain()[place]))

    def answer(self, prompt: Prompt, outcome: Outcome, slip: SlipKind | None, took_s: float) -> None:
        """Take the answer of a prompt into account; ``took_s`` seconds until the next one."""
        self.day += took_s / 86_400.0
        self.count += 1
        one = self._asked.setdefault(prompt.binding, _Asked())
        self._last.append(prompt.binding)
        if prompt.shown:
            one.show_again, one.new = False, one.new or prompt.new
            one.ready = self.count + SHOWN_BEFORE - 1
            return
        place = self.ids.index(prompt.binding)
        known = outcome == "hit" or (outcome == "slip" and slip in HAND_KINDS)
        self.belief.strike(place, self.day, known)
        if self._gains is not None:
            self._gains[:, place : place + 1] = self.belief.gains(self.day, slice(place, place + 1))
        self.pressed.discard(prompt.binding)
        self._answers.append(outcome == "hit")
        if outcome == "hit":
            one.clean, one.blanks = one.clean + 1, 0
            # Growing distance: a new one comes back after 2, 4, 8 … others.
            one.ready = self.count + (2**one.clean if one.new else 0)
            return
        one.misses += 1
        one.blanks = one.blanks + 1 if outcome == "blank" else 0
        if one.blanks >= BLANKS_IN_A_ROW:
            one.blanks, one.show_again = 0, True
            one.ready = self.count + 2 * SHOWN_BEFORE

    def _index(self) -> Floats:
        p = self.belief.known(self.day)
        hit, slip, blank = (self.seconds[kind] for kind in ("hit", "slip", "blank"))
        takes = p * ((1 - self.hand) * hit + self.hand * slip) + (1 - p) * (slip + blank) / 2
        return np.asarray(self.stakes * (1 - self.hand) * self._gain() / takes)

    def _gain(self) -> Floats:
        if self._gains is None:
            self._gains = self.belief.gains(self.day)
        return np.asarray(self.belief.weight @ self._gains)

    def _may(self, place: int, room: bool, count: int, again: bool = False) -> bool:
        """Return True if a binding may be asked for; ``room`` for a new one, ``count``: of how many it is one."""
        id = self.ids[place]
        one = self._asked.get(id)
        recent = 1 if again else min(NOT_AGAIN, max(0, count - 2))
        if count > 1 and recent and id in list(self._last)[-recent:]:
            return False
        if one is None:
            return room or bool(self.belief.tried[place])
        return one.clean < MOST_CLEAN and one.misses < MOST_MISSES and (again or one.ready <= self.count)

    def _room_for_new(self) -> bool:
        open_ = sum(one.new and one.clean < 2 and one.misses < MOST_MISSES for one in self._asked.values())
        clean = sum(self._answers) / len(self._answers) if len(self._answers) == CLEAN_OF else 1.0
        tomorrow = self.belief.known(self.day + 1.0)
        weak = int((self.belief.tried & (tomorrow < WEAK_BELOW)).sum())
        return open_ < OPEN_NEW and clean >= CLEAN_SHARE and weak < MOST_WEAK

    def _prompt(self, place: int) -> Prompt:
        id = self.ids[place]
        one = self._asked.get(id)
        new = one.new if one is not None else not self.belief.tried[place]
        unseen = new and not self.stated_known[place] if one is None else one.show_again
        return Prompt(id, bool(new), bool(unseen))


def prompts_of(ledger: Ledger, usable: Collection[str], pressed: Collection[str] = ()) -> Prompts:
    """Return the prompts of a round of the bindings that may be asked for. What is marked as never to be learnt is not in it."""
    rows = [row for id, row in ledger.rows.items() if id in usable and row.command.learn != "never"]
    numbers = np.array([row.number for row in rows], dtype=np.int64)
    known_by_person = np.array([row.command.learn == "known" for row in rows], dtype=bool)
    stakes = np.array([row.uses_week * row.knowing_s for row in rows])
    right, whole = HAND_BEFORE
    hand = np.array(
        [(right + sum(row.slips.kinds.get(kind, 0) for kind in HAND_KINDS)) / (whole + row.count) for row in rows]
    )
    ids = [row.binding.id for row in rows]
    return Prompts(ids, ledger.belief.copy(numbers), stakes, hand, seconds_of(ledger), day_of(ledger.at), known_by_person,
                   set(pressed) & set(ids))  # fmt: skip


def seconds_of(ledger: Ledger) -> dict[str, float]:
    """Return the person's own seconds from a prompt to the next one, by outcome."""
    c = ledger.practice.columns
    order = np.lexsort((c.nth, c.at_us))
    gaps = np.diff(c.at_us[order]) / 1e6
    same = c.round.codes[order][1:] == c.round.codes[order][:-1]
    usable = same & (gaps > 0) & (gaps < LONGEST_GAP_S) & c.first[order][1:]
    outcome = c.outcome[order][1:]
    found = {}
    for name, code in (("hit", HIT), ("slip", SLIP), ("blank", BLANK)):
        own = gaps[usable & (outcome == code)]
        found[name] = float((USUAL_TRIES * USUAL_S[name] + own.sum()) / (USUAL_TRIES + len(own)))
    return found
