"""The other classes of a hostile week, each as one try of a class: what went wrong, in words, or nothing."""

from __future__ import annotations

import contextlib
import resource
import shutil
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from random import Random

from tests.helpers import FILES, NOON, tries_of
from typer.testing import CliRunner

from benchmarks.soak.folios import files_of
from benchmarks.soak.mutate import mutated
from glimber.cli.commands import app
from glimber.core.edit.commands import edit_command
from glimber.readers.registry import kinds, read
from glimber.readers.safesvg import SvgError, safe_svg
from glimber.store.faults import FolioError, StoreError
from glimber.store.pack import pack_bytes, unpack
from glimber.store.practice.log import open_log, read_practice
from glimber.store.saving import ChangedOnDisk, tidy
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import save_folio

SPOT = "split-42:draw:KeyS:tap"
PLACES = ("KeyA", "KeyG", "KeyH", "KeyJ")
Class = Callable[[Path, Path, Random], list[str]]


def _copy(seed: Path, work: Path) -> Path:
    shutil.rmtree(work, ignore_errors=True)
    shutil.copytree(seed, work / "folio")
    return work / "folio"


def _agree(folder: Path, change: Callable[[], bool]) -> list[str]:
    """Files and history after a change that may have failed: both have it or neither."""
    before = files_of(folder)
    done = change()
    tidy(folder)
    noted = bool(read_practice(folder, "practice.db").changes)
    written = files_of(folder) != before
    left = [path.name for path in folder.rglob(".*") if path.name.startswith((".saving", ".glimber"))]
    wrong = [f"left {left}"] if left else []
    if noted != written or (done and not written):
        wrong.append(
            f"files {'changed' if written else 'as before'}, history {'changed' if noted else 'as before'}, told {done}"
        )
    return wrong


def _arguments(folder: Path, random: Random) -> list[str]:
    return ["change", str(folder), "sounding-s", "--to", f"split-42:draw:{random.choice(PLACES)}:tap", "--why", "soak"]


def killed_saves(seed: Path, work: Path, random: Random) -> list[str]:
    """A command that changes a binding, killed at any moment."""
    folder = _copy(seed, work)

    def change() -> bool:
        process = subprocess.Popen([sys.executable, "-m", "glimber", *_arguments(folder, random)], stdout=subprocess.DEVNULL,
                                   stderr=subprocess.DEVNULL)  # fmt: skip
        try:
            process.wait(random.uniform(0.5, 1.6))
        except subprocess.TimeoutExpired:
            process.send_signal(signal.SIGKILL)
        return process.wait() == 0

    return _agree(folder, change)


def full_disk(seed: Path, work: Path, random: Random) -> list[str]:
    """No file may grow beyond a size: what a full disk, or a quota, does to each write in turn."""
    folder = _copy(seed, work)
    most = random.choice((0, 100, 1_000, 4_096, 20_000, 40_000, 60_000, 90_000))

    def limit() -> None:
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (most, most))

    told: list[str] = []

    def change() -> bool:
        done = subprocess.run([sys.executable, "-m", "glimber", *_arguments(folder, random)], capture_output=True, text=True,
                              preexec_fn=limit, check=False)  # fmt: skip
        if done.returncode not in (0, 2) or "Traceback" in done.stderr:
            told.append(f"status {done.returncode}: {done.stderr[-200:]}")
        return done.returncode == 0

    return _agree(folder, change) + told


def locked_log(seed: Path, work: Path, random: Random) -> list[str]:
    """The log held by another program, for good or for a while, in each of its ways."""
    folder = _copy(seed, work)
    other = sqlite3.connect(folder / "practice.db", isolation_level=None, check_same_thread=False)
    other.execute(random.choice(("BEGIN IMMEDIATE", "BEGIN EXCLUSIVE")))
    release = threading.Timer(random.choice((0.2, 1.0, 30.0)), lambda: other.execute("ROLLBACK"))
    release.start()

    def change() -> bool:
        done = CliRunner().invoke(app, _arguments(folder, random))
        release.cancel()
        if other.in_transaction:
            other.execute("ROLLBACK")
        return done.exit_code == 0

    try:
        return _agree(folder, change)
    finally:
        other.close()


