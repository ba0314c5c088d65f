"""People who were delivered: held against what the destination has, value by value."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from roundcard.card.contact import Contact
from roundcard.card.names import called
from roundcard.jobs.desk import (
    AS_DELIVERED,
    AWAY_THERE,
    BLIND,
    FROM_BEFORE,
    FROM_THERE,
    PERSON_ASKED,
    VALUE_ASKED,
    Current,
    Desk,
)
from roundcard.jobs.found import Row, row_of
from roundcard.jobs.items import Item, items_of, pairs_of, put_together
from roundcard.jobs.kept import Kept, Member
from roundcard.jobs.model import Answer
from roundcard.jobs.three_way import Change, Outcome, States, held_against, still_open
from roundcard.jobs.who import Person
from roundcard.tally import Tally, added_by


class Known:
    """Decides about people who were delivered, and are in the sources."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.settings = desk.settings
        self.found = desk.found
        self.job = desk.job
        self.model = desk.model

    def __call__(
        self, person: Person, kept: Kept, meant: Contact, members: tuple[Member, ...], tally: Tally
    ) -> Iterator[Contact]:
        """Whether somebody is written again, and how."""
        export, again = self.settings.export, self.job.again
        uid = person.uid
        meant = self.desk.completed(uid, meant, members, kept.first, tally)
        base = Kept(meant, kept.sent, kept.held, members, kept.first)
        source_changed = base.digest != kept.digest
        absent = export is not None and uid not in export.of
        if (kept.status == "away" and export is None) or absent:
            away = kept._replace(status="away", since=kept.since or self.settings.today)
            policy = again.conflict if source_changed else again.removed_there
            if policy != "source":
                yield from self._away(uid, kept, away, meant, policy, tally,
                                      changed=source_changed)  # fmt: skip
                return
            self.found.counts["sent again"] += 1
            self.desk.became = "sent again"
            current = Current(uid, "changed", kept, meant, meant, members, None)
            yield from self.desk.write(current)
            self.desk.keep(current, base._replace(sent=current.sent, held=None))
            return
        sent = self.model.fitted(meant)
        if sent is None or kept.sent is None:
            yield from self._unfit(uid, kept, meant, members)
            return
        there = self._there(uid, kept)
        outcome = self._outcome(uid, kept, meant, sent, there, source_changed=source_changed)
        if outcome.travels and export is None and not self.settings.blind:
            self._held_blind(uid, called(meant), meant, outcome, tally)
            return
        self._tell(uid, called(meant), outcome, source_changed=source_changed)
        settled = settled_of(meant, kept, outcome)
        basis = self.model.fitted(settled) if settled is not meant else sent
        after = Kept(settled, basis, None, members, kept.first, asked=bool(outcome.held))
        if outcome.travels:
            yield from self._travels(uid, kept, meant, outcome, after, tally)
            return
        self._stays(meant, outcome, tally)
        held = there if export is not None and uid not in export.same else kept.held
        after = after._replace(held=self._open(held, outcome))
        if (
            source_changed
            or after.held is not kept.held
            or kept.status != "there"
            or (settled is not meant or self.settings.job_changed)
        ):
            current = Current(uid, "noted", kept, settled, settled, members, there)
            self.desk.keep(current, after)
            self.found.noted += 1

    def _outcome(
        self, uid: str, kept: Kept, meant: Contact, sent: Contact, there: Contact | None, *,
        source_changed: bool,
    ) -> Outcome:  # fmt: skip
        """What is to be written of somebody, and why."""
        desk, model = self.desk, self.model
        assert kept.sent is not None
        desk.found.resting += kept.held is None
        states = States(meant, model.held(kept.sent), model.held(sent), kept.held, there)
        return held_against(states, desk.job.again, desk.origin, desk.job.region,
                            by_the_job=not source_changed, answers=self._answers(uid))  # fmt: skip

    def _held_blind(
        self, uid: str, name: str, meant: Contact, outcome: Outcome, tally: Tally
    ) -> None:
        """Nobody knows what the destination holds, and nobody said to write all the same."""
        self.desk.count_of(meant, BLIND, tally)
        self.found.counts["held back, written blind"] += 1
        self.desk.became = "held back: not known what the destination holds"
        self.found.held += [row_of(uid, name, each, "not known what the destination holds")
                                 for each in outcome.changes]  # fmt: skip

    def _travels(
        self, uid: str, kept: Kept, meant: Contact, outcome: Outcome, after: Kept, tally: Tally
    ) -> Iterator[Contact]:
        """Somebody of whom something is written."""
        waits = sum(1 for each in outcome.held if each.source)
        self.desk.drop(meant, outcome.written, waits, tally)
        current = Current(uid, "changed", kept, after.meant, outcome.written, after.members, None)
        yield from self.desk.write(current)
        if current.sent is None:
            self._not_sent(uid, meant)
            return
        whole = outcome.written is after.meant
        held = None if whole else self.model.held(current.sent)
        self.desk.keep(current, after._replace(held=self._open(held, outcome)))

    @staticmethod
    def _stays(meant: Contact, outcome: Outcome, tally: Tally) -> None:
        """Count what somebody says of whom nothing is written."""
        size = sum(map(tally.read_of, meant.properties))
        waits = min(sum(1 for each in outcome.held if each.source), size)
        tally.count(VALUE_ASKED, waits)
        tally.count(AS_DELIVERED, size - waits, people=1)

    def _not_sent(self, uid: str, meant: Contact) -> None:
        row = Row(uid, called(meant), "lacks what the destination needs")
        self.found.not_sent.append(row)
        self.found.counts["not sent"] += 1
        self.desk.became = "not sent"

    def _open(self, held: Contact | None, outcome: Outcome) -> Contact | None:
        """What is held there, with what waits for an answer left open."""
        if held is None or not outcome.waiting or self.settings.export is None:
            return held
        return still_open(held, outcome.waiting, added_by(FROM_THERE))

    def _unfit(
        self, uid: str, kept: Kept, meant: Contact, members: tuple[Member, ...]
    ) -> Iterator[Contact]:
        """Somebody whom the destination would refuse now: told, and left there as they are."""
        current = Current(uid, "changed", kept, meant, meant, members, None)
        yield from self.desk.write(current)
        self._not_sent(uid, meant)

    def _there(self, uid: str, kept: Kept) -> Contact | None:
        """What the destination holds of somebody now; None where that is not known."""
        export = self.settings.export
        if export is None:
            return None
        if uid in export.same:
            return self.model.of(kept)
        return export.contact(export.of[uid])

    def _away(
        self, uid: str, kept: Kept, away: Kept, meant: Contact, policy: Answer, tally: Tally, *,
        changed: bool,
    ) -> Iterator[Contact]:  # fmt: skip
        """Somebody who was removed at the destination."""
        if changed:
            self.found.values["conflict"] += 1
        what = "removed there" + (", and changed here" if changed else "")
        if policy == "ask":
            self.desk.count_of(meant, PERSON_ASKED, tally)
            self.found.counts["held back"] += 1
            self.desk.became = f"held back: {what}"
            self.found.held.append(Row(uid, called(meant), what))
            return
        self.desk.count_of(meant, AWAY_THERE, tally)
        self.found.counts["removed there"] += 1
        self.desk.became = what
        self.found.told.append(Row(uid, called(meant), what))
        if kept.status != "away":
            self.desk.keep(Current(uid, "noted", kept, meant, meant, kept.members, None), away)
            self.found.noted += 1
        yield from ()

    def _answers(self, uid: str) -> Callable[[Change], Answer | None]:
        said = self.settings.answers
        return lambda change: said.get((uid, change.path, change.source))

    def _tell(self, uid: str, name: str, outcome: Outcome, *, source_changed: bool) -> None:
        """Count what became of a known person."""
        kinds = {change.kind for change in outcome.changes}
        counts = self.found.counts
        for change in outcome.changes:
            self.found.values[change.kind] += 1
            row = row_of(uid, name, change, change.kind)
            if change.held:
                self.found.held.append(row)
            elif change.taken == "source" and change.kind != "same now":
                self.found.changed.append(row)
                if change.kind in (
                    "cleared",
                    "removed",
                ) and self.job.to.on_import.empty_cell != ("clears"):
                    self.found.by_hand.append(row)
            elif change.kind in ("edited there", "conflict"):
                self.found.told.append(row)
        became = "the same"
        if outcome.travels:
            became = "changed" if source_changed else "changed by the job"
        counts[became] += 1
        self.desk.became = became
        counts["edited there"] += "edited there" in kinds
        counts["in conflict"] += "conflict" in kinds
        counts["with values held back"] += bool(outcome.held)


def settled_of(meant: Contact, kept: Kept, outcome: Outcome) -> Contact:
    """What counts as meant from now on: of values that are held back what was meant before, so that
    they are asked about again."""
    if not outcome.waiting:
        return meant
    then = [strand.then for strand in outcome.waiting if strand.then is not None]
    now = [strand.now for strand in outcome.waiting if strand.now is not None]
    before = _ours(items_of(kept.meant), then)
    without = _ours(items_of(meant), now)
    return put_together(meant, without, [(item, added_by(FROM_BEFORE)) for item in before])


def _ours(meant: list[Item], modelled: list[Item]) -> list[Item]:
    """The values as they are meant that the destination has in some form of its own."""
    return [pair.old or pair.new for pair in pairs_of(meant, modelled)
            if pair.new is not None and (pair.old or pair.new)]  # fmt: skip
