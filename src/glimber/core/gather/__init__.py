"""Taking stock: what was read against what is there."""
