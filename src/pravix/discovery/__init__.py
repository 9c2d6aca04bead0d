"""From rows to every minimal dependency and every minimal key, exactly."""
