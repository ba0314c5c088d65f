"""The model: contacts, properties, the table of fields, field paths. No I/O."""
