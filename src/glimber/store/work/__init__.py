"""Counting at work: a process of its own that sees strikes, and how it is begun, ended and asked."""
