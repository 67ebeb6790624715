"""The key engine: timed key events in, acts out."""
