"""What bindings cost, and what to do about them."""
