"""The report of a conversion: for people, and as JSON."""

from __future__ import annotations

import dataclasses
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from itertools import chain, groupby
from typing import TYPE_CHECKING, Any

from roundcard.books.conversion import Report
from roundcard.books.photos import SUFFIX as PHOTOS
from roundcard.books.source_proof import Held
from roundcard.books.source_reader import ReadAs
from roundcard.books.splitting import Piece
from roundcard.cli.render.reasons import EXPLAINED, FATES, sentence
from roundcard.cli.render.text import count, styled, table, width
from roundcard.tally import NAMES_MADE, Counts, Fate, Finding, Reason, Why
from roundcard.values.phones import NOT_IN_USE

if TYPE_CHECKING:
    from roundcard.layouts.drafting.draft import Draft, DraftedColumn

SCHEMA = 3
"""Version of the JSON report; see docs/balance.md."""
_MOST_REASONS = 6
_CERTAIN = 0.985
"""Sureness of a guess that needs no mention."""
_MOST_FINDINGS = 12

_IN = (
    Fate.PASSED_OVER, Fate.SET_ASIDE, Fate.LEFT_OUT, Fate.FOLDED, Fate.LEFT_BEHIND, Fate.NOT_SENT,
    Fate.HELD_BACK, Fate.REFUSED,
)  # fmt: skip
_MERGED_PERSON = Reason(Fate.FOLDED, Why.MERGED_PERSON)
_STAYS = (Why.AS_DELIVERED, Why.STANDS_THERE, Why.AWAY_THERE)
THERE = "there already"
"""What stands in the balance for what an earlier run delivered."""
MERGED = "merged"
"""What stands in the balance for values said twice where people were merged."""
_OUT = (Fate.ADDED, Fate.DERIVED)
_REASONS = (*_IN, Fate.CHANGED, Fate.SPLIT, *_OUT)


def for_people(report: Report, verbose: bool = False) -> str:
    """The report as text."""
    lines = sources_of(report, verbose=verbose)
    lines += ["", *balance_of(report), *_reasons(report, verbose), *_findings(report, verbose)]
    lines.append("")
    people = count(report.tally.people.written, "person", "people")
    told = f" by layout '{report.layout}'" if report.layout else ""
    if report.dry_run:
        lines.append(f"dry run: {people} would go to {report.target} as {report.format}{told}")
    else:
        in_files = f" in {len(report.pieces)} files" if len(report.pieces) > 1 else ""
        lines.append(styled(f"{report.target}", "bold")
                     + f": {people} as {report.format}{told}{in_files}, "
                     f"{report.seconds:.1f} s")  # fmt: skip
        lines += _pieces(report.pieces, verbose=verbose)
    lines += [f"kept aside: {path}" for path in report.side_files if path.suffix != PHOTOS]
    lines += [f"photos: {path}" for path in report.side_files if path.suffix == PHOTOS]
    if report.proved is not None and not report.dry_run:
        read_again = count(report.proved, "record")
        lines.append(styled("proved", "bold green")
                     + f": {read_again} read again from disk, every value as meant")  # fmt: skip
        if (held := report.held) is not None:
            lines.append(_held(held))
    return "\n".join(lines) + "\n"


def sources_of(report: Report, *, verbose: bool) -> list[str]:
    """What was read, from where, and how sure that is."""
    lines: list[str] = []
    for folder, group in groupby(report.read_as, key=lambda source: source.folder):
        sources = list(group)
        lines += (_folder(folder, sources) if folder
                  else chain(*(_source(source, verbose) for source in sources)))  # fmt: skip
    return lines


def _held(held: Held) -> str:
    """How the values of the sources were found again."""
    told = [f"{held.found:,} as they were"]
    told += [f"{held.changed:,} as a change tells"] * bool(held.changed)
    told += [f"{held.aside:,} in the file beside it"] * bool(held.aside)
    told += [f"{held.counted:,} counted above as folded, left out or changed"] * bool(held.counted)
    return f"held against the sources, read a second time: of their texts {', '.join(told)}"


