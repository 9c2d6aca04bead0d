"""A folder of results: written, opened, and told about to people."""
