"""Tries and how they are judged: rounds, answers, the round machine, counted use."""
