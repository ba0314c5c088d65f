"""The state of a job: one SQLite file, held by one process at a time.

It has what was delivered and confirmed (people, and the records that are theirs), what each run
wrote (with what stood before, so that it can be taken back), and where each run stands. Everything
that a run does to it is one transaction; a process that is killed leaves what was there before.
"""

from __future__ import annotations

import contextlib
import json
import sqlite3
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal, NamedTuple, Self

from roundcard.errors import JobError, TargetError
from roundcard.jobs.kept import Kept, packed, unpacked

SCHEMA = 1
_HEADER, _PAGE_AT, _COUNT_AT = 100, 16, 28
_MUCH = 5
"""A file of which more than this part is free is made smaller."""
_MAGIC = b"SQLite format 3\0"
Status = Literal["working", "writing", "waiting", "pending", "confirmed", "nothing", "not imported",
                 "undone", "abandoned"]  # fmt: skip
Kind = Literal["new", "changed", "gone", "noted", "merged"]

_TABLES = """
CREATE TABLE about (key TEXT PRIMARY KEY, value TEXT) WITHOUT ROWID;
CREATE TABLE runs (number INTEGER PRIMARY KEY, folder TEXT, kind TEXT, status TEXT, began TEXT,
                   told TEXT);
CREATE TABLE sources (number INTEGER PRIMARY KEY, name TEXT UNIQUE, columns TEXT);
CREATE TABLE people (uid TEXT PRIMARY KEY, status TEXT, digest TEXT, kept BLOB);
CREATE TABLE members (source INTEGER, identity TEXT, digest TEXT, uid TEXT,
                      PRIMARY KEY (source, identity)) WITHOUT ROWID;
CREATE INDEX members_of ON members (uid);
CREATE TABLE aliases (uid TEXT PRIMARY KEY, of_uid TEXT) WITHOUT ROWID;
CREATE TABLE deliveries (run INTEGER, place INTEGER, uid TEXT, kind TEXT, before BLOB, after BLOB,
                         PRIMARY KEY (run, place));
CREATE INDEX deliveries_of ON deliveries (run, uid);
"""


@dataclass(slots=True)
class Run:
    """One run of a job."""

    number: int
    folder: str
    """The name of its folder."""
    kind: str
    """``run`` or ``undo``."""
    status: Status
    began: str
    told: dict[str, Any] = field(default_factory=dict)
    """What it says of itself: counts, digests of what it went by, decisions that it learned."""

    @property
    def stands(self) -> bool:
        """Whether what it wrote counts, or may count."""
        return self.kind == "run" and self.status in ("pending", "confirmed")


class Delivery(NamedTuple):
    """What a run did to one person."""

    uid: str
    kind: Kind
    before: Kept | None
    after: Kept | None


