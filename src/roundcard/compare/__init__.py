"""Two books held against each other: who is new, gone, changed, and how each pair was found."""
