"""From a checked layout document to a core Layout: the keys of every layer, resolved against the rest of the folio."""

from __future__ import annotations

from collections.abc import Callable, Collection

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Layer, Layout, Step, Unbound, Wait
from glimber.core.notation.ids import spot_id
from glimber.core.notation.keys import GESTURES, Gesture, Sent, Spot, is_slug, parse_keys, parse_sent
from glimber.core.notation.nearest import did_you_mean
from glimber.store.toml.documents import LayerDoc, LayoutDoc, SpotDoc
from glimber.store.toml.ids import Ids
from glimber.store.toml.locate import Path
from glimber.store.toml.parse import Page, check


class Known(Struct, frozen=True):
    """The ids that layouts, cards and runs may refer to."""

    boards: dict[str, Board]
    commands: Collection[str]
    programs: Collection[str]
    bundles: Collection[str]
    board_ids: Collection[str]
    """All boards there are, those that come with Glimber and are not read among them."""


def layout_of(page: Page, doc: LayoutDoc, known: Known, ids: Ids) -> Callable[[], Layout]:
    """As ``program_of``: default ids are given out by the returned function."""
    board = known.boards.get(doc.board)
    if board is None:
        page.fault(("board",), f"{doc.board} is not a board{did_you_mean(doc.board, known.board_ids)}", "unknown-reference",
                   doc.board)  # fmt: skip
    layer_ids = [layer.id for layer in doc.layers]
    waiting: list[tuple[Layer, list[Binding]]] = []
    for place, layer in enumerate(doc.layers):
        at: Path = ("layers", place)
        if not is_slug(layer.id):
            page.fault((*at, "id"), f"id {layer.id!r} is not usable; expected letters, digits, -, _ and . only")
        if layer.id in layer_ids[:place]:
            page.fault((*at, "id"), f"layer {layer.id!r} is there twice; every layer needs its own id")
        if layer.front is not None and layer.front not in known.programs:
            page.fault((*at, "front"), f"{layer.front} is not a program{did_you_mean(layer.front, known.programs)}",
                       "unknown-reference", f"{doc.board}:{layer.id}")  # fmt: skip
        for key in layer.timing:
            known_key(page, (*at, "timing", key), (key,), board, f"{doc.board}:{layer.id}:{key}")
        reader = _LayerReader(page, at, doc.board, layer, layer_ids, board, known, ids)
        waiting.append(reader.read())

    def finished() -> Layout:
        layers = []
        for layer, bindings in waiting:
            named = [b if b.given_id else replace(b, id=ids.default(spot_id(b.spot))) for b in bindings]
            layers.append(replace(layer, bindings=tuple(named)))
        return Layout(doc.board, tuple(layers))

    return finished


def known_key(page: Page, path: Path, keys: tuple[str, ...], board: Board | None, where: str) -> bool:
    for key in keys:
        if board is not None and not board.has(key):
            names = [*board.by_id, *board.knob_ids]
            page.fault(path, f"{key} is not a key of {board.id}{did_you_mean(key, names)}", "key-missing", where)
            return False
    return True


