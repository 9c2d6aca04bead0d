"""A table in memory: integer-coded columns, blanks and position lists; it knows no files."""
