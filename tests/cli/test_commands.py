"""The commands beside convert, the public face of the package, and what the documents show."""

from __future__ import annotations

import datetime
import re
import shlex
import subprocess
import sys
from pathlib import Path

import pytest

import roundcard
from conftest import Run
from roundcard.cli.commands import check, compare, convert

ROOT = Path(__file__).parent.parent.parent
SHOWN_DAY = "2026-11-28"
"""The day on which the runs that documents show were made."""
DOCUMENTS = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]


def test_version_and_help(run: Run) -> None:
    assert run("--version").out == f"roundcard {roundcard.__version__}\n"
    done = subprocess.run(
        [sys.executable, "-m", "roundcard", "--version"], capture_output=True, text=True, check=True
    )
    assert done.stdout == f"roundcard {roundcard.__version__}\n"
    assert run().code == 2
    for command in ([], ["convert"], ["layout"], ["layout", "show"], ["layout", "check"], ["demo"]):
        shown = run(*command, "--help")
        assert shown.code == 0
        assert "Example" in shown.out or command in ([], ["layout"])
        assert not re.search(r"<[a-z\[\]]+>", shown.out)  # no type of the language


def test_help_loads_nothing_heavy() -> None:
    heavy = (
        "numpy",
        "scipy",
        "matplotlib",
        "phonenumbers",
        "platformdirs",
        "roundcard.books",
        "roundcard.layouts",
        "roundcard.formats",
        "hypothesis",
    )
    code = (
        "import sys\nsys.argv = ['roundcard', '--help']\nfrom roundcard.cli.main import main\n"
        "try:\n    main()\nexcept SystemExit:\n    pass\n"
        f"print([name for name in {heavy!r} if name in sys.modules], file=sys.stderr)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stderr.strip() == "[]"


def test_a_conversion_loads_nothing_that_checks_values(demo: Path, tmp_path: Path) -> None:
    words = ["roundcard", "convert", str(demo / "skippers.vcf"), str(tmp_path / "made.csv"),
             "--processes", "1", "--only", "name/full", "--only", "email", "--quiet"]  # fmt: skip
    code = (
        f"import sys\nsys.argv = {words!r}\nfrom roundcard.cli.main import main\n"
        "try:\n    main()\nexcept SystemExit as end:\n    assert not end.code\n"
        "print([name for name in ('pydantic', 'numpy') if name in sys.modules], file=sys.stderr)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stderr.strip() == "[]"
    assert (tmp_path / "made.csv").read_text().startswith("email")


@pytest.mark.parametrize(
    ("option", "value", "what"),
    [
        ("--processes", "two", "integer"),
        ("--processes", "-1", "greater than or equal to 0"),
        ("--heading-row", "1.5", "integer"),
    ],
)
def test_a_value_that_an_option_does_not_take_is_one_line(
    run: Run, demo: Path, option: str, value: str, what: str
) -> None:
    done = run("convert", str(demo / "ledger.csv"), "made.vcf", option, value)
    assert done.code == 2
    assert done.err.count("\n") == 1
    assert option in done.err
    assert what in done.err


def test_layouts_are_shown_listed_and_checked(run: Run, demo: Path, tmp_path: Path) -> None:
    shown = run("layout", "show", "membership-ledger").out
    assert re.search(r"Phones +phone +several, separated by ' / '", shown)
    own = tmp_path / "home" / "layouts"
    own.mkdir(parents=True)
    (own / "mine.toml").write_text(
        'name = "mine"\n[[column]]\nheading = "A"\nholds = "note"\n', encoding="utf-8"
    )
    listed = run("layout", "list").out
    assert re.search(r"mine +1 ", listed)
    assert "mine.toml" in listed.replace("\n", "").replace(" ", "")
    assert re.search(r"lockside +Lockside's import table +\d+ +comes with roundcard", listed)
    assert run("layout", "check", "mine").out.endswith("'mine' is right, 1 column\n")
    fits = run("layout", "check", "membership-ledger", demo / "ledger.csv")
    assert (fits.code, fits.out.endswith("ledger.csv: fits\n")) == (0, True)
    (tmp_path / "b.csv").write_text("Name;Phone;E-mail\n", encoding="utf-8")
    differs = run("layout", "check", "membership-ledger", "b.csv")
    assert differs.code == 1
    assert (
        "column 'Phones' of the layout is not in the file; it has 'Phone', which looks"
        in differs.out
    )
    assert "column 'Phone' of the file is not in the layout; it is kept as custom" in differs.out
    assert run("layout", "check", "membership-ledger", demo / "skippers.vcf").code == 3


def test_the_demo_runs_and_never_writes_over_anything(program: Run, tmp_path: Path) -> None:
    done = program("demo")
    assert done.code == 0, done
    balances = re.findall(r"\nbalance +(\S+) +(\S+)\n", done.out)
    assert len(balances) == len(
        re.findall(
            r"^\$ roundcard (?:convert(?!.*--to-edit)|pick|clean|update|merge|unmerge) ",
            done.out,
            re.MULTILINE,
        )
    ) + len(re.findall(r"people to import", done.out))
    assert set(balances) == {("0", "0")}
    assert "What to try next" in done.out
    again = program("demo", "--data-only")
    assert again.out == "the demo data lies in roundcard-demo-2\n"
    refused = program("demo", "roundcard-demo")
    assert (refused.code, "not empty" in refused.err) == (5, True)
    only = program("demo", "fresh", "--data-only")
    assert only.out == "the demo data lies in fresh\n"
    assert sorted(p.name for p in (tmp_path / "fresh").iterdir())[:2] == [
        "a-month-later", "coordinator-phone.vcf"]  # fmt: skip


def test_the_demo_data_is_what_its_script_makes(demo: Path, tmp_path: Path) -> None:
    script = (ROOT / "scripts" / "make_demo_data.py").read_text(encoding="utf-8")
    copy = tmp_path / "scripts"
    copy.mkdir()
    (copy / "make_demo_data.py").write_text(script, encoding="utf-8")
    pool = (ROOT / "scripts" / "demo_people.toml").read_bytes()
    (copy / "demo_people.toml").write_bytes(pool)
    made = subprocess.run(
        [sys.executable, copy / "make_demo_data.py"], check=True, capture_output=True, text=True
    )
    people, records, several = map(int, re.findall(r"\d+", made.stdout.splitlines()[0]))
    assert records >= 250
    assert 0.28 < several / people < 0.4
    made_in = tmp_path / "src" / "roundcard" / "demo"
    written = [path for path in made_in.rglob("*") if path.is_file()]
    assert len(written) == 10
    for path in written:
        assert path.read_bytes() == (demo / path.relative_to(made_in)).read_bytes()


def test_the_examples_of_the_help_pages_run(run: Run, demo: Path) -> None:
    for module, found in ((convert, (0,)), (check, (0, 1)), (compare, (0, 1))):
        commands = re.findall(r"^  (roundcard .+)$", module.EXAMPLES, re.MULTILINE)
        assert len(commands) >= 3
        for command in commands:
            done = run(*shlex.split(command)[1:], cwd=demo)
            assert done.code in found, f"{command}\n{done.err}"


def examples(text: str) -> list[tuple[str, str]]:
    """The commands and outputs in the ``console`` blocks of a document."""
    found = []
    for block in re.findall(r"```console\n(.*?)```", text, re.DOTALL):
        for piece in re.split(r"^\$ ", block, flags=re.MULTILINE)[1:]:
            command, _, output = piece.partition("\n")
            found.append((command, output))
    return found


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_what_the_documents_show_is_what_comes_out(run: Run, demo: Path, document: Path) -> None:
    today = datetime.date.today().isoformat()
    text = document.read_text(encoding="utf-8").replace(SHOWN_DAY, today)
    for command, output in examples(text):
        words = shlex.split(command)
        if words[0] != "roundcard":
            continue
        done = run(*words[1:], cwd=demo)
        refused = output.lstrip().startswith("error:")
        assert done.code in ((2, 3, 4, 5) if refused else (0, 1)), f"{command}\n{done.err}"
        shown = re.sub(r"\d+\.\d s\b", "0.0 s", done.err + done.out).replace("\r\n", "\n")
        wanted = re.sub(r"\d+\.\d s\b", "0.0 s", output)
        pieces = [re.escape(piece.strip("\n")) for piece in wanted.split("…\n")]
        assert re.search(r".*?".join(pieces), shown, re.DOTALL), f"{command}\n{shown}"


def test_links_in_the_documents_lead_somewhere() -> None:
    for document in [*DOCUMENTS, ROOT / "CONTRIBUTING.md"]:
        for link in re.findall(r"\]\((?!https?:)([^)#]+)", document.read_text(encoding="utf-8")):
            assert (document.parent / link).exists(), f"{document.name}: {link}"


@pytest.mark.parametrize(
    "command",
    [
        "convert a.csv out.csv --to-layout L",
        "pick a.csv out.csv --where 'email present' --to-layout L",
        "clean a.csv out.csv --to-layout L",
        "merge a.csv out.csv --to-layout L",
        "update a.csv sheet.xlsx out.csv --to-layout L",
        "unmerge a.csv record.merges.jsonl out.csv --all --to-layout L",
    ],
)
def test_a_folder_of_layouts_is_no_layout_to_write_by(
    run: Run, tmp_path: Path, command: str
) -> None:
    """Whichever was taken, the columns of the others would be lost."""
    (tmp_path / "L").mkdir()
    for name, heading, holds in (("out", "Who", "name/full"), ("other", "Mail", "email")):
        column = f'[[column]]\nheading = "{heading}"\nholds = "{holds}"\n'
        (tmp_path / "L" / f"{name}.toml").write_text(f'name = "{name}"\n{column}')
    (tmp_path / "a.csv").write_text("Name,E-mail\nAda Weir,ada@example.org\n")
    done = run(*shlex.split(command))
    assert (done.code, done.out) == (2, "")
    assert done.err == "error: --to-layout names a folder of 2 layouts; name one file\n"
    assert not (tmp_path / "out.csv").exists()


@pytest.mark.parametrize(
    ("command", "wanted"),
    [
        ("convert", "Zo\xeb Weir;1"),
        ("pick", "Zo\xeb Weir;1"),
        ("clean", "Zo\xeb Weir;1"),
        ("merge", "Zo\xeb Weir;1"),
    ],
)
def test_each_command_reads_as_it_is_told(
    run: Run, tmp_path: Path, command: str, wanted: str
) -> None:
    """Character set, separator and heading row are had by all that read."""
    (tmp_path / "in.csv").write_bytes("printed in May\nName|Note\nZo\xeb Weir|1\n".encode("cp850"))
    (tmp_path / "out.toml").write_text(
        'name = "o"\n[table]\nseparator = ";"\n[[column]]\nheading = "Name"\nholds = "name/full"\n'
        '[[column]]\nheading = "Note"\nholds = "note"\n'
    )
    told = ["--encoding", "cp850", "--separator", "bar", "--heading-row", "2"]
    done = run(command, "in.csv", "out.csv", *told, "--to-layout", "out.toml",
               *(["--where", "note present"] if command == "pick" else []))  # fmt: skip
    assert done.code == 0, done.err
    assert (tmp_path / "out.csv").read_text(encoding="utf-8").splitlines() == ["Name;Note", wanted]
