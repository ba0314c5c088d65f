"""Jobs from run to run: what is new, changed, gone, edited there, waiting, taken back."""

from __future__ import annotations

import datetime
import json
import re
import shutil
from pathlib import Path

import pytest

from conftest import Run, at_terminal
from in_process import Done
from jobs_world import HEAD, PEOPLE, World, people_of, values_of
from roundcard.cli import jobs as jobs_of_cli


@pytest.fixture
def started(world: World) -> World:
    """A job that ran once; its people are in the service, and that is confirmed."""
    world.book("list.csv", PEOPLE)
    world.job('[set]\ncategory = "Moved {date}"\n[again]\nmost_gone = "60 %"\n')
    assert people_of(world.run()) == {"new": 4}
    world.imports()
    return world


def changed(*lines: str, without: int = 0) -> list[str]:
    """The people with some lines in place of those with the same number, and without one."""
    by_number = {line.partition(",")[0]: line for line in PEOPLE[1:]}
    by_number |= {line.partition(",")[0]: line for line in lines}
    return [HEAD, *(line for number, line in by_number.items() if number != str(without))]


def test_a_second_run_delivers_nothing(started: World) -> None:
    again = started.run(there=False)
    assert (again["ended"], again["report"], again["outbox"]) == ("nothing", None, [])
    looked = started.run()  # the export is new: everybody is looked at
    assert people_of(looked) == {"the same": 4}
    assert looked["outbox"] == []


def test_new_changed_gone_and_the_same(started: World) -> None:
    started.book("list.csv", changed(
        "2,Ben,Weir,ben.weir@example.org,+44 7700 900199,1975-01-30,Skippers",
        "3,Cara,Towpath,cara@example.net,+44 7700 900103,1990-11-02,Cooks",
        "5,Eve,Mooring,eve@example.org,+44 7700 900105,1966-06-06,Pilots", without=4))  # fmt: skip
    found = started.run()
    assert people_of(found) == {"the same": 1, "changed": 2, "new": 1, "gone": 1}
    assert values_of(found) == {"changed": 2}
    names = [contact.first("fn") for contact in started.outbox()]
    assert [name.text if name else "" for name in names] == ["Ben Weir", "Cara Towpath",
                                                              "Eve Mooring"]  # fmt: skip
    gone = (started.last / "outbox" / "to-remove.csv").read_text("utf-8-sig").splitlines()
    assert gone[0] == "uid,email,name,reason,since"
    assert gone[1].split(",")[1:4] == ["dan.t@example.net", "Dan Towpath", "gone from the sources"]
    assert len(gone) == 2
    started.imports()
    assert people_of(started.run()) == {"the same": 4, "gone, and removed there": 1}


def test_what_was_edited_there_stays(started: World) -> None:
    started.edit("Ann", lambda card: card.replace("900101", "900777"))
    started.edit("Cara", lambda card: card.replace("END:", "NOTE:Has a key.\r\nEND:"))
    started.book("list.csv", changed(
        "3,Cara,Towpath,cara@example.net,+44 7700 900103,1990-11-02,Cooks"))  # fmt: skip
    found = started.run()
    assert people_of(found) == {"the same": 3, "changed": 1, "edited there": 1}
    started.imports()
    assert "Has a key." in started.holds("Cara")
    assert "Towpath" in started.holds("Cara")
    assert "900777" in started.holds("Ann")
    assert people_of(started.run()) == {"the same": 4}


def test_a_conflict_waits_and_an_answer_settles_it(started: World) -> None:
    started.edit("Ann", lambda card: card.replace("900101", "900777"))
    started.book("list.csv", changed(
        "1,Ann,Lock,a.lock@example.net,+44 7700 900888,1980-04-12,Skippers"))  # fmt: skip
    found = started.run(code=1)
    assert values_of(found) == {"changed": 1, "conflict": 1}
    assert people_of(found)["with values held back"] == 1
    held = started.last / "held-back.csv"
    assert "900777" in held.read_text("utf-8-sig")
    started.imports()
    assert "900777" in started.holds("Ann")
    assert "a.lock@example.net" in started.holds("Ann")
    again = started.run(code=1)  # it is asked again
    assert values_of(again) == {"conflict": 1}
    assert again["outbox"] == []
    rows = (started.last / "held-back.csv").read_text("utf-8-sig").splitlines()
    decided = re.sub(r",,(urn:uuid:[^,]*)$", r",source,\1", rows[1])
    assert decided != rows[1]
    (started.folder / "answers.csv").write_text("\n".join([rows[0], decided]), encoding="utf-8")
    settled = started.run("--answers", "answers.csv")
    assert people_of(settled)["changed"] == 1
    started.imports()
    assert "900888" in started.holds("Ann")


