"""Who is the same person: a summary, the most telling groups side by side, and why."""

from __future__ import annotations

import sys
from collections.abc import Mapping, Sequence
from typing import Any

from roundcard.app.match import MatchReport
from roundcard.cli.render.decisions import told
from roundcard.cli.render.text import count, cut, pad, styled, width, wrapped
from roundcard.match.blocking import BY_NAME
from roundcard.match.decision_store import Resolved
from roundcard.match.matching import Matches
from roundcard.match.sheet import SheetRow, Shown, grounds_of, nearness, rows_of
from roundcard.match.weights import weights

_FIELDS = ("name", "email", "phone", "organisation", "address", "birthday")
_WIDEST = 34
_NAMED = 24
MARKS = {"same": ("=", "green"), "close": ("≈", "cyan"), "different": ("≠", "yellow"),
         "missing": ("", "dim")}  # fmt: skip
"""How near a value is to that of the lead: its mark and its colour."""


def for_people(found: MatchReport) -> str:
    """What was found, what was decided before, and the most telling groups."""
    wanted = found.wanted
    text = summary(found.matches, found.names, found.seconds)
    text += "".join(f"{line}\n" for line in told(found.known, found.store))
    text += groups_shown(found)
    if wanted.sheet is not None:
        text += (f"\n{wanted.sheet}: {found.rows:,} rows; write same or apart into 'decision', or "
                 f"roundcard review {wanted.sheet}\n")  # fmt: skip
    if wanted.figure is not None:
        text += f"{wanted.figure}: scores, thresholds, sizes of groups\n"
    return text


def summary(matches: Matches, sources: Sequence[str], seconds: float) -> str:
    """How many people, sure doubles, and questions."""
    groups = matches.groups
    doubles = sum(len(cluster) - 1 for group in groups for cluster in group.clusters)
    sure = sum(1 for group in groups if any(len(cluster) > 1 for cluster in group.clusters))
    several = sum(len(cluster) > 1 for group in groups for cluster in group.clusters)
    asked = sum(len(group.clusters) - 1 for group in groups)
    cards = len(matches.features)
    lines = [
        f"{count(len(sources), 'book')}, {count(cards, 'contact')}, {seconds:.1f} s; "
        f"{len(matches.pairs):,} pairs compared",
        "",
        f"{cards - doubles:>9,}  people, if nothing more is decided",
        f"{doubles:>9,}  sure duplicate{'s' * (doubles != 1)} of "
        f"{count(several, 'person', 'people')}, in {count(sure, 'group')} "
        f"(from {matches.sure:g} points)",
        f"{asked:>9,}  to ask (from {matches.ask:g} points)",
        f"{matches.apart_at_home:>9,}  pairs of one house kept apart",
    ]
    lines += [
        f"{keys:>9,}  too common to go by alone ({kind}): narrowed by "
        f"{'what else may be the same' if kind in BY_NAME else 'names'}"
        for kind, keys in matches.narrowed.items()
    ]
    return "\n".join(lines) + "\n"


def groups_shown(found: MatchReport) -> str:
    """Some groups side by side."""
    lines: list[str] = []
    for rows in found.telling:
        lines += ["", *_side_by_side(found.matches, rows, found.people, found.names)]
    left = len(found.matches.groups) - len(found.telling)
    if left > 0:
        lines += ["", styled(f"… and {count(left, 'more group')}; --sheet FILE has them all",
                             "dim", sys.stdout)]  # fmt: skip
    return "\n".join(lines) + "\n" if lines else ""


