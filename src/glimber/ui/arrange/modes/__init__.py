"""What can hold the keyboard in the Arrange room: one at a time."""
