"""vCard text: 2.1 (versit consortium, 1996), 3.0 (RFC 2425, 2426) and 4.0 (RFC 6350)."""

from roundcard.formats.vcard.lines import plain_breaks
from roundcard.formats.vcard.reader import read, recognise
from roundcard.formats.vcard.writer import VCardWriter

__all__ = ["VCardWriter", "plain_breaks", "read", "recognise"]
