"""What a table's columns mean: rows to contacts and back, by a layout."""
