"""Classes of a soak in which somebody else does harm: a server in trouble, packs and lists made to, passwords, a kill while
changes are set. Each is one try: what went wrong, in words, or nothing."""

from __future__ import annotations

import atexit
import os
import resource
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from functools import cache
from pathlib import Path
from random import Random

import sqlalchemy as sa
from msgspec.structs import replace
from tests.helpers import FOLIO, NOON, tries_of, write_folio
from tests.memory import finds, one_after_another
from tests.server import Server, running
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.core.practice.tries import Change, Try
from glimber.readers.process import LEAST_SECONDS, read_apart
from glimber.store.agreements import unagreed
from glimber.store.faults import StoreError
from glimber.store.inplace import setting
from glimber.store.inplace.records import records_folder
from glimber.store.pack import pack_bytes, unpack
from glimber.store.practice.grants import grants
from glimber.store.practice.jsonl import to_json
from glimber.store.practice.location import confirm_server
from glimber.store.practice.log import Log, merge, open_log, read_practice
from glimber.store.practice.server_address import server_url, shown_address, without_password
from glimber.store.practice.waiting_file import WaitingFile
from glimber.store.system.device import RECORD
from glimber.store.work import running as counting

SPOT = "split-42:draw:KeyS:tap"
SECRET = "h4rb0ur-l1ght"
_ADD = """
import sys
from pathlib import Path
from glimber.store.faults import StoreError
from glimber.store.practice.waiting_file import WaitingFile
from tests.helpers import tries_of
for one in tries_of("sounding-s", "F3", ["hit"] * 400)[int(sys.argv[2])::2]:
    WaitingFile(Path(sys.argv[1])).add([one])
    print(one.id, flush=True)
"""


def _clean(work: Path) -> Path:
    shutil.rmtree(work, ignore_errors=True)
    work.mkdir(parents=True)
    return work


class _Breaks:
    """A log whose connection is lost after some of its commits, as a server's is."""

    def __init__(self, log: Log, random: Random) -> None:
        self._log, self._random = log, random
        self.ids = log.ids

    def write(self, *records: object) -> None:
        if self._random.random() < 0.3:
            raise StoreError("the connection was lost before the commit")
        self._log.write(*records)  # type: ignore[arg-type]
        if self._random.random() < 0.3:
            raise StoreError("the connection was lost after the commit")


def waiting_tries(seed: Path, work: Path, random: Random) -> list[str]:
    """Two processes add what waits for a server, one is killed, a third delivers over a connection that breaks: every try that
    was told is in the log, once."""
    folder = _clean(work)
    waiting = WaitingFile(folder / "waiting.jsonl")
    adding = [subprocess.Popen([sys.executable, "-c", _ADD, str(waiting.path), str(nth)], stdout=subprocess.PIPE, text=True)
              for nth in range(2)]  # fmt: skip
    told: set[str] = set()
    threads = [threading.Thread(target=lambda pipe=one.stdout: told.update(line.strip() for line in pipe if line.endswith("\n")))
               for one in adding]  # fmt: skip
    for thread in threads:
        thread.start()
    kill = threading.Timer(random.uniform(0.2, 1.2), adding[0].kill)
    kill.start()
    with open_log(folder, "practice.db") as log:
        breaks = _Breaks(log, random)
        while any(one.poll() is None for one in adding) or not waiting.is_empty:
            try:
                waiting.deliver(breaks)  # type: ignore[arg-type]
            except StoreError:
                time.sleep(0.002)
        for thread, process in zip(threads, adding, strict=True):
            thread.join()
            process.communicate()
        kill.cancel()
        ids = [one.id for one in log.records(Try)]
    lost = told - set(ids)
    return [f"{len(lost)} of {len(told)} tries are lost"] * bool(lost) + ["a try is there twice"] * (len(ids) != len(set(ids)))


