"""Modes of the Arrange room: one of them may hold the keyboard at a time."""
