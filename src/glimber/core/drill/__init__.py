"""Rounds, answers and how they are judged."""
