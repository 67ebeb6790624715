"""From timed key events to acts."""
