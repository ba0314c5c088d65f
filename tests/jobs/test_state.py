"""What is kept from run to run: people as octets, the state with its runs and deliveries."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from hypothesis import given

from roundcard.card.contact import Contact, Property
from roundcard.card.head import head
from roundcard.errors import JobError
from roundcard.jobs.items import items_of
from roundcard.jobs.kept import Kept, Member, digest_of, packed, record_digest, unpacked
from roundcard.jobs.state import Delivery, State
from strategies import contacts

JOB = "6f0c9c1e-7d5b-4b1a-9d39-5f0a3b1f6a11"


def somebody(name: str, *phones: str) -> Contact:
    props = [Property(head("fn"), name, 0)]
    props += [Property(head("tel", (("type", ("cell",)),)), phone, 0) for phone in phones]
    return Contact(props)


def kept(name: str, *phones: str, source: str = "a.csv", key: str = "key:1") -> Kept:
    contact = somebody(name, *phones)
    return Kept(contact, contact, None, (Member(source, key, record_digest(contact), contact),),
                "2026-01-31")  # fmt: skip


def said(contact: Contact | None) -> list[tuple[str, str, tuple[str, ...]]]:
    return [(item.slot, item.use, item.key) for item in items_of(contact)] if contact else []


@given(contacts, contacts)
def test_a_person_comes_back_as_kept(one: Contact, other: Contact) -> None:
    member = Member("a.csv", "digest:1#2", record_digest(one), other)
    before = Kept(one, None, other, (member,), "2026-01-31", "gone", "2026-02-01", True)
    after = unpacked(packed(before), 0)
    assert said(after.meant) == said(one)
    assert after.sent is None
    assert said(after.held) == said(other)
    assert said(after.members[0].contact) == said(other)
    assert after.members[0][:3] == member[:3]
    assert (after.first, after.status, after.since, after.asked) == before[4:]
    assert record_digest(one) == record_digest(Contact(list(one.properties), 77))


def test_what_is_no_person_is_one_line() -> None:
    with pytest.raises(JobError, match="damaged"):
        unpacked(b"nothing of the kind", 0)


def test_digests_go_by_records_in_whatever_order() -> None:
    assert digest_of([("a", "1"), ("b", "2")]) == digest_of([("b", "2"), ("a", "1")])
    assert digest_of([("a", "1")]) != digest_of([("a", "2")])
    assert kept("Ann").digest != kept("Bea").digest
    assert kept("Ann")._replace(asked=True).digest == "asked"


@pytest.fixture
def state(tmp_path: Path) -> Path:
    """A state with two people who were delivered and confirmed."""
    path = tmp_path / "state.sqlite"
    with State(path, JOB, create=True) as made:
        run = made.add_run("2026-01-31-1", "run", "2026-01-31T12:00:00Z")
        with made.together():
            made.deliver(run, 1, Delivery("u1", "new", None, kept("Ann", "1")))
            made.deliver(run, 2, Delivery("u2", "new", None, kept("Ben", "2", key="key:2")))
            made.apply(run)
            run.status = "confirmed"
            made.set_run(run)
    return path


def test_deliveries_count_when_they_are_applied(state: Path) -> None:
    with State(state, JOB) as made:
        assert made.size() == 2
        assert made.member("a.csv", "key:2") == ("u2", kept("Ben", "2").members[0].digest)
        assert made.member("b.csv", "key:2") is None
        assert made.count_of("a.csv") == 2
        run = made.add_run("2026-02-28-1", "run", "2026-02-28T12:00:00Z")
        with made.together():
            changed = kept("Ann", "9")
            made.deliver(run, 1, Delivery("u1", "changed", made.person("u1", 0), changed))
            made.deliver(run, 2, Delivery("u2", "gone", made.person("u2", 0), None))
            made.deliver(run, 3, Delivery("u3", "new", None, kept("Cy", "3", key="key:3")))
        person = made.person("u1", 0)
        assert person is not None
        assert said(person.meant) == said(somebody("Ann", "1"))  # not yet
        made.apply(run)
        assert list(made.uids()) == ["u1", "u3"]
        person = made.person("u1", 0)
        assert person is not None
        assert said(person.meant) == said(somebody("Ann", "9"))
        assert made.member("a.csv", "key:2") is None
        assert made.delivered(run) == {"changed": 1, "gone": 1, "new": 1}
        made.apply(run, backwards=True)
        assert sorted(made.uids()) == ["u1", "u2"]
        person = made.person("u1", 0)
        assert person is not None
        assert said(person.meant) == said(somebody("Ann", "1"))


def test_a_record_may_go_from_one_person_to_another(state: Path) -> None:
    with State(state, JOB) as made:
        run = made.add_run("2026-02-28-1", "run", "")
        both = kept("Ann", "1")
        both = both._replace(members=(*both.members, kept("Ben", "2", key="key:2").members[0]))
        with made.together():
            made.deliver(run, 1, Delivery("u1", "changed", made.person("u1", 0), both))
            made.deliver(run, 2, Delivery("u2", "merged", made.person("u2", 0), None))
            made.apply(run)
            made.set_aliases({"u2": "u1"})
        assert made.members("a.csv") == {"key:1": "u1", "key:2": "u1"}
        assert (made.alias("u2"), made.alias("u1")) == ("u1", "u1")


def test_what_fails_leaves_what_was_there(state: Path) -> None:
    def fails(made: State) -> None:
        with made.together():
            run = made.add_run("2026-02-28-1", "run", "")
            made.deliver(run, 1, Delivery("u9", "new", None, kept("Zed")))
            made.apply(run)
            raise ZeroDivisionError

    with State(state, JOB) as made:
        with pytest.raises(ZeroDivisionError):
            fails(made)
        assert sorted(made.uids()) == ["u1", "u2"]
        assert [run.folder for run in made.runs()] == ["2026-01-31-1"]
        made.set_columns({"a.csv": {"name/family": 2}})
        assert made.columns() == {"a.csv": {"name/family": 2}}


def test_one_holds_it_at_a_time(state: Path) -> None:
    with State(state, JOB), pytest.raises(JobError, match="another run of this job"):
        State(state, JOB)
    with State(state, JOB) as again:
        assert again.size() == 2
    assert state.stat().st_mode & 0o77 == 0
    with pytest.raises(JobError, match="has not run yet"):
        State(state.with_name("none.sqlite"), JOB)
    with pytest.raises(JobError, match="belongs to another job"):
        State(state, JOB.replace("6", "7"))


def test_a_killed_transaction_is_rolled_back(state: Path) -> None:
    """What a process left half written beside the file is undone when it is opened again."""
    import shutil
    import subprocess
    import sys

    script = (
        "import os, signal, sys\nfrom pathlib import Path\nfrom roundcard.jobs.state import State\n"
        "made = State(Path(sys.argv[1]), sys.argv[2])\n"
        "made._db.execute('PRAGMA cache_size = 1')\nmade._db.execute('BEGIN')\n"
        "made._db.executemany('INSERT INTO people VALUES (?, ?, ?, ?)',\n"
        "    ((f'x{n}', 'there', '', b'0' * 3000) for n in range(3000)))\n"
        "os.kill(os.getpid(), signal.SIGKILL)\n"
    )
    subprocess.run([sys.executable, "-c", script, state, JOB], check=False)
    assert state.with_name("state.sqlite-journal").exists()
    copy = shutil.copy(state, state.with_name("copy.sqlite"))
    with closing(sqlite3.connect(copy)) as found:
        assert found.execute("SELECT 1").fetchone() == (1,)
    with State(state, JOB) as made:
        assert sorted(made.uids()) == ["u1", "u2"]
