"""Functional dependencies as algebra; nothing in this package knows any data."""
