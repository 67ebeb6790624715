"""Keys, chords and triggers as they are written."""
