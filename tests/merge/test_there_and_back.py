"""Merging and taking it back: the originals again, whatever was merged and edited meanwhile."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Sequence
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, read_cards, write_cards
from roundcard.app.merge import merge_into
from roundcard.books.conversion import convert
from roundcard.books.plan import Plan
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.merge.contact_store import Store, as_json, from_json
from roundcard.merge.merge_step import Joined, Merging
from roundcard.merge.policy import Policy
from roundcard.merge.record import RecordFile, chosen, read_record
from roundcard.merge.unmerge import undoing
from strategies import contacts

Groups = Sequence[Sequence[int]]


def merge(source: Path, target: Path, groups: Groups, record: Path, losers: str = "") -> int:
    """Merge records of a book, and keep the record; how many people are left."""
    joined = [Joined(str(n), [(0, at) for at in group]) for n, group in enumerate(groups, 1)]
    plan = Plan([str(source)], str(target), processes=1, force=True)
    policy = Policy(losers=losers)  # type: ignore[arg-type]
    merging = Merging(joined, [source.name], policy)
    with Transaction(target) as files, merging.store:
        done = merge_into(files, plan, merging, RecordFile(files, record, force=True))
        files.commit()
    return done.report.tally.people.written


def take_back(
    book: Path, target: Path, record: Path, group: str = "", later: Path | None = None
) -> list[list[str]]:
    """Take merges back; what was edited since, merge by merge."""
    plan = Plan([str(book)], str(target), processes=1, force=True)
    others = read_record(later) if later is not None else []
    found = undoing(chosen(read_record(record), "", group), plan.as_read(), others)
    assert not found.missing
    plan.first, plan.more = [found], found.others
    convert(plan)
    return [[f"{since.field}: {since.before} > {since.after} {since.sides}" for since in
             done.since] for done in found.done]  # fmt: skip


def cards_of(path: Path) -> list[str]:
    """The cards of a book, each with its lines in order."""
    found = path.read_text("utf-8").replace("\n ", "").split("BEGIN:VCARD")[1:]
    return sorted("\n".join(sorted(each.splitlines())) for each in found)


@st.composite
def books(draw: st.DrawFn) -> tuple[list[Contact], list[list[int]]]:
    """A book, and groups of its records."""
    found = draw(st.lists(contacts, min_size=2, max_size=6))
    keys = draw(st.lists(st.integers(0, 2), min_size=len(found), max_size=len(found)))
    groups = [[at for at, key in enumerate(keys, 1) if key == each] for each in (1, 2)]
    groups = [group for group in groups if len(group) > 1]
    return found, groups or [[1, 2]]


@given(books(), st.sampled_from(["3.0", "4.0"]), st.sampled_from(["vcf", "jcard"]),
       st.sampled_from(["", "note", "extension"]))  # fmt: skip
def test_merged_and_taken_back_is_what_it_was(
    book: tuple[list[Contact], list[list[int]]], version: str, suffix: str, losers: str
) -> None:
    found, groups = book
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        source = folder / "source.vcf"
        text = write_cards(found, version).replace("\n", "\r\n")
        source.write_text(text, "utf-8", newline="")
        straight, merged = folder / f"straight.{suffix}", folder / f"merged.{suffix}"
        back = folder / f"back.{suffix}"
        whole = convert(Plan([str(source)], str(straight), processes=1)).tally.people.written
        left = merge(source, merged, groups, folder / "r.jsonl", losers)
        assert left == whole - sum(len(group) - 1 for group in groups)
        take_back(merged, back, folder / "r.jsonl")
        one, other = (sorted(write_cards([each], "4.0") for each in Plan([str(path)], "").as_read())
                      for path in (straight, back))  # fmt: skip
        assert one == other


BOOK = "".join([
    card("UID:a", "FN:Ada Weir", "N:Weir;Ada;;;", "TEL:1234567", "EMAIL:ada@x.test", version="4.0"),
    card("UID:b", "FN:Ada Weir", "N:Weir;Ada;;;", "TEL:7654321", "EMAIL:ada@x.test", "NOTE:Late",
         version="4.0"),
    card("UID:c", "FN:Ada M. Weir", "N:Weir;Ada;M.;;", "TEL:5555555", version="4.0"),
    card("UID:d", "FN:Bo Lock", "TEL:1111111", version="4.0"),
])  # fmt: skip


@pytest.fixture
def book(tmp_path: Path) -> Path:
    (tmp_path / "b.vcf").write_text(BOOK.replace("\n", "\r\n"), "utf-8", newline="")
    convert(Plan([str(tmp_path / "b.vcf")], str(tmp_path / "plain.vcf")))
    return tmp_path


def test_a_merge_of_a_merge_is_taken_back_after_it(book: Path) -> None:
    merge(book / "b.vcf", book / "m1.vcf", [[1, 2]], book / "r1.jsonl")
    merge(book / "m1.vcf", book / "m2.vcf", [[1, 2]], book / "r2.jsonl")
    take_back(book / "m2.vcf", book / "m3.vcf", book / "r2.jsonl")
    assert cards_of(book / "m3.vcf") == cards_of(book / "m1.vcf")
    take_back(book / "m3.vcf", book / "back.vcf", book / "r1.jsonl")
    assert cards_of(book / "back.vcf") == cards_of(book / "plain.vcf")


def test_a_merge_is_taken_back_although_it_was_merged_again(book: Path) -> None:
    merge(book / "b.vcf", book / "m1.vcf", [[1, 2]], book / "r1.jsonl")
    merge(book / "m1.vcf", book / "m2.vcf", [[1, 2, 3]], book / "r2.jsonl")
    take_back(book / "m2.vcf", book / "back.vcf", book / "r1.jsonl", later=book / "r2.jsonl")
    assert cards_of(book / "back.vcf") == cards_of(book / "plain.vcf")


EDITS = [  # before, after, the cards that are to have it, what is told
    ("TEL:7654321", "TEL:7654322", {"b"}, "phone: 7654321 > 7654322 (1,)"),
    ("EMAIL:ada@x.test", "EMAIL:ada@y.test", {"a", "b"},
     "email: ada@x.test > ada@y.test (0, 1)"),
    ("FN:Ada Weir", "FN:Ada Weir\r\nTITLE:Chair", {"a"}, "title:  > Chair (0,)"),
    ("NOTE:Late\r\n", "", set(), "note: Late >  (1,)"),
]  # fmt: skip


@pytest.mark.parametrize(("before", "after", "cards", "told"), EDITS)
def test_later_edits_stay_on_their_side(
    book: Path, before: str, after: str, cards: set[str], told: str
) -> None:
    merge(book / "b.vcf", book / "m.vcf", [[1, 2]], book / "r.jsonl")
    text = (book / "m.vcf").read_bytes().decode()
    assert before in text
    (book / "m.vcf").write_bytes(text.replace(before, after, 1).encode())
    assert take_back(book / "m.vcf", book / "back.vcf", book / "r.jsonl") == [[told]]
    plain, back = cards_of(book / "plain.vcf"), cards_of(book / "back.vcf")
    new = after.rpartition("\n")[2]
    having = {each.partition("UID;VALUE=text:")[2][:1] for each in back if new in each}
    assert having == (cards if new else set("abcd"))
    assert len(set(plain) - set(back)) == max(len(cards), 1)


def test_one_merge_is_taken_back_and_the_others_stay(book: Path) -> None:
    merge(book / "b.vcf", book / "m.vcf", [[1, 2], [3, 4]], book / "r.jsonl")
    lines = read_record(book / "r.jsonl")
    assert [line.number for line in chosen(lines, "bo LOCK", "")] == ["2"]
    assert [line.number for line in chosen(lines, "ada", "")] == ["1", "2"]
    take_back(book / "m.vcf", book / "back.vcf", book / "r.jsonl", group="1")
    people = list(Plan([str(book / "back.vcf")], "").as_read())
    names = [prop.text for contact in people for prop in contact.all("fn")]
    assert names == ["Ada Weir", "Ada M. Weir", "Ada Weir"]


def test_groups_point_at_what_their_members_became(tmp_path: Path) -> None:
    group = card("UID:g", "KIND:group", "FN:Crew", "MEMBER:urn:uuid:b", "MEMBER:urn:uuid:a",
                 "MEMBER:urn:uuid:d", version="4.0")  # fmt: skip
    text = group + BOOK.replace("UID:", "UID:urn:uuid:")
    (tmp_path / "b.vcf").write_text(text.replace("\n", "\r\n"), "utf-8", newline="")
    merge(tmp_path / "b.vcf", tmp_path / "m.vcf", [[2, 3]], tmp_path / "r.jsonl")
    out = (tmp_path / "m.vcf").read_text("utf-8")
    assert [line for line in out.splitlines() if line.startswith("MEMBER")] == [
        "MEMBER:urn:uuid:a", "MEMBER:urn:uuid:d",
    ]  # fmt: skip


@given(contacts, st.sampled_from(["2.1", "3.0", "4.0"]))
def test_contacts_outside_the_memory_are_the_same(contact: Contact, version: str) -> None:
    (read,) = read_cards(write_cards([contact], version))
    with Store() as store:
        again = store.get(store.put(read))
    told = Contact(from_json(json.loads(json.dumps(as_json(read.properties)))))
    for target in ("3.0", "4.0"):
        assert write_cards([again], target) == write_cards([read], target)
        assert write_cards([told], target) == write_cards([read], target)
    assert again.origin == read.origin
    assert again.size() == read.size()


def test_line_ends_of_other_alphabets_stay_in_their_values(tmp_path: Path) -> None:
    odd = "one\u2028two\u2029three\u0085four\u000bfive"
    text = "".join(card(f"UID:{uid}", "FN:Ada Weir", f"NOTE:{odd} {uid}", version="4.0")
                   for uid in "ab")  # fmt: skip
    (tmp_path / "b.vcf").write_text(text.replace("\n", "\r\n"), "utf-8", newline="")
    convert(Plan([str(tmp_path / "b.vcf")], str(tmp_path / "plain.vcf")))
    merge(tmp_path / "b.vcf", tmp_path / "m.vcf", [[1, 2]], tmp_path / "r.jsonl")
    (line,) = read_record(tmp_path / "r.jsonl")
    assert [each.contact.properties[-1].text for each in line.originals] == [
        f"{odd} a", f"{odd} b",
    ]  # fmt: skip
    take_back(tmp_path / "m.vcf", tmp_path / "back.vcf", tmp_path / "r.jsonl")
    assert (tmp_path / "back.vcf").read_bytes() == (tmp_path / "plain.vcf").read_bytes()
