"""The command line: Click commands, one module each, and how results look in a terminal."""
