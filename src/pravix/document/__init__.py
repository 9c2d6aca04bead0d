"""A design as one document: made, joined, checked, and known again by the hashes of its rows."""
