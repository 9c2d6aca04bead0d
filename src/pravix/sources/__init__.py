"""Files become relations, with an account of how each was read."""