def full_waiting_disk(seed: Path, work: Path, random: Random) -> list[str]:
    """What waits on a disk that fills: what was refused is refused whole, everything told is delivered."""
    waiting = WaitingFile(_clean(work) / "waiting.jsonl")
    told: set[str] = set()
    before = resource.getrlimit(resource.RLIMIT_FSIZE)
    handler = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    try:
        for one in tries_of("sounding-s", "F3", ["hit"] * 30):
            size = waiting.path.stat().st_size if waiting.path.exists() else 0
            most = size + random.choice((0, 7, 60, 250, 400, 100_000))
            resource.setrlimit(resource.RLIMIT_FSIZE, (most, before[1]))
            try:
                waiting.add([one])
                told.add(one.id)
            except StoreError:
                pass
            finally:
                resource.setrlimit(resource.RLIMIT_FSIZE, before)
    finally:
        signal.signal(signal.SIGXFSZ, handler)
    with open_log(work, "practice.db") as log:
        unreadable = waiting.deliver(log).unreadable
        there = {one.id for one in log.records(Try)}
    return [] if there == told and not unreadable else [f"told {len(told)}, there {len(there)}, unreadable {unreadable}"]


@cache
def _server() -> Server:
    stack = ExitStack()
    atexit.register(stack.close)
    return stack.enter_context(contextmanager(running)())


