"""What is seen in the Gather room: each takes a value and sends signals."""
