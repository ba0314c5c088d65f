"""vCard text to contacts."""

from __future__ import annotations

import codecs
import re
from collections.abc import Callable, Iterable, Iterator
from functools import partial

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import CUSTOM, field_of, is_label
from roundcard.card.head import Head, Params, head, lending
from roundcard.card.labels import uses_of
from roundcard.card.origin import PLACE_STEP, RIDES, pack, tied, unpack
from roundcard.formats.vcard.lines import RawCard, cards, physical_lines, plain_breaks, unfold
from roundcard.formats.vcard.property_heads import (
    AS_URI,
    EXACT,
    OF,
    OURS,
    raw_params,
    read_head,
    split_line,
)
from roundcard.formats.vcard.quoted import (
    doubt,
    is_coded,
    soft_lines,
    without_encoding,
    wrong_bytes,
)
from roundcard.formats.vcard.syntax import escape, split, unescape, unescape_21
from roundcard.formats.vcard.values import reader_of, tel_uri
from roundcard.tally import Fate, Reason, SetAside, Tally, Why, changed_by

VERSIONS = ("2.1", "3.0", "4.0")
DEFAULT_VERSION = "3.0"
"""What a card without a VERSION is taken for."""

_BEGINS = re.compile(rb"^[ \t]*BEGIN:VCARD[ \t]*\r*$", re.IGNORECASE | re.MULTILINE)
_HALVES = re.compile("[\ud800-\udfff]")
_HALF = Reason(Fate.CHANGED, Why.HALF_CHARACTER)
_MOST_HEADS = 20_000
MOST_PARTS = 500
"""Marks between the parts of a structured value; a hostile one has millions."""
_LONGEST_KEPT_HEAD = 160
_OF_BOTH = frozenset({"type", "altid", "language"})
"""Parameters of an address that its text on an envelope has, too."""


def recognise(sample: bytes) -> bool:
    """Whether a file that begins with `sample` is vCard text: a card begins on one of its lines."""
    if b"\n" not in sample:
        sample = sample.replace(b"\r", b"\n")
    return bool(_BEGINS.search(sample.removeprefix(b"\xef\xbb\xbf")))


def read(
    chunks: Iterable[bytes],
    *,
    source: int,
    tally: Tally,
    on_record: Callable[[int], None] | None = None,
) -> Iterator[Contact]:
    """Contacts from the octets of a vCard file, in chunks of any size.

    `source` is the number that origins carry. People and values read are counted in `tally`; cards
    and lines that cannot be read are set aside there. `on_record` hears the number of each card.
    """
    reader = CardReader(source, tally)
    for raw in cards(plain_breaks(chunks)):
        contact = reader.card(raw)
        if on_record is not None:
            on_record(reader.record)
        if contact is not None:
            yield contact


