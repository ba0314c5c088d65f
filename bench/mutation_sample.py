"""How many small faults the tests notice: `python bench/mutation_sample.py [MUTANTS] [SEED]`.

Each mutant is one changed place of the source, drawn by a fixed seed from the syntax trees of the
rooms below (a comparison turned, a number off by one, a sign, `and` for `or`, a `not` gone, a
statement left out, a return of nothing). Numbers outside of functions are tables and limits, not
places to change; nor are decorators, defaults and types. The room's own tests run against a copy
that holds the mutant; who survives is named.
"""

from __future__ import annotations

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import Queue
from typing import NamedTuple

ROOT = Path(__file__).parent.parent
ROOMS = ("card", "formats", "layouts", "tally", "clean", "match", "merge")
_TURNED: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
_SWAPPED: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.FloorDiv, ast.FloorDiv: ast.Mult,
    ast.BitAnd: ast.BitOr, ast.BitOr: ast.BitAnd, ast.LShift: ast.RShift, ast.RShift: ast.LShift,
}  # fmt: skip


class Mutant(NamedTuple):
    """One changed place."""

    room: str
    path: Path
    """Below the source folder."""
    line: int
    before: str
    after: str
    text: str
    """The whole module."""


def main() -> int:
    """Draw so many mutants and try them; 1 where fewer than 85 % are noticed."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 20_260
    mutants = list(drawn(count, random.Random(seed)))
    began = time.monotonic()
    places: Queue[Path] = Queue()
    workers = max(1, os.cpu_count() or 1)
    with tempfile.TemporaryDirectory() as name:
        for number in range(workers):
            place = Path(name) / str(number)
            shutil.copytree(ROOT / "src", place)
            places.put(place)
        limits = {room: 20 * _seconds(room, places) + 60 for room in ROOMS}

        def tried(mutant: Mutant) -> bool:
            return noticed(mutant, places, limits[mutant.room])

        with ThreadPoolExecutor(workers) as pool:
            found = list(pool.map(tried, mutants))
    killed = Counter(mutant.room for mutant, was in zip(mutants, found, strict=True) if was)
    for room in ROOMS:
        of = sum(1 for mutant in mutants if mutant.room == room)
        print(f"{room:8} {killed[room]:3} of {of}")
    for mutant, was in zip(mutants, found, strict=True):
        if not was:
            print(f"survived: {mutant.path}:{mutant.line}: {mutant.before}  ->  {mutant.after}")
    share = sum(found) / len(found)
    print(f"{sum(found)} of {len(found)} noticed, {share:.0%}; seed {seed}, "
          f"{time.monotonic() - began:.0f} s")  # fmt: skip
    return 0 if share >= 0.85 else 1


def drawn(count: int, chance: random.Random) -> Iterator[Mutant]:
    """Mutants, the rooms in turn, each place of a room as likely as any other."""
    trees: dict[str, list[tuple[Path, int]]] = {room: [] for room in ROOMS}
    for room in ROOMS:
        for path in sorted((ROOT / "src" / "roundcard" / room).rglob("*.py")):
            places = len(list(_places(ast.parse(path.read_text(encoding="utf-8")))))
            trees[room] += [(path, at) for at in range(places)]
    for number in range(count):
        room = ROOMS[number % len(ROOMS)]
        path, at = chance.choice(trees[room])
        tree = ast.parse(path.read_text(encoding="utf-8"))
        node = list(_places(tree))[at]
        line = getattr(node, "lineno", 0)
        before = ast.unparse(node)
        after = _change(node, chance)
        yield Mutant(room, path.relative_to(ROOT / "src"), line, before[:80], after[:80],
                     ast.unparse(tree))  # fmt: skip


def _places(tree: ast.Module) -> Iterator[ast.AST]:
    """All nodes that can be changed; what only types or documents are made of is none."""
    skipped = {id(each) for node in ast.walk(tree) if isinstance(node, ast.AnnAssign)
               for each in ast.walk(node.annotation)}  # fmt: skip
    seen: set[int] = set()
    for function in ast.walk(tree):
        if not isinstance(function, ast.FunctionDef):
            continue
        for statement in function.body:
            for node in ast.walk(statement):
                if id(node) in seen or id(node) in skipped:
                    continue
                seen.add(id(node))
                if isinstance(node, ast.FunctionDef):
                    unchanged = [*node.decorator_list, node.args, node.returns]
                    skipped |= {id(each) for part in unchanged if part is not None
                                for each in ast.walk(part)}  # fmt: skip
                elif _may(node):
                    yield node


def _may(node: ast.AST) -> bool:
    match node:
        case ast.Compare(ops=[op]):
            return type(op) in _TURNED
        case ast.BinOp(op=op):
            return type(op) in _SWAPPED
        case ast.Constant(value=value):
            return type(value) in (int, bool)
        case ast.BoolOp() | ast.UnaryOp(op=ast.Not()):
            return True
        case ast.Expr(value=ast.Call()) | ast.AugAssign():
            return True
        case ast.Return(value=value):
            return value is not None and not isinstance(value, ast.Constant)
    return False


def _change(node: ast.AST, chance: random.Random) -> str:
    """Change a node where it stands; what it is now, as source."""
    match node:
        case ast.Compare(ops=[op]):
            node.ops = [_TURNED[type(op)]()]
        case ast.BinOp(op=operator):
            node.op = _SWAPPED[type(operator)]()
        case ast.Constant(value=value):
            node.value = (not value) if isinstance(value, bool) else value + chance.choice((-1, 1))  # type: ignore[operator]
        case ast.BoolOp(op=joint):
            node.op = ast.Or() if isinstance(joint, ast.And) else ast.And()
        case ast.UnaryOp():
            node.op = ast.UAdd()
            node.operand = ast.Call(ast.Name("bool"), [node.operand], [])
        case ast.Expr():
            node.value = ast.Constant(None)
        case ast.AugAssign():
            node.op = ast.Sub() if isinstance(node.op, ast.Add) else ast.Add()
        case ast.Return():
            node.value = ast.Constant(None)
    ast.fix_missing_locations(node)
    return ast.unparse(node)


def noticed(mutant: Mutant, places: Queue[Path], limit: float) -> bool:
    """Whether the room's own tests fail, or come to no end, with this mutant."""
    place = places.get()
    file = place / mutant.path
    kept = file.read_bytes()
    try:
        file.write_text(mutant.text, encoding="utf-8")
        return _tests(mutant.room, place, limit) != 0
    finally:
        file.write_bytes(kept)
        places.put(place)


def _tests(room: str, place: Path, limit: float) -> int:
    env = os.environ | {"PYTHONPATH": str(place), "PYTHONDONTWRITEBYTECODE": "1"}
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider",
               f"tests/{room}"]  # fmt: skip
    try:
        return subprocess.run(command, cwd=ROOT, env=env, capture_output=True, timeout=limit,
                              check=False).returncode  # fmt: skip
    except subprocess.TimeoutExpired:
        return -1


def _seconds(room: str, places: Queue[Path]) -> float:
    """How long the room's tests take as they are. Ends the program where they fail."""
    place = places.get()
    began = time.monotonic()
    if _tests(room, place, 3_600) != 0:
        sys.exit(f"the tests of {room} fail already")
    places.put(place)
    return time.monotonic() - began


if __name__ == "__main__":
    sys.exit(main())
