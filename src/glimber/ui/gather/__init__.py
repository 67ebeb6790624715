"""The Gather room."""
