"""Which dependencies a design may rest on: evidence from the rows, and a standing for each rule."""
