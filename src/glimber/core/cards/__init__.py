"""Folio and card in, drawing in millimetres out."""
