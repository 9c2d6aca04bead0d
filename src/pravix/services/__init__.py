"""What an interface does with an analysis: decide, arrange, repair, describe, explain, check, review."""
