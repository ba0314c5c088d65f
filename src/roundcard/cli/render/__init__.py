"""What a person, or a machine, reads of a command's result."""
