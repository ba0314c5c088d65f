# ruff: noqa: E501  # many words stand beside one another
"""Throws broken files at all readers: ``python bench/fuzz.py [SECONDS] [SEED]``, 60 and 1.

Takes good files of every format, breaks them (octets flipped, cut, doubled, spliced, words of the
formats put in), converts what comes out to another format, and looks whether anything but contacts
or a clear error of ours appears, whether the balance is zero, and whether it takes too long.
Prints how many runs there were and what was found; a broken file that found something is kept.
"""

from __future__ import annotations

import collections
import random
import signal
import sys
import tempfile
import time
import traceback
from importlib import resources
from pathlib import Path

from roundcard import Plan, RoundCardError, convert
from roundcard.books.source import HowToRead

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


def run(source: Path, chance: random.Random, folder: Path) -> str:
    """Convert one file; what is wrong, or how it ended."""
    how = HowToRead(format=chance.choice(["", "", "", "csv", "vcard", "jcard"]))
    target = chance.choice(TARGETS)
    plan = Plan([str(source)], str(folder / "out"), to_format=target, how=how, force=True, processes=1,
                prove=True, side_folder=folder / "side")  # fmt: skip
    signal.alarm(PATIENCE)
    try:
        report = convert(plan)
    except RoundCardError as error:
        if error.exit_code == 6:
            return f"WRONG {error}"
        return f"{type(error).__name__}"
    except Hang:
        return "WRONG it hangs"
    except Exception as error:  # this is what is looked for
        last = traceback.extract_tb(error.__traceback__)[-1]
        return f"WRONG {type(error).__name__} in {Path(last.filename).name}:{last.lineno}"
    finally:
        signal.alarm(0)
    return "converted" if report.tally.people.written else "converted nobody"


def main() -> None:
    """Break and convert until the time is over."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 60
    chance = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    signal.signal(signal.SIGALRM, alarmed)
    folder = Path(tempfile.mkdtemp(prefix="roundcard-fuzz-"))
    (folder / "side").mkdir()
    good = seeds(folder)
    ends: collections.Counter[str] = collections.Counter()
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        suffix, octets = chance.choice(good)
        source = folder / f"broken{suffix}"
        source.write_bytes(broken(octets, chance, good))
        end = run(source, chance, folder)
        if end.startswith("WRONG") and not ends[end]:
            kept = folder / f"found-{len(ends)}{suffix}"
            kept.write_bytes(source.read_bytes())
            print(f"{end}: {kept}", flush=True)
        ends[end] += 1
        for side in (folder / "side").iterdir():
            side.unlink()
    print(f"{ends.total():,} runs from {len(good)} files")
    for end, count in ends.most_common():
        print(f"{count:>8,}  {end}")


if __name__ == "__main__":
    main()