def test_a_cleared_value_waits_unless_the_job_says_otherwise(started: World) -> None:
    cleared = changed("1,Ann,Lock,ann.lock@example.org,,1980-04-12,Skippers")
    started.book("list.csv", cleared)
    found = started.run("--trust", "list.csv", code=1)
    assert values_of(found) == {"cleared": 1}
    assert found["outbox"] == []
    started.job('[set]\ncategory = "Moved {date}"\n[again]\ncleared = "source"\n')
    found = started.run("--trust", "list.csv")
    assert people_of(found)["changed"] == 1
    started.imports()
    assert "900101" not in started.holds("Ann")


def test_somebody_removed_there_stays_away(started: World) -> None:
    started.remove("Dan")
    found = started.run()
    assert people_of(found) == {"the same": 3, "removed there": 1}
    assert people_of(started.run(there=False)) == {"the same": 3, "removed there": 1}
    started.book("list.csv", changed("4,Dan,Towpath,dan@example.org,+44 7700 900104,,Cooks"))
    waits = started.run(code=1)
    assert people_of(waits) == {"the same": 3, "held back": 1}
    started.job('[set]\ncategory = "Moved {date}"\n[again]\nconflict = "source"\n')
    assert people_of(started.run())["sent again"] == 1
    started.imports()
    assert "dan@example.org" in started.holds("Dan")
    started.remove("Ben")
    started.job('[set]\ncategory = "Moved {date}"\n[again]\nremoved_there = "source"\n')
    assert people_of(started.run())["sent again"] == 1


def test_who_is_gone_and_was_edited_there_is_not_removed_unasked(started: World) -> None:
    started.edit("Dan", lambda card: card.replace("900104", "900777"))
    started.book("list.csv", changed(without=4))
    found = started.run(code=1)
    assert people_of(found) == {"the same": 3, "gone": 1}
    assert found["removals"] == 0
    started.remove("Dan")
    assert people_of(started.run()) == {"the same": 3, "gone, and removed there": 1}
    assert people_of(started.run(there=False)) == {"the same": 3}


def test_an_export_that_is_hardly_whole_removes_nobody(started: World) -> None:
    for name in ("Ann", "Ben", "Cara"):
        started.remove(name)
    refused = started.roundcard("run", "job.toml", "--yes", "--there", "service")
    assert refused.code == 4
    assert "shows 1 of 4 people" in refused.err
    assert len(list(started.folder.glob("runs/2*"))) == 1
    found = started.run("--trust", "service")
    assert people_of(found) == {"the same": 1, "removed there": 3}


@pytest.mark.parametrize("name", ["lockside", "narrow-lock"])
def test_what_a_destination_rewrites_and_lacks_is_no_edit(run: Run, demo: Path, name: str) -> None:
    """All of the demo, to a table that cuts, rewrites, splits, and carries no identity."""
    text = (demo / "move.toml").read_text().replace('"lockside"', f'"{name}"')
    (demo / "move.toml").write_text(text)
    code = 1 if name == "narrow-lock" else 0
    assert run("run", "move.toml", "--yes", "-q", cwd=demo).code == code
    folder = next(demo.glob("runs/2*")).relative_to(demo)
    delivered = json.loads((demo / folder / "balance.json").read_text())["people"]["written"]
    assert run("runs", "confirm", folder, cwd=demo).code == 0
    shutil.copytree(demo / folder / "outbox", demo / "holds")
    done = run("run", "move.toml", "--yes", "--there", "holds", "--json", cwd=demo)
    found = json.loads(done.out)
    assert (done.code, found["ended"]) == (code, "nothing"), done.err
    assert people_of(found)["the same"] == delivered
    assert found["values"] == {}
    assert not found["held_back"]


def test_back_after_gone_is_the_same_person(started: World) -> None:
    uid = started.holds("Dan").partition("UID:")[2].splitlines()[0]
    started.book("list.csv", changed(without=4))
    started.run()
    started.imports()
    assert not started.holds("Dan")
    started.book("list.csv", PEOPLE)
    found = started.run(code=0)
    assert sum(people_of(found).values()) == 4
    sent = [contact.first("uid") for contact in started.outbox()]
    assert [prop.text for prop in sent if prop is not None] in ([uid], [])