class CardReader:
    """Reads the cards of one source; keeps the heads that it has met."""

    def __init__(self, source: int, tally: Tally) -> None:
        self.source = source
        self.tally = tally
        self.record = 0
        self.heads: dict[str, dict[str, Head]] = {version: {} for version in VERSIONS}

    def card(self, raw: RawCard) -> Contact | None:
        """One card as a contact; None where it was blank or had to be set aside."""
        if not raw.inside:
            self.tally.find("text outside of any card was set aside", "line", raw.first_line)
            self.set_aside_text(raw)
            return None
        self.record += 1
        repaired: dict[int, Reason] = {}
        try:
            lines = self.logical_lines(raw)
        except UnicodeDecodeError:
            try:
                lines = self.told_lines(raw, repaired)
            except UnicodeDecodeError as error:
                at = _line_of(raw, error)
                self.set_aside(raw, f"line {at} holds bytes that are text in no character set")
                return None
        if not raw.ended:
            self.tally.find("END:VCARD is missing; the card was read to where it stops",
                            "line", raw.first_line - 1)  # fmt: skip
        version = self.version(lines, raw)
        tally = self.tally
        tally.people.read += 1
        contact, size = self.properties(lines, version, b"BEGIN:VCARD" in raw.block.upper())
        if repaired:
            self.mark_repairs(contact, repaired)
        if not size:
            tally.people.blank += 1
            return None
        tally.values.read += size
        return contact

    def logical_lines(self, raw: RawCard) -> list[tuple[int, str]]:
        """Unfolded, decoded lines, each with its number in the file."""
        block = raw.block
        first = raw.first_line
        encoded = _encoded(block)
        if not encoded and b"\n " not in block and b"\n\t" not in block:
            text = block.decode("utf-8")
            if "\r" in text:
                text = text.replace("\r\n", "\n")
            return list(enumerate(text.split("\n"), first))
        lines = physical_lines(block)
        logical = soft_lines(lines) if encoded else unfold(lines)
        return [(first + index, line.decode("utf-8")) for index, line in logical]

    def told_lines(self, raw: RawCard, repaired: dict[int, Reason]) -> list[tuple[int, str]]:
        """Logical lines of a card that is not all UTF-8, each by the character set that it names.

        A line that names none and is not UTF-8 is taken for windows-1252; its number and the repair
        are put into `repaired`. Raises `UnicodeDecodeError` for what is text in none of them.
        """
        lines = physical_lines(raw.block)
        logical = soft_lines(lines) if _encoded(raw.block) else unfold(lines)
        found = []
        for index, line in logical:
            number = raw.first_line + index
            charset = _charset(line)
            try:
                text = line.decode(charset)
            except (ValueError, LookupError):  # also what no character set is called
                text, repaired[number] = _repaired(line, charset)
            found.append((number, text))
        return found

    def mark_repairs(self, contact: Contact, repaired: dict[int, Reason]) -> None:
        """Mark the values of repaired lines as changed."""
        for prop in contact.properties:
            origin = prop.origin
            place = unpack(origin) if isinstance(origin, int) else None
            if place is not None and place.place in repaired and prop.size():
                prop.origin = changed_by(prop.origin_of(0), repaired[place.place])

    def version(self, lines: list[tuple[int, str]], raw: RawCard) -> str:
        """The version that a card names, wherever it does."""
        first = lines[0][1] if lines else ""
        if first[:8] == "VERSION:" and first[8:] in VERSIONS:
            return first[8:]
        said = next((line[8:].strip() for _, line in lines if line[:8].upper() == "VERSION:"), "")
        if said in VERSIONS:
            return said
        told = f"version '{said}' is unknown" if said else "VERSION is missing"
        self.tally.find(f"{told}; read as {DEFAULT_VERSION}", "line", raw.first_line - 1)
        return DEFAULT_VERSION

    def properties(  # noqa: PLR0915  # a call for each line would cost a fifth more
        self, lines: list[tuple[int, str]], version: str, nested: bool
    ) -> tuple[Contact, int]:  # a call for each line would cost a fifth more
        """The contact that the lines of a card make, and how many values it holds.

        `nested` says that there may be a card within the card.
        """
        inner = _inner_cards(lines) if nested else {}
        base = pack(self.source, self.record)
        heads = self.heads[version]
        found: list[Property] = []
        special = False
        size = 0
        for number, line in lines:
            if number in inner:
                line = inner[number]
                if not line:
                    continue  # a line of the card within the card
            text, colon, raw = line.partition(":")
            if not colon or '"' in text:
                if not line or line.isspace():
                    continue
                both = split_line(line)
                if both is None:
                    self.bad_line(number, line)
                    continue
                text, raw = both
            head = heads.get(text)
            if head is None:
                try:
                    head = self.head(text, version)
                except ValueError:
                    self.bad_line(number, line)
                    continue
            if head.told is not None:
                raw = head.told(raw)
            prop = Property(head, None, base + number * PLACE_STEP, raw)
            if head.doubt is not None:
                repair = head.doubt(raw)
                if repair is not None:
                    prop.origin = changed_by(prop.origin_of(0), repair)
            if head.special:
                if head.again:
                    continue
                if head.rides:
                    if head.name in ("version", "begin", "end"):
                        continue
                    prop.origin += RIDES  # type: ignore[operator]
                else:
                    special = True
            elif head.several is not None:
                if len(raw) > MOST_PARTS < raw.count(";") and len(split(raw, ";")) > MOST_PARTS:
                    self.bad_line(number, line, "a structured value of more parts than any has")
                    continue
                simple = not head.coded and "\\" not in raw and "," not in raw
                size += head.several(raw) if simple else prop.size()
            elif raw and not raw.isspace():
                size += 1
            else:
                continue
            found.append(prop)
        if special:
            found = settle(found)
            size = sum([prop.size() for prop in found])
        return Contact(found, base), size

    def head(self, text: str, version: str) -> Head:
        """A head not met before."""
        group, name, params = read_head(text, version)
        field = field_of(name)
        encoded: Params = ()
        upper = text.upper()
        if (
            version == "2.1"
            or "ENCODING" in upper
            or EXACT.upper() in upper
            or "OMIT-YEAR" in upper
            or field.kind == "media"
        ):
            encoded = tuple(raw_params(text, version))
        told = next((values[0] for key, values in encoded if key == EXACT and values), "")
        ours = bool(told) or OURS in text.upper().partition(";")[0]
        ours = ours or AS_URI in upper
        decode = reader_of(name, field.kind, "4.0" if ours else version, encoded)
        dated = field.kind == "date"
        params = tuple((key, values) for key, values in params
                       if key != EXACT and not (dated and key.endswith("omit-year")))  # fmt: skip
        coded = field.kind != "media" and not told and is_coded(encoded, text=bool(field.versions))
        if coded:
            decode = without_encoding(decode, encoded)
        if coded or told:
            params = tuple(param for param in params if param[0] not in ("encoding", "charset"))
        if is_label(name, group) and not field.versions and not coded:
            decode = unescape_21 if version == "2.1" and not told else unescape
        head = Head(name, params, group, version=version, decode=decode, text=text)
        head.coded = coded
        if coded:
            head.doubt = partial(doubt, params=encoded)
        if told:
            whole = bytes.fromhex(told).decode("utf-8")
            head.told = lambda _: whole
            if name == "tel" and whole.lower().startswith("tel:"):
                head.text = text + ";VALUE=uri"  # which older versions have no room for
        elif name == "tel" and AS_URI in upper:
            head.told, head.text = tel_uri, text + ";VALUE=uri"
        if field.kind == "raw":
            head.text = text.replace(OURS + "AS-", "", 1)
        head.rides = not head.field.counts or (name == "fn" and head.derived)
        head.again = any(key == OF for key, _ in params)
        head.special = head.rides or head.again or _is_special(head)
        if name != CUSTOM:
            head.several = _COUNTS.get(field.kind)
        kept = self.heads[version]
        if len(kept) < _MOST_HEADS and len(text) <= _LONGEST_KEPT_HEAD:
            kept[text] = head
        return head

    def bad_line(
        self, number: int, line: str, reason: str = "a line that is not a property (name, colon, "
        "value)",
    ) -> None:  # fmt: skip
        """Garbage costs only itself."""
        item = SetAside(self.source, self.record, number, reason, line)
        self.tally.set_aside(item, values=1, people=0)

    def set_aside(self, raw: RawCard, reason: str) -> None:
        """A card that cannot be read."""
        lines = physical_lines(raw.block)
        values = sum(1 for line in lines if b":" in line and line[:1] not in b" \t") - 1
        text = raw.block.decode("utf-8", "backslashreplace")
        item = SetAside(self.source, self.record, raw.first_line, reason, text)
        self.tally.set_aside(item, max(values, 0))

    def set_aside_text(self, raw: RawCard) -> None:
        """Text in no card."""
        lines = sum(1 for line in physical_lines(raw.block) if line.strip())
        text = raw.block.decode("utf-8", "backslashreplace")
        item = SetAside(self.source, 0, raw.first_line, "text outside of any card", text)
        self.tally.set_aside(item, lines, people=0)


