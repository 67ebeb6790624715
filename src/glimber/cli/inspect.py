"""Commands that look at a folio: list, check, boards, resolve, judge."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
from msgspec import Struct, to_builtins

from glimber.cli.common import folder_of, moment, practice_of, put, put_json, reported_errors, rounded, say, stop
from glimber.cli.events import read_cases
from glimber.cli.options import spelled_out
from glimber.core.audit.checks import audit
from glimber.core.audit.finding import Finding
from glimber.core.engine.engine import run
from glimber.core.engine.events import Act
from glimber.core.engine.keymap import keymap_of
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.ids import slug_of
from glimber.core.notation.keycodes import CODES
from glimber.core.notation.nearest import did_you_mean
from glimber.core.practice.answer import Answer, Question, habits_of
from glimber.core.practice.judge import judge as judge_answer
from glimber.store.cache.missing_pictures import missing_pictures
from glimber.store.faults import Fault, StoreError
from glimber.store.files import read_given
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio, shipped_board, shipped_board_ids, shipped_board_text

Json = Annotated[bool, typer.Option("--json", help="One JSON document on standard output.")]
FolioArgument = Annotated[str, typer.Argument(metavar="FOLIO", help="Folder of the folio.")]


def list_(folio: FolioArgument, json: Json = False) -> None:
    """Bindings, and commands that wait for one on the bench.

    Example: glimber list chart-office --json
    """
    with reported_errors():
        value = open_folio(folder_of(folio)).folio
        if json:
            put_json({
                "bindings": [_binding_row(value, b) for b in value.all_bindings()],
                "bench": [{"command": c.ref, "program": c.program, "name": c.name, "group": c.group,
                           "uses_per_day": c.uses_per_day} for c in value.bench()],
            })  # fmt: skip
            return
        for binding in value.all_bindings():
            row = _binding_row(value, binding)
            put(f"{row['trigger']:40} {row['command'] or row['sends'] or '':44} {row['reason'] or ''}".rstrip())
        for command in value.bench():
            put(f"{'(bench)':40} {command.ref}")


def _binding_row(folio: Folio, binding: Binding) -> dict[str, object]:
    command = folio.command_of(binding)
    sent = folio.sent_by(binding)
    return {
        "id": binding.id,
        "command": binding.command,
        "program": command.program if command else None,
        "trigger": str(binding.trigger),
        "sends": None if sent is None else str(sent),
        "group": command.group if command else None,
        "reason": binding.reason,
        "uses_per_day": command.uses_per_day if command else None,
        "name": command.name if command else None,
    }


def check(folio: FolioArgument, json: Json = False) -> None:
    """The audit: what will not work as meant. Exit status 1 when there are errors.

    Example: glimber check chart-office
    """
    with reported_errors():
        opened = open_folio(folder_of(folio), lenient=True)
        findings = [
            *map(_fault_finding, opened.faults),
            *audit(opened.folio, load_settings().computer_name),
            *missing_pictures(opened),
        ]
    if json:
        put_json({"findings": to_builtins(findings)})
    else:
        for finding in findings:
            put(f"{finding.severity}: {finding.code}: {finding.where}: {finding.text}")
        if not findings:
            put("Nothing found.")
    if any(finding.severity == "error" for finding in findings):
        raise typer.Exit(1)


def _fault_finding(fault: Fault) -> Finding:
    return Finding(
        fault.code or "unknown-reference", "error", fault.where or f"{fault.file}:{fault.line}", (), str(fault)
    )


def boards(
    id: Annotated[str | None, typer.Argument(metavar="[ID]")] = None,
    svg: Annotated[str | None, typer.Option(metavar="FILE", help="Make a board of this SVG drawing instead.")] = None,
    json: Json = False,
) -> None:
    """Boards that come with Glimber, or one of them as TOML; or a board made of a drawing, as TOML.

    Example: glimber boards pad-21 > boards/my-pad.toml
    """
    if svg is not None:
        _drawn(svg, id or slug_of(Path(svg).stem), json)
        return
    known = shipped_board_ids()
    if id is not None:
        if id not in known:
            stop(f"{id} is not a board that comes with Glimber{did_you_mean(id, known)}; it has {', '.join(known)}")
        board = shipped_board(id)
        if json:
            put_json({"id": board.id, "name": board.name, "keys": len(board.keys), "toml": shipped_board_text(id)})
        else:
            print(shipped_board_text(id), end="")
        return
    found = [shipped_board(one) for one in known]
    if json:
        put_json({"boards": [{"id": b.id, "name": b.name, "keys": len(b.keys), "knobs": len(b.knobs)} for b in found]})
        return
    for one in found:
        put(f"{one.id:12} {one.name}, {len(one.keys)} keys" + (f", {len(one.knobs)} knobs" if one.knobs else ""))


def _drawn(file: str, id: str, json: bool) -> None:
    """A board of a drawing: every shape with an id is a key."""
    from glimber.readers.drawing import DrawingError, board_from_svg
    from glimber.store.toml.writing import board_text

    try:
        board, told_of = board_from_svg(read_given(folder_of(file)), id, id.replace("-", " ").capitalize())
    except (StoreError, DrawingError) as error:
        stop(f"{error}" if isinstance(error, StoreError) else f"{file}: {error}")
    text = board_text(board)
    for line in told_of:
        say(f"{file}: {line}")
    if json:
        put_json({"id": board.id, "name": board.name, "keys": len(board.keys), "knobs": len(board.knobs), "toml": text})
    else:
        print(text, end="")


def resolve(
    folio: FolioArgument,
    events: Annotated[str, typer.Argument(metavar="EVENTS", help="A JSON file of events, or - for standard input.")],
    board: Annotated[str, typer.Option(help="The board the keys are on.")],
    front: Annotated[str | None, typer.Option(help="The program in front at the beginning.")] = None,
    json: Json = False,
) -> None:
    """The key engine: what timed key events make a board do.

    Example: echo '[[0,"down","KeyS"],[90,"up","KeyS"]]' | glimber resolve chart-office --board split-42 -
    """
    with reported_errors():
        value = open_folio(folder_of(folio)).folio
        _need_board(value, board)
        keys = [*value.boards[board].by_id, *value.boards[board].knob_ids]
        cases = read_cases(events, keys, board)
        keymap = keymap_of(value, board)
        for case in cases.cases:
            acts = run(keymap, case.events, front)
            if json or cases.many:
                put_json({"acts": [_act(act) for act in acts]})
            else:
                for act in acts:
                    put(f"{act.t:8.0f} ms  {act.do:8} {act.layer or act.sends or '':24} {act.spot or ''}".rstrip())


def _act(act: Act) -> dict[str, object]:
    spot = None if act.spot is None else str(act.spot)
    return {"t": round(act.t, 3), "do": act.do, "spot": spot, "layer": act.layer, "sends": act.sends}


def _need_board(folio: Folio, board: str) -> None:
    if board not in folio.boards:
        stop(
            f"{board} is not a board of this folio{did_you_mean(board, folio.boards)}; it has {', '.join(folio.boards)}"
        )


class JudgeOptions(Struct, frozen=True):
    """Options for judging answers: the binding asked for, and how strictly answers count."""

    binding: Annotated[str | None, typer.Option(help="The binding asked for.")] = None
    board: Annotated[
        str | None, typer.Option(help="The stand-in board answered on; else the ordinary keyboard.")
    ] = None
    deadline: Annotated[float, typer.Option(min=1, help="In ms.")] = 4000
    at: Annotated[str | None, typer.Option(help="When, as ISO 8601; else now.")] = None
    strict: Annotated[bool, typer.Option("--strict", help="Only the asked trigger is a hit.")] = False
    front: Annotated[str | None, typer.Option(help="The program in front; else the command's.")] = None


@spelled_out
def judge(
    folio: FolioArgument,
    events: Annotated[str, typer.Argument(metavar="EVENTS", help="A JSON file of events, or - for standard input.")],
    options: JudgeOptions,
    json: Json = False,
) -> None:
    """One answer: hit or slip, which kind, and what to say. Events count from the prompt at t = 0.

    Example: echo '[[600,"down","KeyD"],[660,"up","KeyD"]]' | glimber judge chart-office --binding depth-d -
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        value, board, when = opened.folio, options.board, moment(options.at)
        if board is not None:
            _need_board(value, board)
        keys = CODES if board is None else [*value.boards[board].by_id, *value.boards[board].knob_ids]
        cases = read_cases(events, keys, board or "the ordinary keyboard")
        changes, computer = practice_of(opened).changes, load_settings().computer_name
        for case in cases.cases:
            wanted = _wanted(value, case.binding or options.binding)
            habits = habits_of(value, wanted, changes, computer, when)
            question = Question(value, wanted, options.front, computer, board, options.strict, options.deadline, habits)
            answer = judge_answer(question, case.events)
            if json or cases.many:
                put_json(answer_json(answer))
            else:
                put(answer.words or f"Hit after {answer.recall_ms:.0f} ms.")


def _wanted(folio: Folio, id: str | None) -> Binding:
    if id is None:
        stop("which binding was asked for? Give --binding ID, or name it on each line of EVENTS")
    if id not in folio.bindings:
        stop(f"{id} is not a binding of this folio{did_you_mean(id, folio.bindings)}")
    return folio.bindings[id]


def answer_json(answer: Answer) -> dict[str, object]:
    """Return an answer as contract: every field, None where it does not apply."""
    return {
        "outcome": answer.outcome, "slip": answer.slip,
        "pressed": None if answer.pressed is None else str(answer.pressed),
        "offset_u": None if answer.offset_u is None else list(answer.offset_u),
        "neighbour": answer.neighbour, "layer": answer.layer, "gesture": answer.gesture,
        "missing": list(answer.missing), "extra": list(answer.extra), "would_do": answer.would_do,
        "finger_wanted": answer.finger_wanted, "finger_struck": answer.finger_struck,
        "recall_ms": rounded(answer.recall_ms), "motor_ms": rounded(answer.motor_ms), "words": answer.words,
        "credited": answer.credited, "likely": answer.likely,
    }  # fmt: skip
