# ruff: noqa: E501  # many words stand beside one another
"""Throws broken and hostile files at all commands: ``python bench/fuzz.py [SECONDS] [SEED]``.

60 seconds and seed 1 if nothing is said. Takes good files of every format, breaks them (octets
flipped, cut, doubled, spliced, words of the formats put in), or makes others that are well formed
and hostile (line breaks and marks of control in names and values, a thousand of everything, things
within things), and runs one of all the commands on them, with one process or two; rules, layouts,
decisions and records are broken as well. Now and then a command is killed, or has no room on the
disk. Looked for are tracebacks, balances that are not zero, proofs that fail, what takes too long,
errors of more than one line, control characters on the screen, and targets that are half there.
Prints how many runs there were and what was found; the files of a run that found something are
kept.
"""

from __future__ import annotations

import collections
import csv
import io
import json
import random
import re
import shlex
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import traceback
from importlib import resources
from pathlib import Path

from roundcard import Plan, RoundCardError, convert

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from in_process import in_process

PATIENCE = 20
"""Seconds after which a run hangs."""
TOKENS = [
    b"BEGIN:VCARD\r\n", b"END:VCARD\r\n", b"VERSION:2.1\r\n", b"VERSION:4.0\r\n", b"AGENT:\r\n", b"\r\n ",
    b"\n\t", b"=\r\n", b"=3D", b";ENCODING=QUOTED-PRINTABLE", b";ENCODING=b", b";BASE64", b";CHARSET=utf-7",
    b";CHARSET=none", b'"', b'""', b'","', b"\\", b"\\;", b"\\n", b";", b",", b":", b"\t", b"|", b"sep=;\r\n",
    b"\xef\xbb\xbf", b"\xff\xfe", b"\xfe\xff", b"\x00", b"\xff", b"\xed\xa0\x80", b"\x1a", b"\r", b"\n", b"[[", b"]]",
    b'["vcard",', b"{}", b'"type"', b"null", b"1e999", b"-", b"'=", b"=1+1", b"4.47E+11", b"Total", b"ALTID=1;",
    b"X-ROUNDCARD-EXACT=00", b"X-ROUNDCARD-PARAMS=3B", b"X-ROUNDCARD-OF=N;", b"KIND:group\r\n", b"MEMBER:urn:uuid:1\r\n",
    b"item1.", b"item1.X-ABLabel:x\r\n", b"LABEL=\"a^nb\";", b"PREF=1;", b"data:image/png;base64,", "é".encode(), "\u2028".encode(),
    "\U0001f600".encode(), b"<f>", b"</c>", b"t=\"s\"", b"r=\"ZZZ9\"",
]  # fmt: skip
TARGETS = ["vcard-4.0", "vcard-3.0", "vcard-2.1", "jcard", "csv", "xlsx"]


class Hang(BaseException):
    """A run took too long."""


def alarmed(*_: object) -> None:
    """Ends a run that hangs."""
    raise Hang


def seeds(folder: Path) -> list[tuple[str, bytes]]:
    """Good files of all formats, short enough to be broken in interesting places."""
    demo = resources.files("roundcard.demo")
    found = []
    for each in demo.iterdir():
        if each.name.endswith((".vcf", ".csv")):
            source = folder / each.name
            source.write_bytes(each.read_bytes()[:6_000])
            found.append((source.suffix, source.read_bytes()))
            for target in TARGETS:
                out = folder / "seed"
                try:
                    convert(
                        Plan([str(source)], str(out), to_format=target, force=True, processes=1)
                    )
                except RoundCardError:
                    continue
                suffix = {"jcard": ".jcard", "csv": ".csv", "xlsx": ".xlsx"}.get(target, ".vcf")
                found.append((suffix, out.read_bytes()[: 200_000 if suffix == ".xlsx" else 6_000]))
    return found


def broken(octets: bytes, chance: random.Random, others: list[tuple[str, bytes]]) -> bytes:
    """A file with some harm done to it."""
    data = bytearray(octets)
    for _ in range(chance.choice([1, 1, 2, 4, 9])):
        at = chance.randrange(len(data) + 1)
        end = min(len(data), at + chance.choice([1, 1, 3, 20, 300]))
        match chance.randrange(7):
            case 0:
                data[at:at] = chance.choice(TOKENS)
            case 1:
                del data[at:end]
            case 2:
                data[at:at] = data[at:end] * chance.choice([1, 2, 50])
            case 3 if data:
                data[min(at, len(data) - 1)] = chance.randrange(256)
            case 4:
                other = chance.choice(others)[1]
                begin = chance.randrange(len(other) + 1)
                data[at:end] = other[begin : begin + 200]
            case 5:
                data[at:end] = chance.choice(TOKENS)
            case _:
                del data[at:]
    return bytes(data)


