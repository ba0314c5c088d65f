"""Jobs: the whole way in one file, again next month, and back."""
