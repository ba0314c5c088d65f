"""A layout for a table that came without one: evidence from headings and cells, weighed."""
