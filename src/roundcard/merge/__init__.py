"""Making one contact of several, and several of one again."""
