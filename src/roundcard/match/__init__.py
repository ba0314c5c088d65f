"""The same person once: finding doubles within and across books, and merging them."""
