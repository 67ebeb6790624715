"""One folio being worked on: its value, what is undone and done again, and what differs."""
