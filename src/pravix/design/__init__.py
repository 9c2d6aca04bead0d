"""From trusted rules to tables, with names, keys, links, steps and proof."""
