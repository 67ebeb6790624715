"""Edits: a folio in, another folio out."""