class _LayerReader:
    """Reads the keys of one layer."""

    def __init__(
        self,
        page: Page,
        at: Path,
        board_id: str,
        doc: LayerDoc,
        layer_ids: list[str],
        board: Board | None,
        known: Known,
        ids: Ids,
    ) -> None:
        self.page, self.at, self.board_id, self.doc = page, at, board_id, doc
        self.layer_ids, self.board, self.known, self.ids = layer_ids, board, known, ids
        self.bindings: list[Binding] = []
        self.unset: dict[str, Unbound] = {}

    def read(self) -> tuple[Layer, list[Binding]]:
        doc = self.doc
        for text, value in doc.keys.items():
            path = (*self.at, "keys", text)
            keys = self.page.attempt(path, lambda text=text: parse_keys(text))  # type: ignore[misc]
            where = f"{self.board_id}:{doc.id}:{text}"
            if keys is None or not known_key(self.page, path, keys, self.board, where):
                continue
            self._key(path, keys, value)
        return Layer(doc.id, doc.name, doc.unbound, doc.front, doc.timing, self.unset), self.bindings

    def _key(self, path: Path, keys: tuple[str, ...], value: object) -> None:
        if value in ("dead", "falls"):
            self.unset["&".join(keys)] = value
        elif isinstance(value, str):
            self._gesture(path, keys, "tap", value)
        elif isinstance(value, dict):
            for gesture, entry in value.items():
                if gesture not in GESTURES:
                    hint = did_you_mean(gesture, GESTURES)
                    self.page.fault((*path, gesture),
                                    f"{gesture} is not a gesture; expected one of {', '.join(GESTURES)}{hint}")  # fmt: skip
                    continue
                self._gesture((*path, gesture), keys, gesture, entry)
        else:
            self.page.fault(
                path, f"{value!r} is not what a key can do; expected a trigger, dead, falls or a table of gestures"
            )

    def _gesture(self, path: Path, keys: tuple[str, ...], gesture: Gesture, value: object) -> None:
        knob = self.board is not None and keys[0] in self.board.knob_ids
        if (gesture in ("left", "right", "press")) != knob and self.board is not None:
            kind, can = ("knob", "left, right, press") if knob else ("key", "tap, hold, double, tap-hold")
            self.page.fault(path, f"{gesture} is not a gesture of a {kind}; expected one of {can}")
            return
        spot = Spot(self.board_id, self.doc.id, keys, gesture)
        if isinstance(value, str):
            sends = self._sent(path, value)
            if sends is not None:
                self.bindings.append(Binding("", spot, sends=sends))
        elif isinstance(value, dict):
            entry = check(self.page, path, value, SpotDoc)
            if entry is not None:
                self._entry(path, spot, entry)
        else:
            self.page.fault(path, f"{value!r} is not what a gesture can do; expected a trigger or a table")

    def _sent(self, path: Path, text: str) -> Sent | None:
        return self.page.attempt(path, lambda: parse_sent(text, self.known.bundles))

    def _entry(self, path: Path, spot: Spot, entry: SpotDoc) -> None:
        page, where = self.page, str(spot)
        if entry.id is not None:
            self.ids.give(page, (*path, "id"), entry.id)
        if entry.does is not None and entry.does not in self.known.commands:
            page.fault((*path, "does"), f"{entry.does} is not a command{did_you_mean(entry.does, self.known.commands)}",
                       "unknown-reference", where)  # fmt: skip
            return
        if entry.enters is not None and entry.enters not in self.layer_ids:
            page.fault((*path, "enters"), f"{entry.enters} is not a layer of {self.board_id}"
                       f"{did_you_mean(entry.enters, self.layer_ids)}", "unknown-reference", where)  # fmt: skip
            return
        if entry.bundle is not None and entry.bundle not in self.known.bundles:
            page.fault((*path, "bundle"), f"{entry.bundle} is not a bundle{did_you_mean(entry.bundle, self.known.bundles)}",
                       "unknown-reference", where)  # fmt: skip
            return
        if (entry.enters is None) != (entry.mode is None):
            missing = "mode" if entry.mode is None else "enters"
            page.fault(path, f"{missing} is missing; a way in needs enters and mode (while, switch, once or stay)")
            return
        does_something = (entry.does, entry.sends, entry.steps, entry.enters, entry.leaves, entry.bundle)
        if not any(does_something):
            page.fault(path, "nothing here says what it does; expected does, sends, steps, enters, leaves or bundle")
            return
        sends = None if entry.sends is None else self._sent((*path, "sends"), entry.sends)
        release = [self._sent((*path, "release", place), text) for place, text in enumerate(entry.release)]
        steps = [self._step((*path, "steps", place), step) for place, step in enumerate(entry.steps)]
        self.bindings.append(
            Binding(
                entry.id or "", spot, entry.does, sends, tuple(step for step in steps if step is not None),
                entry.repeat_ms, tuple(sent for sent in release if sent is not None), entry.enters, entry.mode,
                entry.leaves, entry.bundle, given_id=entry.id is not None, **entry.notes(),
            )
        )  # fmt: skip

    def _step(self, path: Path, step: object) -> Step | None:
        if isinstance(step, str):
            return self._sent(path, step)
        wait = step.get("wait_ms") if isinstance(step, dict) and set(step) == {"wait_ms"} else None
        if isinstance(wait, int) and not isinstance(wait, bool) and wait > 0:
            return Wait(wait)
        self.page.fault(path, f"{step!r} is not a step; expected a trigger in quotes or {{ wait_ms = 80 }}")
        return None
