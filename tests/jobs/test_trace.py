"""The life of a value, held against the files of the run."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import pytest

from jobs_world import World
from roundcard.card.contact import Contact

BOOK = [
    "No,Given name,Surname,Email,Mobile,Birthday,Category,Note",
    "1,Ann,Lock,ann.lock@example.org,07700 900101,1980-04-12,Skippers,",
    "2,Ben,Weir,BEN.WEIR@EXAMPLE.ORG,07700 900102,1975-01-30,Skippers,",
    "3,Cara,Sluice,cara@example.net,07700 900103,,Cooks,Has a key",
    "4,Dan,Towpath,dan.t@example.net,07700 900104,,Donors,",
    "5,Eve,Mooring,eve@example.org,07700 900105,,Cooks,",
    "6,Fay,Narrow,fay@example.org,07700 900106,,Cooks,",
    "7,Gus,Basin,gus@example.org,07700 900107,,Cooks,",
    "8,Hal,Lockhouse,hal@example.org,07700 900108,,Cooks,",
]
SECOND = [
    "No,Given name,Surname,Email,Birthday,Work phone",
    "x,Ann,Lock,ann.lock@example.org,1980-04-13,01632 960101",
]
LATER = [
    *BOOK[:1],
    "1,Ann,Lock,ann.lock@example.org,07700 900101,1980-04-12,Skippers,",
    "2,Ben,Weir,BEN.WEIR@EXAMPLE.ORG,07700 900122,1975-01-30,Skippers,",
    "3,Cara,Sluice,cara@example.net,07700 900103,,Cooks,",
    "4,Dan,Towpath,dan.t@example.net,07700 900104,,Donors,",
    "6,Fay,Narrow,fay.n@example.net,07700 900106,,Cooks,",
    "7,Gus,Basin,gus@example.org,07700 900107,,Cooks,",
    "8,Hal,Lockhouse,hal@example.org,07700 900108,,Cooks,",
    "9,Ida,Paddle,ida@example.org,07700 900109,,Cooks,",
]
JOB = """[pick]
where = 'not category = "Donors"'
[clean]
[merge]
ask = "apart"
prefer = ["list.csv"]
[again]
most_gone = "60 %"
most_cleared = "60 %"
"""


@pytest.fixture
def traced(world: World) -> World:
    """A job that ran, and ran again a month later with everything that can become of people."""
    world.book("list.csv", BOOK)
    world.book("other.csv", SECOND, key="")
    world.job(JOB)
    world.run()
    world.imports()
    world.edit("Fay", lambda card: card.replace("fay@example.org", "fay@lock.test"))
    world.edit("Hal", lambda card: card.replace("900108", "900888"))
    world.remove("Gus")
    world.book("list.csv", LATER)
    world.run(code=1)
    return world


def life(world: World, words: str, run: int = 2) -> dict[str, object]:
    """What is told of the one whom some words mean."""
    day = world.last.name[:10]
    done = world.roundcard("trace", f"runs/{day}-{run}", *words.split(), "--json")
    assert done.code == 0, done.err
    found: dict[str, object] = json.loads(done.out)
    lives = found["lives"]
    assert isinstance(lives, list)
    assert len(lives) == 1, [each["name"] for each in lives]
    first: dict[str, object] = lives[0]
    return first


def ends(told: dict[str, object]) -> dict[str, str]:
    """Where each value ended, by the cell as it stood."""
    records = told["records"]
    assert isinstance(records, list)
    return {value["cell"]: value["ends"] for record in records for value in record["values"]}


def rows(world: World, name: str) -> list[dict[str, str]]:
    with (world.last / name).open(newline="", encoding="utf-8-sig") as stream:
        return list(csv.DictReader(stream))


def in_outbox(world: World, uid: object) -> Contact | None:
    return next((contact for contact in world.outbox()
                 if contact.first("uid").text == uid), None)  # type: ignore[union-attr]  # fmt: skip


FATES = [
    ("Ann Lock", "the same"), ("Ben Weir", "changed"), ("Cara Sluice", "the same"),
    ("Dan Towpath", "left out by a condition of the job"), ("Fay Narrow", "the same"),
    ("Gus Basin", "removed there"), ("Hal Lockhouse", "the same"), ("Ida Paddle", "new"),
]  # fmt: skip


@pytest.mark.parametrize(("who", "became"), FATES)
def test_what_became_of_whom(traced: World, who: str, became: str) -> None:
    told = life(traced, who)
    assert told["became"] == became
    written = in_outbox(traced, told["uid"])
    assert (written is not None) == (became in ("new", "changed"))
    assert bool(told["outbox"]) == (written is not None)
    if became not in ("left out by a condition of the job",):
        listed = [json.loads(line) for line in
                  (traced.last / "people.jsonl").read_text().splitlines()]  # fmt: skip
        assert [each["is"] for each in listed if each["uid"] == told["uid"]] == [became]


def test_each_value_has_its_steps_and_its_end(traced: World) -> None:
    ben = life(traced, "Ben Weir")
    where = ends(ben)
    assert where["BEN.WEIR@EXAMPLE.ORG"] == "in the outbox, as email"
    assert where["07700 900122"] == "in the outbox, as phone/cell"
    records = ben["records"]
    assert isinstance(records, list)
    assert [(each["source"], each["record"], each["line"]) for each in records] == [
        ("list.csv", 2, 3)]  # fmt: skip
    phone = next(value for value in records[0]["values"] if value["cell"] == "07700 900122")
    assert (phone["place"], phone["field"]) == ("Mobile", "phone/cell")
    assert [(step["rule"], step["before"], step["after"]) for step in phone["steps"]] == [
        ("phone-form", "07700 900122", "+44 7700 900122")]  # fmt: skip
    listed = [row for row in rows(traced, "changes.csv") if row["record"] == "2"
              and row["source"] == "list.csv" and row["field"].startswith("phone")]  # fmt: skip
    assert [(row["before"], row["after"].lstrip("'")) for row in listed] == [
        ("07700 900122", "+44 7700 900122")]  # fmt: skip
    written = in_outbox(traced, ben["uid"])
    assert written is not None
    assert written.first("tel").text == "+44 7700 900122"  # type: ignore[union-attr]


def test_what_waits_stays_and_was_not_taken(traced: World) -> None:
    cara, fay, hal = (life(traced, who) for who in ("Cara", "Fay", "Hal"))
    assert "note 'Has a key'" in str(cara["waits"])
    assert "email" in str(fay["waits"])
    held = {row["uid"]: row["field"] for row in rows(traced, "held-back.csv")}
    assert held == {cara["uid"]: "note", fay["uid"]: "email"}
    assert "edited there" in str(hal["stays"])
    assert [row["uid"] for row in rows(traced, "kept-there.csv") if row["field"]] == [hal["uid"]]
    assert ["phone/cell", "+44 7700 900108"] in hal["holds"]  # type: ignore[operator]
    ann = life(traced, "Ann Lock", run=1)
    assert "birthday" in str(ann["left"])
    assert "other.csv:1 the same" in str(ann["merged"])
    gone = life(traced, "Eve Mooring", run=1)
    assert gone["became"] == "new"
    by_uid = life(traced, str(gone["uid"]))
    assert by_uid["became"] == "gone"


def test_a_source_that_changed_is_said(traced: World) -> None:
    told = traced.roundcard("trace", f"runs/{traced.last.name[:10]}-1", "Ann", "Lock")
    assert "list.csv: changed since the run" in told.out
    assert "other.csv, record 1" in told.out
    assert traced.roundcard("trace", f"runs/{traced.last.name}", "nobody").code == 1
    assert traced.roundcard("trace", "runs", "x").code == 4


def test_with_copies_of_the_sources_it_goes_on(world: World) -> None:
    world.book("list.csv", BOOK)
    text = (world.folder / "cards.toml").read_text()
    (world.folder / "cards.toml").write_text(text + '[needs]\nall = ["birthday"]\n')
    world.more = "keep_sources = true\n" + world.more
    world.job()
    world.run(code=1)
    (world.folder / "list.csv").write_text("")
    told = life(world, "Ben Weir", run=1)
    assert ends(told)["1975-01-30"] == "in the outbox, as birthday"
    refused = life(world, "Cara Sluice", run=1)
    assert refused["became"] == "not sent"
    assert not refused["outbox"]


def test_forty_files_one_by_one(world: World) -> None:
    """A bad one stops only itself, and what is finished is not done again."""
    folder = world.folder / "colleagues"
    folder.mkdir()
    for n in range(40):
        (folder / f"c{n:02}.csv").write_text(f"{BOOK[0]}\n1,Given{n},Lock,c{n}@example.org,,,,\n")
    (folder / "c07.csv").write_bytes(b"\x00\x01\x02 no table")
    world.more = '[[source]]\neach = true\nkey = "No"\n'
    world.job("[clean]\n")
    assert world.roundcard("run", "job.toml", "--yes").code == 4
    refused = world.roundcard("run", "job.toml", "--yes", "--for-each", "none/*.csv")
    assert (refused.code, "no file found" in refused.err) == (4, True)
    some = world.roundcard("run", "job.toml", "--yes", "--for-each", "colleagues/c0*.csv")
    assert some.code == 1
    done = world.roundcard("run", "job.toml", "--yes", "--for-each", "colleagues/*.csv", "--json")
    assert done.code == 1
    members = json.loads(done.out)["members"]
    assert len(members) == 40
    assert [each["file"] for each in members if each["error"]] == ["colleagues/c07.csv"]
    assert sum(bool(each["done_before"]) for each in members) == 9
    assert sum(each["run"]["delivered"] for each in members if each["run"]) == 30
    outboxes = list(world.folder.glob("runs/*/2*/outbox/for-cards.vcf"))
    assert len(outboxes) == 39
    uids = [path.read_text().partition("\nUID:")[2].splitlines()[0] for path in outboxes]
    assert len(set(uids)) == 39
    one = outboxes[0].parent.parent.relative_to(world.folder)
    assert world.roundcard("runs", "confirm", one).code == 0
    told = world.roundcard("trace", one, "Lock")
    assert told.code == 0, told.err
    again = world.roundcard("run", "job.toml", "--yes", "--for-each", "colleagues/*.csv")
    assert "39 done before, 1 stopped" in again.err


def test_killed_in_the_middle_it_goes_on(world: World, tmp_path: Path) -> None:
    import os
    import signal
    import subprocess
    import sys
    import time

    folder = world.folder / "colleagues"
    folder.mkdir()
    for n in range(12):
        (folder / f"c{n:02}.csv").write_text(f"{BOOK[0]}\n1,Given{n},Lock,c{n}@example.org,,,,\n")
    world.more = "[[source]]\neach = true\n"
    world.job("[clean]\n")
    command = [sys.executable, "-m", "roundcard", "run", "job.toml", "--yes", "-q", "--for-each",
               "colleagues/*.csv"]  # fmt: skip
    env = os.environ | {"ROUNDCARD_HOME": str(tmp_path / "home")}
    process = subprocess.Popen(command, cwd=world.folder, env=env)
    while process.poll() is None and len(list(world.folder.glob("runs/*/2*/manifest.json"))) < 3:
        time.sleep(0.01)
    process.send_signal(signal.SIGKILL)
    process.wait()
    finished = {path: path.stat().st_mtime_ns
                for path in world.folder.glob("runs/*/2*/manifest.json")}  # fmt: skip
    assert len(finished) >= 3
    done = world.roundcard(*command[3:-3], "--for-each", "colleagues/*.csv", "--json")
    assert done.code == 0, done.err
    assert all(path.stat().st_mtime_ns == then for path, then in finished.items())
    assert len(list(world.folder.glob("runs/*/2*/outbox/for-cards.vcf"))) == 12


def test_records_that_became_nobody(world: World) -> None:
    """A record that cannot be read, one that is blank, and one that the job leaves out."""
    world.book("list.csv", [*BOOK[:3], ",,,,,,,"])
    (world.folder / "cards.vcf").write_bytes(
        b"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Jo Puddle\r\nEMAIL:jo@example.org\r\nEND:VCARD\r\n"
        b"BEGIN:VCARD\r\nKit Culvert\r\nEND:VCARD\r\n")  # fmt: skip
    world.more += '[[source]]\nfile = "cards.vcf"\n'
    world.job("[pick]\nwhere = 'not email = \"jo@example.org\"'\n")
    world.run(code=1)
    aside = life(world, "Kit Culvert", run=1)
    assert str(aside["became"]).startswith("set aside: ")
    assert "Kit Culvert" in next(iter(ends(aside)))
    assert life(world, "Jo Puddle", run=1)["became"] == "left out by a condition of the job"
    balance = json.loads((world.last / "balance.json").read_text())
    assert (balance["values"]["set_aside"], balance["people"]["left_out"]) == (1, 1)
    assert balance["people"]["blank"] == 2  # the row, and the card of which nothing is left
    told = json.loads((world.last / "manifest.json").read_text())["sources"]
    assert [each["people"] for each in told] == [3, 2]
    assert "habits" not in told[0]  # nothing is cleaned


def test_two_records_of_one_person_and_what_was_said_twice(world: World) -> None:
    world.book("list.csv", BOOK[:2])
    world.book("other.csv", SECOND, key="")
    world.job('[clean]\n[merge]\nask = "apart"\nprefer = ["other.csv"]\n')
    world.run()
    ann = life(world, "Ann Lock", run=1)
    records = ann["records"]
    assert isinstance(records, list)
    assert [each["source"] for each in records] == ["list.csv", "other.csv"]
    where = ends(ann)
    assert where["1980-04-13"] == "in the outbox, as birthday"
    assert "another one was taken" in where["1980-04-12"]
    assert where["01632 960101"] == "in the outbox, as phone/work"
    written = in_outbox(world, ann["uid"])
    assert written is not None
    assert [prop.text for prop in written.all("bday")] == ["1980-04-13"]
    assert len(written.all("email")) == 1
    found = world.roundcard("trace", f"runs/{world.last.name}", "Ann", "Lock")
    assert "phone-form: 01632 960101 → +44 1632 960101" in found.out
    assert "merged: other.csv:1 the same" in found.out