def replaced_log(seed: Path, work: Path, random: Random) -> list[str]:
    """The log deleted, replaced or emptied while tries are written: what was told committed is in it, or was kept."""
    folder = _copy(seed, work)
    path, tries = folder / "practice.db", tries_of("sounding-s", SPOT, ["hit"] * 12)
    shutil.copy2(path, work / "older.db")
    log, told, refused = open_log(folder, "practice.db"), set[str](), 0
    at = random.randrange(12)
    for number, one in enumerate(tries):
        if number == at:
            way = random.randrange(4)
            if way == 0:
                path.unlink()
            elif way == 1:
                (work / "older.db").replace(path)
            elif way == 2:
                path.rename(work / "moved.db")
            else:
                shutil.copytree(folder, work / "next", ignore=shutil.ignore_patterns("*-wal", "*-shm"))
                folder.rename(work / "was")
                (work / "next").rename(folder)
        try:
            log.add(one)
            told.add(one.id)
        except StoreError:
            refused += 1
    kept = {one.id for one in log.added}
    log.close()
    wrong = [] if refused == 12 - at else [f"{refused} of {12 - at} tries were refused"]
    if path.exists():
        there = {one.id for one in read_practice(folder, "practice.db").tries}
        wrong += [] if told <= kept | there else ["a try that was told committed is nowhere"]
    return wrong + ([] if told <= kept else ["a committed try is not among what is kept"])


def editor_races(seed: Path, work: Path, random: Random) -> list[str]:
    """An editor saves the same file while Glimber does: the last save of each is in the file or in backups/."""
    folder = _copy(seed, work)
    path = folder / "programs" / "shoalwright.toml"
    stop, saved = threading.Event(), list[bytes]()

    def edit() -> None:
        number = 0
        while not stop.is_set():
            number += 1
            text = path.read_bytes() if path.exists() else b""
            text = text.rstrip(b"\n") + f"\n# editor {number}\n".encode()
            if random.random() < 0.5:
                path.with_name("editor.tmp").write_bytes(text)
                path.with_name("editor.tmp").replace(path)
            else:
                path.write_bytes(text)
            saved.append(f"# editor {number}\n".encode())
            stop.wait(random.uniform(0.0, 0.02))

    thread = threading.Thread(target=edit)
    thread.start()
    mine = 0
    try:
        for number in range(12):
            try:
                opened = open_folio(folder)
                save_folio(opened, edit_command(opened.folio, "shoalwright/lead-line", label=f"Lead {number}"), NOON)
                mine += 1
            except (ChangedOnDisk, FolioError):
                time.sleep(0.005)
    finally:
        stop.set()
        thread.join()
    tidy(folder)
    left = [one.name for one in folder.rglob(".saving*")]
    return [f"left {left}"] if left else []


