"""The report and the page for deciding: read by anybody, obeyed by nobody, decided in a browser."""

from __future__ import annotations

import csv
import html
import re
import time
from html.parser import HTMLParser
from itertools import pairwise
from pathlib import Path

import pytest

from conftest import Run
from pages.browser import PROGRAM, Browser

CSS = Path(__file__).parent.parent.parent / "src" / "roundcard" / "match" / "pages" / "page.css"
HOSTILE = ["<script>window.hacked=1</script>", "</style></script><b>", "&amp; &lt;i&gt;",
           "\u202egnp.exe", "=cmd|'/c calc'!A0", "javascript:alert(1)"]  # fmt: skip


@pytest.fixture
def hostile(tmp_path: Path) -> Path:
    """A book in which each name stands twice with nothing else in common, and wishes no good."""
    cards = []
    for at, name in enumerate(HOSTILE):
        for other in ("a", "b"):
            cards.append("BEGIN:VCARD\r\nVERSION:4.0\r\n"
                         f"FN:{name} Lock\r\nN:Lock;{name.replace(';', ',')};;;\r\n"
                         f"EMAIL:{other}{at}@example.org\r\nURL:http://example.org/{at}\r\n"
                         f"NOTE:<img src=x onerror=window.hacked=1>\r\nEND:VCARD\r\n")  # fmt: skip
    path = tmp_path / "hostile.vcf"
    path.write_text("".join(cards), encoding="utf-8", newline="")
    return path


JOB = """name = "h"
id = "6f0c9c1e-7d5b-4b1a-9d39-5f0a3b1f6a11"
destination = "lockside"
[[source]]
file = "hostile.vcf"
[clean]
[merge]
ask = "apart"
"""


@pytest.fixture
def pages(run: Run, hostile: Path, tmp_path: Path) -> list[Path]:
    """The page of ``match`` and the report of a run, of that book."""
    (tmp_path / "h.toml").write_text(JOB)
    assert run("match", "hostile.vcf", "--page", "decide.html").code == 0
    assert run("run", "h.toml", "--yes").code == 0
    return [tmp_path / "decide.html", next(tmp_path.glob("runs/*/report.html"))]


class Seen(HTMLParser):
    """What a page is made of."""

    def __init__(self) -> None:
        super().__init__()
        self.tags: list[tuple[str, dict[str, str | None]]] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append((tag, dict(attrs)))


def seen(path: Path) -> list[tuple[str, dict[str, str | None]]]:
    parser = Seen()
    parser.feed(path.read_text("utf-8"))
    return parser.tags


def test_nothing_of_a_contact_is_markup(pages: list[Path]) -> None:
    for path in pages:
        text = path.read_text("utf-8")
        tags = seen(path)
        assert sum(tag == "script" for tag, _ in tags) == 2  # the page's own, and the data
        assert not [tag for tag, _ in tags if tag in ("img", "b", "i", "iframe", "link", "object")]
        assert all((attrs["href"] or "").startswith("#") for tag, attrs in tags if "href" in attrs)
        names = {name for _, attrs in tags for name in attrs}
        assert not [name for name in names if name.startswith("on") or name in ("src", "style")]
        for name in HOSTILE[:3]:
            assert f"<bdi>{html.escape(name)} Lock</bdi>".replace("&#x27;", "&#39;") in text


def test_the_policy_allows_nothing_else(pages: list[Path]) -> None:
    for path in pages:
        policy = next(attrs["content"] for tag, attrs in seen(path) if tag == "meta"
                      and attrs.get("http-equiv") == "Content-Security-Policy")  # fmt: skip
        assert re.fullmatch(
            r"default-src 'none'; style-src 'sha256-[\w+/=]+'; script-src 'sha256-[\w+/=]+'; "
            r"base-uri 'none'; form-action 'none'", policy or "")  # fmt: skip


def test_headings_labels_and_captions(pages: list[Path]) -> None:
    for path in pages:
        tags = seen(path)
        levels = [int(tag[1]) for tag, _ in tags if re.fullmatch("h[1-6]", tag)]
        assert levels[0] == 1
        assert levels.count(1) == 1
        assert all(after <= before + 1 for before, after in pairwise(levels))
        names = [tag for tag, _ in tags]
        assert names.count("table") == names.count("caption")
        assert names.count("fieldset") == names.count("legend")
        assert all(attrs.get("scope") for tag, attrs in tags if tag == "th")
        assert all(attrs.get("role") == "img" for tag, attrs in tags if tag == "svg")
        assert ("html", {"lang": "en"}) in tags


