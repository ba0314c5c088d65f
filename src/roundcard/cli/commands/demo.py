"""``roundcard demo``."""
EXAMPLES = ""
def demo() -> None:
    """Demo."""