HOSTILE = ["Ada\r\nTEL:1", "a\x1b[2Jb", "\u202egnp", "=1+1", "@x", "'=x", "\x00", "x" * 3_000, "é" * 900,
           "END:VCARD", "\n\nBEGIN:VCARD", "\\n", "^n", "];[", '"', "{", "a,b;c", "\ud800".encode("utf-8", "surrogatepass").decode("latin-1"),
           "1980-00-00", "+", "(((", "%s", "../../x", "\ufeff", "", " ", "4.47E+11", "00442079460000"]  # fmt: skip
NAMES = ["fn", "n", "tel", "email", "adr", "org", "note", "bday", "geo", "photo", "x-a", "x\nb", "", "uid",
         "categories", "agent", "related", "member", "kind", "tz", "rev", "clientpidmap", "xml"]  # fmt: skip
RULES = ['[[replace]]\nfind = "(a+)+$"\nwith = "x"\npattern = true\n', 'rules = ["usual"]\n', "a = [[[[",
         'region = "GB"\nnames = "family-first"\nyears_from = 1930\n', '[[words]]\nvalues = { a = "b" }\n']  # fmt: skip
LAYOUT = 'name = "f"\n[[column]]\nheading = "Name"\nholds = "name/full"\n[[column]]\nheading = "P"\nholds = "phone"\n'
COMMANDS = [
    "convert S T.vcf --prove", "convert S T.csv --prove", "convert S T.xlsx --prove", "convert S T.jcard --prove",
    "convert S T.vcf --to vcard-2.1 --clean --region GB", "convert S T.vcf --to vcard-3.0 --processes 2",
    "convert S T.csv --processes 2 --clean", "convert S T.csv --to-layout L", "convert S T.vcf --layout L",
    "convert S T.vcf --only name,phone --set note=x", "convert S T.vcf --split-into D --to vcard-4.0",
    "clean S T.vcf --rules-file R --changes C.csv", "clean S T.csv --processes 2", "survey S", "survey S --json",
    "preview S --record 1", "preview S --finding", "pick S T.vcf --where 'phone present' --rest U.vcf",
    "pick S T.csv --find Ada", "pick S T.vcf --sample 2", "match S --sheet M.csv", "match S G --json", "merge S G T.vcf --region GB",
    "merge S T.vcf --losers note", "merge S T.vcf --into G --existing update", "unmerge B K T.vcf --all", "unmerge S K T.vcf --all",
    "match S --decisions Q", "layout draft S -o O.toml", "layout check L S", "layout fit S", "convert S T.xlsx --to-edit",
    "update G S T.vcf --yes", "merge S T.vcf --sheet M2", "convert S T.csv --destination narrow-lock --region GB --prove",
    "convert S T.csv --destination narrow-lock --left-behind C.csv --processes 2", "convert S T.vcf --destination lockside --prove",
    "convert S T.csv --destination lockside --prove", "convert S T.vcf --from-destination lockside --prove",
    "check S G --destination narrow-lock --json --findings C.csv", "check S --destination lockside --there G",
    "compare S G --sheet C.csv --changed T.vcf", "compare G S --as narrow-lock --json", "destination draft S -o O.toml",
    "merge S G T.csv --destination narrow-lock", "pick S T.vcf --where 'phone present' --destination lockside",
]  # fmt: skip
SEEN = re.compile(r"\x1b(?!\[[0-9;]*m)|[\x00-\x08\x0b\x0c\x0e-\x1a\x1c-\x1f\x7f-\x9f\u202a-\u202e]")


def hostile(chance: random.Random) -> tuple[str, bytes]:
    """A well-formed file of the worst."""

    def word() -> str:
        return (
            chance.choice(HOSTILE) if chance.random() < 0.6 else chance.choice(["Ada", "Weir", "1"])
        )

    if chance.random() < 0.5:
        cards = [["vcard", [["fn", {}, "text", word()], *[
            [chance.choice(NAMES), {chance.choice(["type", "group", "pref", "x\nc", "label"]): word()},
             chance.choice(["text", "uri", "unknown", "date", "integer", "boolean"]),
             *([[word(), [word(), word()]]] if chance.random() < 0.3 else [word()])]
            for _ in range(chance.choice([1, 3, 9, 200]))]]] for _ in range(chance.choice([1, 2, 30]))]  # fmt: skip
        return ".jcard", json.dumps(cards).encode()
    rows = [
        [word() for _ in range(chance.choice([2, 5, 40]))] for _ in range(chance.choice([1, 4, 60]))
    ]
    out = io.StringIO()
    csv.writer(out, delimiter=chance.choice(",;\t|")).writerows(
        [["Name", "P", *rows[0][2:]], *rows]
    )
    return ".csv", out.getvalue().encode("utf-8", "surrogatepass")


def beside(folder: Path, chance: random.Random) -> None:
    """The other files that commands take, some of them broken."""
    for name in ("L", "R", "K", "Q", "M2"):
        good = {"L": LAYOUT.encode(), "R": chance.choice(RULES).encode()}.get(name) or (
            folder / f"good-{name}"
        ).read_bytes()
        if chance.random() < 0.4:
            good = broken(good, chance, [("", good)])
        suffix = {"L": ".toml", "M2": ".csv"}.get(name, "")
        (folder / f"{name}{suffix}").write_bytes(good)


