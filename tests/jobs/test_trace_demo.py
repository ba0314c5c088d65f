"""The lives of people of the demo, each kind of fate, held against the files of the runs."""

from __future__ import annotations

import csv
import json
import shutil
from pathlib import Path
from typing import Any

from conftest import Run

FIRST = [("coordinator-phone.vcf", 4), ("skippers.vcf", 2), ("skippers.vcf", 5),
         ("newsletter.csv", 23)]  # fmt: skip
"""Of the first run: a photo without room, a name that another record said, a mailbox for a name."""
AGAIN = [("ledger.csv", 27), ("twin-waterway.csv", 5)]
"""Of the second, beside all of whom it says more than that they are the same: a note that waits,
and somebody of whom nothing changed."""


def rows(path: Path) -> list[dict[str, str]]:
    with path.open(newline="", encoding="utf-8-sig") as stream:
        return [{key: value.removeprefix("'") for key, value in row.items()}
                for row in csv.DictReader(stream)]  # fmt: skip


def test_lives_of_people_of_the_demo(run: Run, demo: Path) -> None:
    assert run("run", "move.toml", "--yes", "-q", cwd=demo).code == 0
    first = next(demo.glob("runs/*-1"))
    held = [hold_against_files(run, demo, first, line) for line in of(first, FIRST)]
    assert run("runs", "confirm", f"runs/{first.name}", cwd=demo).code == 0
    there = f"runs/{first.name}/outbox/for-lockside.csv"
    shutil.copytree(demo / "a-month-later", demo, dirs_exist_ok=True)
    assert run("run", "move.toml", "--there", there, "--yes", "-q", cwd=demo).code == 1
    again = next(demo.glob("runs/*-2"))
    held += [hold_against_files(run, demo, again, line) for line in of(again, AGAIN)]
    assert len(held) >= 12
    assert {each["became"] for each in held} == {"new", "changed", "the same", "gone"}
    unclear = [(each["name"], value["field"], value["value"]) for each in held
               for record in each["records"] for value in record["values"]
               if "another form" in value["ends"]]  # fmt: skip
    assert not unclear
    ends = {value["ends"] for each in held for record in each["records"]
            for value in record["values"]}  # fmt: skip
    assert {"photo: not kept there", "the same", "in the outbox, as phone/cell",
            "name: another one was taken (kept in the merge record)"} <= ends  # fmt: skip


def unfolded(text: str) -> str:
    """A text without what lines are broken by."""
    return "".join(text.replace("=", "").split())


def of(folder: Path, places: list[tuple[str, int]]) -> list[dict[str, Any]]:
    """Of a run's people those of some records, and all who are not simply new or the same."""
    people = [json.loads(line) for line in (folder / "people.jsonl").read_text().splitlines()]
    usual = ("the same", "new") if folder.name.endswith("-1") else ("the same",)
    return [each for each in people if each["is"] not in usual
            or {tuple(place) for place in each["records"]} & set(places)]  # fmt: skip


def hold_against_files(run: Run, demo: Path, folder: Path, line: dict[str, Any]) -> dict[str, Any]:
    """What is told of one person; ends the test where a file says otherwise."""
    done = run("trace", f"runs/{folder.name}", line["uid"], "--json", cwd=demo)
    assert done.code == 0, done.err
    told: dict[str, Any] = next(
        each for each in json.loads(done.out)["lives"] if each["uid"] == line["uid"])  # fmt: skip
    assert told["became"] == line["is"]
    places = [[each["source"], each["record"]] for each in told["records"]]
    assert places == line["records"]
    table = rows(folder / "outbox" / "for-lockside.csv")
    written = [row for row in table if row["Record id"] == line["uid"]]
    assert len(written) == (line["is"] in ("new", "changed"))
    cells = "\n".join(written[0].values()) if written else ""
    if written:
        where = f"outbox/for-lockside.csv, record {table.index(written[0]) + 1}"
        assert told["outbox"] == where
    changes = [(row["source"], int(row["record"]), row["rule"], row["before"], row["after"])
               for row in rows(folder / "changes.csv")]  # fmt: skip
    for record in told["records"]:
        raw = (demo / record["source"]).read_bytes()
        source = raw.decode("windows-1252" if record["source"] == "ledger.csv" else "utf-8")
        for value in record["values"]:
            whole = unfolded(source)
            stood = value["cell"].partition(":" if record["source"].endswith(".vcf") else "\0")
            assert unfolded(stood[2] or stood[0]) in whole or value["cell"] == "(layout)"
            now = value["value"]
            for step in value["steps"]:
                said = (record["source"], record["record"], step["rule"], step["before"],
                        step["after"])  # fmt: skip
                assert said in changes
                now = step["after"] or now
            if value["ends"] == "in the outbox, as email":
                assert now in cells
            if value["ends"].startswith("in the outbox, as phone"):
                assert now in cells
    left = rows(folder / "left-behind.csv")
    assert {f"{row['field']} '{row['value']}': {row['reason']}" for row in left
            if [row["source"], int(row["record"])] in places} <= {*told["left"]}  # fmt: skip
    waiting = folder / "held-back.csv"
    waits = [row for row in rows(waiting) if row["uid"] == line["uid"]] if waiting.exists() else []
    assert len(told["waits"]) == len(waits)
    removed = folder / "outbox" / "to-remove.csv"
    gone = removed.exists() and line["uid"] in {row["Record id"] for row in rows(removed)}
    assert gone == (line["is"] == "gone")
    return told
