"""Choosing people and fields."""