def run(source: Path, chance: random.Random, folder: Path) -> str:
    """Run one command on one file; what is wrong, or how it ended."""
    line = chance.choice(COMMANDS)
    for each in folder.glob("[TUCDOM].*"):
        shutil.rmtree(each) if each.is_dir() else each.unlink()
    shutil.rmtree(folder / "D", ignore_errors=True)
    names = {"S": source.name, "G": "good.vcf", "B": "merged.vcf", "L": "L.toml", "M2": "M2.csv"}
    args = [names.get(word, word) for word in shlex.split(line)]
    if chance.random() < 0.01:
        return struck(args, chance, folder)
    signal.alarm(PATIENCE)
    try:
        done = in_process(
            [*args, *(["--force"] if "T." in line else [])],
            folder,
            {"ROUNDCARD_HOME": str(folder / "home")},
        )
    except Hang:
        return f"WRONG {line}: it hangs"
    except Exception as error:  # this is what is looked for
        last = traceback.extract_tb(error.__traceback__)[-1]
        return f"WRONG {line}: {type(error).__name__} in {Path(last.filename).name}:{last.lineno}"
    finally:
        signal.alarm(0)
    if done.code == 6:
        return f"WRONG {line}: {done.err[-160:]}"
    if done.code > 1 and done.err.count("error:") != 1:
        return f"WRONG {line}: exit {done.code} without an error"
    if SEEN.search(done.out + done.err):
        return f"WRONG {line}: a character that a terminal obeys"
    return f"{line.split()[0]} {done.code}"


def struck(args: list[str], chance: random.Random, folder: Path) -> str:
    """Run a command that is killed, or finds no room; nothing may be half there."""
    room = chance.random() < 0.5
    target = next((folder / word for word in args if word.startswith("T.")), None)
    code = "from roundcard.cli.main import main\nmain()"
    limit = f"import resource\nresource.setrlimit(resource.RLIMIT_FSIZE, ({chance.choice([0, 100, 3000])},) * 2)\n"
    process = subprocess.Popen([sys.executable, "-c", (limit if room else "") + code, *args], cwd=folder,
                               stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)  # fmt: skip
    if not room:
        time.sleep(chance.uniform(0.1, 0.9))
        process.send_signal(chance.choice([signal.SIGKILL, signal.SIGTERM]))
    _, err = process.communicate()
    if b"Traceback" in err:
        return f"WRONG {args[0]} without room or killed: {err[-200:]!r}"
    whole = target is None or not target.is_file() or target.suffix != ".vcf"
    if not whole and target is not None:
        text = target.read_bytes()
        if text.count(b"BEGIN:VCARD\r\n") and not text.endswith(b"END:VCARD\r\n"):
            return f"WRONG {args[0]}: the target is half there"
    return "struck"


def main() -> None:
    """Break and run until the time is over."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 60
    chance = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    signal.signal(signal.SIGALRM, alarmed)
    folder = Path(tempfile.mkdtemp(prefix="roundcard-fuzz-"))
    good = seeds(folder)
    person = b"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ada Weir\r\nN:Weir;Ada;;;\r\nEMAIL:ada@x.test\r\nTEL:+1201555010%d\r\nEND:VCARD\r\n"
    (folder / "good.vcf").write_bytes(person % 1 + person % 2)
    in_process(["merge", "good.vcf", "merged.vcf"], folder, {})
    in_process(["match", "good.vcf", "--sheet", "good-M2.csv"], folder, {})
    in_process(["unmerge", "merged.vcf", "merged.merges.jsonl", "apart.vcf", "--all"], folder, {})
    shutil.copy(folder / "merged.merges.jsonl", folder / "good-K")
    shutil.copy(folder / "roundcard-decisions.jsonl", folder / "good-Q")
    shutil.copy(folder / "good-M2.csv", folder / "good-M2")
    ends: collections.Counter[str] = collections.Counter()
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        beside(folder, chance)
        if chance.random() < 0.4:
            suffix, octets = hostile(chance)
        else:
            suffix, octets = chance.choice(good)
            octets = broken(octets, chance, good)
        source = folder / f"broken{suffix}"
        source.write_bytes(octets)
        end = run(source, chance, folder)
        if end.startswith("WRONG") and not ends[end]:
            kept = folder / f"found-{len(ends)}"
            kept.mkdir()
            for each in (source, *(folder / name for name in ("L.toml", "R", "K", "Q", "M2.csv"))):
                shutil.copy(each, kept)
            print(f"{end}: {kept}", flush=True)
        ends[end] += 1
    print(f"{ends.total():,} runs from {len(good)} files")
    for end, count in ends.most_common():
        print(f"{count:>8,}  {end}")


if __name__ == "__main__":
    main()
