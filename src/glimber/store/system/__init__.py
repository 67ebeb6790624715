"""What the system has: changed files, sources, devices, keyboard data."""
