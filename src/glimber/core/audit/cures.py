"""Apply the cure of a finding as one edit: a folio in, a new folio out."""

from __future__ import annotations

from msgspec.structs import replace

from glimber.core.audit.finding import Finding
from glimber.core.decide.free_places import free_chords, free_spots
from glimber.core.edit.commands import edit_binding
from glimber.core.edit.edit import EditError, map_bindings, move_binding, retire_binding
from glimber.core.edit.layers import set_unbound
from glimber.core.edit.spots import Does, clear_spots, set_spot
from glimber.core.model.describe import key_words
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Spot


def cure(folio: Folio, finding: Finding, computer: str | None = None) -> Folio:
    """Do what the finding says can be done. Raises EditError where there is no such thing, or no longer."""
    how = finding.cure
    if how is None:
        raise EditError("this finding has no automatic fix")
    if how.kind == "leave":
        return _way_out(folio, finding)
    if how.kind == "fall-through":
        assert how.spot is not None
        return set_unbound(folio, how.spot.board, how.spot.layer, "falls", [how.spot.key])
    binding = _binding(folio, how.binding or "")
    if how.kind == "take-off":
        return retire_binding(folio, binding.id)
    if how.kind == "free-key":
        return _to_free_key(folio, binding, computer)
    if how.kind == "clear":
        return clear_spots(folio, [binding.spot])
    if how.kind == "send-own":
        return map_bindings(folio, lambda b: replace(b, sends=None, given_id=True) if b.id == binding.id else b)
    if how.kind == "free-spot":
        return _to_free_spot(folio, binding)
    if computer is None:
        raise EditError("say which computer it should be on")
    return edit_binding(folio, binding.id, computers=(*binding.computers, computer))


def _binding(folio: Folio, id: str) -> Binding:
    if id not in folio.bindings:
        raise EditError(f"{id} is no longer a binding of this folio")
    return folio.bindings[id]


def _to_free_key(folio: Folio, binding: Binding, computer: str | None) -> Folio:
    found = free_chords(folio, binding.command or "", computer, most=1)
    if not found:
        raise EditError("no chord is free")
    return move_binding(folio, binding.id, found[0].trigger).folio


def _to_free_spot(folio: Folio, binding: Binding) -> Folio:
    spot = binding.spot
    found = [
        one for one in free_spots(folio, binding.command or "", spot.board, spot.layer) if isinstance(one.trigger, Spot)
    ]
    if not found:
        raise EditError(f"no key of {spot.layer} is free")
    to = found[0].trigger
    assert isinstance(to, Spot)
    return move_binding(folio, binding.id, replace(to, gesture=spot.gesture)).folio


def _way_out(folio: Folio, finding: Finding) -> Folio:
    """Let the key that brought the layer in leave it again, or Escape where that key is taken there."""
    board, _, layer = finding.where.partition(":")
    here = folio.layouts[board].layer(layer)
    keys = [_binding(folio, id).spot.key for id in finding.bindings]
    for key in (*keys, "Escape"):
        if here is not None and folio.boards[board].has(key) and key not in here.by_key:
            return set_spot(folio, Spot(board, layer, (key,), "tap"), Does(leaves=True))
    name, on = key_words(folio, board, tuple(keys[0].split("&"))), here.name if here is not None else layer
    raise EditError(f"{name} and Esc are taken on {on}; choose another key to leave it")
