"""The day's page as values."""
