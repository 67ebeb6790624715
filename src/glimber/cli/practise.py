"""``glimber practise``: a round as a conversation in JSON Lines, for scripts and simulated people."""

from __future__ import annotations

import json
import sys
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Annotated, Final, get_args

import typer
from msgspec import Struct
from msgspec.structs import replace

from glimber.cli.common import folder_of, moment, practice_of, put, reported_errors, stop
from glimber.cli.inspect import FolioArgument
from glimber.cli.practice import At
from glimber.core.notation.nearest import did_you_mean
from glimber.core.practice.slip_kinds import SlipKind
from glimber.core.practice.tries import Outcome, Round, Try
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio

if TYPE_CHECKING:
    from glimber.core.model.folio import Folio
    from glimber.core.practice.pacing import Prompt

DEADLINE_MS: Final = 4000.0
BETWEEN_S: Final = 0.45
"""Seconds from an answer to the next prompt."""
MENDING_S: Final = 2.2
"""Seconds for which the message after a slip is read and the right trigger struck."""
BLANK_S: Final = 1.3
SHOWING_S: Final = 3.5
_OUTCOMES: Final = ("hit", "slip", "blank")
_SLIPS: Final = get_args(SlipKind)


class _Answer(Struct, frozen=True):
    """One answer as it came."""

    outcome: Outcome
    slip: SlipKind | None
    pressed: str | None
    recall_ms: float | None
    motor_ms: float | None

    @property
    def took_s(self) -> float:
        """Seconds from the prompt to the next one."""
        if self.outcome == "blank":
            return DEADLINE_MS / 1000 + BLANK_S
        struck = ((self.recall_ms or 0.0) + (self.motor_ms or 0.0)) / 1000
        return struck + BETWEEN_S + (MENDING_S if self.outcome == "slip" else 0.0)


def practise(
    folio: FolioArgument,
    minutes: Annotated[float, typer.Option(min=0.5, max=60, help="How long the round is to be.")] = 3,
    at: At = None,
) -> None:
    """A round as a conversation in JSON Lines: it prints what is asked and reads each answer, until the time is used.

    Example: glimber practise chart-office --minutes 3
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.core.decide.next_prompt import prompts_of
        from glimber.core.decide.plan import pressing
        from glimber.core.decide.round_choice import why_not
        from glimber.core.practice.options import Options
        from glimber.core.stats.measures import measure
        from glimber.store.practice.log import open_log
        from glimber.store.practice.uuid7 import uuid7

        computer, began = load_settings().computer_name, moment(at)
        ledger = measure(opened.folio, practice_of(opened), began, computer)
        usable = [id for id, row in ledger.rows.items() if why_not(opened.folio, row.binding, Options()) is None]
        prompts = prompts_of(ledger, usable, pressing(ledger))
        now, tries, asked = began, 0, list[str]()
        end = began + timedelta(minutes=minutes)
        with open_log(opened.folder, opened.folio.settings.log) as log:
            whole = Round(uuid7(began), began, computer, "press", (), minutes=minutes, goal="planned")
            log.add(whole)
            while now < end and (prompt := prompts.next()) is not None:
                _put({"ask": prompt.binding, "new": prompt.new, "shown": prompt.shown})
                answer = _read(prompt)
                if answer is None:
                    break
                took = SHOWING_S if prompt.shown else answer.took_s
                if not prompt.shown:
                    log.add(_try(opened.folio, whole, prompt, answer, tries, now, computer, prompt.binding not in asked))
                    tries += 1
                    asked.append(prompt.binding)
                prompts.answer(prompt, answer.outcome, answer.slip, took)
                now += timedelta(seconds=took)
            log.update(replace(whole, bindings=tuple(dict.fromkeys(asked)), ended=now))
    _put({"round": whole.id, "tries": tries, "seconds": round((now - began).total_seconds(), 1)})


def _put(line: dict[str, object]) -> None:
    put(json.dumps(line))
    sys.stdout.flush()


def _read(prompt: Prompt) -> _Answer | None:
    """Read the next answer; None where there is none any more. A line that is no answer ends the round with status 2."""
    line = next((line for line in iter(sys.stdin.readline, "") if line.strip()), None)
    if line is None:
        return None
    try:
        value = json.loads(line)
    except ValueError:
        stop(f'{line.strip()[:80]!r} is not JSON; expected an answer such as {{"outcome": "hit", "recall_ms": 640}}')
    outcome = value.get("outcome") if isinstance(value, dict) else None
    if outcome not in _OUTCOMES:
        stop(f"{prompt.binding}: outcome is {outcome!r}; expected one of {', '.join(_OUTCOMES)}")
    slip = value.get("slip")
    if slip is not None and slip not in _SLIPS:
        stop(
            f"{prompt.binding}: slip is {slip!r}; expected one of {', '.join(_SLIPS)}{did_you_mean(str(slip), _SLIPS)}"
        )
    times = {name: value.get(name) for name in ("recall_ms", "motor_ms")}
    for name, time in times.items():
        if time is not None and (
            isinstance(time, bool) or not isinstance(time, int | float) or not 0 <= time <= 600_000
        ):
            stop(f"{prompt.binding}: {name} is {time!r}; expected milliseconds from 0 to 600000")
    pressed = value.get("pressed")
    return _Answer(outcome, slip if outcome == "slip" else None, str(pressed) if pressed else None, **times)


def _try(
    folio: Folio, whole: Round, prompt: Prompt, answer: _Answer, nth: int, now: datetime, computer: str, cold: bool
) -> Try:
    from glimber.store.practice.uuid7 import uuid7

    slip = answer.slip or ("stray" if answer.outcome == "slip" else None)
    trigger = str(folio.bindings[prompt.binding].trigger)
    return Try(uuid7(now), whole.id, nth, now, computer, prompt.binding, trigger, "press", answer.outcome, slip=slip,
               pressed=answer.pressed, recall_ms=None if answer.outcome == "blank" else answer.recall_ms,
               motor_ms=answer.motor_ms, deadline_ms=DEADLINE_MS, cold=cold)  # fmt: skip
