"""The chart office: the folio that everyone sees first."""
