"""The practice log's schema, one step a file."""
