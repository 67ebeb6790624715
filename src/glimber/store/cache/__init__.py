"""What is worked out and kept for the next start."""
