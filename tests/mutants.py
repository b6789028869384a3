"""Breaks one thing at a time and looks whether a test notices: ``python -m tests.mutants --count 200``.

Of the judgements a comparison, a sum, a figure or a word that joins two conditions; of the rules a number.
Which ones is told by a seed. Each is tried in a copy of the program against the tests that know it, and what
came of it is written down as it comes, so that a run that was cut off goes on where it was. Those that live
are listed.
"""

from __future__ import annotations

import argparse
import ast
import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import Queue
from typing import Any

ROOT = Path(__file__).parent.parent
JUDGED = sorted((ROOT / "fjeld" / "judge").glob("*.py"))
DATA = [ROOT / "fjeld" / "practice" / name for name in ("na.toml", "gb.toml", "common/rules.toml")]
#: The tests that know every judgement, those that are over soonest first; and what else knows one.
TESTS = ("judged_edges", "wood", "fill", "bench_dangers", "filled", "once", "along", "finished")
MORE = {
    "devices": ("replacing", "feeds"),
    "figured": ("house_book",),
    "fits": ("feeds",),
    "load": ("circuits", "feeds"),
    "outdoors": ("wet_places",),
    "protection": ("protection",),
    "rooms": ("layout_rules",),
    "spot": ("cut",),
    "terminals": ("replacing",),
    "volts": ("still_live", "found_boxes"),
    "water": ("wet_places",),
    "ways": ("routes",),
    "wires": ("feeds",),
    "wood": ("runs",),
    "work": ("book", "circuits"),
}
#: And at last what every answer of an errand raises.
LAST = ("errand_dangers",)
#: A number of a rule is entered twice.
NUMBERS = ("rule_numbers",)
_SWAPPED: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
    ast.And: ast.Or,
    ast.Or: ast.And,
}
#: Functions of a tolerance, and their opposites.
_OPPOSITE = {"at_most": "at_least", "at_least": "at_most"}


class Mutant:
    """One change of one file: where it is, what it says, and the file's text with it."""

    def __init__(self, path: Path, line: int, words: str, text: str, tests: tuple[str, ...]) -> None:
        self.path, self.line, self.words, self.text, self.tests = path, line, words, text, tests

    @property
    def name(self) -> str:
        """What it is known by from one run to the next."""
        return f"{self.path.relative_to(ROOT)}:{self.line} {self.words}"


def of_code(path: Path) -> Iterator[Mutant]:
    """Every change of a file of judgements; what only names a thing or says a sentence is left alone."""
    source = path.read_text()
    count = sum(1 for _ in _places(ast.parse(source)))
    for n in range(count):
        tree = ast.parse(source)
        node, change, words = list(_places(tree))[n]
        change()
        yield Mutant(path, node.lineno, words, ast.unparse(tree), (*TESTS, *MORE.get(path.stem, ()), *LAST))


def _places(tree: ast.Module) -> Iterator[tuple[Any, Any, str]]:
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare | ast.BoolOp | ast.BinOp):
            op = node.ops[0] if isinstance(node, ast.Compare) else node.op
            if swapped := _SWAPPED.get(type(op)):
                yield node, _setting(node, swapped()), f"{type(op).__name__} to {swapped.__name__}"
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in _OPPOSITE:
            func = node.func
            yield node, lambda func=func: setattr(func, "id", _OPPOSITE[func.id]), f"{func.id} turned round"
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float) and node.value not in (0, 1):
            changed = node.value + 1 if isinstance(node.value, int) else node.value * 1.1
            yield node, lambda n=node, v=changed: setattr(n, "value", v), f"{node.value} to {changed:g}"


def _setting(node: Any, op: Any) -> Any:
    def change() -> None:
        if isinstance(node, ast.Compare):
            node.ops[0] = op
        else:
            node.op = op

    return change


def of_data(path: Path) -> Iterator[Mutant]:
    """Every number of every rule, a tenth more."""
    lines = path.read_text().split("\n")
    for n, line in enumerate(lines):
        if not line.startswith("value"):
            continue
        for found in re.finditer(r"(?<![\w.])\d+(?:\.\d+)?(?![\w.])", line):
            more = f"{float(found[0]) * 1.1 + (0 if '.' in found[0] else 1):.6g}"
            more = more if "." in found[0] else str(round(float(more)))
            changed = line[: found.start()] + more + line[found.end() :]
            yield Mutant(
                path,
                n + 1,
                f"{found[0]} to {more}",
                "\n".join([*lines[:n], changed, *lines[n + 1 :]]),
                NUMBERS,
            )


def _tried(mutant: Mutant, copy: Path) -> bool:
    """Whether a test noticed."""
    target = copy / mutant.path.relative_to(ROOT)
    kept = target.read_text()
    target.write_text(mutant.text)
    try:
        done = subprocess.run(
            [
                sys.executable,
                "-m",
                "pytest",
                "-x",
                "-q",
                *(f"tests/core/test_{name}.py" for name in mutant.tests),
            ],
            cwd=copy,
            env={**os.environ, "PYTHONPATH": str(copy), "PYTHONDONTWRITEBYTECODE": "1"},
            capture_output=True,
            timeout=900,
            check=False,
        )
    except subprocess.TimeoutExpired:
        return True
    finally:
        target.write_text(kept)
    return done.returncode != 0


def run(argv: list[str]) -> int:
    """Try a sample, print those that live; 1 where there are more than ``--most``."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--most", type=int, default=6, help="so many may live")
    parser.add_argument("--file", type=Path, default=ROOT / "var" / "mutants.json", help="what came of each")
    args = parser.parse_args(argv)
    every = [m for path in JUDGED for m in of_code(path)] + [m for path in DATA for m in of_data(path)]
    random.Random(args.seed).shuffle(every)
    chosen = every[: args.count]
    came: dict[str, bool] = json.loads(args.file.read_text()) if args.file.exists() else {}
    args.file.parent.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as room:
        copies: Queue[Path] = Queue()
        for n in range(os.cpu_count() or 1):
            shutil.copytree(ROOT / "fjeld", Path(room, str(n), "fjeld"))
            shutil.copytree(ROOT / "tests", Path(room, str(n), "tests"))
            shutil.copy(ROOT / "pyproject.toml", Path(room, str(n)))
            copies.put(Path(room, str(n)))

        def one(mutant: Mutant) -> None:
            if mutant.name in came:
                return
            copy = copies.get()
            came[mutant.name] = _tried(mutant, copy)
            copies.put(copy)
            args.file.write_text(json.dumps(came, indent=1, ensure_ascii=False, sort_keys=True))

        with ThreadPoolExecutor(copies.qsize()) as pool:
            list(pool.map(one, chosen))
    alive = [m.name for m in chosen if not came[m.name]]
    print(f"{len(chosen)} of {len(every)} tried, {len(alive)} live")
    print(*alive, sep="\n")
    return int(len(alive) > args.most)


if __name__ == "__main__":
    sys.exit(run(sys.argv[1:]))
