"""The Drill room."""
