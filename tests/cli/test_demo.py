"""The demo: a dozen steps, each going on with what the one before made, with numbers that meet."""

from __future__ import annotations

import json
import tomllib
from itertools import pairwise
from pathlib import Path
from typing import Any

from conftest import DEMO, Run, at_terminal

STEPS = tomllib.loads((DEMO / "steps.toml").read_text(encoding="utf-8"))["step"]


def test_it_is_told_in_a_dozen_steps_that_build_on_one_another() -> None:
    assert 10 <= len(STEPS) <= 14
    there = {path.name for path in DEMO.iterdir()}
    made: list[str] = []
    for step in STEPS:
        command, *words = step["run"]
        files = [word for word in words if word.endswith((".vcf", ".csv", ".toml", ".jsonl"))]
        for name in files:
            if name not in there and "/" not in name:
                made.append(name)
                there.add(name)
        if command == "unmerge":
            assert any(name.endswith(".merges.jsonl") for name in files)
    used = [name for name in made if sum(name in step["run"] for step in STEPS) > 1]
    assert {"visits.toml", "trust.vcf", "trust-clean.vcf", "trust-merged.vcf",
            "trust-checked.vcf"} <= set(used)  # fmt: skip
    assert "decisions.jsonl" in made  # by which the job goes
    assert 'decisions = "decisions.jsonl"' in (DEMO / "move.toml").read_text(encoding="utf-8")


def test_what_one_step_writes_is_what_the_next_reads(run: Run, tmp_path: Path) -> None:
    from roundcard.cli.planning import today

    run("demo", "canal", "--data-only")
    told: dict[str, dict[str, Any]] = {}
    for step in STEPS:
        args = [word.replace("{today}", today().isoformat()) for word in step["run"]]
        done = run(*args, "--json", cwd=tmp_path / "canal")
        assert done.code == step.get("exit", 0), done.err
        told[args[0] if args[0] not in told else f"{args[0]} again"] = json.loads(done.out)
        for path in sorted((tmp_path / "canal" / step.get("copy", "none")).glob("*")):
            (tmp_path / "canal" / path.name).write_bytes(path.read_bytes())
    chain = [told[name] for name in ("convert", "clean", "merge", "unmerge")]
    for before, after in pairwise(chain):
        assert before["people"]["written"] == after["people"]["read"]
        names = sum(reason["values"] for reason in before["reasons"]
                    if reason["rule"].startswith("name-from-"))  # fmt: skip
        assert before["values"]["written"] - names == after["values"]["read"]
    doubles = told["match"]["doubles"]
    assert told["merge"]["people"]["written"] == told["merge"]["people"]["read"] - doubles
    assert told["match"]["to_ask"] == told["merge"]["merge"]["to_ask"] == told["run"]["questions"]
    groups = 1  # the regatta crew, which becomes a category of its members
    assert told["run"]["delivered"] == told["unmerge"]["people"]["written"] - groups
    assert told["run again"]["delivered"] == 8
    assert (tmp_path / "canal" / told["run"]["folder"] / "report.html").exists()


def test_a_report_tells_what_the_next_one_will_read(run: Run, demo: Path) -> None:
    names = ["twin-waterway.csv", "x.vcf", "--layout", "twin-waterway"]
    said = run("convert", *names, cwd=demo)
    assert "who reads the file counts 258 values" in said.err
    again = run("convert", "x.vcf", "y.vcf", "--to", "vcard-3.0", "--json", cwd=demo)
    assert json.loads(again.out)["values"]["read"] == 258


def test_pace(run: Run, tmp_path: Path) -> None:
    done = run("demo", "canal", "--pace")
    assert (done.code, done.out) == (2, "")
    assert "needs a terminal" in done.err
    shown = at_terminal(tmp_path, [b"\n", b"q\n"], "demo", "canal", "--pace")
    assert "1. Look first" in shown
    assert f"step 2 of {len(STEPS)}" in shown
    assert "2. The school" not in shown
    assert "what was made so far lies in" in shown
    assert "report.html" not in shown
