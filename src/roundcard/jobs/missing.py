"""People who were delivered, and are not in the sources any more."""

from __future__ import annotations

from collections.abc import Collection

from roundcard.card.names import called
from roundcard.jobs.desk import Current, Desk
from roundcard.jobs.found import Removal, Row
from roundcard.jobs.kept import Kept


class Missing:
    """Decides about people whom no source has any more."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.settings = desk.settings
        self.found = desk.found
        self.job = desk.job
        self.state = desk.state

    def __call__(self, seen: Collection[str]) -> None:
        """Who is not in the sources: gone, merged into somebody else, or kept as they were."""
        people, export = self.found.people, self.settings.export
        assert people is not None
        frozen = set(self.found.damage.why)
        for uid in list(self.state.uids()):
            if uid in seen and uid not in people.merged:
                continue
            kept = self.state.person(uid, self.desk.before)
            if kept is None:
                continue
            name = called(kept.meant)
            self.desk.uid = uid
            current = Current(uid, "gone", kept, kept.meant, kept.meant, kept.members, None)
            if uid in people.merged:
                elder = people.merged[uid]
                self._became("merged since")
                self.found.removals.append(Removal(uid, kept.meant, f"merged into {elder}",
                                                   self.settings.today))  # fmt: skip
                self.desk.keep(current, None, "merged")
                continue
            waits = any((m.source, m.identity) in people.claimed for m in kept.members)
            if any(m.source in frozen for m in kept.members) or waits:
                self._became("kept as they were")
                continue
            if kept.status == "away" or (export is not None and uid not in export.of):
                self._became("gone, and removed there")
                self.desk.keep(current, None)
                continue
            self._gone(uid, name, kept, current)

    def _gone(self, uid: str, name: str, kept: Kept, current: Current) -> None:
        export, gone = self.settings.export, self.job.again.gone
        self._became("gone")
        if export is not None and uid not in export.same:
            self.found.values["conflict"] += 1
            self.found.held.append(Row(uid, name, "gone from the sources, and edited there"))
            return
        since = kept.since if kept.status == "gone" else self.settings.today
        if gone != "keep":
            self.found.removals.append(Removal(uid, kept.meant, "gone from the sources", since))
        if gone == "remove":
            self.desk.keep(current, None)
        elif kept.status != "gone":
            self.desk.keep(current, kept._replace(status="gone", since=since),
                       "gone" if gone == "list" else "noted")  # fmt: skip
            self.found.noted += 1

    def _became(self, what: str) -> None:
        self.found.counts[what] += 1
        self.desk.became = what
        self.desk.listed()
