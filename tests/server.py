"""A real PostgreSQL server for the tests: made in a folder of its own, heard on a socket there alone, stopped and started at will."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

NAME = "postgres"
"""The system's user that a server runs as where the tests run as root, which it refuses."""


def programs() -> Path | None:
    """Where the newest server's programs are; None where there is none."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[4]))
    on_path = shutil.which("initdb")
    return found[-1].parent if found else Path(on_path).parent if on_path else None


def running() -> Iterator[Server]:
    """A server as long as a fixture lasts."""
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        one = Server(Path(folder) / "s")
        yield one
        one.stop()


class Server:
    """One server; ``url`` is what folio.toml says."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.data = folder, folder / "data"
        self._bin = programs()
        folder.mkdir(parents=True, exist_ok=True)
        if os.getuid() == 0:
            user = pwd.getpwnam(NAME)
            os.chown(folder, user.pw_uid, user.pw_gid)
        self._run("initdb", "-D", str(self.data), "-A", "trust", "-U", "office", "--no-sync", "-E", "UTF8")
        self.start()

    @property
    def url(self) -> str:
        return f"postgresql+psycopg://office@/postgres?host={self.folder}&port=5499"

    def _run(self, program: str, *arguments: str) -> None:
        assert self._bin is not None
        as_user = ["setpriv", f"--reuid={NAME}", f"--regid={NAME}", "--clear-groups"] if os.getuid() == 0 else []
        done = subprocess.run([*as_user, str(self._bin / program), *arguments], capture_output=True, text=True, cwd=self.folder,
                              check=False, timeout=60)  # fmt: skip
        assert done.returncode == 0, done.stderr + done.stdout

    def start(self) -> None:
        """Start it, and wait until it answers."""
        told = f"-k {self.folder} -p 5499 -c listen_addresses='' -c fsync=off"
        self._run("pg_ctl", "-D", str(self.data), "-o", told, "-l", str(self.folder / "log"), "-w", "start")

    def stop(self) -> None:
        """Stop it at once, connections and all."""
        self._run("pg_ctl", "-D", str(self.data), "-m", "immediate", "-w", "stop")