@pytest.mark.parametrize("there", [True, False])
def test_nobody_is_written_blind_unasked(started: World, there: bool) -> None:
    started.book("list.csv", changed(
        "1,Ann,Lock,ann.lock@example.org,+44 7700 900888,1980-04-12,Skippers",
        "5,Eve,Mooring,eve@example.org,+44 7700 900105,1966-06-06,Pilots"))  # fmt: skip
    found = started.run(code=0 if there else 1, there=there)
    if there:
        assert people_of(found) == {"the same": 3, "changed": 1, "new": 1}
        return
    assert people_of(found) == {"the same": 3, "held back, written blind": 1, "new": 1}
    assert [contact.first("fn").text for contact in started.outbox()] == ["Eve Mooring"]  # type: ignore[union-attr]
    started.imports()
    blind = started.run("--blind", there=False)
    assert people_of(blind) == {"the same": 4, "changed": 1}


def test_a_damaged_export_clears_nobody(started: World) -> None:
    """A column that is missing, one that is empty, half the records gone, a file that cannot be
    read: nothing counts as cleared or gone until somebody says otherwise."""
    without_column = [",".join(line.split(",")[:4] + line.split(",")[5:]) for line in PEOPLE]
    emptied = [HEAD, *(",".join([*line.split(",")[:4], "", *line.split(",")[5:]])
                       for line in PEOPLE[1:])]  # fmt: skip
    half = [HEAD, PEOPLE[1]]
    for rows, why in ((without_column, "phone/cell"), (emptied, "phone/cell"),
                      (half, "3 of 4 records")):  # fmt: skip
        started.book("list.csv", rows)
        found = started.run(code=1)
        assert why in json.dumps(found["damaged"])
        assert found["outbox"] == []
        assert found["removals"] == 0
        assert not people_of(found).get("gone")
    (started.folder / "list.csv").unlink()
    found = started.run(code=1)
    assert "cannot be read" in json.dumps(found["damaged"])
    assert people_of(found) == {"kept as they were": 4}
    started.book("list.csv", half)
    trusted = started.run("--trust", "list.csv")
    assert people_of(trusted) == {"the same": 1, "gone": 3}
    assert started.roundcard("run", "job.toml", "--trust", "lsit.csv").code == 2


def test_files_that_were_never_imported_are_written_again(world: World) -> None:
    world.book("list.csv", PEOPLE)
    world.job()
    world.run()
    first = (world.last / "outbox" / "for-cards.vcf").read_bytes()
    asked = world.run(code=1)
    assert asked["ended"] == "unconfirmed"
    told = world.roundcard("run", "job.toml", "--yes")
    assert "--not-imported" in told.err
    assert told.code == 1
    world.roundcard("runs", "confirm", f"runs/{world.last.name}", "--not-imported")
    assert people_of(world.run()) == {"new": 4}
    assert (world.last / "outbox" / "for-cards.vcf").read_bytes() == first


def test_files_that_were_partly_imported(world: World) -> None:
    world.book("list.csv", PEOPLE)
    world.job()
    world.run()
    world.imports(confirm=False)
    world.remove("Dan")
    found = world.run()
    assert people_of(found) == {"the same": 3, "new": 1}
    assert [contact.first("fn").text for contact in world.outbox()] == ["Dan Towpath"]  # type: ignore[union-attr]


def test_only_the_job_changed(started: World) -> None:
    started.job('[set]\ncategory = "Moved {date}"\nnote = "From the list"\n')
    found = started.run()
    assert people_of(found) == {"changed by the job": 4}
    assert values_of(found) == {"by the job": 4}
    started.imports()
    assert people_of(started.run()) == {"the same": 4}


