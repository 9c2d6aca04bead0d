"""The report to pass around."""
