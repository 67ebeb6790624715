"""The Cards room."""
