"""Views of the Gather room: each takes a value and sends signals."""
