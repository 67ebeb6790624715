"""Commands that put a folio into one file and lay it out again: pack, unpack."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from glimber.cli.common import folder_of, put_json, stop, told
from glimber.cli.inspect import FolioArgument, Json
from glimber.store.files import write_atomically
from glimber.store.pack import pack_bytes, unpack
from glimber.store.toml.reading import open_folio


def pack(
    folio: FolioArgument,
    file: Annotated[str, typer.Argument(metavar="FILE.glimber", help="The pack to write.")],
    with_tries: Annotated[bool, typer.Option("--with-tries", help="The practice log goes in too.")] = False,
    json: Json = False,
) -> None:
    """Put a folio into one file to share: its files and icons, and the tries only when asked.

    Example: glimber pack chart-office office.glimber
    """
    with told():
        opened = open_folio(folder_of(folio))
        tries = None
        setting = opened.folio.settings.log
        if with_tries and ("://" in setting or (opened.folder / setting).exists()):
            from glimber.store.practice.jsonl import all_lines
            from glimber.store.practice.log import open_log

            with open_log(opened.folder, setting) as log:
                tries = "".join(f"{line}\n" for line in all_lines(log)).encode()
        data = pack_bytes(opened.folder, tries)
        write_atomically(folder_of(file), data)
    if json:
        put_json({"wrote": [file], "bytes": len(data)})
    else:
        print(f"{file}: {len(data) / 1000:.0f} kB" + (", with the tries" if tries is not None else ""))


def unpack_(
    file: Annotated[str, typer.Argument(metavar="FILE", help="A pack.")],
    folder: Annotated[str, typer.Argument(metavar="DIR", help="A folder that is new or empty.")],
    json: Json = False,
) -> None:
    """Lay a pack out as a folio.

    Example: glimber unpack office.glimber my-office
    """
    with told():
        try:
            data = Path(file).expanduser().read_bytes()
        except OSError as error:
            stop(f"{file}: cannot be read ({error.strerror})")
        path = folder_of(folder)
        tries = unpack(data, path)
        merged = 0
        if tries is not None:
            from glimber.store.practice.jsonl import parse_lines
            from glimber.store.practice.log import merge, open_log

            records = parse_lines(tries.decode("utf-8", "replace")).records
            with open_log(path, open_folio(path).folio.settings.log) as log:
                merged = merge(log, records)
    if json:
        put_json({"folio": str(path), "tries": merged})
    else:
        print(f"{path}: laid out" + (f", with {merged} records of practice" if merged else ""))
