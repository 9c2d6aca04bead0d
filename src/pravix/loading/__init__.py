"""A folder in a database: loaded all or nothing, or in memory to ask it something."""
