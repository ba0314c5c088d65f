"""Asking at the terminal."""
