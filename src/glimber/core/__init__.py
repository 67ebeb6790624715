"""All that Glimber knows and computes: no interface code, no files, no clock, no global state."""
