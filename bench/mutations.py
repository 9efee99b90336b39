"""Small faults put into rules and calculations, one at a time: how many do the core's tests catch?

`python -m bench.mutations [SEED] [COUNT]` draws them by a seed, runs the core's tests on a copy with each, and
prints which were caught and which survived. Not part of the test run: it takes minutes.
"""

from __future__ import annotations

import ast
import concurrent.futures
import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from attrs import frozen

PROJECT = Path(__file__).parent.parent
WHERE = ("src/unkett/core/rules", "src/unkett/core/calc")
TESTS = (
    "tests/core/test_calc.py",
    "tests/core/test_calc_more.py",
    "tests/core/test_suspension.py",
    "tests/core/test_rules.py",
    "tests/core/test_any_calc.py",
    "tests/core/test_planning.py",
    "tests/core/test_engine.py",
    "tests/core/test_sheets.py",
    "tests/core/test_clauses.py",
    "tests/core/test_declared.py",
    "tests/core/test_traces.py",
    "tests/core/test_advice.py",
    "tests/core/test_wear.py",
    "tests/core/test_ways_out.py",
    "tests/core/test_judged.py",
)
SEED, COUNT, AT_ONCE = 20261126, 40, 2
NEGATED = {ast.Lt: ">=", ast.LtE: ">", ast.Gt: "<=", ast.GtE: "<", ast.Eq: "!=", ast.NotEq: "=="}
EDGED = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">"}


@frozen(kw_only=True)
class Fault:
    """One change of one file: what stands there and what is put in its place, by bytes."""

    file: str
    line: int
    start: int
    end: int
    was: str
    now: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.was} → {self.now}"


class _Finder(ast.NodeVisitor):
    """Every place of a file where a small fault can be put."""

    def __init__(self, file: str, source: bytes) -> None:
        self.file, self.source = file, source
        self.lines = [0]
        for line in source.splitlines(keepends=True):
            self.lines.append(self.lines[-1] + len(line))
        self.found: list[Fault] = []

    def span(self, node: ast.expr) -> tuple[int, int]:
        assert node.end_lineno is not None
        assert node.end_col_offset is not None
        return self.lines[node.lineno - 1] + node.col_offset, self.lines[
            node.end_lineno - 1
        ] + node.end_col_offset

    def text(self, node: ast.expr) -> str:
        start, end = self.span(node)
        return self.source[start:end].decode()

    def put(self, node: ast.expr, now: str) -> None:
        start, end = self.span(node)
        self.found.append(
            Fault(file=self.file, line=node.lineno, start=start, end=end, was=self.text(node), now=now)
        )

    def visit_FunctionDef(self, node: ast.FunctionDef) -> None:
        """What only draws is looked at, not tested: where a line lies on a picture is no figure."""
        if node.returns is None or not re.search(r"\b(Scene|Shape)\b", ast.unparse(node.returns)):
            self.generic_visit(node)

    def visit_Compare(self, node: ast.Compare) -> None:
        self.generic_visit(node)
        if len(node.ops) != 1 or type(node.ops[0]) not in NEGATED:
            return
        left, right, sort = self.text(node.left), self.text(node.comparators[0]), type(node.ops[0])
        self.put(node, f"{left} {NEGATED[sort]} {right}")
        if sort in EDGED and "SLACK" not in left + right:  # at a slack's very edge nothing is decided
            self.put(node, f"{left} {EDGED[sort]} {right}")

    def visit_Call(self, node: ast.Call) -> None:
        if isinstance(node.func, ast.Name) and node.func.id in ("max", "min") and len(node.args) == 2:
            for arg in node.args:
                self.put(node, self.text(arg))
        declares = isinstance(node.func, ast.Name) and node.func.id in (
            "Input",
            "Number",
            "Whole",
            "rule",
            "TraceLine",
        )
        if not declares:
            self.generic_visit(node)

    def visit_BinOp(self, node: ast.BinOp) -> None:
        self.generic_visit(node)
        for side in (node.left, node.right):
            self._number(side)

    def visit_Assign(self, node: ast.Assign) -> None:
        self.generic_visit(node)
        if isinstance(node.targets[0], ast.Name) and node.targets[0].id.isupper():
            self._number(node.value)

    def _number(self, node: ast.expr) -> None:
        if isinstance(node, ast.Constant) and type(node.value) in (int, float) and node.value:
            now = node.value + 1 if isinstance(node.value, int) else node.value * 1.2
            self.put(node, repr(now))

    def visit_UnaryOp(self, node: ast.UnaryOp) -> None:
        self.generic_visit(node)
        if isinstance(node.op, ast.Not):
            self.put(node, self.text(node.operand))

    def visit_BoolOp(self, node: ast.BoolOp) -> None:
        self.generic_visit(node)
        word = " or " if isinstance(node.op, ast.And) else " and "
        self.put(node, f"({word.join(f'({self.text(one)})' for one in node.values)})")


def every_fault() -> list[Fault]:
    """All faults that can be put into the rules and calculations, in the order of the files."""
    found: list[Fault] = []
    for folder in WHERE:
        for path in sorted((PROJECT / folder).glob("*.py")):
            if path.stem.endswith("_scenes"):
                continue
            source = path.read_bytes()
            finder = _Finder(str(path.relative_to(PROJECT)), source)
            finder.visit(ast.parse(source))
            found += finder.found
    return found


def caught(fault: Fault | None) -> bool:
    """Whether any of the core's tests fails on a copy of the project with this fault, or with none."""
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder)
        for name in ("src", "tests"):
            shutil.copytree(PROJECT / name, copy / name, ignore=shutil.ignore_patterns("__pycache__"))
        for name in ("pyproject.toml", "unkett"):
            shutil.copy(PROJECT / name, copy / name)
        if fault is not None:
            path = copy / fault.file
            source = path.read_bytes()
            path.write_bytes(source[: fault.start] + fault.now.encode() + source[fault.end :])
        done = subprocess.run(  # noqa: S603 - our own tests on our own copy
            [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *TESTS],
            cwd=copy, capture_output=True, env={**os.environ, "PYTHONPATH": "src"}, check=False,
        )  # fmt: skip
    return done.returncode != 0


def main(arguments: list[str]) -> int:
    seed, count = (
        int(arguments[n]) if len(arguments) > n else usual for n, usual in enumerate((SEED, COUNT))
    )
    if caught(None):
        print("the tests fail without any fault: nothing can be told", file=sys.stderr)
        return 1
    pool = every_fault()
    drawn = random.Random(seed).sample(pool, min(count, len(pool)))  # noqa: S311 - a draw, no secret
    with concurrent.futures.ThreadPoolExecutor(AT_ONCE) as workers:
        verdicts = list(workers.map(caught, drawn))
    survived = [str(fault) for fault, hit in zip(drawn, verdicts, strict=True) if not hit]
    print(
        json.dumps(
            {
                "seed": seed,
                "of": len(pool),
                "drawn": len(drawn),
                "caught": sum(verdicts),
                "survived": survived,
            },
            indent=1,
            ensure_ascii=False,
        )
    )
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
