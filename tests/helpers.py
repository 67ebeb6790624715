"""Small folios, tries and events for the tests; all of them of the chart office."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path

from glimber.core.engine.events import Event
from glimber.core.model.folio import Folio
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Record, Try
from glimber.store.practice.log import open_log
from glimber.store.practice.uuid7 import uuid7
from glimber.store.toml.reading import read_files

TEXTS = Path(__file__).with_name("texts")
NOON = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)

SMALL = Path(__file__).with_name("small")
FILES = {str(path.relative_to(SMALL)): path.read_text() for path in sorted(SMALL.rglob("*.toml"))}
"""A folio of a few keys, by the names of its files."""
FOLIO = FILES["folio.toml"].partition("\n[bundles]")[0]
UNHURRIED, HOLD_S = FILES["folio.toml"] + "\n[timing]\nhold_ms = 600\n", 0.7
"""A folio in which a machine that stands still for half a second makes no hold of a tap, and how long a hold takes there."""
PROGRAM, EVERYWHERE = FILES["programs/shoalwright.toml"], FILES["programs/everywhere.toml"]
LAYOUT = FILES["layouts/split-42.toml"]


def text_of(name: str) -> str:
    """A text that a test works with, kept as a file."""
    return (TEXTS / name).read_text()


def write_folio(folder: Path, changed: Mapping[str, str | bytes | None] | None = None, tried: Sequence[Record] = ()) -> Path:
    """Lay a small folio; ``changed`` replaces files, or leaves them out where it has None; ``tried`` is what its log has."""
    for name, text in {**FILES, **(changed or {})}.items():
        if text is not None:
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            (folder / name).write_bytes(text if isinstance(text, bytes) else text.encode())
    if tried:
        with open_log(folder, "practice.db") as log:
            log.add(*tried)
    return folder


def folio_of(changed: Mapping[str, str] | None = None) -> Folio:
    """A small folio as a value."""
    files = {name: text.encode() for name, text in {**FILES, **(changed or {})}.items()}
    return read_files(Path("small"), files).folio


def layout_text(*layers: str, board: str = "split-42") -> str:
    """The text of a layout file with these layers, each the text of its ``[[layers]]``."""
    return f'format = "glimber-layout/1"\nboard = "{board}"\n' + "".join(f"\n[[layers]]\n{layer}\n" for layer in layers)


def layer_text(id: str, *keys: str, unbound: str = "falls") -> str:
    """The text of a layer, named as its id, with a line for each key."""
    return "\n".join((f'id = "{id}"', f'name = "{id.title()}"', f'unbound = "{unbound}"', "[layers.keys]", *keys))


def layout_of(*layers: str) -> Folio:
    """A small folio whose split-42 has these layers, each the text of its ``[[layers]]``."""
    return folio_of({"layouts/split-42.toml": layout_text(*layers)})


def events(*rows: tuple[float, str, str]) -> list[Event]:
    return [Event(t, kind, key) for t, kind, key in rows]  # type: ignore[arg-type]


def tapped(key: str, at: float, long: float = 60) -> list[Event]:
    return events((at, "down", key), (at + long, "up", key))


def tries_of(binding: str, trigger: str, outcomes: Iterable[str | tuple[str, str, str]], *, round_size: int = 5,
             days: int = 4, recall_ms: float = 700, cold_each: bool = True, until: datetime = NOON) -> list[Try]:  # fmt: skip
    """Tries over some days before ``until``. An outcome is "hit", "blank", or (slip kind, pressed, would_do)."""
    rows = list(outcomes)
    found = []
    for place, outcome in enumerate(rows):
        day = days - 1 - place * days // max(1, len(rows))
        at = until - timedelta(days=day, minutes=len(rows) - place)
        number, within = divmod(place, round_size)
        kind, slip, pressed, would_do = (outcome, None, None, None) if isinstance(outcome, str) else ("slip", *outcome)
        found.append(
            Try(uuid7(at), f"round-{binding}-{number}", within + 1, at, "bridge", binding, trigger, "press", kind,  # type: ignore[arg-type]
                slip=slip, pressed=pressed, would_do=would_do or None,  # type: ignore[arg-type]
                recall_ms=None if kind == "blank" else recall_ms, motor_ms=None if kind == "blank" else 120.0,
                cold=cold_each and within == 0)
        )  # fmt: skip
    return found


def practice(*tries: Iterable[Try]) -> Practice:
    rows = sorted((one for some in tries for one in some), key=lambda one: (one.at, one.id))
    return Practice(tuple(rows))