def test_only_the_version_changed(started: World, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(jobs_of_cli, "__version__", "99.0")
    found = started.run()
    assert people_of(found) == {"the same": 4}
    assert found["outbox"] == []


def test_a_month_later_the_date_is_that_of_the_first_delivery(
    started: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = datetime.date.today()
    later = first + datetime.timedelta(days=31)
    monkeypatch.setattr(jobs_of_cli, "today", lambda: later)
    started.book("list.csv", changed(
        "1,Ann,Lock,ann.lock@example.org,+44 7700 900888,1980-04-12,Skippers",
        "5,Eve,Mooring,eve@example.org,+44 7700 900105,1966-06-06,Pilots"))  # fmt: skip
    assert people_of(started.run()) == {"the same": 3, "changed": 1, "new": 1}
    started.imports()
    assert f"Moved {first}" in started.holds("Ann")
    assert f"Moved {later}" in started.holds("Eve")
    assert started.last.name == f"{later}-1"


TWICE = [HEAD, PEOPLE[1], "7,Nan,Lockyer,annie.l@example.net,+44 7700 900107,,Cooks"]


def decide(world: World, said: str) -> None:
    """Decide of the first two records of the list, as a sheet does."""
    sides = [{"source": "list.csv", "record": n, "uid": "", "name": name, "emails": [mail],
              "phones": [phone], "birthday": "", "generation": 0}
             for n, name, mail, phone in (
                 (1, "ann lock", "ann.lock@example.org", "7700900101"),
                 (2, "lockyer nan", "annie.l@example.net", "7700900107"))]  # fmt: skip
    line = {"schema": 1, "decision": said, "when": "", "leads": False, "keeps": [],
            "one": sides[0], "other": sides[1]}  # fmt: skip
    (world.folder / "roundcard-decisions.jsonl").write_text(json.dumps(line) + "\n")


def test_merged_since_and_separated_since(world: World) -> None:
    """By a decision two become one, the elder stays; and one becomes two, the lead stays."""
    world.book("list.csv", TWICE)
    world.job('[merge]\nask = "apart"\n[again]\ncleared = "source"\nconflict = "source"\n')
    assert people_of(world.run(code=0)) == {"new": 2}
    world.imports()
    ann = world.holds("ann.lock").partition("UID:")[2].splitlines()[0]
    annie = world.holds("annie.l").partition("UID:")[2].splitlines()[0]
    decide(world, "same")
    found = world.run()
    assert people_of(found) == {"changed": 1, "merged since": 1}
    assert found["removals"] == 1
    assert annie in (world.last / "outbox" / "to-remove.csv").read_text("utf-8-sig")
    world.imports()
    one = world.holds(ann)
    assert "annie.l@example.net" in one
    assert "900107" in one
    assert not world.holds(annie)
    assert people_of(world.run()) == {"the same": 1}
    decide(world, "apart")
    found = world.run()
    assert people_of(found) == {"changed": 1, "new": 1}
    world.imports()
    assert "annie.l" not in world.holds(ann)
    assert "900107" not in world.holds(ann)
    two = world.holds("annie.l")
    assert "900107" in two
    assert ann not in two
    assert people_of(world.run()) == {"the same": 2}


def test_a_new_record_of_a_known_person_joins_them(started: World) -> None:
    started.job('[merge]\nask = "apart"\n[set]\ncategory = "Moved {date}"\n')
    rows = ["x,Ann,Lock,ann.lock@example.org,+44 7700 900101,Has a key"]
    started.book("more.csv", ["No,Given name,Surname,Email,Mobile,Note", *rows])
    started.job('[merge]\nask = "apart"\n[set]\ncategory = "Moved {date}"\n')
    found = started.run()
    assert people_of(found) == {"the same": 3, "changed": 1}
    started.imports()
    assert "Has a key" in started.holds("Ann")


def test_nothing_changes_only_because_another_record_is_newer(world: World) -> None:
    first = ["No,Given name,Surname,Email,Birthday,Note",
             "1,Ann,Lock,ann.lock@example.org,1980-04-12,One"]  # fmt: skip
    second = ["No,Given name,Surname,Email,Birthday,Revised",
              "9,Ann,Lock,ann.lock@example.org,1980-04-13,2020-01-01"]  # fmt: skip
    world.book("one.csv", first)
    world.book("two.csv", second)
    job = '[merge]\nask = "apart"\nprefer = ["one.csv"]\n'
    world.job(job)
    world.run()
    world.imports()
    assert "19800412" in world.holds("Ann")
    world.job(job.replace("one.csv", "two.csv"))
    world.book("one.csv", [first[0], first[1].replace("One", "Two")])
    found = world.run()
    world.imports()
    assert "19800412" in world.holds("Ann")
    assert values_of(found) == {"changed": 1}


def test_somebody_edited_without_a_key_is_known_again(world: World) -> None:
    rows = [line.partition(",")[2] for line in PEOPLE]
    world.book("list.csv", rows, key="")
    world.job('[again]\nmost_gone = "60 %"\n')
    world.run()
    world.imports()
    uid = world.holds("Ben").partition("UID:")[2].splitlines()[0]
    edited = [line.replace("+44 7700 900102", "+44 7700 900555") for line in rows]
    world.book("list.csv", edited, key="")
    found = world.run()
    assert people_of(found) == {"the same": 3, "changed": 1}
    assert world.outbox()[0].first("uid").text == uid  # type: ignore[union-attr]


def test_somebody_there_who_is_not_from_us(world: World) -> None:
    (world.service / "theirs.vcf").write_bytes(
        b"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ann Lock\r\nUID:their-own\r\nNOTE:Theirs\r\n"
        b"EMAIL:ann.lock@example.org\r\nEND:VCARD\r\n")  # fmt: skip
    world.book("list.csv", PEOPLE)
    for existing, counts in (("leave", {"new": 3, "there already, left": 1}),
                             ("beside", {"new": 3, "there already, put beside": 1}),
                             ("update", {"new": 3, "there already, updated": 1})):  # fmt: skip
        world.job(f'[deliver]\nexisting = "{existing}"\n')
        assert people_of(world.run("--dry-run")) == counts
    world.run()
    world.imports()
    ann = world.holds("ann.lock")
    assert "their-own" in ann
    assert "Theirs" in ann
    assert "900101" in ann
    assert people_of(world.run()) == {"the same": 4}


def test_undo_gives_back_what_was_before(started: World) -> None:
    before = {name: started.holds(name) for name in ("Ann", "Ben", "Cara", "Dan")}
    started.book("list.csv", changed(
        "1,Ann,Lock,ann.lock@example.org,+44 7700 900888,1980-04-12,Skippers",
        "3,Cara,Towpath,cara@example.net,+44 7700 900103,1990-11-02,Cooks",
        "5,Eve,Mooring,eve@example.org,+44 7700 900105,1966-06-06,Pilots"))  # fmt: skip
    started.run()
    second = started.last
    wrote = (second / "outbox" / "for-cards.vcf").read_bytes()
    started.imports()
    started.edit("Cara", lambda card: card.replace("900103", "900777"))
    done = started.roundcard("undo", f"runs/{second.name}", "--yes", "--there", "service")
    assert done.code == 0, done.err
    assert "edited since" in done.err
    started.imports()
    assert values(started.holds("Ann")) == values(before["Ann"])
    assert "Sluice" in started.holds("Cara")
    assert "900777" in started.holds("Cara")
    assert not started.holds("Eve")
    twice = started.roundcard("undo", f"runs/{second.name}", "--yes")
    assert (twice.code, "is undone: there is nothing" in twice.err) == (0, True)
    started.edit("Cara", lambda card: card.replace("900777", "900103"))
    started.run()
    assert (started.last / "outbox" / "for-cards.vcf").read_bytes() == wrote


def values(card: str) -> list[str]:
    """What a card says, whatever the order."""
    return sorted(line for line in card.splitlines() if not line.startswith(("REV", "PRODID")))


def test_an_older_run_is_not_undone_alone(started: World) -> None:
    first = started.last
    started.book("list.csv", changed(
        "1,Ann,Lock,ann.lock@example.org,+44 7700 900888,1980-04-12,Skippers"))  # fmt: skip
    started.run()
    second = started.last
    started.imports()
    refused = started.roundcard("undo", f"runs/{first.name}", "--yes")
    assert refused.code == 4
    assert second.name in refused.err
    assert started.roundcard("undo", f"runs/{first.name}", "--and-later", "--yes").code == 0
    started.imports()
    assert not list(started.service.iterdir())
    listed = json.loads(started.roundcard("runs", "job.toml", "--json").out)
    assert [each["status"] for each in listed["runs"]] == ["undone", "undone", "confirmed"]
    assert listed["people"] == 0


def test_the_manifest_and_the_balance(started: World) -> None:
    folder = started.last
    told = json.loads((folder / "manifest.json").read_text())
    assert told["sources"][0]["source"] == "list.csv"
    assert set(told["files"]) >= {"outbox/for-cards.vcf", "balance.json", "plan.txt"}
    for name, digest in told["files"].items():
        assert digest == digest_of(folder / name)
    balance = json.loads((folder / "balance.json").read_text())
    assert balance["even"]
    assert balance["people"]["written"] == balance["proved"] == 4
    assert (folder.stat().st_mode & 0o77, folder.parent.stat().st_mode & 0o77) == (0, 0)


def digest_of(path: Path) -> str:
    import hashlib

    return hashlib.blake2b(path.read_bytes(), digest_size=16).hexdigest()


def test_a_run_can_be_deleted_but_only_a_run(started: World) -> None:
    name = started.last.name
    listed = started.roundcard("runs", "delete", f"runs/{name}")
    assert listed.code == 1
    assert "manifest.json" in listed.err
    assert started.last.exists()
    other = started.folder / "runs" / "other"
    shutil.copytree(started.last, other)
    assert started.roundcard("runs", "delete", "runs/other", "--yes").code == 4
    assert other.exists()
    assert started.roundcard("runs", "delete", f"runs/{name}", "--yes").code == 0
    assert not (started.folder / "runs" / name).exists()
    assert people_of(started.run()) == {"the same": 4}


SPOILT = [
    ("cut", "damaged or cut"), ("newer", "newer version"), ("locked", "another run"),
    ("text", "damaged or cut"), ("other", "another job"),
]  # fmt: skip


@pytest.mark.parametrize(("how", "says"), SPOILT)
def test_a_state_that_cannot_be_used(started: World, how: str, says: str) -> None:
    import sqlite3

    path = started.folder / "runs" / "state.sqlite"
    holder = None
    if how == "cut":
        path.write_bytes(path.read_bytes()[:-5000])
    elif how == "text":
        path.write_bytes(b"not a database" * 100)
    elif how == "other":
        text = (started.folder / "job.toml").read_text().replace("6f0c9c1e", "7f0c9c1e")
        (started.folder / "job.toml").write_text(text)
    else:
        holder = sqlite3.connect(path, isolation_level=None)
        if how == "newer":
            holder.execute("UPDATE about SET value = '99' WHERE key = 'schema'")
            holder.close()
        else:
            holder.execute("BEGIN EXCLUSIVE")
    before = path.read_bytes()
    folders = sorted((started.folder / "runs").iterdir())
    done = started.roundcard("run", "job.toml", "--yes")
    if holder is not None:
        holder.close()
    assert done.code == 4
    assert says in done.err
    assert len(done.err.splitlines()) == 1
    assert path.read_bytes() == before
    assert sorted((started.folder / "runs").iterdir()) == folders


def test_a_run_waits_for_decisions(world: World) -> None:
    world.book("list.csv", [HEAD, PEOPLE[1], "7,Ann,Lock,a.l@example.net,,,Cooks"])
    world.job("[merge]\n")
    done: Done = world.roundcard("run", "job.toml", "--yes")
    assert done.code == 1
    assert "roundcard review" in done.err
    assert not (world.last / "outbox" / "for-cards.vcf").exists()
    sheet = world.last / "doubles.csv"
    text = sheet.read_text("utf-8-sig")
    sheet.write_text(re.sub(r'(?m)^(1\.2,ask,[^"]*"[^"]*",),', r"\1same,", text), "utf-8")
    found = world.run()
    assert people_of(found) == {"new": 1}
    assert len([each for each in (world.folder / "runs").iterdir() if each.is_dir()]) == 1


def test_at_a_terminal_it_asks(world: World) -> None:
    world.book("list.csv", PEOPLE)
    world.job()
    declined = at_terminal(world.folder, [b"n\r"], "run", "job.toml")
    assert "Write these files?" in declined
    assert "nothing was written" in declined
    assert not (world.folder / "runs").exists() or not list(world.folder.glob("runs/2*"))
    agreed = at_terminal(world.folder, [b"y\r"], "run", "job.toml")
    assert "proved" in agreed
    asked = at_terminal(world.folder, [b"yes\r"], "run", "job.toml")
    assert "Were they imported?" in asked
    assert "nothing" in asked


def test_as_a_program(program: Run, demo: Path) -> None:
    """The demo's job, drafted and run by the installed command."""
    sources = ["skippers.vcf", "skippers-now.vcf", "ledger.csv"]
    made = program("job", "draft", *sources, "--destination", "lockside", "-o", "drafted.toml",
                   cwd=demo)  # fmt: skip
    assert made.code == 0, made.err
    assert 'layout   = "membership-ledger"' in (demo / "drafted.toml").read_text()
    assert program("job", "check", "drafted.toml", cwd=demo).code == 0
    plan = program("run", "drafted.toml", "--dry-run", cwd=demo)
    assert plan.code == 0, plan.err
    assert not (demo / "runs").exists()
    done = program("run", "drafted.toml", "--yes", "--apart", cwd=demo)
    assert done.code == 0, done.err
    assert "balance" in done.err
    run = next(demo.glob("runs/2*"))
    program("runs", "confirm", f"runs/{run.name}", cwd=demo)
    assert "nothing changed" in program("run", "drafted.toml", "--yes", "--apart", cwd=demo).err
