"""The one table of a binding's fields: the folio, the documents, the edits and the normal form all go by it."""

from __future__ import annotations

from dataclasses import fields

from glimber.core.edits.spots import Does
from glimber.core.folio.folio import DOES, SAID, Binding
from glimber.store.toml.documents import BindingDoc, ShortcutDoc, SpotDoc


def test_the_tables_are_the_fields_of_a_binding() -> None:
    assert [field.name for field in fields(Binding)] == ["id", "trigger", *DOES, *SAID, "given_id"]
    assert tuple(field.name for field in fields(Does)) == DOES


def test_documents_say_what_the_tables_have() -> None:
    assert set(BindingDoc.model_fields) == {"id", *SAID}
    assert set(ShortcutDoc.model_fields) - set(BindingDoc.model_fields) == {"trigger"}
    in_files = {"command": "does"}  # a spot's file says what it does by its command's name
    assert set(SpotDoc.model_fields) == {"id", *SAID} | {in_files.get(name, name) for name in DOES}
