"""People who were never delivered: their identity, and whom the destination has already."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Sequence

from roundcard.card.contact import Contact
from roundcard.card.names import called
from roundcard.jobs.desk import Current, Desk
from roundcard.jobs.found import Row
from roundcard.jobs.kept import Kept, Member
from roundcard.jobs.model import Again
from roundcard.jobs.three_way import States, held_against
from roundcard.merge.merge_step import IN_THE_BOOK
from roundcard.tally import Tally


class Newcomers:
    """Decides about people who were never delivered."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.settings = desk.settings
        self.found = desk.found
        self.job = desk.job
        self.state = desk.state
        self.model = desk.model
        self._minted: set[str] = set()

    def __call__(
        self, meant: Contact, members: tuple[Member, ...], tally: Tally
    ) -> Iterator[Contact]:
        """Somebody who was never delivered."""
        export, to = self.settings.export, self.job.to
        uid = self._uid(members)
        meant = self.desk.completed(uid, meant, members, self.settings.today, tally)
        there = export.theirs(meant, to) if export is not None else -1
        written, stands, became = meant, None, "new"
        if there >= 0 and export is not None:
            existing = self.job.deliver.existing
            if existing == "leave":
                self.desk.count_of(meant, IN_THE_BOOK, tally)
                self.found.counts["there already, left"] += 1
                self.desk.uid, self.desk.became = uid, "there already, left"
                return
            if existing == "update":
                stands = export.contact(there)
                own = stands.first("uid")
                if own is not None and self.state.digest(own.text) is None:
                    uid = own.text
                    meant = self.desk.completed(uid, meant, members, self.settings.today, tally)
                empty = Contact([])
                states = States(meant, empty, self._modelled(meant), empty, stands)
                policy = Again(conflict="source", edited_there="there")
                written = held_against(states, policy, self.desk.origin, self.job.region).written
                self.desk.drop(meant, written, 0, tally)
                self.found.counts["there already, updated"] += 1
                became = "there already, updated"
            else:
                self.found.counts["there already, put beside"] += 1
                became = "there already, put beside"
        current = Current(uid, "new", None, meant, written, members, stands)
        yield from self.desk.write(current)
        if current.sent is None:
            self.found.not_sent.append(Row(uid, called(meant), "lacks what the destination needs"))
            self.found.counts["not sent"] += 1
            self.desk.uid, self.desk.became = uid, "not sent"
            return
        self.found.counts["new"] += there < 0
        self.desk.uid, self.desk.became = uid, became
        held = self._held_after(current)
        self.desk.keep(
            current, Kept(meant, self._sent(current), held, members, self.settings.today)
        )

    def _uid(self, members: Sequence[Member]) -> str:
        """The identity of a new person: the leading record's own, else one that is derived."""
        own = members[0].contact.first("uid")
        if own is not None and own.text.strip():
            said = own.text.strip()
            if said not in self._minted and self.state.digest(said) is None:
                self._minted.add(said)
                return said
        lead = members[0]
        made = uuid.uuid5(uuid.UUID(self.job.id), f"{lead.source}\n{lead.identity}")
        found = f"urn:uuid:{made}"
        number = 1
        while found in self._minted or self.state.digest(found) is not None:
            number += 1
            made = uuid.uuid5(uuid.UUID(self.job.id), f"{lead.source}\n{lead.identity}\n{number}")
            found = f"urn:uuid:{made}"
        self._minted.add(found)
        return found

    def _modelled(self, meant: Contact) -> Contact:
        sent = self.model.fitted(meant)
        return self.model.held(sent) if sent is not None else Contact([])

    def _sent(self, current: Current) -> Contact | None:
        """How what is meant is sent: what later states are told from."""
        return current.sent if current.written is current.meant else self.model.fitted(
            current.meant)  # fmt: skip

    def _held_after(self, current: Current) -> Contact | None:
        """What the destination will hold; None where that is told from what was sent."""
        if current.sent is None or current.written is current.meant:
            return None
        return self.model.held(current.sent)
