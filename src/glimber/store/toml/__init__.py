"""Folios as TOML files: read with all their faults, edited with their comments kept."""