def _folder(folder: str, sources: list[ReadAs]) -> list[str]:
    """One line for the files of a folder."""
    formats = Counter(source.format for source in sources)
    told = ", ".join(f"{name} ({number:,})" if len(formats) > 1 else name
                     for name, number in formats.most_common())  # fmt: skip
    layouts = Counter("drafted" if source.draft else f"'{source.layout}'"
                      for source in sources if source.draft or source.layout)  # fmt: skip
    for name, number in layouts.most_common():
        told += f", layout {name}" + (f" ({number:,})" if len(layouts) > 1 else "")
    return [styled(folder, "bold") + f": {count(len(sources), 'file')}, {told}"]


def _sure(what: str, sureness: float) -> str:
    """What was guessed, with its sureness where there is any doubt."""
    return what if sureness >= _CERTAIN else f"{what} ({sureness:.0%} sure)"


def _source(source: ReadAs, verbose: bool) -> list[str]:
    told = [source.format]
    if source.layout:
        if source.encoding:
            told += [_sure(source.encoding, source.encoding_sure),
                     _sure(source.separator, source.separator_sure)]  # fmt: skip
        told.append("layout drafted" if source.draft else _layout(source))
    if source.people:
        told.append(count(source.people, "person", "people"))
    lines = [styled(source.name, "bold") + ": " + ", ".join(told)]
    if source.draft is not None:
        lines += drafted(source.draft, verbose)
    return lines


def _layout(source: ReadAs) -> str:
    if not source.taken:
        return f"layout '{source.layout}'"
    fits = f"{source.taken:.0%}".replace("%", " %")
    return f"layout '{source.layout}' (kept, fits {fits})"


def drafted(draft: Draft, verbose: bool = False) -> list[str]:
    """How the columns of a table were understood, in one line, and those that are not sure."""
    columns = [each for each in draft.columns if not each.column.skip]
    sure = f"{draft.sure:.0%}".replace("%", " %")
    lines = [f"  {draft.understood} of {count(len(columns), 'column')} understood, {sure} sure"]
    custom = [each for each in columns if each.is_custom and not each.look and each.fill]
    if custom:
        names = ", ".join(f"'{each.column.name}'" for each in custom)
        lines[0] += f"; no standard field for {names}: kept as custom"
    if verbose:
        rows = [(each.column.name, "→", each.column.meaning, sureness(each), each.why)
                for each in draft.columns]  # fmt: skip
        return lines + table(rows, right=(3,), indent="    ", most=width())
    rows = [(each.column.name, "→", each.column.meaning, sureness(each),
             "; ".join((each.why, *each.notes))) for each in draft.unsure]  # fmt: skip
    if rows:
        lines.append("  " + styled("to look at", "yellow") + " (roundcard layout draft):")
        lines += table(rows, right=(3,), indent="    ", most=width())
    return lines


def sureness(each: DraftedColumn) -> str:
    """How sure a column is, in per cent."""
    return f"{each.sure:.0%}".replace("%", " %")


def balance_of(report: Report) -> list[str]:
    """The balance as a table."""
    people, values = report.tally.people, report.tally.values
    rows = [("", "people", "values")]
    rows.append(_row("read", people.read, values.read))
    if values.split:
        rows.append(_row("  " + FATES[Fate.SPLIT], 0, values.split))
    if people.blank:
        rows.append(_row("  blank", people.blank, 0))
    rows += _rows_of(report, _IN)
    rows.append(_row("carried", people.carried, values.carried + values.changed))
    rows += _rows_of(report, _OUT)
    rows.append(_row("written", people.written, values.written))
    rest = report.balance
    rows.append(("balance", f"{rest.people:,}", f"{rest.values:,}"))
    lines = table(rows, right=(1, 2), gap=3)
    lines[0] = styled(lines[0], "dim")
    lines[-1] = styled(lines[-1], "bold green" if rest.even else "bold red")
    changed = values.changed
    if changed:
        at = next(i for i, row in enumerate(rows) if row[0] == "carried")
        lines[at] += styled(f"   of these {count(changed, 'value')} changed by rule", "dim")
    return lines


