"""All files of a command take their places together: whatever fails, or kills, in between."""

from __future__ import annotations

import os
import resource
import signal
import stat
import threading
from collections.abc import Callable
from pathlib import Path

import pytest

from books_in_tests import card
from conftest import Run
from roundcard.books import hidden, transaction
from roundcard.books.transaction import Transaction, recover, write_whole
from roundcard.errors import TargetError, UsageError

ADA = ("N:Weir;Ada;;;", "FN:Ada Weir", "EMAIL:ada@example.org", "TEL:+1 201 555 0101")
BOOK = "".join([
    card(*ADA, "BDAY:1980-04-12", "GENDER:F", version="4.0"),
    card(*ADA, "GENDER:O", "NOTE:late", "hello", version="4.0"),
    card("N:Lock;Bo;;;", "FN:Bo  Lock", "PHOTO:data:image/png;base64,iVBORw0KGgo=", version="4.0"),
])  # fmt: skip
LEAN = 'name = "lean"\n[[column]]\nheading = "Who"\nholds = "name/full"\n'
COMMANDS: dict[str, tuple[str, ...]] = {
    "merge": ("merge", "b.vcf", "t.vcf"),
    "clean": ("clean", "b.vcf", "t.csv", "--changes", "c.csv", "--to-layout", "lean.toml"),
    "pick": ("pick", "b.vcf", "t.vcf", "--where", "email present", "--rest", "rest.csv"),
    "a table with photos": ("convert", "b.vcf", "t.csv"),
    "one file a person": ("convert", "b.vcf", "--split-into", "t"),
    "unmerge": ("unmerge", "m.vcf", "m.merges.jsonl", "t.vcf", "--all"),
}


@pytest.fixture
def folder(tmp_path: Path, run: Run) -> Path:
    """A folder with the sources, and a book with merges."""
    (tmp_path / "b.vcf").write_text(BOOK.replace("\n", "\r\n"), "utf-8", newline="")
    (tmp_path / "lean.toml").write_text(LEAN, "utf-8")
    assert run("merge", "b.vcf", "m.vcf", "-q").code == 1
    return tmp_path


def old_ones(folder: Path, command: tuple[str, ...]) -> None:
    """What stands where the command writes, and is replaced by --force."""
    if "t" in command:
        (folder / "t").mkdir()
        (folder / "t" / "old.vcf").write_text(card("FN:Old"), "utf-8")
    for name in ("t.vcf", "t.csv", "c.csv", "rest.csv"):
        if name in command:
            (folder / name).write_text("Name,Mail\nOld,old@example.org\n", "utf-8")


def seen(folder: Path) -> dict[str, bytes]:
    """All files by name but those that are hidden."""
    found = {path.relative_to(folder): path for path in sorted(folder.rglob("*"))}
    return {
        str(name): path.read_bytes()
        for name, path in found.items()
        if path.is_file() and not any(part.startswith(".") for part in name.parts)
    }


def strays(folder: Path) -> list[str]:
    return [path.name for path in folder.rglob(".*")]


def renames(
    monkeypatch: pytest.MonkeyPatch, at: int, do: Callable[[], object], *, after: bool = False
) -> list[int]:
    """Do something at the nth rename, before it or after; the list counts them."""
    count = [0]
    real = transaction._rename

    def rename(old: str, new: str) -> None:
        count[0] += 1
        if count[0] == at and not after:
            do()
        real(old, new)
        if count[0] == at and after:
            do()

    monkeypatch.setattr(transaction, "_rename", rename)
    return count


def states(
    run: Run, folder: Path, command: tuple[str, ...]
) -> tuple[dict[str, bytes], dict[str, bytes], int]:
    """The old state, the new one, and how many renames lie between; the old one stands."""
    old_ones(folder, command)
    before = seen(folder)
    with pytest.MonkeyPatch.context() as patch:
        count = renames(patch, 0, lambda: None)
        assert run(*command, "--force", cwd=folder).code in (0, 1)
    after = seen(folder)
    assert after != before
    back(folder, before)
    return before, after, count[0]