def _encoded(block: bytes) -> bool:
    """Whether a card may hold values in an encoding of vCard 2.1."""
    upper = block.upper()
    return b"QUOTED-PRINTABLE" in upper or b"BASE64" in upper


def _repaired(line: bytes, charset: str) -> tuple[str, Reason]:
    """A line that is not in its character set, and how it was repaired all the same.

    Raises `UnicodeDecodeError` for what is text in no way.
    """
    try:  # half a character of UTF-16 comes as UTF-8 that there is not
        text = line.decode("utf-8", "surrogatepass")
    except UnicodeDecodeError:  # what is UTF-8 in it stays so
        return line.decode("utf-8", _AS_WINDOWS), wrong_bytes(charset)
    return _HALVES.sub("\ufffd", text), _HALF


def _as_windows(error: UnicodeError) -> tuple[str, int]:
    """Octets that are no UTF-8, as windows-1252 has them."""
    if not isinstance(error, UnicodeDecodeError):
        raise error
    return error.object[error.start : error.end].decode("windows-1252"), error.end


_AS_WINDOWS = "roundcard-as-windows-1252"
codecs.register_error(_AS_WINDOWS, _as_windows)


def _line_of(raw: RawCard, error: UnicodeDecodeError) -> int:
    """The number of the physical line in which the bytes stand that do not decode."""
    octets = error.object[error.start : error.end]
    for number, line in enumerate(physical_lines(raw.block), raw.first_line):
        if octets in line:
            return number
    return raw.first_line