def _merges(report: Report) -> bool:
    """Whether people were merged, and not only values said twice."""
    return bool(report.tally.why_people[_MERGED_PERSON])


def _title(report: Report, fate: Fate) -> str:
    return MERGED if fate is Fate.FOLDED and _merges(report) else FATES[fate]


def _rows_of(report: Report, fates: Iterable[Fate]) -> list[tuple[str, str, str]]:
    """The rows of the balance for the fates that anybody or anything met."""
    people, values = report.tally.people, report.tally.values
    rows = []
    for fate in fates:
        persons, said = people.of(fate), values.of(fate)
        if fate is Fate.LEFT_OUT:
            there = _there(report.tally.why_people), _there(report.tally.why)
            rows += [_row("  " + THERE, *there)] * any(there)
            persons, said = persons - there[0], said - there[1]
        if persons or said:
            rows.append(_row("  " + _title(report, fate), persons, said))
    return rows


def _there(why: Mapping[Reason, int]) -> int:
    """How many are left out since the destination holds them, as an earlier run left them."""
    return sum(number for reason, number in why.items()
               if reason.fate is Fate.LEFT_OUT and reason.rule in _STAYS)  # fmt: skip


def _row(label: str, people: int, values: int) -> tuple[str, str, str]:
    return label, f"{people:,}" if people else "–", f"{values:,}" if values else "–"


def _reasons(report: Report, verbose: bool) -> list[str]:
    """Why values did not go straight through, a group for each fate."""
    tally = report.tally
    lines: list[str] = []
    for fate in _REASONS:
        reasons, people = _said(tally.why, fate), _said(tally.why_people, fate)
        if not reasons and not people:
            continue
        meant = f"   {EXPLAINED[fate]}" if fate in EXPLAINED else ""
        lines += ["", styled(_title(report, fate), "bold") + styled(meant, "dim")]
        told = reasons.most_common()
        shown = told if verbose else told[:_MOST_REASONS]
        rows = [(f"{number:,}", why) for why, number in shown if why not in people]
        rows += [(_people_and_values(number, reasons[why]), why) for why, number in people.items()]
        if rows:
            lines += table(rows, right=(0,), indent="  ", most=width())
        if len(told) > len(shown):
            rest = sum(number for _, number in told[len(shown) :])
            lines.append(f"  … and {rest:,} for {count(len(told) - len(shown), 'more reason')} "
                         "(--verbose shows all)")  # fmt: skip
        if fate is Fate.DERIVED and (fewer := _counted_again(report)):
            lines.append(f"  who reads the file counts {fewer:,} values: a whole name that was "
                         "made says nothing of its own")  # fmt: skip
    return lines


def _counted_again(report: Report) -> int:
    """How many values the next command reads of cards whose whole names were made; 0 for others,
    and where none was made."""
    tally = report.tally
    made = sum(tally.why[reason] for reason in NAMES_MADE)
    cards = report.format.startswith(("vCard", "jCard")) and not report.dry_run
    return tally.values.written - made if made and cards else 0


def _said(why: Mapping[Reason, int], fate: Fate) -> Counter[str]:
    """What was counted for a fate, by the words for the reason."""
    told: Counter[str] = Counter()
    for reason, number in why.items():
        if reason.fate is fate and number:
            told[sentence(reason)] += number
    return told


def _people_and_values(people: int, values: int) -> str:
    told = count(people, "person", "people")
    return f"{told}, {count(values, 'value')}" if values else told