class State:
    """The state of one job; hold it as short as the work takes."""

    def __init__(self, path: Path, job: str, *, create: bool = False) -> None:
        """`job` is the job's id. Raises `JobError` where the state is damaged, newer, another
        job's, or held by another process."""
        self.path = path
        self._numbers: dict[str, int] = {}
        if not path.exists() and not create:
            raise JobError(f"{path}: not found; the job has not run yet")
        fresh = not path.exists() or path.stat().st_size == 0
        if not fresh:
            _demand_whole(path)
        try:
            self._db = sqlite3.connect(path, timeout=0, isolation_level=None)
            self._db.execute("PRAGMA locking_mode = EXCLUSIVE")
            self._db.execute("PRAGMA temp_store = FILE")
            if fresh:
                self._db.execute("PRAGMA auto_vacuum = INCREMENTAL")
            self._db.execute("BEGIN EXCLUSIVE")
            if fresh or not self._has_tables():
                self._make(job)
            self._demand_ours(job)
            self._db.execute("COMMIT")
            path.chmod(0o600)
        except sqlite3.Error as error:
            self.close()
            raise self._said(error) from None
        except BaseException:
            self.close()
            raise

    def _said(self, error: sqlite3.Error) -> JobError | TargetError:
        text = str(error)
        if "locked" in text:
            return JobError(f"{self.path}: another run of this job is at work; wait for it to end")
        if "unable to open" in text or "readonly" in text or "full" in text or "disk I/O" in text:
            return TargetError(f"{self.path}: cannot be written: {text}")
        return JobError(f"{self.path}: the state of the job is damaged ({text}); put a backup of it"
                        " in its place, or start anew with an empty 'runs' folder")  # fmt: skip

    def _has_tables(self) -> bool:
        found = self._db.execute("SELECT count(*) FROM sqlite_master").fetchone()
        return bool(found[0])

    def _make(self, job: str) -> None:
        for statement in _TABLES.split(";"):
            if statement.strip():
                self._db.execute(statement)
        self._db.executemany("INSERT INTO about VALUES (?, ?)",
                             [("schema", str(SCHEMA)), ("job", job)])  # fmt: skip

    def _demand_ours(self, job: str) -> None:
        about = dict(self._db.execute("SELECT key, value FROM about"))
        if int(about.get("schema", "0")) > SCHEMA:
            raise JobError(f"{self.path}: was written by a newer version of roundcard; update it "
                           "with 'pip install --upgrade roundcard'")  # fmt: skip
        if job and about.get("job") != job:
            raise JobError(f"{self.path}: belongs to another job (id {about.get('job')}); give each"
                           " job a 'runs' folder of its own")  # fmt: skip

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Let others have it."""
        with contextlib.suppress(sqlite3.Error, AttributeError):
            self._db.close()

    @contextlib.contextmanager
    def told(self) -> Iterator[None]:
        """Raise our errors for those of the database."""
        try:
            yield
        except sqlite3.Error as error:
            raise self._said(error) from None

    @contextlib.contextmanager
    def together(self) -> Iterator[None]:
        """All that is done meanwhile counts, or nothing of it."""
        with self.told():
            self._db.execute("BEGIN")
            try:
                yield
            except BaseException:
                with contextlib.suppress(sqlite3.Error):
                    self._db.execute("ROLLBACK")
                raise
            self._db.execute("COMMIT")

    def shrink(self) -> None:
        """Give room back to the file system, where much of the file is free."""
        with self.told():
            free = self._db.execute("PRAGMA freelist_count").fetchone()[0]
            pages = self._db.execute("PRAGMA page_count").fetchone()[0]
            if free * _MUCH > pages:
                self._db.execute("PRAGMA incremental_vacuum").fetchall()

    # runs

    def runs(self) -> list[Run]:
        """All runs, the oldest first."""
        with self.told():
            rows = self._db.execute("SELECT number, folder, kind, status, began, told FROM runs "
                                    "ORDER BY number").fetchall()  # fmt: skip
        return [Run(number, folder, kind, status, began, json.loads(told))
                for number, folder, kind, status, began, told in rows]  # fmt: skip

    def add_run(self, folder: str, kind: str, began: str) -> Run:
        """A run begins."""
        with self.told():
            made = self._db.execute(
                "INSERT INTO runs (folder, kind, status, began, told) VALUES (?, ?, 'working', ?, "
                "'{}')", (folder, kind, began),
            )  # fmt: skip
        return Run(int(made.lastrowid or 0), folder, kind, "working", began)

    def set_run(self, run: Run) -> None:
        """Keep what became of a run."""
        with self.told():
            self._db.execute("UPDATE runs SET status = ?, told = ? WHERE number = ?",
                             (run.status, json.dumps(run.told), run.number))  # fmt: skip

    def drop_run(self, run: Run) -> None:
        """Forget a run that wrote nothing."""
        with self.told():
            self._db.execute("DELETE FROM deliveries WHERE run = ?", (run.number,))
            self._db.execute("DELETE FROM runs WHERE number = ?", (run.number,))

    # sources

    def columns(self) -> dict[str, dict[str, int]]:
        """By source how many records had something in each column, as of the last delivery."""
        with self.told():
            rows = self._db.execute("SELECT name, columns FROM sources").fetchall()
        return {name: json.loads(text) for name, text in rows}

    def set_columns(self, found: dict[str, dict[str, int]]) -> None:
        """Keep the columns of sources."""
        with self.told():
            for name, columns in found.items():
                self._number(name)
                self._db.execute("UPDATE sources SET columns = ? WHERE name = ?",
                                 (json.dumps(columns), name))  # fmt: skip

    def _number(self, name: str) -> int:
        self._db.execute("INSERT OR IGNORE INTO sources (name, columns) VALUES (?, '{}')", (name,))
        found = self._db.execute("SELECT number FROM sources WHERE name = ?", (name,)).fetchone()
        return int(found[0])

    # people

    def size(self) -> int:
        """How many people were delivered, and are confirmed."""
        with self.told():
            return int(self._db.execute("SELECT count(*) FROM people").fetchone()[0])

    def person(self, uid: str, reason: int) -> Kept | None:
        """A person as they were delivered."""
        with self.told():
            row = self._db.execute("SELECT kept FROM people WHERE uid = ?", (uid,)).fetchone()
        return unpacked(row[0], reason) if row is not None else None

    def age(self, uid: str) -> int:
        """Where somebody stands in the order in which people came."""
        with self.told():
            row = self._db.execute("SELECT rowid FROM people WHERE uid = ?", (uid,)).fetchone()
        return int(row[0]) if row is not None else 0

    def digest(self, uid: str) -> tuple[str, str] | None:
        """Status and digest of a person's records."""
        with self.told():
            row = self._db.execute("SELECT status, digest FROM people WHERE uid = ?",
                                   (uid,)).fetchone()  # fmt: skip
        return (row[0], row[1]) if row is not None else None

    def people(self, reason: int) -> Iterator[tuple[str, Kept]]:
        """All people, one by one, in the order in which they came."""
        with self.told():
            for uid, octets in self._db.execute("SELECT uid, kept FROM people ORDER BY rowid"):
                yield uid, unpacked(octets, reason)

    def member(self, source: str, identity: str) -> tuple[str, str] | None:
        """The person and the digest of a record."""
        with self.told():
            row = self._db.execute(
                "SELECT uid, digest FROM members WHERE source = ? AND identity = ?",
                (self._known(source), identity)).fetchone()  # fmt: skip
        return (row[0], row[1]) if row is not None else None

    def count_of(self, source: str) -> int:
        """How many records of a source were delivered, and are not known to be gone."""
        with self.told():
            row = self._db.execute(
                "SELECT count(*) FROM members m JOIN people p ON p.uid = m.uid WHERE m.source = ? "
                "AND p.status != 'gone'", (self._known(source),)).fetchone()  # fmt: skip
        return int(row[0])

    def _known(self, source: str) -> int:
        if not self._numbers:
            self._numbers = dict(self._db.execute("SELECT name, number FROM sources"))
        return self._numbers.get(source, -1)

    def uids(self) -> Iterator[str]:
        """The identities of all people, in the order in which they came."""
        with self.told():
            for (uid,) in self._db.execute("SELECT uid FROM people ORDER BY rowid"):
                yield uid

    def members(self, source: str) -> dict[str, str]:
        """The records of a source: their people by their identities."""
        with self.told():
            return dict(self._db.execute("SELECT identity, uid FROM members WHERE source = ?",
                                         (self._known(source),)))  # fmt: skip

    def alias(self, uid: str) -> str:
        """The identity that a person has now who once had another one."""
        with self.told():
            row = self._db.execute("SELECT of_uid FROM aliases WHERE uid = ?", (uid,)).fetchone()
        return row[0] if row is not None else uid

    # deliveries

    def deliver(self, run: Run, place: int, found: Delivery) -> None:
        """Keep what a run writes of a person, as pending; `place` is where in its order."""
        with self.told():
            self._db.execute(
                "INSERT INTO deliveries VALUES (?, ?, ?, ?, ?, ?)",
                (run.number, place, found.uid, found.kind,
                 packed(found.before) if found.before is not None else None,
                 packed(found.after) if found.after is not None else None))  # fmt: skip

    def delivered(self, run: Run) -> dict[str, int]:
        """How many people a run wrote, by kind."""
        with self.told():
            return dict(self._db.execute("SELECT kind, count(*) FROM deliveries WHERE run = ? "
                                         "GROUP BY kind", (run.number,)))  # fmt: skip

    def deliveries(self, run: Run, reason: int) -> Iterator[Delivery]:
        """What a run did to people, in order; `after` is None too where the run is confirmed and
        the person stands as it left them."""
        with self.told():
            rows = self._db.execute(
                "SELECT uid, kind, before, after FROM deliveries WHERE run = ? ORDER BY place",
                (run.number,))  # fmt: skip
            for uid, kind, before, after in rows:
                yield Delivery(uid, kind, unpacked(before, reason) if before else None,
                               unpacked(after, reason) if after else None)  # fmt: skip

    def drop_deliveries(self, run: Run, uids: Iterable[str] | None = None) -> None:
        """Forget what a run wrote, of some people or of all: it did not get there."""
        with self.told():
            if uids is None:
                self._db.execute("DELETE FROM deliveries WHERE run = ?", (run.number,))
                return
            self._db.executemany("DELETE FROM deliveries WHERE run = ? AND uid = ?",
                                 [(run.number, uid) for uid in uids])  # fmt: skip

    def amend(self, run: Run, uid: str, after: Kept) -> None:
        """Keep a person of a run otherwise, as the destination shows them."""
        with self.told():
            self._db.execute("UPDATE deliveries SET after = ? WHERE run = ? AND uid = ?",
                             (packed(after), run.number, uid))  # fmt: skip

    def apply(self, run: Run, *, backwards: bool = False) -> None:
        """What a run wrote is there: it becomes what the next one goes by; or, backwards, what
        stood before it."""
        numbers: dict[str, int] = {}
        self._numbers = {}
        side = "before" if backwards else "after"
        with self.told():
            self._db.execute("DELETE FROM members WHERE uid IN (SELECT uid FROM deliveries WHERE "
                             "run = ?)", (run.number,))  # fmt: skip
            rows = self._db.execute(
                f"SELECT uid, {side} FROM deliveries WHERE run = ? ORDER BY place",
                (run.number,))  # fmt: skip
            for uid, octets in rows:
                if octets is None:
                    self._db.execute("DELETE FROM people WHERE uid = ?", (uid,))
                    continue
                kept = unpacked(octets, 0)
                self._db.execute(
                    "INSERT INTO people VALUES (?, ?, ?, ?) ON CONFLICT (uid) DO UPDATE SET "
                    "status = excluded.status, digest = excluded.digest, kept = excluded.kept",
                    (uid, kept.status, kept.digest, octets))  # fmt: skip
                for member in kept.members:
                    if member.source not in numbers:
                        numbers[member.source] = self._number(member.source)
                    self._db.execute(
                        "INSERT OR REPLACE INTO members VALUES (?, ?, ?, ?)",
                        (numbers[member.source], member.identity, member.digest, uid))  # fmt: skip
            if not backwards:  # it stands among the people now
                self._db.execute("UPDATE deliveries SET after = NULL WHERE run = ?", (run.number,))

    def set_aliases(self, found: dict[str, str]) -> None:
        """Keep the identities that people had once."""
        with self.told():
            self._db.executemany("INSERT OR REPLACE INTO aliases VALUES (?, ?)", found.items())


def _demand_whole(path: Path) -> None:
    """Raise `JobError` for a file that is no database, or was cut (SQLite, "Database File Format",
    section 1.3)."""
    try:
        size = path.stat().st_size
        with path.open("rb") as stream:
            octets = stream.read(_HEADER)
    except OSError as error:
        raise JobError(f"{path}: cannot be read: {error.strerror}") from None
    page = int.from_bytes(octets[_PAGE_AT : _PAGE_AT + 2], "big")
    page = 65_536 if page == 1 else page
    pages = int.from_bytes(octets[_COUNT_AT : _COUNT_AT + 4], "big")
    journal = path.with_name(f"{path.name}-journal")
    if (
        len(octets) < _HEADER
        or octets[:16] != _MAGIC
        or (size < page * pages and not journal.exists())
    ):
        raise JobError(f"{path}: the state of the job is damaged or cut; put a backup of it in its "
                       "place, or start anew with an empty 'runs' folder")  # fmt: skip