def back(folder: Path, state: dict[str, bytes]) -> None:
    """Put a state back."""
    for name in seen(folder):
        if name not in state:
            (folder / name).unlink()
    for name, octets in state.items():
        (folder / name).parent.mkdir(exist_ok=True)
        (folder / name).write_bytes(octets)
    for path in folder.iterdir():
        if path.is_dir() and not any(path.iterdir()):
            path.rmdir()


def same(one: dict[str, bytes], other: dict[str, bytes]) -> bool:
    """Whether two states are one; records and decisions may tell of another second."""
    return one.keys() == other.keys() and all(one[name] == other[name] for name in one)


@pytest.mark.parametrize("name", COMMANDS)
def test_a_rename_that_fails_leaves_what_was_there(
    run: Run, folder: Path, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    command = COMMANDS[name]
    before, _, count = states(run, folder, command)
    assert count >= 2, name

    def fail() -> None:
        raise OSError(28, "No space left on device")

    for at in range(1, count + 1):
        with monkeypatch.context() as patch:
            renames(patch, at, fail)
            done = run(*command, "--force", cwd=folder)
        assert done.code == 5, (at, done)
        assert "cannot be written: No space left on device; nothing was written" in done.err
        assert same(seen(folder), before), at
        assert strays(folder) == [], at


@pytest.mark.parametrize("name", COMMANDS)
def test_a_signal_between_two_renames_waits(
    run: Run, folder: Path, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    command = COMMANDS[name]
    before, after, count = states(run, folder, command)
    for at in range(1, count + 1):
        with monkeypatch.context() as patch:
            renames(patch, at, lambda: os.kill(os.getpid(), signal.SIGTERM))
            done = run(*command, "--force", cwd=folder)
        assert done.code in (0, 1), done
        assert "interrupted" not in done.err
        assert same(seen(folder), after), at
        assert strays(folder) == [], at
        back(folder, before)


def forked(work: Callable[[], object]) -> int:
    """How a child of this process ended that did some work."""
    child = os.fork()
    if not child:
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        try:
            work()
        finally:
            os._exit(9)
    return os.waitpid(child, 0)[1]


@pytest.mark.parametrize("name", COMMANDS)
def test_killed_between_two_renames_the_next_command_puts_it_in_order(
    run: Run, folder: Path, name: str
) -> None:
    command = COMMANDS[name]
    before, after, count = states(run, folder, command)
    target = next(word for word in command if word in ("t", "t.vcf", "t.csv"))
    for at in range(1, count + 1):
        for late in (False, True):

            def work(at: int = at, late: bool = late) -> None:
                with pytest.MonkeyPatch.context() as patch:
                    renames(patch, at, lambda: os.kill(os.getpid(), signal.SIGKILL), after=late)
                    run(*command, "--force", cwd=folder)

            assert os.WTERMSIG(forked(work)) == signal.SIGKILL
            listed = (folder / f".{target}.roundcard").exists()
            if target in after:  # a file is the old one or the new, never half
                assert seen(folder)[target] in (before[target], after[target])
            told = run("survey", target, cwd=folder)
            assert same(seen(folder), after if listed else before), (at, late)
            assert ("this was completed" in told.out + told.err) is listed, told
            assert run(*command, "--force", cwd=folder).code in (0, 1)
            assert strays(folder) == [], (at, late)
            back(folder, before)


@pytest.mark.parametrize("name", COMMANDS)
def test_where_the_disk_is_full_nothing_changes(run: Run, folder: Path, name: str) -> None:
    command = COMMANDS[name]
    before, _, _ = states(run, folder, command)
    for room in (0, 40, 120, 200):

        def work(room: int = room) -> None:
            resource.setrlimit(resource.RLIMIT_FSIZE, (room, room))
            done = run(*command, "--force", cwd=folder)
            one = done.err.startswith("error: ") and done.err.count("\n") == 1
            os._exit(done.code if one else 99)

        assert os.WEXITSTATUS(forked(work)) == 5, room
        assert same(seen(folder), before)
        assert strays(folder) == []


def test_what_is_left_half_done_is_put_back_where_a_part_is_gone(tmp_path: Path) -> None:
    one, two = tmp_path / "one", tmp_path / "two"
    one.write_text("old one")

    def work() -> None:
        with pytest.MonkeyPatch.context() as patch, Transaction(two) as files:
            files.file(two).write(b"new two")
            files.file(one, force=True).write(b"new one")
            renames(patch, 1, lambda: os.kill(os.getpid(), signal.SIGKILL), after=True)
            files.commit()

    forked(work)
    assert one.read_text() == "new one"
    (part,) = tmp_path.glob(f".two.*{hidden.PART}")
    part.unlink()
    assert "what was there before was put back" in recover(two)
    assert (one.read_text(), two.exists(), strays(tmp_path)) == ("old one", False, [])
    assert recover(two) == ""


def test_a_list_that_is_cut_means_that_nothing_was_renamed(tmp_path: Path) -> None:
    (tmp_path / ".t.roundcard").write_text('{"files": [')
    assert recover(tmp_path / "t") == ""
    assert strays(tmp_path) == []


def test_links_lead_to_what_they_name_and_modes_stay(run: Run, folder: Path) -> None:
    (folder / "real").mkdir()
    kept = folder / "real" / "t.vcf"
    kept.write_text("old")
    kept.chmod(0o640)
    (folder / "link.vcf").symlink_to("real/t.vcf")
    (folder / "dangling.vcf").symlink_to("real/none.vcf")
    assert run("convert", "b.vcf", "link.vcf").code == 5
    for name in ("link.vcf", "dangling.vcf"):
        assert run("convert", "b.vcf", name, "--force", cwd=folder).code == 1
        assert (folder / name).is_symlink()
    assert kept.read_bytes() == (folder / "real" / "none.vcf").read_bytes()
    assert stat.S_IMODE(kept.stat().st_mode) == 0o640
    assert stat.S_IMODE((folder / "real" / "none.vcf").stat().st_mode) == 0o600
    (folder / "self.vcf").symlink_to("b.vcf")
    assert run("convert", "b.vcf", "self.vcf", "--force").code == 5


def test_pipes_are_written_to_and_other_things_refused(run: Run, folder: Path) -> None:
    os.mkfifo(folder / "pipe")
    got: list[bytes] = []
    reader = threading.Thread(target=lambda: got.append((folder / "pipe").read_bytes()))
    reader.start()
    done = run("convert", "b.vcf", "pipe", "--to", "vcard-3.0", cwd=folder)
    reader.join()
    assert done.code == 1, done
    assert got[0].count(b"BEGIN:VCARD") == 3
    assert stat.S_ISFIFO((folder / "pipe").stat().st_mode)
    proved = run("convert", "b.vcf", "pipe", "--to", "vcard-3.0", "--prove")
    assert (proved.code, "--prove reads the target again" in proved.err) == (2, True)
    assert run("convert", "b.vcf", os.devnull, "--to", "csv", "--force").code == 1
    assert stat.S_ISCHR(Path(os.devnull).stat().st_mode)
    (folder / "at").mkdir()
    assert run("convert", "b.vcf", "at", "--to", "csv").code == 5


def test_two_outputs_of_one_name_are_refused(run: Run, folder: Path) -> None:
    before = seen(folder)
    for command in (
        ("merge", "b.vcf", "t.vcf", "--record", "t.vcf"),
        ("clean", "b.vcf", "t.vcf", "--changes", "t.vcf"),
        ("pick", "b.vcf", "t.vcf", "--where", "email present", "--rest", "t.vcf"),
    ):
        assert run(*command, cwd=folder).code == 2, command
    assert seen(folder) == before
    (folder / "at").mkdir()
    with Transaction(folder / "x") as files:
        files.file(folder / "y")
        with pytest.raises(UsageError, match="another output"):
            files.file(folder / "at" / ".." / "y")


def test_long_names_have_room_beside_them(tmp_path: Path) -> None:
    path = tmp_path / ("long" * 60 + ".vcf")
    write_whole(path, b"one")
    write_whole(path, b"two", force=True)
    assert path.read_bytes() == b"two"
    with pytest.raises(TargetError, match="already exists"):
        write_whole(path, b"three")
