"""Take the pictures in docs/screenshots: commands in a terminal window under Xvfb, 1280x800.

Started by ``scripts/screenshots``, which sees to the environment and names the packages needed.
"""

from __future__ import annotations

import os
import shlex
import subprocess
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from pages.browser import Browser

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
DISPLAY = ":97"
GROUND = "#1c2530"
SHOTS: dict[str, list[str]] = {
    "survey": [
        "roundcard survey ledger.csv",
        "roundcard survey *.csv skippers.vcf --quiet | tail -n 8",
    ],
    "preview": [
        "roundcard preview ledger.csv --record 3",
        "roundcard preview newsletter.csv --finding",
        "roundcard preview skippers.vcf --find Poundstone",
    ],
    "clean": [
        "roundcard clean newsletter.csv clean.csv --changes changes.csv",
        "head -n 4 changes.csv",
    ],
    "match": [
        "roundcard match skippers.vcf skippers-now.vcf ledger.csv newsletter.csv --layout layouts "
        "--region GB --show 1",
        "roundcard match skippers.vcf skippers-now.vcf ledger.csv newsletter.csv --layout layouts "
        "--region GB --explain skippers.vcf:2 ledger.csv:4",
    ],
    "review": [
        "roundcard match skippers.vcf skippers-now.vcf ledger.csv newsletter.csv --layout layouts "
        "--region GB --sheet doubles.csv --show 0",
        "(sleep 10; touch done) & roundcard review doubles.csv",
    ],
    "merge": [
        "roundcard merge skippers.vcf skippers-now.vcf coordinator-phone.vcf merged.vcf "
        "--region GB",
        "roundcard unmerge merged.vcf merged.merges.jsonl --person MacSluice 2>&1 | tail -n 3",
    ],
    "layout-draft": [
        "roundcard layout draft ledger.csv -o ledger.toml",
        "roundcard layout show ledger.toml",
        "roundcard layout match ledger.csv",
    ],
    "check": [
        "roundcard check skippers.vcf --destination narrow-lock --region GB",
    ],
    "compare": [
        "roundcard compare skippers.vcf skippers-now.vcf | head -n 42",
    ],
    "run": [
        "roundcard run move.toml --dry-run",
    ],
    "run-again": [
        "roundcard run move.toml --yes --quiet && roundcard runs confirm runs/*-1",
        "cp a-month-later/* .",
        "roundcard run move.toml --there runs/*-1/outbox/for-lockside.csv --yes 2>&1 | tail -n 27",
        "roundcard runs move.toml",
    ],
    "trace": [
        "roundcard run move.toml --yes --quiet; roundcard trace runs/*-1 Watergrave OSCAR",
    ],
    "errors": [
        "roundcard convert ledger.csv o.vcf --layout layouts/membership-legder.toml",
        "roundcard convert ledger.csv o.vcf --layout membership-legder",
        "roundcard convert skippers.vcf o.csv --only 'name/given, phone/wrok'",
        "roundcard convert no-such.vcf o.csv",
        "roundcard convert ledger.csv ledger.csv --force",
        "sed 's/aliases/alias/' layouts/lockside.toml > mine.toml",
        "roundcard layout check mine.toml",
        "roundcard layout check lockside ledger.csv",
    ],
    "help": ["roundcard --help"],
    "demo": ["roundcard demo again 2>&1 | tail -n 41"],
}
"""What each picture shows: commands typed in the folder of the demo data."""
LONG = {"help": ("8", "178x56+0+0")}
"""Font size and place of terminals in which more lines must fit."""
PAGES = {"report": ("", "light"), "report-questions": (".question", "dark")}
"""Pictures of a run's report in a browser: what of it is scrolled to, and how it is shown."""
PREPARE = (
    "roundcard convert coordinator-phone.vcf skippers.vcf skippers-now.vcf ledger.csv "
    "newsletter.csv school-visits.csv twin-waterway.csv trust.vcf --layout layouts "
    "--set 'category=Moved to Lockside' --quiet"
)


