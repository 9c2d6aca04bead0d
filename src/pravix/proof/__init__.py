"""The proof of a design from its folder alone, by code of its own."""
