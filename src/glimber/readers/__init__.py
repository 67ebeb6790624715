"""Readers of shortcut lists: one file for each kind of source, found by entry point."""
