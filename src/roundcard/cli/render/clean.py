"""What cleaning rules there are, and what they did."""

from __future__ import annotations

import sys
from collections import Counter

from roundcard.clean.changes import Changes
from roundcard.clean.rules import FOLDS, RULES
from roundcard.cli.render.text import count, cut, styled
from roundcard.tally import Fate, Tally

_WIDE = 40


def rules() -> str:
    """Each rule with its help and its examples."""
    lines = []
    for rule in RULES:
        fields = ", ".join(rule.fields) or "all text"
        lines.append(f"{styled(rule.name, 'bold', sys.stdout)}  {rule.what} ({fields})")
        if not rule.usual:
            lines[-1] += f" {styled('only where it is named', 'dim', sys.stdout)}"
        for _, before, after in rule.examples:
            became = f"→ {_shown(after) or '(dropped)'}" if after != before else "stays"
            lines.append(f"    {_shown(before)} {became}")
    return "\n".join(lines) + "\n"


def changed(told: Changes, tally: Tally | None = None) -> str:
    """Each rule with how often it changed something, how often it doubts, and samples; those that
    leave something to decide come first. A tally tells how many values a rule made."""
    lines = ["", styled("by rule", "bold")]
    counts, every = told.counts, told.doubts
    new: Counter[str] = Counter()
    for reason, number in (tally.why if tally else {}).items():
        new[reason.rule] += number * (reason.fate is Fate.DERIVED)
    names = [name for name in dict.fromkeys([*(rule.name for rule in RULES), *counts])
             if counts[name] or every[name]]  # fmt: skip
    for name in sorted(names, key=lambda name: not every[name]):
        changes, doubts = counts[name], every[name]
        unsure = f" ({told.unsure[name]:,} unsure)" if told.unsure[name] else ""
        if new[name]:
            unsure += f", {count(new[name], 'value')} made"
        said = [count(changes, "change") + unsure] * bool(changes)
        said += [f"{count(doubts, 'value')} to decide"] * bool(doubts)
        lines.append(f"  {name}: {', '.join(said)}")
        for each in told.samples.get(name, ()):
            gone = "(folded)" if name == FOLDS else "(dropped)"
            made = f"→ {_shown(each.after) or gone}" if each.after != each.before else ""
            end = " ".join(filter(None, (made, f"? {each.doubt}" if each.doubt else "")))
            lines.append(f"      record {each.record:,} {each.path}: {_shown(each.before)} {end}")
    if len(lines) == 2:
        lines.append("  nothing to change")
    return "\n".join(lines) + "\n"


def _shown(text: str) -> str:
    return f"'{cut(text, _WIDE)}'" if text else ""
