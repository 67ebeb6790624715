"""Files read with care and put in place whole, with a dated copy of what was there. Nothing here knows TOML.

A file is replaced by exchanging it with the new one (``renameat2``), so that what was there a moment before is still at hand:
a save of an editor in that very moment is found, and neither is lost.
"""

from __future__ import annotations

import contextlib
import errno
import os
import shutil
import stat
from collections.abc import Iterator
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import BinaryIO, Final

from glimber.store.faults import StoreError

LARGEST: Final = 20_000_000
"""Bytes of the largest file that is read."""
SAVING: Final = ".saving-"
_AT_FDCWD: Final = -100
_NO_REPLACE: Final = 1
_EXCHANGE: Final = 2
_NOT_THERE: Final = (errno.ENOSYS, errno.EPERM, errno.EINVAL, errno.EOPNOTSUPP)


def read_file(path: Path, largest: int = LARGEST) -> bytes:
    """Return the bytes of a regular file, opened without waiting for anybody. Raises FileNotFoundError, StoreError.

    A pipe, a device or a folder is refused, and so is a file of more than ``largest`` bytes.
    """
    with _opened(path, largest) as file:
        data = file.read(largest + 1)
    if len(data) > largest:
        raise _too_large(path, largest)
    return data


@contextlib.contextmanager
def _opened(path: Path, largest: int) -> Iterator[BinaryIO]:
    """Open a file as ``read_file`` does. Its errors while it is read are raised as StoreError too."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC | os.O_NOCTTY)
    except FileNotFoundError:
        raise
    except (OSError, ValueError) as error:
        raise StoreError(f"{path}: cannot be read ({getattr(error, 'strerror', None) or error})") from error
    try:
        found = os.fstat(handle)
        if not stat.S_ISREG(found.st_mode):
            raise StoreError(f"{path}: not a file (a pipe, a device or a folder); expected a regular file")
        if found.st_size > largest:
            raise _too_large(path, largest)
        with os.fdopen(handle, "rb", closefd=False) as file:
            yield file
    except OSError as error:
        raise StoreError(f"{path}: cannot be read ({error.strerror})") from error
    finally:
        os.close(handle)


def _too_large(path: Path, largest: int) -> StoreError:
    return StoreError(f"{path}: larger than {largest / 1e6:.0f} MB; expected a smaller file")


def lines_given(path: Path, largest: int) -> Iterator[bytes]:
    """Yield the lines of a file that a person named, one after another, checked as ``read_given`` does. Raises StoreError."""
    try:
        with _opened(path, largest) as file:
            yield from file
    except FileNotFoundError as error:
        raise StoreError(f"{path}: cannot be read ({error.strerror})") from error


def read_given(path: Path, largest: int = LARGEST) -> bytes:
    """As ``read_file``, of a file that a person named: a missing one is reported as well. Raises StoreError."""
    try:
        return read_file(path, largest)
    except FileNotFoundError as error:
        raise StoreError(f"{path}: cannot be read ({error.strerror})") from error


def read_if_there(path: Path) -> bytes | None:
    """As ``read_file``; None where there is no such file."""
    try:
        return read_file(path)
    except FileNotFoundError:
        return None


def expanded(text: str) -> Path:
    """Return a path as a person wrote it, ``~`` and all. Raises StoreError for the home of somebody who is not there."""
    try:
        return Path(text).expanduser()
    except RuntimeError as error:
        raise StoreError(f"{text}: there is no such home folder") from error


@contextlib.contextmanager
def _telling(path: Path) -> Iterator[None]:
    try:
        yield
    except OSError as error:
        raise StoreError(f"{path}: cannot be written ({error.strerror}); nothing was changed there") from error


def real(path: Path) -> Path:
    """Return the file itself: links are followed, so that writing does not put a file in a link's place."""
    return Path(os.path.realpath(path))