def two_writers(seed: Path, work: Path, random: Random) -> list[str]:
    """Two processes change different bindings at once: no change is told that is not there."""
    folder = _copy(seed, work)
    jobs = [
        subprocess.Popen([sys.executable, "-m", "glimber", "change", str(folder), id, "--to", f"split-42:draw:{key}:tap", "--why",
                          "soak"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        for id, key in (("sounding-s", "KeyH"), ("range-d", "KeyJ"))
    ]  # fmt: skip
    done = [job.wait() == 0 for job in jobs]
    folio = open_folio(folder).folio
    there = [
        str(folio.bindings[id].trigger).split(":")[2] == key
        for id, key in (("sounding-s", "KeyH"), ("range-d", "KeyJ"))
    ]
    noted = {one.binding for one in read_practice(folder, "practice.db").changes}
    wanted = {id for id, ok in zip(("sounding-s", "range-d"), there, strict=True) if ok}
    return [] if done == there and noted == wanted else [f"told {done}, there {there}, noted {sorted(noted)}"]


def packs(seed: Path, work: Path, random: Random) -> list[str]:
    """A pack with letters changed: laid out whole, or nothing of it is there."""
    shutil.rmtree(work, ignore_errors=True)
    work.mkdir(parents=True)
    data = bytearray(pack_bytes(seed, b'{"kind": []}\nnot json\n'))
    for _ in range(random.randint(0, 4)):
        data[random.randrange(len(data))] = random.randrange(256)
    if random.random() < 0.2:
        del data[random.randrange(len(data)) :]
    try:
        unpack(bytes(data), work / "there" / "office")
        open_folio(work / "there" / "office")
    except (StoreError, FolioError):
        left = sorted(path.name for path in work.iterdir())
        return [f"left {left}"] if left else []
    return []


def sources(seed: Path, work: Path, random: Random) -> list[str]:
    """A list of shortcuts with letters changed, under every reader: rows or problems, soon."""
    text = mutated(random.choice(list(FILES.values())) + "| Save | Ctrl+S |\n|---|---|\n<kbd>⌘+</kbd> - Zoom\n", random)
    data = text.encode("utf-8", "surrogatepass")
    if random.random() < 0.3:
        data = bytes(random.randrange(256) for _ in range(random.randrange(4000)))
    kind = random.choice([one for one in kinds() if one != "spreadsheet"])
    began = time.process_time()
    found = read(kind, data)
    took = time.process_time() - began
    failed = [problem.text for problem in found.problems if problem.text.startswith("could not be read as")]
    return failed + ([f"{kind} took {took:.0f} s"] if took > 10 else [])


def drawings(seed: Path, work: Path, random: Random) -> list[str]:
    """A drawing with letters changed: taken or refused, soon."""
    shapes = "".join(
        f'<g transform="rotate({n})"><use href="#a{n - 1}"/><rect id="a{n}" width="{n}"/></g>' for n in range(9)
    )
    text = mutated(f'<svg xmlns="http://www.w3.org/2000/svg">\n{shapes}\n</svg>', random)
    began = time.process_time()
    with contextlib.suppress(SvgError):
        safe_svg(text.encode("utf-8", "surrogatepass"))
    return ["took long"] if time.process_time() - began > 5 else []


def killed_rounds(seed: Path, work: Path, random: Random) -> list[str]:
    """A process that commits tries, killed at any moment: every try that it told is in the log."""
    folder = _copy(seed, work)
    code = (
        "import sys; from pathlib import Path; from glimber.store.practice.log import open_log; "
        "from tests.helpers import tries_of\n"
        f"with open_log(Path({str(folder)!r}), 'practice.db') as log:\n"
        f"    for one in tries_of('sounding-s', {SPOT!r}, ['hit'] * 5000):\n        log.add(one); print(one.id, flush=True)\n"
    )
    process = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    first = process.stdout.readline()
    time.sleep(random.uniform(0, 0.3))
    process.kill()
    rest, _ = process.communicate()
    told = {line for line in (first + rest).split("\n")[:-1] if line}
    kept = {one.id for one in read_practice(folder, "practice.db").tries}
    return [] if told <= kept else [f"{len(told - kept)} of {len(told)} tries are lost"]


CLASSES: dict[str, tuple[int, Class]] = {
    "kills in saves": (120, killed_saves), "kills in rounds": (100, killed_rounds), "full disk": (100, full_disk),
    "locked log": (40, locked_log), "replaced log": (300, replaced_log), "editor races": (60, editor_races),
    "two writers": (40, two_writers), "packs": (600, packs), "sources": (2500, sources), "drawings": (2000, drawings),
}  # fmt: skip
"""How often each is tried in a whole soak."""