def _light(colour: str) -> float:
    """Relative luminance (WCAG 2.2)."""
    found = colour.lstrip("#")
    found = "".join(char * 2 for char in found) if len(found) == 3 else found
    parts = [int(found[at : at + 2], 16) / 255 for at in (0, 2, 4)]
    parts = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def test_contrast_in_light_and_dark() -> None:
    """At least 4.5 to 1 (WCAG 2.2, success criterion 1.4.3), for all text on all grounds."""
    roots = re.findall(r":root \{(.*?)\}", CSS.read_text(), re.DOTALL)
    assert len(roots) == 3
    for root in roots:
        colours = dict(re.findall(r"--(\w+): (#\w+)", root))
        for ground in ("ground", "card", "soft"):
            for ink in ("ink", "dim", "deep", "warm", "bad", "good"):
                if ink in colours and ground in colours:
                    one, other = sorted((_light(colours[ink]), _light(colours[ground])))
                    assert (other + 0.05) / (one + 0.05) >= 4.5, (ink, ground)


browser_only = pytest.mark.skipif(PROGRAM is None, reason="no Chromium here")


@browser_only
def test_decided_by_keyboard_and_merged(pages: list[Path], run: Run, tmp_path: Path) -> None:
    """Each question is reached and decided by keys alone; the saved sheet goes into a merge."""
    downloads = tmp_path / "downloads"
    downloads.mkdir()
    with Browser(downloads) as browser:
        browser.open(pages[0])
        assert browser.run("document.querySelectorAll('.question').length") == len(HOSTILE)
        for number in range(len(HOSTILE)):
            for _ in range(30):
                browser.press("Tab", 9)
                if browser.run("document.activeElement.type") == "radio":
                    break
            assert browser.run("document.activeElement.value") == ""  # later
            browser.press("ArrowLeft", 37)
            if number % 2 == 0:
                browser.press("ArrowLeft", 37)
            wanted = "same" if number % 2 == 0 else "apart"
            assert browser.run("document.activeElement.value") == wanted
        assert browser.run("document.getElementById('decided').textContent") == "6 of 6 decided"
        browser.press("Tab", 9)
        assert browser.run("document.activeElement.id") == "save"
        browser.press("Enter", 13, "\r")
        until = time.monotonic() + 60
        while not list(downloads.glob("*.csv")) and time.monotonic() < until:
            time.sleep(0.05)
        assert browser.run("window.hacked") is None
        assert [url for url in browser.requests if not url.startswith(("file:", "blob:"))] == []
    saved = downloads / "decide.csv"
    with saved.open(newline="", encoding="utf-8-sig") as stream:
        rows = list(csv.DictReader(stream))
    assert sorted(row["decision"] for row in rows) == [""] * 6 + ["apart"] * 3 + ["same"] * 3
    assert not [cell for row in rows for cell in row.values() if cell.startswith(("=", "+", "@"))]
    done = run("merge", "hostile.vcf", "merged.vcf", "--sheet", saved)
    assert done.code == 0, done.err
    assert (tmp_path / "merged.vcf").read_text().count("BEGIN:VCARD") == 9
    again = run("run", "h.toml", "--yes", "--dry-run", "--sheet", saved)
    assert "9  new" in again.err or "unconfirmed" in again.err or again.code == 1


@browser_only
def test_the_report_asks_no_network_and_prints(pages: list[Path], tmp_path: Path) -> None:
    for dark in (False, True):
        with Browser(tmp_path, dark=dark, width=400) as browser:
            browser.open(pages[1])
            assert browser.run("document.documentElement.scrollWidth") <= 400
            assert browser.run("window.hacked") is None
            ground = browser.run("getComputedStyle(document.documentElement).backgroundColor")
            assert ground == ("rgb(23, 28, 31)" if dark else "rgb(251, 250, 246)")
            browser.printed(tmp_path / "report.pdf")
            assert [url for url in browser.requests if not url.startswith("file:")] == []
    assert (tmp_path / "report.pdf").read_bytes().startswith(b"%PDF")


def test_the_saved_sheet_goes_into_a_waiting_run(run: Run, hostile: Path, tmp_path: Path) -> None:
    (tmp_path / "h.toml").write_text(JOB.replace('ask = "apart"', 'ask = "stop"'))
    waits = run("run", "h.toml", "--yes")
    assert waits.code == 1
    folder = next(tmp_path.glob("runs/*/"))
    assert (folder / "report.html").exists()
    assert not (folder / "outbox" / "for-lockside.csv").exists()
    text = (folder / "doubles.csv").read_text("utf-8-sig")
    lines = list(csv.reader(text.splitlines()))
    for line in lines[1:]:
        line[lines[0].index("decision")] = "apart" if line[1] == "ask" else ""
    with (tmp_path / "saved.csv").open("w", newline="", encoding="utf-8") as stream:
        csv.writer(stream).writerows(lines)
    done = run("run", "h.toml", "--yes", "--sheet", "saved.csv")
    assert done.code == 0, done.err
    assert "12  new" in done.err
    assert (folder / "outbox" / "for-lockside.csv").exists()