def new_beside(path: Path, data: bytes, mode: int | None = None) -> Path:
    """Return the data in a file of its own beside ``path``, on disk, with the mode that ``path`` has or a new file gets."""
    target = real(path)
    target.parent.mkdir(parents=True, exist_ok=True)
    import tempfile

    handle, name = tempfile.mkstemp(prefix=f"{SAVING}{os.uname().nodename}.{os.getpid()}-", dir=target.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            with _where_there_is_such():
                os.fchmod(handle, _mode_of(target) if mode is None else mode)
            os.fsync(handle)
    except BaseException:
        with contextlib.suppress(OSError):
            Path(name).unlink()
        raise
    return Path(name)


def set_mode(path: Path, mode: int) -> None:
    """Give a file or folder a mode, where its file system has modes. Raises OSError."""
    with _where_there_is_such():
        path.chmod(mode)


@contextlib.contextmanager
def _where_there_is_such() -> Iterator[None]:
    """Pass over what a file system such as FAT does not have: modes, links."""
    try:
        yield
    except OSError as error:
        if error.errno not in _NOT_THERE:
            raise


def _mode_of(path: Path) -> int:
    return path.stat().st_mode & 0o7777 if path.exists() else 0o666 & ~_umask()


@cache
def _umask() -> int:
    """Return the process's mask, without setting it for a moment, which another thread would see."""
    with Path("/proc/self/status").open(encoding="ascii", errors="replace") as status:
        for line in status:
            if line.startswith("Umask:"):
                return int(line.split()[1], 8)
    return 0o022


def write_atomically(path: Path, data: bytes, mode: int | None = None) -> None:
    """Replace a file so that at any moment either the old or the new one is whole. Raises StoreError."""
    temporary = None
    with _telling(path):
        try:
            temporary = new_beside(path, data, mode)
            temporary.replace(real(path))
            sync_folder(real(path).parent)
        except OSError:
            if temporary is not None:
                with contextlib.suppress(OSError):
                    temporary.unlink()
            raise


def replace_if_unchanged(path: Path, before: bytes, data: bytes) -> None:
    """Replace a file that still has the bytes ``before``; empty means that it may not be there yet.

    Links are followed, and a file with several names keeps them. Raises StoreError where somebody else changed it, up to the
    very moment; then theirs stays.
    """
    target, temporary = real(path), None
    changed = StoreError(f"{path}: was changed by somebody else meanwhile; nothing was set there")
    if (read_if_there(target) or b"") != before:
        raise changed
    with _telling(path):
        try:
            if target.exists() and target.stat().st_nlink > 1:
                _write_in_place(target, data)
                return
            temporary = new_beside(target, data)
            if not target.exists():
                try:
                    move_into_free_place(temporary, target)
                except FileExistsError as error:
                    raise changed from error
            elif exchange(temporary, target):
                # What was there a moment ago has the temporary name now: it is looked at once more, and goes back if it is new.
                if temporary.read_bytes() != before:
                    exchange(temporary, target)
                    raise changed
            else:
                temporary.replace(target)
            sync_folder(target.parent)
        finally:
            if temporary is not None:
                temporary.unlink(missing_ok=True)


def _write_in_place(target: Path, data: bytes) -> None:
    with target.open("r+b") as file:
        file.write(data)
        file.truncate()
        file.flush()
        os.fsync(file.fileno())


def sync_folder(folder: Path) -> None:
    """Names of a folder on disk. Raises OSError."""
    directory = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(directory)
    finally:
        os.close(directory)


def exchange(one: Path, other: Path) -> bool:
    """Return the two files change places in one moment. False where the file system cannot do that. Raises OSError."""
    return _rename(one, other, _EXCHANGE)


def move_into_free_place(source: Path, target: Path) -> None:
    """Rename, but never over a file that is there. Raises FileExistsError, OSError."""
    if _rename(source, target, _NO_REPLACE):
        return
    with _where_there_is_such():
        os.link(source, target)
        source.unlink()
        return
    if target.exists():
        raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), str(target))
    source.rename(target)


def exchange_in_steps(beside: Path, target: Path) -> None:
    """Exchange two files where the file system cannot do so in one moment: ``target`` is one or the other at any time, and the
    old one is kept under a second name while the new one moves in. Raises OSError."""
    kept = beside.with_name(f"{beside.name}-old")
    try:
        os.link(target, kept)
    except OSError as error:
        if error.errno not in _NOT_THERE:
            raise
        shutil.copyfile(target, kept)
        with kept.open("rb") as file:
            os.fsync(file.fileno())
    beside.replace(target)
    kept.replace(beside)


def _rename(source: Path, target: Path, flags: int) -> bool:
    import ctypes

    call = getattr(ctypes.CDLL(None, use_errno=True), "renameat2", None)
    if call is None:
        return False
    if call(_AT_FDCWD, os.fsencode(source), _AT_FDCWD, os.fsencode(target), flags) == 0:
        return True
    number = ctypes.get_errno()
    if number in (errno.ENOSYS, errno.EINVAL, errno.EOPNOTSUPP):
        return False
    raise OSError(number, os.strerror(number), str(target))


def stamp_of(now: datetime) -> str:
    """Return a moment as the names of copies begin with it."""
    return now.strftime("%Y-%m-%d-%H%M%S")


def backup_path(folder: Path, what: str, now: datetime) -> Path:
    """Return a free name in backups/ for a copy made now."""
    stamp, name = stamp_of(now), what.replace("/", "-")
    target, number = folder / "backups" / f"{stamp}-{name}", 1
    while target.exists():
        number += 1
        target = target.with_name(f"{stamp}-{number}-{name}")
    return target


def sweep(folder: Path) -> None:
    """Take away what a save that was killed has left in a folder; what another process is writing just now stays."""
    with contextlib.suppress(OSError):
        for path in folder.iterdir():
            if path.name.startswith(SAVING) and not _being_written(path.name):
                with contextlib.suppress(OSError):
                    path.unlink()


def _being_written(name: str) -> bool:
    host, _, rest = name.removeprefix(SAVING).rpartition(".")
    pid = rest.partition("-")[0]
    if not pid.isdigit() or not host:
        return False
    return host != os.uname().nodename or int(pid) == os.getpid() or Path(f"/proc/{pid}").exists()
