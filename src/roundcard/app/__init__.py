"""Whole jobs without a terminal: each a function of a plan that gives a report."""
