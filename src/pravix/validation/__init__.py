"""New rows held against a design, and added to what a database holds of it."""
