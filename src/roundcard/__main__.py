"""``python -m roundcard``."""

from roundcard.cli.entry import main

if __name__ == "__main__":
    main()
