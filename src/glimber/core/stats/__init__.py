"""Figures of each binding: accuracy, causes, memory, reach, usage, times."""
