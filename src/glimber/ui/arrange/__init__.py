"""The Arrange room."""
