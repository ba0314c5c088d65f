"""Cleaning: rules with names, each a small pure function, and the step that applies them."""
