"""The window: rooms that show a folio value and send edits."""
