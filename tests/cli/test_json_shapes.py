"""Each report for machines is as its JSON Schema in the documents says."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from jsonschema import Draft202012Validator
from referencing import Registry, Resource

from conftest import Run
from roundcard.cli import catalog

DOCS = Path(__file__).parents[2] / "docs"
SCHEMAS = DOCS / "schemas"
TALK = {"demo", "help", "layout edit", "runs delete"}
"""Commands that talk to people alone."""
STEPS = """
survey          survey ledger.csv skippers.vcf newsletter.csv twin-waterway.csv
preview         preview twin-waterway.csv --record 3
preview         preview ledger.csv --record 3 --clean --region GB --layout layouts
preview       1 preview ledger.csv --find nobody-of-this-name
layout-draft    layout draft school-visits.csv -o visits.toml
layout-show     layout show visits.toml school-visits.csv
layout-show     layout show lockside
layout-show     layout show layouts
layout-check    layout check layouts
layout-list     layout list
layout-check    layout check layouts/school-visits.toml school-visits.csv
layout-check  1 layout check layouts/school-visits.toml other.csv
layout-match    layout match ledger.csv school-visits.csv --layout layouts
files           layout keep visits.toml
report          convert ledger.csv ledger.vcf --layout layouts --prove
report          convert twin-waterway.csv twin.vcf
report          convert broken.vcf mended.csv
report          convert skippers.vcf skippers-now.vcf trust.vcf --set category=Moved
report          clean trust.vcf clean.vcf --region GB --changes changes.csv
report          pick skippers.vcf reachable.vcf --where phone --rest others.vcf
match           match clean.vcf --region GB --sheet doubles.csv
review          review doubles.csv --list
report          merge clean.vcf merged.vcf --region GB --prove
unmerge-list    unmerge merged.vcf merged.merges.jsonl --list
report          unmerge merged.vcf merged.merges.jsonl apart.vcf --all
report          update clean.vcf edited.xlsx updated.vcf --yes
destination-list destination list
destination     destination show narrow-lock
destination     destination check lockside
files           destination draft ledger.csv -o ledger-keeper.toml
files           destination keep destinations/narrow-lock.toml
check         1 check merged.vcf --destination narrow-lock --region GB
report        1 convert merged.vcf sent.csv --destination narrow-lock --left-behind left.csv
compare       1 compare skippers.vcf skippers-now.vcf
job-check       job check move.toml
job-check     1 job check lame.toml
files           job draft skippers.vcf --destination lockside -o skippers-job.toml
run             run move.toml --dry-run
run             run move.toml --yes
runs-confirm    runs confirm runs/{day}-1
run             run move.toml --yes
trace           trace runs/{day}-1 jw.boats
trace           trace runs/{day}-1 MacSluice
runs            runs list move.toml
run             undo runs/{day}-1 --yes
backup          backup skippers.vcf
settings        settings region=GB
"""


@cache
def _registry() -> Registry[Any]:
    return Registry().with_resources(
        (path.name, Resource.from_contents(json.loads(path.read_text(encoding="utf-8"))))
        for path in SCHEMAS.glob("*.json")
    )


def _validator(name: str) -> Draft202012Validator:
    schema = json.loads((SCHEMAS / f"{name}.json").read_text(encoding="utf-8"))
    Draft202012Validator.check_schema(schema)
    return Draft202012Validator(schema, registry=_registry())


def test_reports_are_as_their_schemas_say(run: Run, tmp_path: Path) -> None:
    from roundcard.cli.planning import today

    assert run("demo", "canal", "--data-only").code == 0
    canal = tmp_path / "canal"
    for path in canal.iterdir():
        path.rename(tmp_path / path.name)
    (tmp_path / "other.csv").write_text("Vorname;Name;Wohnt\nAda;Weir;Withy\n", encoding="utf-8")
    (tmp_path / "broken.vcf").write_text(
        "BEGIN:VCARD\nVERSION:3.0\nFN:A\nEND:VCARD\nBEGIN:VCARD\nVERSION:3.0\nFN:B\n"
    )
    lame = (tmp_path / "move.toml").read_text(encoding="utf-8")
    (tmp_path / "lame.toml").write_text(lame.replace('"skippers.vcf"', '"gone.vcf"'))
    seen = set()
    for line in STEPS.strip().splitlines():
        name, code, words = re.fullmatch(r"(\S+)\s+(\d )?\s*(.*)", line).groups()  # type: ignore[union-attr]
        args = words.format(day=today().isoformat()).split()
        if "phone" in args:
            args[args.index("phone")] = "phone present"
        if name == "report" and args[0] == "update":
            assert run("convert", "clean.vcf", "edited.xlsx", "--to-edit").code == 0
        done = run(*args, "--json")
        assert done.code == int(code or 0), (line, done.err)
        told = json.loads(done.out)
        wrong = [
            f"{error.json_path}: {error.message}" for error in _validator(name).iter_errors(told)
        ]
        assert not wrong, line
        seen.add(name)
    assert seen | {"members"} == {path.stem for path in SCHEMAS.glob("*.json")}


def test_of_many_files(run: Run, tmp_path: Path) -> None:
    for name in ("a", "b"):
        (tmp_path / f"{name}.vcf").write_text(
            f"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:{name} Weir\r\nEND:VCARD\r\n"
        )
    assert run("job", "draft", "a.vcf", "--destination", "lockside", "-o", "j.toml").code == 0
    text = (tmp_path / "j.toml").read_text(encoding="utf-8")
    (tmp_path / "j.toml").write_text(text.replace("[[source]]\n", "[[source]]\neach = true\n", 1))
    done = run("run", "j.toml", "--for-each", "*.vcf", "--yes", "--json")
    told = json.loads(done.out)
    assert [each["file"] for each in told["members"]] == ["a.vcf", "b.vcf"]
    assert not list(_validator("members").iter_errors(told))


def _commands() -> Iterator[tuple[str, Any]]:
    for name in catalog.SUMMARIES:
        command = catalog.load(name)
        if not hasattr(command, "commands"):
            yield name, command
        for inner, each in getattr(command, "commands", {}).items():
            yield f"{name} {inner}", each


def test_every_command_that_reports_reports_for_machines() -> None:
    without = {
        name for name, command in _commands()
        if "--json" not in {spelling for param in command.params for spelling in param.opts}
    }  # fmt: skip
    assert without == TALK
    told = (DOCS / "reports.md").read_text(encoding="utf-8")
    for name, _ in _commands():
        assert f"`{name}" in told, name
    for path in SCHEMAS.glob("*.json"):
        assert f"(schemas/{path.name})" in told


@pytest.mark.parametrize("name", ["report", "run", "survey"])
def test_a_schema_refuses_what_it_does_not_know(name: str) -> None:
    assert list(_validator(name).iter_errors({"schema": 1, "more": True}))
