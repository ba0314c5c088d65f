"""Reading and writing single values."""
