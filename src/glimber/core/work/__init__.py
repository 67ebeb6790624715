"""The real day: which bindings are struck at work, and how often."""
