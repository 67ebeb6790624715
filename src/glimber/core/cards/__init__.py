"""Card kinds: folio and card in, drawings in millimetres out."""
