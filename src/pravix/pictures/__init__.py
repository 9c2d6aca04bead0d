"""What is drawn of a design: diagrams, figures and maps."""
