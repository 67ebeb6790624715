"""Read foreign data in a process of its own, within limits of processor time and memory, that can be ended at any moment.

``python -m glimber.readers.process`` is that process: the request comes on standard input, the answer goes out on standard
output, and how many candidates were found so far on standard error.
"""

from __future__ import annotations

import contextlib
import resource
import signal
import subprocess
import sys
import threading
from collections.abc import Callable
from typing import IO, Final, Literal

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from glimber.core.notation.spelling import Ways
from glimber.readers.found import Found, Heading, NotBinding, Options, Problem, Row
from glimber.readers.parent import die_with_parent
from glimber.readers.registry import Chosen, choose, read
from glimber.readers.source_page import Block

LEAST_SECONDS: Final = 10
SECONDS_PER_MB: Final = 4
LEAST_MEMORY: Final = 1_000_000_000
MEMORY_PER_BYTE: Final = 30
_WATCHED_EVERY_S: Final = 0.05


class _Request(Struct, frozen=True):
    name: str
    data: bytes
    kind: str | None
    column: str | None
    comma: Literal["steps", "alternates"] | None
    capitals: bool | None
    page: bool
    system: str = "linux"
    bundles: dict[str, tuple[str, ...]] = {}


class _Answer(Struct, frozen=True):
    kind: str
    second: str | None
    rows: list[Row]
    not_bindings: list[NotBinding]
    problems: list[Problem]
    headings: list[Heading]
    columns: list[str]
    ways: Ways
    title: str
    candidates: int
    elsewhere: list[tuple[int, int]]
    page: list[Block]


def read_apart(name: str, data: bytes, options: Options = Options(), kind: str | None = None) -> Chosen:
    """Read a source as ``choose`` does, or as a ``kind``, in a process of its own.

    What takes more than the limits is a problem of the source. ``options.watch`` is called now and then; where it raises
    StoppedError the process is ended, and the error goes on.
    """
    request = _Request(name, data, kind, options.column, options.comma, options.capitals, options.page, options.system,
                       dict(options.bundles))  # fmt: skip
    command = [sys.executable, "-m", "glimber.readers.process"]
    child = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    out: list[bytes] = []
    counts = _Counts()
    assert child.stdin is not None and child.stdout is not None and child.stderr is not None
    threads = [
        threading.Thread(target=_give, args=(child.stdin, msgspec.msgpack.encode(request)), daemon=True),
        threading.Thread(target=lambda pipe=child.stdout: out.append(pipe.read()), daemon=True),
        threading.Thread(target=counts.follow, args=(child.stderr,), daemon=True),
    ]
    for thread in threads:
        thread.start()
    try:
        _wait(child, counts, options.watch)
    finally:
        if child.poll() is None:
            child.kill()
            child.wait()
        for thread in threads:
            thread.join()
        child.stdout.close()
        child.stderr.close()
    if child.returncode:
        return Chosen(kind or "text", Found().fail(_why_ended(child.returncode)))
    try:
        answer = msgspec.msgpack.decode(out[0], type=_Answer)
    except msgspec.MsgspecError as error:  # a reader's fault, of whoever it is: a problem of the source
        return Chosen(kind or "text", Found().fail(f"its reader gave an answer that is none ({error})"))
    found = Found(
        answer.rows, answer.not_bindings, answer.problems, answer.headings, answer.columns, answer.ways, answer.title,
        candidates=answer.candidates, elsewhere=answer.elsewhere, page=answer.page, own_system=options.system,
    )  # fmt: skip
    return Chosen(answer.kind, found, answer.second)


class _Counts:
    """The number of candidates the process has reported."""

    def __init__(self) -> None:
        self.newest = 0

    def follow(self, pipe: IO[bytes]) -> None:
        for line in pipe:
            with contextlib.suppress(ValueError):
                self.newest = int(line)


def _give(pipe: IO[bytes], data: bytes) -> None:
    with contextlib.suppress(OSError):
        pipe.write(data)
    with contextlib.suppress(OSError):
        pipe.close()


def _wait(child: subprocess.Popen[bytes], counts: _Counts, watch: Callable[[int], None] | None) -> None:
    while True:
        with contextlib.suppress(subprocess.TimeoutExpired):
            child.wait(_WATCHED_EVERY_S)
            return
        if watch is not None:
            watch(counts.newest)


def _why_ended(status: int) -> str:
    if status == -signal.SIGXCPU:
        return f"reading it takes more than {LEAST_SECONDS} s of processor time; expected a list of shortcuts"
    if status == -signal.SIGKILL:
        return "reading it was ended by the system; it may need more memory than there is"
    return "reading it needs more memory than a list of shortcuts could, or it is damaged"


# In the process


def main() -> None:
    """Answer the one request on standard input."""
    die_with_parent()
    request = msgspec.msgpack.decode(sys.stdin.buffer.read(), type=_Request)
    _limit(len(request.data))
    try:
        chosen = _read(request)
    except MemoryError:
        sys.exit(3)
    found = chosen.found
    answer = _Answer(chosen.kind, chosen.second, found.rows, found.not_bindings, found.problems, found.headings, found.columns,
                     found.ways, found.title, found.candidates, found.elsewhere, found.page)  # fmt: skip
    sys.stdout.buffer.write(msgspec.msgpack.encode(answer))


def _read(request: _Request) -> Chosen:
    def watch(count: int) -> None:
        sys.stderr.write(f"{count}\n")
        sys.stderr.flush()

    options = replace(Options(), column=request.column, watch=watch, comma=request.comma, capitals=request.capitals,
                      page=request.page, system=request.system, bundles=request.bundles)  # fmt: skip
    if request.kind is not None:
        return Chosen(request.kind, read(request.kind, request.data, options))
    return choose(request.name, request.data, options)


def _limit(size: int) -> None:
    seconds = LEAST_SECONDS + SECONDS_PER_MB * (size // 1_000_000)
    memory = LEAST_MEMORY + MEMORY_PER_BYTE * size
    _set(resource.RLIMIT_CPU, seconds, seconds + 1)
    _set(resource.RLIMIT_AS, memory, memory)
    _set(resource.RLIMIT_CORE, 0, 0)


def _set(what: int, soft: int, hard: int) -> None:
    """Set a limit, as far as a lower one of whoever started this process lets it."""
    _, most = resource.getrlimit(what)
    if most != resource.RLIM_INFINITY:
        soft, hard = min(soft, most), min(hard, most)
    resource.setrlimit(what, (soft, hard))


if __name__ == "__main__":
    main()
