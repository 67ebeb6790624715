"""Edits: a folio in, a new folio out."""
