"""Derived values kept for the next start."""
