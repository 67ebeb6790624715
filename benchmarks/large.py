"""What is large or goes on for long: a folio of 50,000 bindings under each command, 500 rounds in one process."""

from __future__ import annotations

import gc
import resource
import string
import tempfile
from pathlib import Path

from benchmarks.drilling import Hand
from benchmarks.figures import Figure, run_command

BINDINGS, OF_A_PROGRAM = 50_000, 1_000
MEMORY_MB, SECONDS = 1_000.0, 120.0
ROUNDS, WARM = 500, 100
FLAT = 1.10
ASKED = ("show-desktop", "snap-chord", "export-sheet")


def figures() -> list[Figure]:
    """Seconds of processor time and memory of each command on the large folio; memory after 500 rounds against after 100."""
    return [*_of_commands(), *_of_rounds()]


def _of_commands() -> list[Figure]:
    with tempfile.TemporaryDirectory() as home:
        folder = _folio(Path(home) / "large")
        found = []
        for name, arguments in (("list", ["--json"]), ("check", []), ("weigh", ["--json"]), ("cards", ["--to", f"{home}/out"])):
            seconds, megabytes = run_command(name, str(folder), *arguments)
            found.append(Figure(f"{name} of {BINDINGS:,} bindings, processor time", seconds, "s", SECONDS))
            found.append(Figure(f"{name} of {BINDINGS:,} bindings, memory", megabytes, "MB", MEMORY_MB))
        return found


def _folio(folder: Path) -> Path:
    """Fifty programs of a thousand commands in twenty groups, each with a sequence of its own."""
    (folder / "programs").mkdir(parents=True)
    (folder / "folio.toml").write_text('format = "glimber-folio/1"\ntitle = "Large"\nkeyboard = "full-105"\nxkb = "us"\n')
    letters = string.ascii_uppercase
    for program in range(BINDINGS // OF_A_PROGRAM):
        groups = "".join(f'g{n} = {{ name = "Group {n}" }}\n' for n in range(OF_A_PROGRAM // 50))
        commands = "".join(
            f'c{n} = {{ name = "Sheet {program} step {n}", group = "g{n // 50}", '
            f'shortcut = "Ctrl+K Ctrl+{letters[n % 26]} Ctrl+{letters[n // 26 % 26]} F{n // 676 + 1}" }}\n'
            for n in range(OF_A_PROGRAM)
        )
        text = f'format = "glimber-program/1"\nname = "Program {program}"\n[groups]\n{groups}[commands]\n{commands}'
        (folder / f"programs/p{program}.toml").write_text(text)
    return folder


def _of_rounds() -> list[Figure]:
    hand, warm = Hand(), 0.0
    for number in range(ROUNDS):
        hand.begin(ASKED, hits=dict.fromkeys(ASKED, 1), seed=number)
        while hand.room.play is not None:
            hand.answer(slip=False)
        if number + 1 == WARM:
            warm = _resident_mb()
    after = _resident_mb()
    hand.close()
    note = f"{warm:.0f} MB after {WARM}, {after:.0f} MB after {ROUNDS}"
    return [Figure(f"memory after {ROUNDS} rounds / after {WARM}", after / warm, "×", FLAT, note=note)]


def _resident_mb() -> float:
    gc.collect()
    return int(Path("/proc/self/statm").read_text().split()[1]) * resource.getpagesize() / 1e6
