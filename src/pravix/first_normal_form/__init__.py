"""What stands in the way of first normal form, and its repair."""
