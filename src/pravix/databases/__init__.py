"""The databases that tables are written for and loaded into: a class each."""
