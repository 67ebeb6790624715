"""The system around Glimber: changed files, sources, devices, keyboard data."""
