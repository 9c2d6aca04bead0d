"""The inner loops, in machine code."""