@contextmanager
def _roles() -> Iterator[dict[str, str]]:
    """Two roles that keep their practice on a server made anew, with the address of each."""
    url = _server().url
    engine = sa.create_engine(url, poolclass=sa.NullPool)
    confirm_server(url)
    with engine.begin() as connection:
        connection.exec_driver_sql("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
        for role in ("ada", "ben"):
            connection.exec_driver_sql(f"DROP ROLE IF EXISTS {role}; CREATE ROLE {role} LOGIN")
    with open_log(Path(), url):
        pass
    with engine.begin() as connection:
        for statement in (one for role in ("ada", "ben") for one in grants(role)):
            connection.exec_driver_sql(statement)
    found = {role: url.replace("//office@", f"//{role}@") for role in ("ada", "ben")}
    for address in found.values():
        confirm_server(address)
    try:
        yield found
    finally:
        with engine.begin() as connection:
            connection.exec_driver_sql("DROP OWNED BY ada; DROP ROLE ada; DROP OWNED BY ben; DROP ROLE ben")
        engine.dispose()


def server_trouble(seed: Path, work: Path, random: Random) -> list[str]:
    """A table that is held, connections that are ended, a server that stops: each write is told within the limits, and a try
    that was told committed is there once the server is back."""
    server, folder, told, wrong = _server(), _clean(work), set[str](), list[str]()
    with _roles() as urls:
        try:
            log = open_log(folder, urls["ada"])
        except StoreError as error:
            return [f"the log does not open: {error}"]
        engine = sa.create_engine(server.url, poolclass=sa.NullPool)
        with log, engine.connect() as other:
            way = random.choice(("held", "ended", "stopped"))
            for number, one in enumerate(tries_of("range-d", "F2", ["hit"] * 4)):
                if number == 2 and way == "held":
                    other.exec_driver_sql("LOCK TABLE tries IN ACCESS EXCLUSIVE MODE")
                elif number == 2 and way == "ended":
                    other.exec_driver_sql("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE usename = 'ada'")
                elif number == 2:
                    server.stop()
                began = time.monotonic()
                try:
                    log.add(one)
                    told.add(one.id)
                except StoreError:
                    pass
                if time.monotonic() - began > 15:
                    wrong.append(f"{way}: a write took {time.monotonic() - began:.0f} s")
            if way == "held":
                other.rollback()
            elif way == "stopped":
                server.start()
        engine.dispose()
        with open_log(folder, urls["ada"]) as log:
            there = {one.id for one in log.records(Try)}
    return wrong + [f"{way}: {len(told - there)} tries are lost"] * bool(told - there)


def other_roles(seed: Path, work: Path, random: Random) -> list[str]:
    """Statements made at random by one role: no row of another is read, altered, forged or deleted by them."""
    folder = _clean(work)
    with _roles() as urls:
        with open_log(folder, urls["ada"]) as log:
            log.add(*(replace(one, id=f"ada-{n}") for n, one in enumerate(tries_of("range-d", "F2", ["hit"] * 5))))
            log.add(Change("ada-x", NOON, "bridge", "range-d", "missed", "c", "F2"))
            before = [to_json(one) for kind in (Try, Change) for one in log.records(kind)]
        engine, seen = sa.create_engine(urls["ben"]), 0
        for _ in range(30):
            table = random.choice(("tries", "rounds", "changes", "events", "people", "ticks"))
            column = random.choice(("id", "owner", "computer", "binding", "verdict", "applied"))
            verb = random.choice(("SELECT {c} FROM {t}", "UPDATE {t} SET {c} = 'ben'", "DELETE FROM {t}", "TRUNCATE {t}",
                                  "SELECT {c} FROM {t} FOR UPDATE", "INSERT INTO {t} (owner) VALUES ('ada')"))  # fmt: skip
            try:
                with engine.begin() as connection:
                    result = connection.exec_driver_sql(verb.format(c=column, t=table))
                    seen += len(result.fetchall()) if result.returns_rows else max(0, result.rowcount)
            except (sa.exc.SQLAlchemyError, UnicodeError):
                continue
        engine.dispose()
        with open_log(folder, urls["ada"]) as log:
            after = [to_json(one) for kind in (Try, Change) for one in log.records(kind)]
    return [f"{seen} rows of another were reached"] * bool(seen) + ["rows of another were altered"] * (before != after)


def passwords(seed: Path, work: Path, random: Random) -> list[str]:
    """A server's address with a password in one of its parts: it is in no file, message or listing afterwards."""
    folder = _clean(work) / "office"
    shutil.copytree(seed, folder)
    user = random.choice(("office", "ada%40port", "o"))
    host = random.choice(("localhost:1", "127.0.0.1:1", "[::1]:1", "db.example:1"))
    address = random.choice((
        f"postgresql+psycopg://{user}:{SECRET}@{host}/log", f"postgresql+psycopg://{user}@{host}/log?password={SECRET}",
        f"postgresql+psycopg://{host}/log?user={user}&password={SECRET}&sslmode=require",
        f"postgresql+psycopg://{user}:{SECRET}@{host}/log?sslpassword={SECRET}",
    ))  # fmt: skip
    text = (folder / "folio.toml").read_text()
    (folder / "folio.toml").write_text(text.replace('log = "practice.db"', f'log = "{address}"'))
    wrong = []
    place = str(folder)
    for arguments in (["check", place], ["weigh", place], ["list", place, "--json"], ["confirm-log", place], ["plan", place],
                      ["pack", place, str(work / "p.glimber")], ["log", "grant", place, "ada", "--apply"],
                      ["change", place, "range-d", "--to", "F9", "--why", "x"]):  # fmt: skip
        done = CliRunner().invoke(app, arguments)
        wrong += [f"{arguments[0]} says the password"] * (SECRET in done.output + done.stderr + repr(done.exception))
        wrong += [f"{arguments[0]}: {done.exception!r}"] * (done.exit_code not in (0, 2) and arguments[0] != "check")
    if SECRET in shown_address(server_url(address)) or SECRET in without_password(f"cannot reach {address} now"):
        wrong.append("an address is shown with its password")
    home = Path(os.environ["HOME"])
    wrong += [f"it is in {path}" for path in home.rglob("*") if path.is_file() and path != folder / "folio.toml"
              and SECRET.encode() in path.read_bytes()]  # fmt: skip
    return wrong


def strangers_packs(seed: Path, work: Path, random: Random) -> list[str]:
    """A pack whose sources lead out of its folder and whose changes wait: setting it writes nothing there."""
    _clean(work)
    outside = work / "mine" / random.choice(("keys.conf", ".config/shoal.conf", "ünter/keys.csv"))
    outside.parent.mkdir(parents=True)
    outside.write_text("Command;Keys\nHome view;F5\nAdd sounding;Ctrl+Shift+S\n")
    before = outside.read_bytes()
    theirs = write_folio(work / "theirs")
    way = random.choice(("absolute", "up"))
    path = {"absolute": str(outside), "up": os.path.relpath(outside, work / "taken")}[way]
    source = f'\n[sources.k]\npath = "{path}"\nprogram = "shoalwright"\n'
    if random.random() < 0.3:
        source += '\n[sources.l]\nsystem = "line-editor"\n'
    (theirs / "folio.toml").write_text((theirs / "folio.toml").read_text() + source)
    change = Change("0190-c", NOON, "bridge", "add-sounding", "rebind", "shoalwright/add-sounding", "Ctrl+Shift+S", "F6", "x")
    unpack(pack_bytes(theirs, f"{to_json(change)}\n".encode()), work / "taken")
    CliRunner().invoke(app, ["change", str(work / "taken"), "add-sounding", "--to", "F7", "--why", "x"])
    done = CliRunner().invoke(app, ["set", str(work / "taken"), "--yes", "--json"])
    wrong = [f"{way}: a place of mine was written"] * (outside.read_bytes() != before)
    wrong += [f"{way}: nothing is asked about"] * (not unagreed(work / "taken"))
    return wrong + [f"status {done.exit_code}: {done.exception!r}"] * (done.exit_code not in (0, 2))


def endless_lists(seed: Path, work: Path, random: Random) -> list[str]:
    """A list made so that its reader does not end, or takes all memory: a problem within the limits."""
    wide, deep = random.randint(6, 12), random.randint(6, 12)
    aliases = "a0: &a0 [x]\n" + "".join(f"a{n}: &a{n} [{', '.join([f'*a{n - 1}'] * wide)}]\n" for n in range(1, deep))
    name, data = random.choice((
        ("k.yaml", aliases + f"Save: *a{deep - 1}\n"), ("k.toml", ".".join("a" * random.randint(5_000, 60_000)) + " = 1\n"),
        ("k.json", '{"Save": ' + "9" * random.randint(10**5, 3 * 10**6) + "}"),
        ("k.conf", "{" * random.randint(10**5, 7 * 10**6)),
        ("k.xml", "<a " + " ".join(f'b{n}="c"' for n in range(random.randint(5_000, 60_000))) + "/>"),
        ("k.html", "<table>" * random.randint(1_000, 90_000)), ("k.md", "| a " * random.randint(10**4, 10**6)),
        ("k.json", "[" * random.randint(10**4, 10**6)),
    ))  # fmt: skip
    began, before = time.monotonic(), resource.getrusage(resource.RUSAGE_CHILDREN)
    found = read_apart(name, data.encode()).found
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    used = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    wrong = [f"{name} of {len(data)} took {used:.0f} s"] * (used > LEAST_SECONDS + 4 * len(data) / 1e6 + 3)
    wrong += [f"{name} of {len(data)} waited {time.monotonic() - began:.0f} s"] * (time.monotonic() - began > 240)
    return wrong + [f"{name}: silent"] * (not found.rows and not found.problems and not found.not_bindings)


_SET = """
import sys
from glimber.cli.main import main
sys.argv = ["glimber", "set", sys.argv[1], "--yes", "--json"]
main()
"""


def killed_setting(seed: Path, work: Path, random: Random) -> list[str]:
    """Changes set in two places, killed at any moment: after the next start both are set or neither, and nothing is left."""
    _clean(work)
    sources = "".join(f'\n[sources.s{n}]\npath = "{work}/place{n}/keys.csv"\nprogram = "shoalwright"\n' for n in range(2))
    folder = write_folio(work / "office", {"folio.toml": FOLIO + '\n[bundles]\nCrown = ["Ctrl", "Alt", "Super"]\n' + sources})
    old = "Command;Keys\n" + "".join(f"Sheet {n};Ctrl+K F{n % 24 + 1}\n" for n in range(400)) + "Add sounding;Ctrl+Shift+S\n"
    for n in range(2):
        (work / f"place{n}").mkdir()
        (work / f"place{n}" / "keys.csv").write_text(old)
    shutil.rmtree(records_folder(), ignore_errors=True)
    CliRunner().invoke(app, ["change", str(folder), "add-sounding", "--to", "Ctrl+Alt+S", "--why", "x"])
    process = subprocess.Popen([sys.executable, "-c", _SET, str(folder)], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    end = time.monotonic() + 60  # most of a start is before the first byte is written: the kill waits for that
    while process.poll() is None and not records_folder().is_dir() and time.monotonic() < end:
        time.sleep(0.0005)
    time.sleep(random.uniform(0, 0.03))
    process.kill()
    process.wait()
    setting.recover()
    new = old.replace("Ctrl+Shift+S", "Ctrl+Alt+S")
    texts = [(work / f"place{n}" / "keys.csv").read_text() for n in range(2)]
    left = [path.name for n in range(2) for path in (work / f"place{n}").iterdir() if path.name != "keys.csv"]
    wrong = [f"left {left}"] * bool(left) + ["one place is set and the other is not"] * (texts not in ([old, old], [new, new]))
    ticked = any(one.applied is not None for one in read_practice(folder, "practice.db").changes)
    return wrong + ["ticked off and not set"] * (ticked and texts == [old, old])


def typed_memory(seed: Path, work: Path, random: Random) -> list[str]:
    """A word typed on a device that is counted: its keys are nowhere in the memory of that process, nor in any file."""
    folder = _clean(work) / "office"
    shutil.copytree(seed, folder)
    pipe = work / "event7"
    os.mkfifo(pipe)
    display = os.environ.pop("DISPLAY", None)
    hand = os.open(pipe, os.O_RDWR)
    word = random.sample(range(16, 26), 4) + random.sample(range(30, 38), 4)
    counting.begin(folder, pipe)
    try:
        process = counting.process_of(folder)
        assert process is not None
        for number, down in ((n, d) for n in word for d in (1, 0)):
            os.write(hand, RECORD.pack(random.randrange(9999), 0, 1, number, down))
        events = one_after_another([RECORD.pack(0, 0, 1, number, 1)[16:] for number in word])
        end = time.monotonic() + 10
        while (left := finds(process, events)) and time.monotonic() < end:
            time.sleep(0.05)
        time.sleep(0.2)
        return [f"found at {left} places"] * bool(left or finds(process, events))
    finally:
        counting.end(folder)
        os.close(hand)
        if display is not None:
            os.environ["DISPLAY"] = display


def merged_twice(seed: Path, work: Path, random: Random) -> list[str]:
    """One person's file merged into a server's log in parts, several times over: each record is there once."""
    folder, tries = _clean(work), tries_of("range-d", "F2", ["hit"] * 20)
    with _roles() as urls, open_log(folder, urls["ada"]) as log:
        for _ in range(6):
            merge(log, random.sample(tries, random.randint(1, 20)))
        merge(log, tries)
        ids = [one.id for one in log.records(Try)]
    return [] if sorted(ids) == sorted(one.id for one in tries) else [f"{len(ids)} records of {len(tries)}"]


Class = Callable[[Path, Path, Random], list[str]]
STRANGERS: dict[str, tuple[int, Class]] = {
    "waiting tries": (60, waiting_tries), "waiting disk": (200, full_waiting_disk), "server trouble": (30, server_trouble),
    "other roles": (60, other_roles), "passwords": (40, passwords), "strangers' packs": (60, strangers_packs),
    "endless lists": (60, endless_lists), "kills while setting": (80, killed_setting), "typed memory": (10, typed_memory),
    "merged twice": (30, merged_twice),
}  # fmt: skip
"""How often each is tried in a whole soak."""