def _findings(report: Report, verbose: bool) -> list[str]:
    found = sorted(report.tally.findings.items(),
                   key=lambda item: (item[0].endswith(NOT_IN_USE), -item[1].count))  # fmt: skip
    if not found:
        return []
    lines = ["", styled("worth knowing", "bold")]
    shown = found if verbose else found[:_MOST_FINDINGS]
    for what, finding in shown:
        places = ", ".join(dict.fromkeys(places_of(finding)))
        more = " …" if finding.count > len(finding.examples) and places else ""
        times = f"{finding.count:,} × " if finding.count > 1 else ""
        lines.append(f"  {times}{what}" + (f" ({places}{more})" if places else ""))
    if len(found) > len(shown):
        lines.append(f"  … and {count(len(found) - len(shown), 'more note')} (--verbose shows all)")
    return lines


def for_machines(report: Report) -> dict[str, Any]:
    """The report as JSON has it; the shape is told in docs/balance.md."""
    tally = report.tally
    rest = report.balance
    return {
        "schema": SCHEMA,
        "dry_run": report.dry_run,
        "sources": [
            {
                "name": source.name,
                "format": source.format,
                "octets": source.octets,
                "layout": source.layout or None,
                "layout_fit": round(source.taken, 3) or None,
                "drafted": source.draft is not None,
                "encoding": source.encoding or None,
                "encoding_sureness": round(source.encoding_sure, 3),
                "separator": source.separator or None,
                "separator_sureness": round(source.separator_sure, 3),
                "folder": source.folder or None,
                "columns": [
                    {
                        "heading": each.column.name,
                        "holds": each.column.meaning,
                        "why": each.why,
                        "sureness": round(each.sure, 3),
                        "look": each.look,
                    }
                    for each in (source.draft.columns if source.draft else ())
                ],
            }
            for source in report.read_as
        ],
        "target": {
            "name": report.target,
            "format": report.format,
            "layout": report.layout or None,
        },
        "people": _counts(tally.people),
        "values": _counts(tally.values),
        "balance": rest._asdict(),
        "reasons": [
            {
                "fate": reason.fate,
                "rule": reason.rule,
                "field": reason.field or None,
                "details": list(reason.details),
                "reason": sentence(reason),
                "values": tally.why[reason],
                "people": tally.why_people[reason],
            }
            for reason in sorted({*tally.why, *tally.why_people})
        ],
        "findings": [
            {"what": what, "count": finding.count, "examples": places_of(finding)}
            for what, finding in sorted(tally.findings.items())
        ],
        "proved": report.proved,
        "held": dataclasses.asdict(report.held) if report.held is not None else None,
        "files": [
            {"path": str(piece.path), "people": piece.people, "octets": piece.octets}
            for piece in report.pieces
        ],
        "side_files": [str(path) for path in report.side_files],
        "seconds": round(report.seconds, 3),
    }


def places_of(finding: Finding) -> list[str]:
    """The first places of a finding, in words."""
    return [f"{unit} {number:,}" if number else unit for unit, number in finding.examples]


def _counts(counts: Counts) -> dict[str, int]:
    return {name: getattr(counts, name) for name in counts.__slots__}


def _pieces(pieces: Sequence[Piece], *, verbose: bool) -> list[str]:
    """The files that a target became; the first and the last ones where there are many."""
    if len(pieces) < 2:
        return []
    shown = list(pieces)
    if len(shown) > _MOST_PIECES and not verbose:
        shown = [*shown[: _MOST_PIECES // 2], *shown[-_MOST_PIECES // 2 :]]
    lines = table([(str(piece.path.name), count(piece.people, "person", "people"),
                    f"{piece.octets:,} bytes")
                   for piece in shown], right=(1, 2), indent="  ")  # fmt: skip
    if len(shown) < len(pieces):
        lines.insert(_MOST_PIECES // 2, f"  … {len(pieces) - len(shown):,} more files")
    return lines


_MOST_PIECES = 6
