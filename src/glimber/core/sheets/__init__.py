"""Sheets of paper that are not cards: day, week, report, list, keys."""
