"""The face of one key of a layer: its print, and a line for each gesture with its label and group."""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Mapping
from typing import Literal

from msgspec import Struct

from glimber.core.model.board import Board, Key, Knob
from glimber.core.model.chord_layers import ChordLayer, elsewhere, taken_by_desktop
from glimber.core.model.describe import key_words
from glimber.core.model.folio import EVERYWHERE, Binding, Folio, Group, Layer, Layout
from glimber.core.notation.keycodes import MODIFIER_CODES, MODIFIER_PLACES
from glimber.core.notation.keys import GESTURES, Chord, Sequence


class FaceLine(Struct, frozen=True):
    """One gesture: ``label`` is short, ``full`` is the command's exact name or what is sent."""

    gesture: str
    label: str
    full: str
    group: Group | None
    binding: str
    reason: str | None
    icon: str | None = None


_STATES = {"dead": "does nothing", "falls": "as on the layer below", "bound": "", "free": "free"}


class KeyFace(Struct, frozen=True):
    """The face of one key. ``way``: it is the key that brings the drawn layer in. On the ordinary keyboard as a program's board:
    ``taken``: what the desktop does with it; ``stem``: what follows where sequences begin there; ``others``: what other programs
    do with it; ``free``: nothing answers to it."""

    key: str
    print: str
    lines: tuple[FaceLine, ...]
    state: Literal["bound", "falls", "dead"]
    way: str | None = None
    print_differs: bool = False
    taken: str = ""
    stem: str = ""
    others: tuple[str, ...] = ()
    free: bool = False

    @property
    def group(self) -> Group | None:
        return next((line.group for line in self.lines if line.group is not None), None)

    def spoken(self) -> str:
        """Return all of it in words, for a tooltip and for those who do not see the drawing."""
        parts = [f"{line.full} ({line.gesture})" if line.gesture != "tap" else line.full for line in self.lines]
        if self.way:
            parts.append(f"brings this layer in, {self.way}")
        if self.stem:
            parts.append(f"begins {self.stem}")
        if self.taken:
            parts.append(f"taken by the desktop: {self.taken}")
        parts += [f"in {other}" for other in self.others]
        what = "; ".join(parts) or _STATES["free" if self.free else self.state]
        return f"{self.print or self.key}: {what}"


def key_faces(folio: Folio, board: Board, layer: Layer, only: Container[str] | None = None) -> dict[str, KeyFace]:
    """Return the faces of the keys and knobs of a board on a layer: of all, or ``only`` of these."""
    layout = folio.layouts.get(board.id)
    ways = {key: _WAY[b.mode or "while"] for b in ways_in(layout, layer) for key in b.spot.keys} if layout else {}
    faces = {}
    parts: tuple[Key | Knob, ...] = (*board.keys, *board.knobs)
    for part in parts:
        if only is not None and part.id not in only:
            continue
        bindings = layer.by_key.get(part.id, {})
        lines = tuple(_line(folio, bindings[gesture]) for gesture in GESTURES if gesture in bindings)
        printed = part.print if part.print is not None else folio.legend.print_of(part.id)
        state: Literal["bound", "falls", "dead"] = "bound" if lines else layer.unset.get(part.id, layer.unbound)
        differs = "tap" in bindings and _sends_other(bindings["tap"], printed)
        faces[part.id] = KeyFace(part.id, printed, lines, state, ways.get(part.id), differs)
    return faces


def chord_faces(folio: Folio, board: Board, layer: ChordLayer, program: str) -> dict[str, KeyFace]:
    """Return the faces of the ordinary keyboard on one of a program's derived layers."""
    taken = taken_by_desktop(folio, layer) if program != EVERYWHERE else {}
    others, stems = (
        elsewhere(folio, program, layer),
        {stem.trigger: stem.name for stem in folio.programs[program].stems},
    )
    held = {code for name in layer.modifiers for code in MODIFIER_PLACES.get(name, ())}
    faces = {}
    for key in board.keys:
        many = layer.bindings.get(key.id, ())
        lines = tuple(_chord_line(folio, binding, len(many) > 1) for binding in many)
        stem, count = layer.stems.get(key.id, (None, 0))
        words = (stems.get(stem) or f"{count} more") if stem is not None else ""
        printed = key.print if key.print is not None else folio.legend.print_of(key.id)
        faces[key.id] = KeyFace(
            key.id, printed, lines, "bound" if lines else "falls", "held" if key.id in held else None,
            taken=taken.get(key.id, ""), stem=words, others=others.get(key.id, ()),
            free=not (lines or words or key.id in taken or key.id in MODIFIER_CODES),
        )  # fmt: skip
    return faces


