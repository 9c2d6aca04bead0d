"""Pravix: from a flat file to third-normal-form tables, every step explained and proved."""

__version__ = "0.1.0"
