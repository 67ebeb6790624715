"""What is seen in the Arrange room: each takes a value and sends signals."""
