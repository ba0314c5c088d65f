"""Books: sources opened whatever they are, targets written whole or not at all."""