def _charset(line: bytes) -> str:
    """The character set that a property's head names; UTF-8 where it names none."""
    head = line.partition(b":")[0].upper()
    _, there, rest = head.partition(b"CHARSET=")
    if not there or b"QUOTED-PRINTABLE" in head:
        return "utf-8"
    return rest.partition(b";")[0].strip(b' "').decode("ascii", "replace").lower()


def _inner_cards(lines: list[tuple[int, str]]) -> dict[int, str]:
    """What stands for the lines of cards within the card (versit 1996, section 2.4.4): the text of
    the inner card after the AGENT line that leads to it, and nothing in its own lines."""
    found: dict[int, str] = {}
    agent, depth = 0, 0
    head = "AGENT"
    held: list[str] = []
    for number, line in lines:
        mark = line.strip().upper()
        if mark == "BEGIN:VCARD" or depth:
            depth += (mark == "BEGIN:VCARD") - (mark == "END:VCARD")
            held.append(escape(line))
            found[number] = ""
            if not depth:
                found[agent] = f"{head}:" + "\\n".join(held)
        elif line.strip():
            agent, head, held = number, line.partition(":")[0], []
    if depth:  # which never ends
        found[agent] = f"{head}:" + "\\n".join(held)
    return found


def _several(raw: str) -> int:
    """How many components of raw text without escapes or commas are filled."""
    return sum([1 for part in raw.split(";") if part])


def _one(raw: str) -> int:
    """One value, if there is any text."""
    return 1 if raw else 0


_COUNTS = {"parts": _several, "list": _one}
"""How values in raw text are counted that hold no escape and no comma."""


def _is_special(head: Head) -> bool:
    """Whether properties with this head may hold no value of their own."""
    return (
        bool(head.altid)
        or head.name == CUSTOM
        or (head.name == "adr" and bool(head.param("label")))
        or is_label(head.name, head.group)
    )


def settle(found: list[Property]) -> list[Property]:
    """Mark what rides on another value, and take the text on envelopes out of addresses.

    Gives the properties without those of ours that hold nothing.
    """
    groups = {
        prop.head.group.lower()
        for prop in found
        if prop.head.group and not is_label(prop.head.name, prop.head.group)
    }
    ties: set[tuple[str, str]] = set()
    out: list[Property] = []
    lent = _lent(found)
    for prop in found:
        if prop.head.group and lent:
            uses = lent.get(prop.head.group.lower(), ())
            if uses and set(uses) <= set(prop.head.field.uses):
                prop.head = lending(prop.head, uses)
        old = prop.head
        if is_label(old.name, old.group) and old.group.lower() in groups:
            prop.origin = prop.origin_of(0) | RIDES
        if old.altid and not old.phonetic:
            if (old.name, old.altid) in ties:
                prop.origin = tied(prop.origin_of(0))
            ties.add((old.name, old.altid))
        if old.name == "adr" and old.param("label"):
            out += _on_envelope(prop)
        elif prop.rides or prop.size() or (old.name != CUSTOM and old.several is not None):
            out.append(prop)
    return out


def _lent(found: list[Property]) -> dict[str, tuple[str, ...]]:
    """The uses that labels in marks say, by their groups."""
    return {
        prop.head.group.lower(): uses
        for prop in reversed(found)  # the first label of a group counts
        if is_label(prop.head.name, prop.head.group) and (uses := uses_of(prop.text))
    }


def _on_envelope(prop: Property) -> list[Property]:
    """An address and, as a property of its own, the text that its LABEL holds."""
    old = prop.head
    text = ",".join(old.param("label"))  # a comma in a label separates nothing
    if prop.raw is not None:  # RFC 6350 section 6.3.1 prints line breaks as in values
        text = unescape(text)
    params = tuple((key, values) for key, values in old.params if key != "label")
    if not prop.size() and text.strip():
        return [Property(head("label", params, old.group), text, prop.origin)]
    address = Property(head("adr", params, old.group), prop.value, prop.origin)
    if not text.strip():
        return [address]
    params = tuple((key, values) for key, values in params if key in _OF_BOTH)
    return [address, Property(head("label", params, old.group), text, prop.origin)]