def _side_by_side(
    matches: Matches, rows: Sequence[SheetRow], people: Mapping[int, Shown], sources: Sequence[str]
) -> list[str]:
    features = matches.features
    room = max(min((width(sys.stdout) - 14) // min(len(rows), 4) - 2, _WIDEST), 14)
    lines = []
    for start in range(0, len(rows), 4):
        part = rows[start : start + 4]
        heads = [f"{sources[features.source[row.contact]]}:{features.record[row.contact]}"
                 for row in part]  # fmt: skip
        verdicts = [row.verdict if row.score is None else f"{row.verdict} {row.score:.1f}"
                    for row in part]  # fmt: skip
        title = f"group {part[0].group.partition('.')[0]}" if not start else ""
        lines.append(styled(pad(title, 12), "bold", sys.stdout) + "  " + "  ".join(
            pad(cut(text, room), room) for text in verdicts).rstrip())  # fmt: skip
        lines.append(" " * 14 + styled("  ".join(pad(cut(text, room), room) for text in heads),
                                       "dim", sys.stdout).rstrip())  # fmt: skip
        lead = people[rows[0].contact]
        for at, name in enumerate(_FIELDS):
            values = [people[row.contact][at] for row in part]
            if any(values):
                lines.append(f"{name:<12}  " + "  ".join(
                    marked(name, value, lead[at], room) if rows[0] is not row
                    else pad(cut(value or "–", room), room)
                    for row, value in zip(part, values, strict=True)).rstrip())  # fmt: skip
    for row in rows:
        if row.reasons:
            place = f"{sources[features.source[row.contact]]}:{features.record[row.contact]}"
            told = wrapped(f"  {place}: {grounds_of(row)}", width(sys.stdout), 4)
            lines += [styled(line, "dim", sys.stdout) for line in told]
    return lines


def marked(name: str, value: str, lead: str, room: int) -> str:
    """A value with the mark of how near it is to that of the lead."""
    near = nearness(name, value, lead)
    mark, style = MARKS[near]
    text = f"{mark} {value}" if mark and value else value or "–"
    return styled(pad(cut(text, room), room), style if value else "dim", sys.stdout)


def explained(
    matches: Matches, one: int, other: int, people: Mapping[int, Shown], names: tuple[str, str]
) -> str:
    """Every reason for and against two records being one person, and what would tip it."""
    total, reasons, veto = matches.reasons(one, other)
    lines: list[str] = []
    for name, at in zip(names, (one, other), strict=True):
        who = f"{pad(name, _NAMED)}  {', '.join(filter(None, people[at]))}"
        lines += wrapped(who, width(sys.stdout), _NAMED + 2)
    lines.append("")
    lines += [f"{reason.points:>+8.1f}  {reason.what}" for reason in reasons]
    lines.append(f"{total:>+8.1f}  in all; the same from {matches.sure:g}, asked from "
                 f"{matches.ask:g}")  # fmt: skip
    _, verdict, doubt = matches.verdict(one, other)
    lines.append("")
    if veto:
        told = (f"apart, whatever else agrees: {veto}; only the same identity (UID) or your own "
                "decision would make them one")  # fmt: skip
    elif doubt:
        told = (f"ask, although the points would do: {doubt}; the same identity (UID) or your own "
                "decision settles it")  # fmt: skip
    elif verdict == "same":
        told = (f"the same, by {total - matches.sure:.1f} points more than are needed: "
                f"{_tips_back(matches.tips(one, other))}")  # fmt: skip
    else:
        told = (f"{verdict}: {matches.sure - total:.1f} points more would make them the same: "
                f"{_tips(matches.tips(one, other))}")  # fmt: skip
    lines += wrapped(told, width(sys.stdout), 0)
    return "\n".join(lines) + "\n"


def _tips_back(without: Sequence[str]) -> str:
    """What would make a question of two that are the same."""
    if not without:
        return "no single value is what it rests on"
    return f"without {' or '.join(f'the {each}' for each in without)} it would be asked"


def _tips(enough: Sequence[str]) -> str:
    """What would tip the scales."""
    return f"{' or '.join(f'the {each}' for each in enough)} would do" if enough \
        else "no single value would do"  # fmt: skip


def for_machines(
    matches: Matches, people: Mapping[int, Shown], sources: Sequence[str], resolved: Resolved
) -> dict[str, Any]:
    """The report for machines (docs/matching.md)."""
    features = matches.features
    rows = [
        {"group": row.group, "verdict": row.verdict, "score": row.score,
         "reasons": [{"points": each.points, "what": each.what} for each in row.reasons],
         "doubt": row.doubt,
         "source": sources[features.source[row.contact]],
         "record": features.record[row.contact], **people[row.contact]._asdict()}
        for row in rows_of(matches)
    ]  # fmt: skip
    doubles = sum(len(cluster) - 1 for group in matches.groups for cluster in group.clusters)
    asked = sum(len(group.clusters) - 1 for group in matches.groups)
    return {"schema": 2, "contacts": len(features), "people": len(features) - doubles,
            "doubles": doubles, "to_ask": asked, "pairs_compared": len(matches.pairs),
            "thresholds": {"sure": matches.sure, "ask": matches.ask},
            "decided": {"held": resolved.held, "asked_again": len(resolved.again)},
            "weights": {name: list(values) for name, values in weights().points.items()},
            "rows": rows}  # fmt: skip
