"""A design as SQL: identifiers that fit, tables, and the view that gives the flat rows back."""
