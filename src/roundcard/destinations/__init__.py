"""What a contact service takes: written down, checked against, fitted to."""
