"""The version of Round Card, read by the build."""

__version__ = "0.1.0"
