"""The value everything works on: folio, boards, programs, layouts, cards and task runs."""
