"""Decisions: what a sheet says, how they are kept, and whether their grounds still stand."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from books_in_tests import card, read_cards
from roundcard.books.transaction import Transaction
from roundcard.errors import PlanError
from roundcard.match.decision_store import Books, Decision, read_decisions, side_of, write_decisions
from roundcard.match.features import Features, features_of
from roundcard.match.matching import matches_of
from roundcard.match.review_session import Review
from roundcard.match.sheet import HEADINGS
from roundcard.match.sheet_decisions import Answer, MatchSheet, answer_of, answers, known

NAMES = ["b.vcf"]
ADA = "FN:Ada Weir", "UID:u-ada", "EMAIL:ada@x.test", "TEL:07700 900123"
OTHER = "FN:Ada Weir", "EMAIL:a.weir@y.test", "TEL:01632 960001"


def book(*cards: tuple[str, ...]) -> Features:
    return features_of(read_cards("".join(card(*each, version="4.0") for each in cards)), "GB")


def decided(said: str = "apart") -> Decision:
    features = book(ADA, OTHER)
    sides = [side_of(features, at, NAMES) for at in (0, 1)]
    return Decision(said, sides[0], sides[1], when="2026-01-31")  # type: ignore[arg-type]


NEXT = [  # next month's book, what becomes of the decision
    ((ADA, OTHER), "apart"),
    ((("FN:New One",), OTHER, ADA), "apart"),  # other places in the book
    (((*ADA, "ADR:;;1 Mill St;;;;", "ORG:Withy"), OTHER), "apart"),  # other content
    (((*ADA[:3], "EMAIL:new@x.test"), OTHER), "apart"),  # an address more, a number less
    ((("FN:Weir\\, Ada", *ADA[1:]), OTHER), "apart"),
    (((*ADA[:2], "EMAIL:new@z.test"), OTHER), "ask"),  # who it was, and nothing it went by
    ((("FN:Ada Lock", *ADA[1:]), OTHER), "ask"),  # another name
    ((ADA, ("FN:Ada Weir", "EMAIL:third@z.test")), "ask"),
    ((ADA, ("FN:Bo Lock",)), ""),  # not there any more
    ((("FN:Bo Lock",), OTHER), ""),
]  # fmt: skip


@pytest.mark.parametrize(("cards", "said"), NEXT)
def test_a_decision_holds_while_its_grounds_stand(cards: tuple[tuple[str, ...]], said: str) -> None:
    found = Books(book(("FN:Filler",), *cards), ["next.vcf"]).resolved([decided()])
    assert list(found.pairs.values()) == ([said] if said else [])
    assert (len(found.again), len(found.absent)) == (said == "ask", said == "")


def test_what_was_decided_is_done() -> None:
    features = book(ADA, (*ADA[:1], "UID:u-2", *ADA[2:]), OTHER)
    one, two, three = (side_of(features, at, NAMES) for at in range(3))
    books = Books(features, NAMES)
    free = matches_of(features)
    assert [group.clusters for group in free.groups] == [[[0, 1], [2]]]
    apart = books.resolved([Decision("apart", one, two)])
    parted = matches_of(features, decided=apart.pairs).groups
    assert [group.clusters for group in parted] == [[[2], [0], [1]]]  # which of the two is it?
    same = books.resolved([Decision("same", one, three), Decision("apart", one, two)])
    (group,) = matches_of(features, decided=same.pairs).groups
    assert [0, 2] in group.clusters
    later = books.resolved([Decision("apart", one, two), Decision("same", one, two)])
    assert later.pairs == {(0, 1): "same"}
    asked = books.resolved([decided("same")._replace(one=one._replace(emails=(), phones=("1",)))])
    assert set(asked.pairs.values()) == {"ask"} or asked.held == 1


def test_decisions_are_kept_in_a_file(tmp_path: Path) -> None:
    path = tmp_path / "d.jsonl"
    assert read_decisions(path) == []
    kept = [decided(), decided("same")._replace(leads=True, keeps=("birthday", "name"))]
    with Transaction(path) as files:
        write_decisions(files, path, [kept[0], kept[1]])
        files.commit()
    assert read_decisions(path) == [kept[1]]  # of the same two the last one
    path.write_text('{"decision": "perhaps"}\n')
    with pytest.raises(PlanError, match="line 1"):
        read_decisions(path)


CELLS = [
    ("", Answer()), ("same", Answer("same")), (" Apart ", Answer("apart")), ("later", Answer()),
    ("lead", Answer("same", True)), ("same: name, birthday", Answer("same", False,
                                                                    ("name", "birthday"))),
    ("LEAD:name", Answer("same", True, ("name",))), ("same;org", Answer("same", False, ("org",))),
]  # fmt: skip


@pytest.mark.parametrize(("text", "answer"), CELLS)
def test_what_a_cell_says(text: str, answer: Answer) -> None:
    assert answer_of(text) == answer
    assert answer_of(str(answer)) == answer


@pytest.mark.parametrize("text", ["sam", "yes", "same: brthday", "apart: name", "name"])
def test_what_no_cell_may_say(text: str) -> None:
    with pytest.raises(ValueError, match="is not a decision"):
        answer_of(text)


def sheet(path: Path, *rows: tuple[str, str, str, str], delimiter: str = ",") -> MatchSheet:
    """A sheet with rows of group, verdict, decision and name; records count from 1."""
    with path.open("w", newline="", encoding="utf-8") as stream:
        writer = csv.writer(stream, delimiter=delimiter)
        writer.writerow(HEADINGS)
        for record, (group, verdict, decision, name) in enumerate(rows, 1):
            writer.writerow([group, verdict, "9.5", "+9.5 x", decision, "b.vcf", record, name,
                             f"{record}@x.test", "", "", "", ""])  # fmt: skip
    return MatchSheet(path)


ROWS = [("1", "lead"), ("1", "same"), ("1.2", "ask"), ("1.2", "same"), ("1.3", "ask")]
SAID = [  # decisions of the rows, the pairs that are decided
    (("", "", "same", "", ""), {("same", 3, 1)}),
    (("", "", "apart", "", ""), {("apart", 3, 1), ("apart", 3, 2), ("apart", 4, 1),
                                 ("apart", 4, 2)}),
    (("", "apart", "", "", ""), {("apart", 2, at) for at in (1, 3, 4, 5)}),
    (("", "", "", "apart", ""), {("apart", 4, at) for at in (1, 2, 3, 5)}),
    (("", "", "", "same", ""), {("same", 4, 3)}),
    (("lead", "", "", "", ""), {("same", 1, 2)}),
    (("", "", "", "", "later"), set()),
]  # fmt: skip


@pytest.mark.parametrize("delimiter", [",", ";"])
@pytest.mark.parametrize(("cells", "pairs"), SAID)
def test_what_a_sheet_decides(
    tmp_path: Path, cells: tuple[str, ...], pairs: set[tuple[str, int, int]], delimiter: str
) -> None:
    rows = [(*row, cell, "Ada Weir") for row, cell in zip(ROWS, cells, strict=True)]
    found = sheet(tmp_path / "s.csv", *rows, delimiter=delimiter).decisions()
    assert {(each.said, each.one.record, each.other.record) for each in found} == pairs


def test_a_sheet_that_is_none(tmp_path: Path) -> None:
    (tmp_path / "s.csv").write_text("name,email\nAda,a@x.test\n")
    with pytest.raises(PlanError, match="missing column: 'group'"):
        MatchSheet(tmp_path / "s.csv")
    with pytest.raises(PlanError, match="row 2: 'yes' is not a decision"):
        sheet(tmp_path / "t.csv", ("1", "lead", "yes", "Ada"))


def test_a_sheet_speaks_of_the_records_it_was_made_of(tmp_path: Path) -> None:
    features = book(ADA, OTHER)
    told = sheet(tmp_path / "s.csv", ("1", "lead", "", "Ada Weir"),
                 ("1.2", "ask", "lead: birthday", "Ada Weir"))  # fmt: skip
    found = known(features, NAMES, tmp_path / "none.jsonl", told, "2026-01-31")
    assert found.resolved.pairs == {(0, 1): "same"}
    assert found.resolved.leads == {1}
    assert found.resolved.keeps == {1: {"birthday"}}
    assert [each.one.uid for each in found.decisions] == [""]
    assert found.decisions[0].other.uid == "u-ada"  # told by the book, not by the sheet
    assert answers(found.resolved) == {0: "same", 1: "lead: birthday"}
    strange = sheet(tmp_path / "t.csv", ("1", "lead", "", "Cy Hale"), ("1.2", "ask", "same", "Di"))
    lost = known(features, NAMES, tmp_path / "none.jsonl", strange, "2026-01-31")
    assert (lost.resolved.pairs, len(lost.lost)) == ({}, 1)


def test_going_through_the_questions(tmp_path: Path) -> None:
    rows = [(*row, "", "Ada Weir") for row in ROWS] + [
        ("2", "lead", "", "Bo"),
        ("2", "same", "", "Bo"),
    ]
    review = Review(sheet(tmp_path / "s.csv", *rows))
    assert (len(review.groups), len(review.questions), review.decided) == (1, 2, 0)
    assert review.current["record"] == "3"
    review.answer("apart")
    assert review.next()
    assert (review.current["record"], review.place, review.decided) == ("5", 1, 1)
    review.take("birthday")
    review.lead()
    assert str(review.current.answer) == "lead: birthday"
    assert not review.next()
    assert review.back()
    assert (review.current["record"], review.back()) == ("3", False)
    assert review.pick(2)
    assert not review.pick(9)
    review.take("birthday")
    with Transaction(review.sheet.path) as files:
        review.sheet.save(files)
        files.commit()
    again = Review(MatchSheet(tmp_path / "s.csv"), every=True)
    said = [row["decision"] for row in again.sheet.rows]
    assert said == ["", "same: birthday", "apart", "", "lead", "", ""]
    assert (len(again.groups), len(again.questions), again.decided) == (2, 5, 3)
