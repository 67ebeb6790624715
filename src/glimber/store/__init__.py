"""Folios on disk, the practice log, backups and watching."""
