"""What is kept of a person from run to run, as compact octets.

A person is kept as meant (cleaned and merged, before fitting), as sent (fitted), and as held after
the delivery where that was seen; and with each record that is theirs, by which the next run tells
who they are.
"""

from __future__ import annotations

import json
import zlib
from collections.abc import Sequence
from hashlib import blake2b
from typing import Any, NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.head import Value
from roundcard.errors import JobError
from roundcard.merge.contact_store import as_json, from_json

_SAME = 0
"""Stands for a person who says what the one before says."""
_USUAL = (
    b'{"meant":[["n",{},["","","","",""]],["fn",{},""],["email",{"type":["home"]},"@example.org"],'
    b'["email",{"type":["work"]},""],["tel",{"type":["cell"]},"+44"],["tel",{"type":["home"]},""],'
    b'["tel",{"type":["work"]},""],["adr",{"type":["home"]},["","","","","","",""]],["org",{},[""]]'
    b',["bday",{},"19"],["note",{},""],["categories",{},[""]],["uid",{},"urn:uuid:"],["rev",{},"20"'
    b'],["x-roundcard-custom",{},["",""]]],"sent":0,"held":null,"members":[["key:","digest:",0]],'
    b'"first":"2026-01-01","status":"there","since":"","asked":false}'
)
"""Texts that most people have, for the compression (RFC 1950 section 2.2)."""


class Member(NamedTuple):
    """A record of a source, as the person's."""

    source: str
    identity: str
    """What tells the record from run to run."""
    digest: str
    """Of the record as it was read."""
    contact: Contact
    """The record, cleaned."""


class Kept(NamedTuple):
    """A person as the last delivery left them."""

    meant: Contact
    sent: Contact | None
    """As they were fitted; None where they were not sent."""
    held: Contact | None
    """As the destination held them after it, where that was seen."""
    members: tuple[Member, ...]
    """The leading record first."""
    first: str
    """The day of the run that first delivered them, as ``2026-11-28``."""
    status: str = "there"
    """``there``; ``gone`` from the sources; ``away``: removed at the destination."""
    since: str = ""
    """Since when, where they are gone or away."""
    asked: bool = False
    """Whether values of theirs wait for an answer, so that they are looked at again."""

    @property
    def digest(self) -> str:
        """Of all their records; equal where no source changed, and nothing waits."""
        if self.asked:
            return "asked"
        return digest_of([(each.source, each.digest) for each in self.members])


def digest_of(members: Sequence[tuple[str, str]]) -> str:
    """What is equal for equal records of the same sources, in whatever order."""
    told = blake2b(digest_size=16)
    for source, digest in sorted(members):
        told.update(f"{source}\0{digest}\0".encode())
    return told.hexdigest()


def record_digest(contact: Contact) -> str:
    """What is equal for records that were read alike (BLAKE2b, RFC 7693), in hexadecimal digits."""
    told = blake2b(digest_size=12)
    for prop in contact.properties:
        made = prop.head
        value: Value = prop.raw if prop.raw is not None and made.field.kind == "raw" else prop.value
        told.update(repr((made.name, made.params, made.group, value)).encode("utf-8", "replace"))
    return told.hexdigest()


def packed(kept: Kept) -> bytes:
    """A person as octets."""
    meant = as_json(kept.meant.properties)
    sent = _told(kept.sent, meant)
    made = {
        "meant": meant,
        "sent": sent,
        "held": _told(kept.held, meant if sent == _SAME else sent),
        "members": [[m.source, m.identity, m.digest, _told(m.contact, meant)]
                    for m in kept.members],
        "first": kept.first, "status": kept.status, "since": kept.since, "asked": kept.asked,
    }  # fmt: skip
    text = json.dumps(made, ensure_ascii=False, separators=(",", ":"))
    press = zlib.compressobj(1, zdict=_USUAL)
    return press.compress(text.encode("utf-8", "surrogatepass")) + press.flush()


def unpacked(octets: bytes, reason: int) -> Kept:
    """A person out of octets; their values are added ones, for a reason by its number.

    Raises `JobError` where they are none.
    """
    try:
        text = zlib.decompressobj(zdict=_USUAL).decompress(octets).decode("utf-8", "surrogatepass")
        made = json.loads(text)
        meant = made["meant"]
        sent = _of(made["sent"], meant, reason)
        held = _of(made["held"], meant if made["sent"] == _SAME else made["sent"], reason)
        members = tuple(
            Member(
                str(source), str(identity), str(digest), _of(props, meant, reason) or Contact([])
            )
            for source, identity, digest, props in made["members"]
        )
        whole = Contact(from_json(meant, reason), -1)
        return Kept(whole, sent, held, members, made["first"], made["status"], made["since"],
                    made["asked"])  # fmt: skip
    except (zlib.error, ValueError, KeyError, TypeError, UnicodeDecodeError) as error:
        raise JobError(f"the state of the job is damaged: {error}") from None


def _told(contact: Contact | None, other: Any) -> Any:
    if contact is None:
        return None
    props = as_json(contact.properties)
    return _SAME if props == other else props


def _of(told: Any, other: Any, reason: int) -> Contact | None:
    if told is None:
        return None
    return Contact(from_json(other if told == _SAME else told, reason), -1)


def without(contact: Contact, *names: str) -> list[Property]:
    """The properties of a contact but those of some names."""
    return [prop for prop in contact.properties if prop.head.name not in names]