def _chord_line(folio: Folio, binding: Binding, several: bool) -> FaceLine:
    command = folio.command_of(binding)
    assert command is not None  # a program's own bindings carry out its commands
    where = f", in {command.context}" if several and command.context else ""
    icon = binding.picture or binding.icon or command.picture or command.icon
    return FaceLine("tap", (binding.label or command.short) + where, command.name + where, folio.group_of(command),
                    binding.id, binding.reason, icon)  # fmt: skip


def faces_after(
    faces: Mapping[str, KeyFace], before: Layer, folio: Folio, board: Board, layer: Layer
) -> dict[str, KeyFace]:
    """Return the faces after an edit that left the board and ``beside`` as they were: only keys the edit changed are drawn up
    again."""
    differs = {
        part for part in faces
        if layer.by_key.get(part) != before.by_key.get(part)
        or layer.unset.get(part, layer.unbound) != before.unset.get(part, before.unbound)
    }  # fmt: skip
    return {**faces, **key_faces(folio, board, layer, differs)}


def beside(folio: Folio, board: str) -> tuple[object, ...]:
    """Return all that a binding's words may name of the folio beside the binding itself; the same after most edits of a layer."""
    layers = folio.layouts[board].layers if board in folio.layouts else ()
    return (folio.legend, folio.bundles, tuple((one.id, one.name) for one in layers), tuple(folio.programs.values()))


def together_lines(folio: Folio, layer: Layer) -> list[tuple[tuple[str, ...], FaceLine]]:
    """Return the bindings on two keys together: they belong to no single key."""
    return [(b.spot.keys, _line(folio, b)) for b in layer.bindings if len(b.spot.keys) > 1]


_WAY = {"while": "held", "switch": "on and off", "once": "for one key", "stay": "until left"}


def ways_in(layout: Layout, layer: Layer) -> list[Binding]:
    """Return the bindings that bring a layer in."""
    return [b for other in layout.layers for b in other.bindings if b.enters == layer.id]


def layer_words(folio: Folio, layout: Layout, layer: Layer) -> str:
    """Return how a layer comes in, as the card's subtitle says it."""
    if layer is layout.base:
        return "always"
    if layer.front is not None:
        program = folio.programs.get(layer.front)
        return f"while {program.name if program else layer.front} is in front"
    ways = ways_in(layout, layer)
    if not ways:
        return "no key brings it in"
    verb = {"while": "held with", "switch": "switched by", "once": "for one key after", "stay": "until left, by"}
    first = ways[0]
    return f"{verb[first.mode or 'while']} {key_words(folio, layout.board, first.spot.keys)}"


def main_program(folio: Folio, layer: Layer) -> str | None:
    """Return the name of the program most of a layer's commands belong to."""
    counted = Counter(b.command.partition("/")[0] for b in layer.bindings if b.command)
    return folio.programs[counted.most_common(1)[0][0]].name if counted else None


def _line(folio: Folio, binding: Binding) -> FaceLine:
    command = folio.command_of(binding)
    if command is not None:
        label, full = binding.label or command.short, command.name
    elif binding.enters is not None:
        layer = folio.layouts[binding.spot.board].layer(binding.enters)
        label = binding.label or (layer.name if layer else binding.enters)
        full = f"{label} layer, {_WAY[binding.mode or 'while']}"
    elif binding.leaves:
        label, full = binding.label or "leave", "leaves this layer"
    elif binding.bundle is not None:
        label, full = binding.label or binding.bundle, f"bundle {binding.bundle}"
    else:
        sent = " ".join(str(step) for step in binding.steps if not hasattr(step, "wait_ms"))
        full = str(folio.sent_by(binding) or sent)
        label = binding.label or full
    icon = binding.picture or binding.icon or ((command.picture or command.icon) if command else None)
    return FaceLine(binding.spot.gesture, label, full, folio.group_of(command), binding.id, binding.reason, icon)


def _sends_other(binding: Binding, printed: str) -> bool:
    """Return True if a key sends a plain character or name that is not what is printed on it."""
    sent = binding.sends
    if binding.command is not None or not isinstance(sent, Sequence) or len(sent.chords) != 1:
        return False
    chord: Chord = sent.chords[0]
    return not chord.modifiers and bool(printed) and chord.key.lower() != printed.lower()
