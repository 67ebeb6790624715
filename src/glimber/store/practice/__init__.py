"""The practice log."""
