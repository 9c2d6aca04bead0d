"""The analyst's decisions, kept in a TOML file beside the source."""
