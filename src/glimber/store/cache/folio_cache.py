"""Values worked out from files, kept among the person's caches so that the next start has them at once.

A kept value is used only while the bytes it was worked out from, this version and its classes are the same. The folio is
kept as a pickle that may hold nothing but Glimber's own core values; anything else in it makes it as if it were not there.
"""

from __future__ import annotations

import io
import pickle
import sys
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from urllib.parse import quote, unquote

import glimber
from glimber.core.model import board, folio
from glimber.core.model.folio import Folio
from glimber.core.notation import keys, legend
from glimber.store.faults import StoreError
from glimber.store.folder import JOURNAL, Opened, folio_files

_VALUES = {module.__name__ for module in (folio, board, keys, legend)}
_LONGEST = 200


def cache_file(name: str) -> Path:
    """Return a file among the person's caches."""
    from platformdirs import user_cache_path

    return user_cache_path("glimber") / name


def of_folder(folder: Path) -> str:
    """Return what tells a folder's caches from another's: its place, as far as a name of a file may be as long."""
    place = quote(str(folder.resolve()), safe="")
    if len(place) <= _LONGEST:
        return place
    from hashlib import sha256  # not otherwise: it loads a library of ciphers, before the first frame

    return sha256(place.encode()).hexdigest()


def open_quickly(folder: Path) -> Opened:
    """As ``open_folio``, from the kept value where the files are still the same. Raises FolioError, StoreError.

    Broken references leave the rest usable: they are among the ``faults`` of what is opened.
    """
    if (folder / JOURNAL).exists():
        from glimber.store.saving import recover

        recover(folder)
    files = folio_files(folder)
    found = _load(folder, files)
    if found is not None:
        return Opened(found, folder, files)
    from glimber.store.toml.reading import read_files

    return read_files(folder, files, lenient=True)


def keep(opened: Opened) -> None:
    """Keep a folio for the next start, and nothing of folders that are gone; a cache that cannot be written is only slower."""
    from glimber.store.files import write_atomically

    if opened.faults:
        return
    _sweep()
    try:
        write_atomically(_file(opened.folder), _basis(opened.texts) + pickle.dumps(opened.folio, protocol=5))
    except (StoreError, pickle.PicklingError):
        return


def _sweep() -> None:
    with suppress(OSError):
        for file in cache_file(".").glob("*-%2F*"):
            place = unquote(file.stem.partition("-")[2])
            if not Path(place).is_dir():
                file.unlink(missing_ok=True)


def _file(folder: Path) -> Path:
    return cache_file(f"folio-{of_folder(folder)}.bin")


def _basis(files: Mapping[str, bytes]) -> bytes:
    """Return everything a kept folio depends on, one after the other with its length."""
    states = [Path(module.__file__ or "").stat() for module in (folio, board, keys, legend)]
    made_by = f"{glimber.__version__} {sys.version_info[:2]} {[(one.st_size, one.st_mtime_ns) for one in states]}"
    parts = [made_by.encode(), *(part for name, data in sorted(files.items()) for part in (name.encode(), data))]
    whole = b"".join(b"%d:%s" % (len(part), part) for part in parts)
    return b"%d:%s" % (len(whole), whole)


class _CoreOnly(pickle.Unpickler):
    def find_class(self, module: str, name: str) -> object:
        if module in _VALUES and "." not in name:
            found = super().find_class(module, name)
            if isinstance(found, type) and found.__module__ == module:
                return found
        raise pickle.UnpicklingError(f"{module}.{name} is no value of a folio")


def _load(folder: Path, files: Mapping[str, bytes]) -> Folio | None:
    try:
        data = _file(folder).read_bytes()
        basis = _basis(files)
        if not data.startswith(basis):
            return None
        found = _CoreOnly(io.BytesIO(data[len(basis) :])).load()
    except Exception:  # a damaged cache may fail in any way, and must only be slower
        return None
    return found if isinstance(found, Folio) else None
