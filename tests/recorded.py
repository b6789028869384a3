"""What Fjeld answers today, kept and held against what it answers after a move: ``python -m tests.recorded
keep FILE`` and ``python -m tests.recorded compare FILE``.

Kept are results as somebody outside sees them, under names that no move of the code touches: findings, plans,
proofs, lists, netlists and steps of the demo houses and of drawings of the wide world; gates, changes, steps
and proofs of errands of each kind; the answer to every question of the bench with every value of its table;
all in both practices. White space is folded.
"""

from __future__ import annotations

import argparse
import contextlib
import difflib
import gzip
import io
import json
import os
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import msgspec

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fjeld.web.settings")

from fjeld.bench.questions import QUESTIONS
from fjeld.check import check
from fjeld.cli import main
from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.model import Drawing
from fjeld.formats import jobfile, lists
from fjeld.judge.answer import NotAsked
from fjeld.practice import load
from fjeld.quantities import Length
from fjeld.work.house import house_book
from tests.core import test_bench_dangers as bench
from tests.core.errand_bases import BASES, planned, ready
from tests.worlds import world

DEMO = ("boot-room", "chandlers-loft", "tarn-house")
PRACTICES = ("na", "gb")
WORLDS = int(os.environ.get("FJELD_WORLDS", "300"))

Parts = dict[str, str]


def folded(text: str) -> str:
    """Text by lines, with white space inside each folded."""
    return "\n".join(" ".join(line.split()) for line in text.splitlines())


def plain(value: Any) -> Any:
    """A value as plain data: structs by their fields, lengths in mm, figures to a billionth, keys and other
    things as text.
    """
    if isinstance(value, Length):
        return round(value.mm, 6)
    if isinstance(value, float):
        return round(value, 9)
    if isinstance(value, msgspec.Struct):
        return {f: plain(getattr(value, f)) for f in value.__struct_fields__}
    if isinstance(value, dict):
        return {str(k): plain(v) for k, v in value.items()}
    if isinstance(value, set | frozenset):
        return sorted(str(v) for v in value)
    if isinstance(value, list | tuple):
        return [plain(v) for v in value]
    return value if isinstance(value, str | int | bool | None) else str(value)


def written(value: Any) -> str:
    return folded(json.dumps(plain(value), indent=1, ensure_ascii=False))


def commanded(command: str, drawing: Drawing, *more: str) -> str:
    """What a command prints of a job file, and its exit code."""
    out, wrong = io.TextIOWrapper(io.BytesIO(), "utf-8"), io.StringIO()
    with tempfile.NamedTemporaryFile(suffix=".json") as file:
        file.write(jobfile.encode(drawing))
        file.flush()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(wrong):
            code = main([command, file.name, *more])
    out.flush()
    out.seek(0)
    return folded(f"exit {code}\n{out.read()}{wrong.getvalue().replace(file.name, 'FILE')}")


def of_house(drawing: Drawing) -> Parts:
    """What is derived, checked, proven and told of a house."""
    plan = derive(drawing)
    findings = [
        f"{f.severity} {type(f.verdict).__name__} {f.key}: {f.words} [{f.rule.shown_basis}]"
        f" {f.working.total if f.working else ''} {f.limit or ''}"
        for f in check(plan)
    ]
    return {
        "checked": folded("\n".join(findings)),
        "derived": commanded("derive", drawing),
        "proven": commanded("prove", drawing),
        "netlist": commanded("export", drawing, "--to", "spice"),
        "parts": folded(lists.materials_csv(plan).decode()),
        "cables": folded(lists.cables_csv(plan).decode()),
        "steps": written(house_book(plan)),
    }


def of_errand(kind: str, practice: str) -> Parts:
    """What is judged, asked and told of an errand that nothing stands against."""
    known = planned(ready(kind, practice), practice)
    facts = known.facts
    return {
        "gates": written(facts.judged.gates if facts.judged else facts.trouble),
        "roles": written(facts.found),
        "spot": written({"asks": [a.id for a in facts.placed.asks], "box": facts.placed.box.id}),
        "box": written(facts.filled),
        "changes": written(known.changes),
        "make-up": written(known.made.joints if known.made else ()),
        "steps": written(known.tasks),
        "shut": "\n".join(f"{s.task.id} {s.done} {s.wants} {s.task.blocked_by}" for s in known.stands),
        "proof": written(known.proof),
        "dead test": written(known.nodes),
    }


def of_question(name: str, practice: str) -> Parts:
    """The answer to a question as it is usually asked, and with each value of each of its fields."""
    question, rules, usual = QUESTIONS[name], load(practice), bench.usual(practice)[name]

    def answered(**other: Any) -> str:
        try:
            return written(question.ask(question.asked(**(usual | other)), rules))
        except NotAsked as wrong:
            return f"not asked: {wrong}"

    cells = {f"{f} {bench.said(v)}": answered(**{f: v}) for n, f, v in bench.cells(practice) if n == name}
    return {"usual": answered(), **cells}


def subjects() -> Iterator[tuple[str, Callable[[], Parts]]]:
    """Everything that is kept, by its name."""
    for name in DEMO:
        yield f"house {name}", lambda name=name: of_house(jobfile.decode(job_file(name)))  # type: ignore[misc]
    for practice in PRACTICES:
        for kind in BASES:
            yield f"errand {kind} {practice}", lambda k=kind, p=practice: of_errand(k, p)  # type: ignore[misc]
        for name in QUESTIONS:
            yield f"question {name} {practice}", lambda n=name, p=practice: of_question(n, p)  # type: ignore[misc]
    for seed in range(WORLDS):
        yield f"world {seed}", lambda seed=seed: of_house(world(seed))  # type: ignore[misc]


def compared(kept: dict[str, Parts], now: Callable[[], Iterator[tuple[str, Callable[[], Parts]]]]) -> int:
    """Prints what differs, each part with its first lines; how many parts do."""
    differing, seen = 0, set()
    for name, answer in now():
        seen.add(name)
        if name not in kept:
            print(f"{name}: new")
            continue
        parts = answer()
        for part in sorted({*parts, *kept[name]}):
            was, is_ = kept[name].get(part, ""), parts.get(part, "")
            if was == is_:
                continue
            differing += 1
            print(f"{name}, {part}:")
            lines = difflib.unified_diff(was.splitlines(), is_.splitlines(), lineterm="", n=0)
            print("\n".join(f"  {line[:200]}" for line, _ in zip(lines, range(12), strict=False)))
    for name in sorted({*kept} - seen):
        print(f"{name}: gone")
    return differing


def run(argv: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="python -m tests.recorded", description=__doc__)
    parser.add_argument("act", choices=("keep", "compare"))
    parser.add_argument("file", type=Path)
    args = parser.parse_args(argv)
    if args.act == "keep":
        found = {name: answer() for name, answer in subjects()}
        args.file.write_bytes(gzip.compress(json.dumps(found, ensure_ascii=False).encode(), mtime=0))
        print(f"kept {sum(len(p) for p in found.values())} parts of {len(found)}")
        return 0
    differing = compared(json.loads(gzip.decompress(args.file.read_bytes())), subjects)
    print(f"{differing} parts differ")
    return int(differing > 0)


if __name__ == "__main__":
    sys.exit(run(sys.argv[1:]))