def script(commands: list[str]) -> str:
    """A shell script that shows each command before its output, says where the cursor is then, and
    waits."""
    lines = ["stty -echo", "tput civis", "clear", "set -o pipefail"]
    for command in commands:
        lines.append(f"printf '\\033[1m$ %s\\033[0m\\n' {shlex.quote(command)}")
        lines.append(command)
        lines.append('code=$?; [ "$code" -lt 2 ] || [ "$code" -gt 100 ] || touch refused; echo')
    ended = [r"printf '\033[6n'; IFS='[;' read -rs -d R -a at; echo ${at[1]} $(tput lines) > done"]
    return "\n".join([*lines, *ended, "sleep 600"])


def take(name: str, folder: Path, env: dict[str, str]) -> None:
    """One picture, once all commands have ended. Ends the program where it is cut or empty."""
    (folder / "done").unlink(missing_ok=True)
    terminal = subprocess.Popen(
        ["xterm", "-fa", "DejaVu Sans Mono", "-fs", *LONG.get(name, ("10", "156x46+0+0"))[:1],
         "-bg", GROUND, "-fg", "#e6e3da", "-b", "12", "-geometry",
         LONG.get(name, ("10", "156x46+0+0"))[1], "+sb", "-e", "bash", "-c", script(SHOTS[name])],
        cwd=folder, env=env,
    )  # fmt: skip
    done = folder / "done"
    while not (done.exists() and (asks(name) or done.read_text().strip())):
        if terminal.poll() is not None:
            sys.exit(f"{name}: the terminal was closed")
        time.sleep(0.1)
    time.sleep(1.0)
    path = OUT / f"{name}.png"
    subprocess.run(["import", "-window", "root", str(path)], env=env, check=True)
    subprocess.run(["mogrify", "-fill", GROUND, "-opaque", "black", "-colors", "64", str(path)],
                   check=True)  # fmt: skip
    terminal.terminate()
    terminal.wait()
    if (folder / "refused").exists() and name != "errors":
        sys.exit(f"{name}: a command in it was refused")
    row, rows = (1, 2) if asks(name) else map(int, done.read_text().split())
    if row >= rows:
        sys.exit(f"{name}: its {rows} lines are too few; the first ones are cut off")
    shades = subprocess.run(["identify", "-format", "%[fx:standard_deviation]", str(path)],
                            capture_output=True, text=True, check=True).stdout  # fmt: skip
    if float(shades) < 0.02:
        sys.exit(f"{name}: the picture is empty")
    print(path, f"({row} of {rows} lines)")


def show(name: str, folder: Path, env: dict[str, str]) -> None:
    """One picture of the report of the demo's job, in a headless browser."""
    subprocess.run(["roundcard", "run", "move.toml", "--yes", "--quiet"], cwd=folder, env=env,
                   check=True)  # fmt: skip
    page = next(folder.glob("runs/*/report.html"))
    where, how = PAGES[name]
    with Browser(folder, dark=how == "dark") as browser:
        browser.open(page)
        if where:
            browser.run(f"document.querySelector('{where}').scrollIntoView()")
        browser.picture(OUT / f"{name}.png")
    print(OUT / f"{name}.png")


def asks(name: str) -> bool:
    """Whether the last command waits for keys, and so ends by no cursor."""
    return "touch done" in SHOTS[name][-1]


def main() -> None:
    names = sys.argv[1:] or [*SHOTS, *PAGES]
    OUT.mkdir(parents=True, exist_ok=True)
    server = subprocess.Popen(
        ["Xvfb", DISPLAY, "-screen", "0", "1280x800x24"], stderr=subprocess.DEVNULL
    )
    try:
        time.sleep(1.5)
        for name in names:
            with tempfile.TemporaryDirectory(prefix="pictures-") as place:
                folder = Path(place) / "demo"
                env = os.environ | {"DISPLAY": DISPLAY, "LANG": "C.UTF-8", "LC_ALL": "C.UTF-8",
                                    "ROUNDCARD_HOME": f"{place}/home"}  # fmt: skip
                env.pop("NO_COLOR", None)
                laid = ["roundcard", "demo", str(folder), "--data-only"]
                subprocess.run(laid, check=True, stdout=subprocess.DEVNULL)
                subprocess.run(shlex.split(PREPARE), cwd=folder, check=True)
                if name in PAGES:
                    show(name, folder, env)
                else:
                    take(name, folder, env)
    finally:
        server.terminate()
        server.wait()


if __name__ == "__main__":
    main()
