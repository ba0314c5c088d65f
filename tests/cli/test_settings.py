"""Settings: what holds where nobody says otherwise, and where it comes from."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from conftest import Run
from roundcard.app.settings import changed_text, settings_in
from roundcard.errors import PlanError, RoundCardError

NUMBERS = "Name,Phone\nAda Weir,01632 960111\n"


def _file(folder: Path, text: str) -> Path:
    path = folder / "home" / "settings.toml"
    path.parent.mkdir(exist_ok=True)
    path.write_text(text, encoding="utf-8")
    return path


def test_each_is_shown_with_where_it_comes_from(run: Run, tmp_path: Path) -> None:
    path = _file(tmp_path, 'region = "NL"\nprocesses = 2\n')
    shown = run("settings", env={"ROUNDCARD_REGION": "DE", "ROUNDCARD_NAMES": " "}).out
    lines = {line.split()[0]: line for line in shown.splitlines() if line[:1].strip()}
    assert lines["region"].split()[1:] == ["DE", "variable", "ROUNDCARD_REGION"]
    assert lines["processes"].split()[1:] == ["2", "settings", "file"]
    assert lines["names"].split()[1:] == ["–", "as", "usual"]
    told = json.loads(run("settings", "--json").out)
    assert told["file"] == str(path)
    assert {"name": "region", "value": "NL", "from": str(path)} in told["settings"]
    assert {"name": "colours", "value": "auto", "from": None} in told["settings"]


def test_keeping_and_taking_out(run: Run, tmp_path: Path) -> None:
    path = _file(tmp_path, '# of the trust\nregion = "NL" # for now\n\n[secrets]\n"x" = "env:Y"\n')
    assert run("settings", "region=gb", 'owner=I. "Ma" Harrow', "processes=2").code == 0
    text = path.read_text(encoding="utf-8")
    assert text.startswith('# of the trust\nregion = "GB"\n')
    assert text.endswith('\n[secrets]\n"x" = "env:Y"\n')
    found = settings_in(path, {})
    assert (found["region"], found["owner"], found.processes) == ("GB", 'I. "Ma" Harrow', 2)
    assert run("settings", "region=", "owner=").code == 0
    assert settings_in(path, {})["region"] == ""
    assert "owner" not in path.read_text(encoding="utf-8")


@pytest.mark.parametrize(
    ("assignment", "said"),
    [
        ("region=UK", "did you mean GB?"),
        ("region=Britain", "'Britain' is no value of 'region'; it takes a code such as GB"),
        ("regon=GB", "'regon' is no setting; did you mean 'region'?"),
        ("names=backwards", "it takes given-first or family-first"),
        ("processes=many", "it takes a number; 0 for as many as are worth it"),
        ("processes=-1", "it takes a number"),
        ("colours=red", "it takes auto, always or never"),
        ("region", "'region' sets nothing; write region=VALUE"),
    ],
)
def test_what_is_no_value_is_refused_in_one_line(
    assignment: str, said: str, run: Run, tmp_path: Path
) -> None:
    done = run("settings", "phone=national", assignment)
    assert done.code == 2
    assert said in done.err
    assert done.err.count("\n") == 1
    assert not (tmp_path / "home" / "settings.toml").exists()


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('region = "G', "settings.toml: not valid TOML"),
        ("regions = 3", "settings.toml: unknown setting 'regions'; did you mean 'region'?"),
        ("region = true", "'region' is no setting of this kind; it takes a code such as GB"),
        ('phone = "short"', "settings.toml: 'short' is no value of 'phone'"),
        ("[region]\na = 1", "'region' is no setting of this kind"),
    ],
)
def test_a_wrong_file_is_told_wherever_it_matters(
    text: str, said: str, run: Run, tmp_path: Path
) -> None:
    path = _file(tmp_path, text)
    (tmp_path / "a.csv").write_text(NUMBERS, encoding="utf-8")
    for command in (["settings"], ["convert", "a.csv", "a.vcf"]):
        done = run(*command)
        assert (done.code, done.err.count("\n")) == (4, 1)
        assert said in done.err
    assert run("--help").code == 0
    with pytest.raises(PlanError):
        settings_in(path, {})


@pytest.mark.parametrize("octets", [b'region = "\xe9"\n', None])
def test_a_file_that_cannot_be_read_is_one_line(
    octets: bytes | None, run: Run, tmp_path: Path
) -> None:
    path = tmp_path / "home" / "settings.toml"
    path.parent.mkdir()
    if octets is None:
        path.mkdir()
    else:
        path.write_bytes(octets)
    for command in (["settings"], ["settings", "region=GB"]):
        done = run(*command)
        assert (done.code, done.err.count("\n")) == (4, 1)
        assert ("UTF-8 text" if octets else "Is a directory") in done.err
    if octets:
        assert path.read_bytes() == octets


def test_a_variable_that_is_wrong_is_named(run: Run) -> None:
    done = run("settings", env={"ROUNDCARD_PHONE": "short"})
    assert (done.code, done.err) == (
        4, "error: ROUNDCARD_PHONE: 'short' is no value of 'phone'; it takes international or "
        "national\n",
    )  # fmt: skip


def _phone(run: Run, tmp_path: Path, *options: str, env: dict[str, str] | None = None) -> str:
    (tmp_path / "a.csv").write_text(NUMBERS, encoding="utf-8")
    done = run("clean", "a.csv", "a.vcf", "--force", *options, env=env)
    assert done.code == 0, done.err
    text = (tmp_path / "a.vcf").read_text(encoding="utf-8")
    return next(line.partition(":")[2] for line in text.splitlines() if line.startswith("TEL"))


def test_the_order_in_which_they_hold(run: Run, tmp_path: Path) -> None:
    assert _phone(run, tmp_path) == "01632 960111"  # of a country that nobody named
    _file(tmp_path, 'region = "GB"\nphone = "national"\n')
    assert _phone(run, tmp_path) == "01632 960111"
    assert _phone(run, tmp_path, env={"ROUNDCARD_PHONE": "international"}) == "+44 1632 960111"
    assert _phone(run, tmp_path, "--phone", "international") == "+44 1632 960111"
    (tmp_path / "rules.toml").write_text('phone = "international"\n', encoding="utf-8")
    assert _phone(run, tmp_path, "--rules-file", "rules.toml") == "+44 1632 960111"
    env = {"ROUNDCARD_PHONE": "international"}
    (tmp_path / "rules.toml").write_text('phone = "national"\n', encoding="utf-8")
    assert _phone(run, tmp_path, "--rules-file", "rules.toml", env=env) == "01632 960111"


def test_where_else_they_hold(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text(NUMBERS, encoding="utf-8")
    (tmp_path / "b.csv").write_text(NUMBERS.replace("01632", "+44 1632"), encoding="utf-8")
    _file(tmp_path, 'region = "GB"\nowner = "I. Harrow"\n')
    told = json.loads(run("match", "a.csv", "b.csv", "--json").out)
    assert any(each["what"].startswith("same phone") for row in told["rows"]
               for each in row["reasons"])  # fmt: skip
    assert run("convert", "a.csv", "o.vcf", "--set", "custom/Owner={owner}").code == 0
    assert "I. Harrow" in (tmp_path / "o.vcf").read_text(encoding="utf-8")
    assert run("convert", "a.csv", "c.vcf", "--clean").code == 0
    assert "+44 1632 960111" in (tmp_path / "c.vcf").read_text(encoding="utf-8")
    shown = run("preview", "a.csv", "--record", "1", "--clean").out
    assert "+44 1632 960111" in shown
    assert run("job", "draft", "a.csv", "--destination", "lockside", "-o", "j.toml").code == 0
    assert 'region      = "GB"' in (tmp_path / "j.toml").read_text(encoding="utf-8")


def test_an_owner_whom_nobody_named_is_asked_for(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text(NUMBERS, encoding="utf-8")
    done = run("convert", "a.csv", "o.vcf", "--set", "custom/Owner={owner}")
    assert (done.code, done.err) == (
        2, "error: --set: {owner} is not known; roundcard settings 'owner=A. Name'\n"
    )  # fmt: skip


def test_colours(run: Run, tmp_path: Path) -> None:
    assert "\x1b[" not in run("settings").out
    assert "\x1b[1m" in run("settings", env={"ROUNDCARD_COLOURS": "always"}).out
    none = run("settings", env={"ROUNDCARD_COLOURS": "always", "NO_COLOR": "1"})
    assert "\x1b[" not in none.out


def test_a_text_keeps_what_is_not_changed() -> None:
    assert changed_text("", ["region=GB"]) == 'region = "GB"\n'
    assert changed_text("# a", ["processes=3"]) == "# a\nprocesses = 3\n"
    assert changed_text('"region" = "NL"\n', ["region=GB"]) == 'region = "GB"\n'
    with pytest.raises(RoundCardError):
        changed_text("", ["region = G B"])
