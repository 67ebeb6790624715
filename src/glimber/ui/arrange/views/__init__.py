"""Views of the Arrange room: each takes a value and sends signals."""
