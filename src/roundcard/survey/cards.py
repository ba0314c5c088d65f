"""A survey of one book of cards."""

from __future__ import annotations

import time
from collections.abc import Iterator

from roundcard.books.source import Source
from roundcard.books.source_reader import Reading
from roundcard.card.contact import Contact, Property
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS, STREET
from roundcard.card.head import Component
from roundcard.card.names import formatted_name
from roundcard.card.paths import FieldPath
from roundcard.layouts.drafting.draft import said_kind
from roundcard.layouts.drafting.profile import ColumnProfile
from roundcard.survey.column_problems import trouble_of_field
from roundcard.survey.model import ColumnSurvey, FileSurvey, Unreachable
from roundcard.survey.profile_table import Watch
from roundcard.survey.table import Tell, usual_of
from roundcard.tally import Tally

_BATCH = 2_000
"""Components of an address up to the street (RFC 6350 section 6.3.1): without them no letter
arrives."""
_FIELDS_ORDER = ("name", "nickname", "org", "title", "role", "email", "phone", "address", "url",
                 "birthday", "anniversary", "note", "category", "photo")  # fmt: skip


class _FieldSeen:
    """The values of one field path, over all people."""

    def __init__(self, path: str) -> None:
        self.profile = ColumnProfile(path)
        self.people = 0
        self.waiting: list[str] = []
        self.last = 0

    def see(self, value: str, record: int) -> None:
        self.people += self.last != record
        self.last = record
        self.waiting.append(value)
        if len(self.waiting) >= _BATCH:
            self.flush()

    def flush(self) -> None:
        if self.waiting:
            self.profile.add(self.waiting)
            self.waiting = []


def survey_cards(
    source: Source, number: int, watch: Watch | None = None, tell: Tell | None = None
) -> FileSurvey:
    """Look at all of one book of cards. Raises `SourceError`."""
    began = time.monotonic()
    tally = Tally()
    reading = Reading(source, number, (), tally)
    found = FileSurvey(source.name, reading.read_as.format, source.octets)
    seen: dict[str, _FieldSeen] = {}

    def progress(octets: int, records: int) -> None:
        if watch is not None:
            watch("surveying", octets, source.octets, records)

    for record, contact in enumerate(reading.contacts(progress), 1):
        _reach(contact, record, found, tell)
        for path, value in values_of(contact):
            each = seen.get(path)
            if each is None:
                each = seen[path] = _FieldSeen(path)
            each.see(value, record)
    for each in seen.values():
        each.flush()
        each.profile.rows, each.profile.filled = found.reach.people, each.people
    found.people = found.reach.people
    found.blank, found.unreadable = tally.people.blank, tally.people.set_aside
    found.columns = [
        ColumnSurvey(path, "", said_kind(each.profile), each.profile,
                     trouble=trouble_of_field(each.profile, path), usual=usual_of(each.profile))
        for path, each in sorted(seen.items(), key=lambda item: _order(item[0]))
    ]  # fmt: skip
    for what, finding in tally.findings.items():
        places = ", ".join(f"{unit} {at:,}" for unit, at in finding.examples if at)
        told = f"{finding.count:,} × {what}" if finding.count > 1 else what
        found.trouble.append(f"{told} ({places})" if places else told)
    found.seconds = time.monotonic() - began
    return found


def _order(path: str) -> tuple[int, str]:
    word = path.partition("/")[0]
    if word in _FIELDS_ORDER:
        return _FIELDS_ORDER.index(word), path if word != "name" else ""
    return (len(_FIELDS_ORDER) + (word == "custom") + path.isupper() * 2, path)


def _reach(contact: Contact, record: int, found: FileSurvey, tell: Tell | None) -> None:
    email = phone = address = False
    for prop in contact.properties:
        name = prop.head.name
        if name == "email":
            email = True
        elif name == "tel":
            phone |= "fax" not in prop.head.uses
        elif name == "label":
            address = True
        elif name == "adr":
            address |= any(prop.components[: STREET + 1])
    found.reach.add(email, phone, address)
    if tell is not None and not (email and phone and address):
        whole = contact.first("fn")
        name = whole.text if whole is not None else formatted_name(contact)[0]
        tell(Unreachable(found.name, record, name, email, phone, address))


def values_of(contact: Contact) -> Iterator[tuple[str, str]]:
    """The values of a contact, each with the field path that reaches it (without positions)."""
    for prop in contact.properties:
        if not prop.rides:
            for path, value, _, _ in parts_of_value(prop):
                yield path, value


def parts_of_value(prop: Property) -> Iterator[tuple[str, str, int, int]]:
    """The values that a property holds: path, text, and which component (and part of it) it is."""
    head = prop.head
    field = head.field
    if head.name == CUSTOM:
        label, *values = prop.components
        for at, value in enumerate(values, 1):
            if value:
                yield str(FieldPath("custom", label=str(label) or "?")), _text(value), at, 0
    elif not field.path:
        yield head.name.upper(), prop.text, 0, 0
    elif head.name == "fn":
        yield "name/full", prop.text, 0, 0
    elif field.kind == "media":
        yield field.path, "(inline)" if prop.text.startswith("data:") else prop.text, 0, 0
    elif field.kind == "parts":
        uses = tuple(use for use in field.uses if use in head.uses)
        for at, component in enumerate(prop.components):
            path = str(FieldPath(field.path, uses, part=_part(head.name, at)))
            texts = (component,) if isinstance(component, str) else component
            for inner, text in enumerate(texts):
                if text:
                    yield path, text, at, inner
    elif field.kind == "list":
        for at, entry in enumerate(prop.components):
            yield field.path, _text(entry), at, 0
    else:
        uses = tuple(use for use in field.uses if use in head.uses and use != "voice")
        yield str(FieldPath(field.path, uses)), prop.text, 0, 0


def _text(component: Component) -> str:
    return component if isinstance(component, str) else ", ".join(component)


def _part(name: str, at: int) -> str:
    if name == "n":
        return N_PARTS[at] if at < len(N_PARTS) else "additional"
    if name == "adr":
        return ADR_PARTS[at] if at < len(ADR_PARTS) else "extended"
    if name == "gender":
        return ("sex", "identity")[min(at, 1)]
    return "unit" if at else ""
