"""The job file: what is wrong is one line with file, line and a suggestion; drafts are right."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from conftest import Run

ROOT = Path(__file__).parent.parent.parent
ID = "6f0c9c1e-7d5b-4b1a-9d39-5f0a3b1f6a11"
TOP = f'name = "move"\nid = "{ID}"\ndestination = "lockside"\n'
SOURCE = '[[source]]\nfile = "ledger.csv"\n'
GOOD = TOP + SOURCE
WRONG = [
    ("name = ", "not valid TOML"),
    (GOOD.replace('name = "move"', 'name = "Move It"'), "line 1: 'Move It' cannot be a name"),
    (GOOD.replace('name = "move"\n', ""), "a job needs a name"),
    (GOOD.replace(f'id = "{ID}"\n', ""), "a job needs an id, a UUID"),
    (GOOD.replace(ID, "seven"), "line 2: 'id' is a UUID, and 'seven' is not"),
    (GOOD.replace('destination = "lockside"\n', ""), "a job needs a destination"),
    (GOOD.replace("lockside", "locksied"), "line 3: 'locksied' is neither a destination file"),
    (GOOD.replace("lockside", "locksied"), "did you mean 'lockside'"),
    (TOP, "a job needs sources"),
    (TOP + 'regoin = "GB"\n' + SOURCE, "line 4: unknown key 'regoin' at the top of the file"),
    (TOP + 'regoin = "GB"\n' + SOURCE, "did you mean 'region'"),
    (TOP + 'region = "Britain"\n' + SOURCE, "country's code of two letters, such as GB"),
    (TOP + "keep_sources = 1\n" + SOURCE, "'keep_sources' takes true or false"),
    (GOOD + 'layuot = "x"\n', "line 6: unknown key 'layuot' in [[source]]"),
    (GOOD + 'layout = "membership-legder"\n', "did you mean 'membership-ledger'"),
    (GOOD + 'folder = "x"\n', "a source is a file or a folder"),
    (TOP + "[[source]]\n", "a source is a file or a folder"),
    (GOOD + SOURCE, "line 7: 'ledger.csv' is already a source"),
    (GOOD + 'category = "Of {dat}"\n', "line 6: '{dat}' stands for nothing; did you mean 'date'"),
    (GOOD + '[pick]\nwhere = "phone/wrok present"\n', "line 7: 'wrok' is not a use"),
    (GOOD + '[pick]\nwhere = "phone present and"\n', "line 7:"),
    (GOOD + "[pick]\nwhere = 7\n", "'where' takes a condition"),
    (GOOD + '[pick]\nwere = "x"\n', "unknown key 'were' in [pick]; did you mean 'where'"),
    (GOOD + '[clean]\nphone = "fancy"\n', "unknown phone format 'fancy'"),
    (GOOD + '[clean]\nrules = ["phone-frm"]\n', "phone-frm"),
    (GOOD + '[clean]\nrules_file = "none.toml"\n', "none.toml: cannot be read"),
    (GOOD + '[clean]\nreplaces = "x"\n', "unknown key 'replaces' in [clean]; did you mean"),
    (GOOD + '[set]\n"phone/wrok" = "1"\n', "line 7: 'wrok' is not a use"),
    (GOOD + '[set]\ncategory = ""\n', "'category' takes a text in quotes"),
    (GOOD + '[set]\ncategory = "{who}"\n', "'{who}' stands for nothing; known are {date}"),
    (GOOD + '[merge]\nask = "always"\n', "'ask' cannot be 'always'; it is one of stop, apart"),
    (GOOD + '[merge]\nprefer = "newest"\n', "'prefer' takes a list of texts"),
    (GOOD + '[merge]\ndecisions = "ledger.csv"\n', "ledger.csv"),
    (GOOD + '[again]\ncleared = "sorce"\n', "'cleared' cannot be 'sorce'; did you mean 'source'"),
    (GOOD + '[again]\ngone = "delete"\n', "'gone' cannot be 'delete'; it is one of list, remove"),
    (GOOD + '[again]\nmost_gone = "half"\n', "'most_gone' is a part of a source, such as \"5 %\""),
    (GOOD + '[again]\nmost_gone = "500 %"\n', "'most_gone' is a part of a source"),
    (GOOD + '[again]\nblind = "yes"\n', "'blind' takes true or false"),
    (GOOD + '[deliver]\nhow = "service"\n', "needs a client for services"),
    (GOOD + '[deliver]\nhow = "post"\n', "'how' cannot be 'post'; it is one of files, service"),
    (GOOD + '[deliver]\nexisting = "merge"\n', "'existing' cannot be 'merge'"),
    ("clean = 3\n" + GOOD, "what belongs to 'clean' stands under [clean]"),
    ("source = 3\n" + TOP, "each source belongs under a line [[source]]"),
    (TOP + "[[source]]\neach = true\n[[source]]\nfile = \"ledger.csv\"\neach = true\n",
     "'each = true' stands at one source only"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "says"), WRONG, ids=[says[:50] for _, says in WRONG])
def test_what_is_wrong_is_one_line(run: Run, demo: Path, text: str, says: str) -> None:
    (demo / "job.toml").write_text(text, encoding="utf-8")
    for command in (["job", "check"], ["run", "--yes"]):
        done = run(*command, "job.toml", cwd=demo)
        assert done.code == 4, done.err
        assert says in done.err
        first, *rest = done.err.splitlines()
        assert first.startswith("error: ")
        assert "job.toml" in first
        assert all(line.startswith(" ") for line in rest)
    assert not (demo / "runs").exists()


def test_a_file_that_is_not_there(run: Run, demo: Path) -> None:
    done = run("job", "check", "moev.toml", cwd=demo)
    assert (done.code, "did you mean 'move.toml'" in done.err) == (4, True)
    (demo / "job.toml").write_text(GOOD.replace("ledger.csv", "leger.csv"))
    done = run("job", "check", "job.toml", cwd=demo)
    assert (done.code, "leger.csv" in done.out) == (1, True)
    assert run("run", "job.toml", "--yes", cwd=demo).code == 3


def blocks() -> list[str]:
    text = (ROOT / "docs" / "jobs.md").read_text(encoding="utf-8")
    return re.findall(r"```toml\n(.*?)```", text, re.DOTALL)


@pytest.mark.parametrize("block", blocks())
def test_each_block_of_the_docs_loads(run: Run, demo: Path, block: str) -> None:
    (demo / "d.toml").write_text(block)
    done = run("job", "check", "d.toml", cwd=demo)
    assert done.code == 0, done.err + done.out


def test_a_draft_says_why_and_runs(run: Run, demo: Path) -> None:
    (demo / "colleagues").mkdir()
    (demo / "skippers-now.vcf").rename(demo / "colleagues" / "one.vcf")
    made = run("job", "draft", "ledger.csv", "colleagues", "school-visits.csv", "--destination",
               "narrow-lock", "-o", "jobs-of-mine.toml", cwd=demo)  # fmt: skip
    assert made.code == 0, made.err
    text = (demo / "jobs-of-mine.toml").read_text()
    for line in ('folder   = "colleagues"', 'layout   = "membership-ledger"', 'key      = "No."',
                 "fits 100%", "identities (UID) of their own", 'name        = "jobs-of-mine"',
                 'region      = "GB"'):  # fmt: skip
        assert line in text
    assert run("job", "check", "jobs-of-mine.toml", cwd=demo).code == 0
    plan = run("run", "jobs-of-mine.toml", "--dry-run", cwd=demo)
    assert plan.code in (0, 1), plan.err
    assert "files that will come" in plan.err
    ids = re.findall(r'id          = "(.*?)"', text)
    again = run("job", "draft", "ledger.csv", "--destination", "lockside", "-o", "other.toml",
                "--region", "ie", cwd=demo)  # fmt: skip
    assert again.code == 0
    other = (demo / "other.toml").read_text()
    assert ids[0] not in other
    assert 'region      = "IE"' in other
    refused = run("job", "draft", "ledger.csv", "--destination", "lockside", "-o", "other.toml",
                  cwd=demo)  # fmt: skip
    assert refused.code == 5
    assert run("job", "draft", "ledger.csv", "--destination", "lockside", "-o", "A B.toml",
               cwd=demo).code == 4  # fmt: skip


def test_picked_cleaned_and_set(run: Run, demo: Path) -> None:
    """The whole grammar at work: a condition, rules, fixed values of all kinds, a folder."""
    text = TOP + 'region = "GB"\nkeep_sources = true\n' + SOURCE + (
        'layout = "membership-ledger"\nkey = "No."\ncategory = "From {file} as {source}"\n'
        "[pick]\nwhere = ['not category = \"Lapsed\"', 'email present']\n"
        '[clean]\nwithout = ["name-case"]\n[set]\nnote = "by {job}"\n')  # fmt: skip
    (demo / "job.toml").write_text(text)
    done = run("run", "job.toml", "--yes", cwd=demo)
    assert done.code == 0, done.err
    folder = next(demo.glob("runs/2*"))
    rows = (folder / "outbox" / "for-lockside.csv").read_text("utf-8")
    assert "by move" in rows
    assert "From ledger.csv as ledger.csv" in rows
    assert "Lapsed" not in rows
    assert "+44" in rows
    assert (folder / "sources" / "1-ledger.csv").read_bytes() == (demo / "ledger.csv").read_bytes()
    assert (folder / "changes.csv").exists()
