"""The terminal: commands and what they show. Nothing is computed here."""
