"""Glimber: reference cards, timed recall and a verdict for every binding on a keyboard."""

__version__ = "0.1.0"
