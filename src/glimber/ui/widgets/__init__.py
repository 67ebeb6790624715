"""Widgets used by more than one room."""
