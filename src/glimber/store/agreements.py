"""Places outside a folio that came in somebody else's pack: nothing there is read or written before the person agrees.

What a person links on this computer needs no question. What a pack names is kept as a list of this computer's settings, a folder
and a place a line, and taken off it once it is agreed to.
"""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from glimber.core.model.folio import Settings, Source
from glimber.store.faults import StoreError
from glimber.store.settings import load_settings, remember
from glimber.store.system.sources import path_of


class UnagreedPlaceError(StoreError):
    """A place that came in a pack and was not agreed to on this computer."""

    def __init__(self, place: str) -> None:
        super().__init__(
            f"{place}: came in somebody else's pack and was not agreed to on this computer; nothing was read or written there. "
            'Agree to it: find "Agree to the places" in the window, or glimber agree FOLIO'
        )


def place_of_source(source: Source, folder: Path) -> str | None:
    """Return the place of a source as it is shown, None for one within the folio."""
    path = path_of(source, folder)
    if source.running is not None:
        return f"the menus of {source.running}"
    if path is None:
        return {"gsettings": "the desktop's settings", "line-editor": "the line editor's settings"}.get(
            source.system or ""
        )
    whole = path.resolve()
    return None if whole.is_relative_to(folder.resolve()) else str(whole)


def ask_about(folder: Path, settings: Settings) -> list[str]:
    """Put every place outside a folio on the list of those to agree to, and return them."""
    places = [place for source in settings.sources.values() if (place := place_of_source(source, folder)) is not None]
    here = str(folder.resolve())
    others = [line for line in load_settings().unagreed.splitlines() if line.partition("\t")[0] != here]
    remember(unagreed="\n".join([*others, *(f"{here}\t{place}" for place in dict.fromkeys(places))]))
    return list(dict.fromkeys(places))


def unagreed(folder: Path) -> list[str]:
    """Return the places of a folio that wait for the person's agreement."""
    here = str(folder.resolve())
    lines = (line.partition("\t") for line in load_settings().unagreed.splitlines())
    return [place for name, _, place in lines if name == here]


def agree(folder: Path, places: Iterable[str]) -> None:
    """Take places off the list: from now on the folio may read and write there."""
    gone = {f"{folder.resolve()}\t{place}" for place in places}
    remember(unagreed="\n".join(line for line in load_settings().unagreed.splitlines() if line not in gone))


def refuse_unagreed(source: Source, folder: Path) -> None:
    """Raise UnagreedPlaceError for a source at a place that was not agreed to."""
    waiting = unagreed(folder)
    if waiting and (place := place_of_source(source, folder)) in waiting:
        raise UnagreedPlaceError(str(place))
