"""Commands that put a folio into one file and lay it out again: pack, unpack."""

from __future__ import annotations

from typing import Annotated

import typer

from glimber.cli.common import folder_of, put, put_json, reported_errors, say
from glimber.cli.inspect import FolioArgument, Json
from glimber.store.files import read_given, write_atomically
from glimber.store.pack import LARGEST_PACK, pack_bytes, unpack
from glimber.store.practice.location import log_exists
from glimber.store.practice.server_address import without_password
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
    with reported_errors():
        opened = open_folio(folder_of(folio))
        tries = None
        setting = opened.folio.settings.log
        if with_tries and log_exists(opened.folder, setting):
            from glimber.store.practice.jsonl import all_lines
            from glimber.store.practice.log import open_log_reading

            with open_log_reading(opened.folder, setting) as log:
                tries = "".join(f"{line}\n" for line in all_lines(log)).encode()
        data = pack_bytes(opened.folder, tries)
        if without_password(setting) != setting:
            say("The password of the practice log's address was left out of the pack.")
        write_atomically(folder_of(file), data)
    if json:
        put_json({"wrote": [file], "bytes": len(data)})
    else:
        put(f"{file}: {len(data) / 1000:.0f} kB" + (", with the tries" if tries is not None else ""))


def unpack_(
    file: Annotated[str, typer.Argument(metavar="FILE", help="A pack.")],
    folder: Annotated[str, typer.Argument(metavar="DIR", help="A folder that is new or empty.")],
    json: Json = False,
) -> None:
    """Lay a pack out as a folio.

    Example: glimber unpack office.glimber my-office
    """
    with reported_errors():
        path = folder_of(folder)
        laid_out = unpack(read_given(folder_of(file), LARGEST_PACK), path)
    if json:
        put_json({"folio": str(path), "tries": laid_out.merged, "bad": laid_out.bad, "asks": list(laid_out.asks)})
        return
    put(f"{path}: laid out" + (f", with {laid_out.merged} records of practice" if laid_out.merged else ""))
    for place in laid_out.asks:
        put(f"It would read and write {place}; nothing is done there before: glimber agree {folder}")
    for bad in laid_out.bad:
        put(f"tries.jsonl:{bad['line']}: could not be read: {bad['text']}")


def agree(
    folio: FolioArgument,
    list_only: Annotated[bool, typer.Option("--list", help="Only list the places.")] = False,
    json: Json = False,
) -> None:
    """Agree that a folio from somebody else's pack reads and writes the places outside it that it names.

    Example: glimber agree my-office --list
    """
    from glimber.store.agreements import agree as agree_to
    from glimber.store.agreements import unagreed

    with reported_errors():
        folder = open_folio(folder_of(folio)).folder
        places = unagreed(folder)
        if not list_only:
            agree_to(folder, places)
    if json:
        put_json({"places": places, "agreed": not list_only})
        return
    for place in places:
        put(place if list_only else f"{place}: agreed to on this computer")
    if not places:
        put("Every place is agreed to.")
