"""A sheet for people to edit, and what they did to it."""
