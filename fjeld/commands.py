"""What each command of ``fjeld`` does with the file that it is given; apart from the command line itself, so
that its help needs none of the engines.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

import msgspec

from fjeld import practice as practices
from fjeld.bench.commands import Summed
from fjeld.bench.questions import COMMANDS, QUESTIONS
from fjeld.check import open_findings
from fjeld.derive.boxes import Joint
from fjeld.derive.keys import rest
from fjeld.derive.plan import Plan, derive
from fjeld.formats import instead, jobfile, lists, sources, spice
from fjeld.formats.questions import read
from fjeld.judge.answer import Figure, NotAsked
from fjeld.judge.fill import NoVolume
from fjeld.propose.cuts import CutsRefused
from fjeld.propose.rows import RowsRefused
from fjeld.prove.proof import always_on, prove
from fjeld.quantities import INCH, Length, Unit, UnreadableLength, Working, format_length


class BadInput(Exception):
    """Input that cannot be read; printed as one line."""


def _bytes(name: str) -> bytes:
    try:
        return sys.stdin.buffer.read() if name == "-" else Path(name).read_bytes()
    except OSError as error:
        raise BadInput(f"{name}: {error.strerror}") from None


def _plan(name: str) -> Plan:
    return derive(jobfile.decode(_bytes(name)))


def _plain(value: Any) -> Any:
    """Lengths in mm, references as their text."""
    return value.mm if isinstance(value, Length) else str(value)


def _show(value: Any) -> None:
    print(json.dumps(msgspec.to_builtins(value, enc_hook=_plain), indent=2, ensure_ascii=False))


def _sum(working: Working) -> dict[str, Any]:
    return {
        "total": round(working.total, 6),
        "unit": working.unit,
        "lines": [
            {"count": n.count, "each": n.each, "amount": round(n.amount, 6), "what": n.what}
            for n in working.lines
        ],
    }


def run_check(args: argparse.Namespace) -> int:
    """Findings, the worst first; exit 1 on a danger or a breach."""
    findings = open_findings(_plan(args.file))
    for f in findings:
        print(f"{f.severity:7} {f.key}: {f.words} [{f.rule.shown_basis}]")
    if not findings:
        print(
            "Nothing open. What was checked: the rules of this practice that the drawing touches; local rules"
            " were not."
        )
    return int(any(f.severity in ("danger", "breach") for f in findings))


def run_derive(args: argparse.Namespace) -> int:
    """The whole plan as JSON."""
    plan = _plan(args.file)
    cables = {
        run.key: {
            "from": plan.cables[run.cable].cable.a,
            "to": plan.cables[run.cable].cable.b,
            "circuit": run.circuit,
            "kind": run.kind.id,
            "insulated": run.kind.insulated,
            "nets": [str(net) for net in run.nets],
            "conductors": {
                c.key: {"colour": c.colour, "net": str(c.net), "marked": c.marked} for c in run.conductors
            },
            "route_mm": round(route.length, 3) if (route := plan.cables[run.cable].route) else None,
            "length_mm": round(plan.cables[run.cable].length, 3),
            "staples": len(plan.cables[run.cable].staples),
        }
        for run in plan.runs()
    }
    boxes = {
        h: {
            "kind": b.kind.id,
            "volume": b.kind.volume,
            "fill": _sum(b.needed),
            "passes": b.passes,
            "joints": [_joint(j) for j in b.joints],
        }
        for h, b in plan.boxes.items()
    }
    circuits = {
        q: {
            "load": _sum(c.figures.load),
            "rating": c.figures.rating,
            "drop": _sum(c.figures.drop),
            "far": c.figures.far,
        }
        for q, c in plan.circuits.items()
    }
    _show({"cables": cables, "boxes": boxes, "circuits": circuits, "materials": plan.materials})
    return 0


def _joint(joint: Joint) -> dict[str, Any]:
    landings = [
        {"device": str(at.device) if at.device else "box", "terminal": at.terminal, "lead": at.lead}
        for at in joint.landings
    ]
    return {
        "net": str(joint.net),
        "how": joint.how,
        "ends": joint.ends,
        "landings": landings,
        "connectors": joint.connectors,
        "reason": joint.reason,
    }


def run_prove(args: argparse.Namespace) -> int:
    """Each control in each combination as JSON; exit 1 where one is not proven."""
    plan = _plan(args.file)
    proofs, fed = prove(plan), always_on(plan)
    controls = {
        c: {**msgspec.structs.asdict(p), "positions": [str(position) for position in p.positions]}
        for c, p in proofs.items()
    }
    _show({"controls": controls, "always on": fed})
    return int(not all(p.proven for p in proofs.values()) or not all(fed.values()))


def run_export(args: argparse.Namespace) -> int:
    """The job in another format."""
    plan = _plan(args.file)
    if args.to == "spice":
        if plan.network is None:
            raise BadInput(f"{args.file}: there is no panel, so there is no network")
        positions = {str(p): p for p in plan.network.positions}
        unknown = {*args.up} - {*positions} | {*args.off} - {*plan.circuits}
        if unknown:
            raise BadInput(
                f"{args.file}: there is no {min(unknown)}; switches are named as S1:K1, breakers as Q1"
            )
        state = {positions[name]: 1 - rest(positions[name]) for name in args.up}
        text = spice.of_plan(plan, state, args.off).encode()
    else:
        text = lists.materials_csv(plan) if args.to == "csv" else jobfile.encode(plan.drawing)
    sys.stdout.buffer.write(text)
    return 0


def run_schema(args: argparse.Namespace) -> int:
    """The JSON Schema of the job file."""
    _show(jobfile.schema())
    return 0


def run_benched(args: argparse.Namespace) -> int:
    """A question of work in a finished room; exit 1 where the answer is that it cannot be so."""
    practice = practices.load(args.practice)
    question = QUESTIONS[args.command]
    unit = practice.unit
    answer = question.ask(read(_bytes(args.file), question.asked, unit), practice)
    _show(
        {
            "figures": {f.name: _figure(f, unit) for f in answer.figures},
            "said": [
                {"tone": s.tone, "words": s.words, **({"basis": s.basis} if s.basis else {})}
                for s in answer.said
            ],
            "workings": [{"title": w.title, **_sum(w)} for w in answer.workings],
        }
    )
    return 1 if answer.fails else 0


def run_source(args: argparse.Namespace) -> int:
    """What a box as found holds and whether it is a source; exit 1 where it is refused. With ``--to``, the
    likeliest as a netlist.
    """
    practice = practices.load(args.practice)
    if args.to:
        box, _ = sources.read_source(jobfile.json_object(_bytes(args.file)), practice.unit)
        print(spice.of_box(box, practice, args.up), end="")
        return 0
    found, refused = sources.answer(jobfile.json_object(_bytes(args.file)), practice, practice.unit)
    _show(found)
    return int(refused)


def run_instead(args: argparse.Namespace) -> int:
    """What goes where when a device of a box is replaced; exit 1 where it is refused, or fails in
    every case.
    """
    found, refused = instead.answer(jobfile.json_object(_bytes(args.file)), practices.load(args.practice))
    _show(found)
    return int(refused)


def _figure(figure: Figure, unit: Unit) -> dict[str, Any]:
    if figure.kind == "length":
        return {
            "mm": round(figure.value, 4),
            "in": round(figure.value / INCH, 4),
            "words": format_length(figure.value, unit),
        }
    return {figure.kind: round(figure.value, 4)}


def run_ask(args: argparse.Namespace) -> int:
    """A question that is asked as JSON alone."""
    command, practice = COMMANDS[args.command], practices.load(args.practice)
    answer = command.answer(read(_bytes(args.file), command.asked, practice.unit), practice)
    _show({**_sum(answer.sum), **answer.more} if isinstance(answer, Summed) else answer)
    return 0


#: What a person can put right, said in one line.
REFUSED = (
    BadInput,
    jobfile.JobFileError,
    CutsRefused,
    RowsRefused,
    NoVolume,
    NotAsked,
    UnreadableLength,
)
RUNS = {
    "check": run_check,
    "derive": run_derive,
    "prove": run_prove,
    "export": run_export,
    "schema": run_schema,
    "source": run_source,
    "instead": run_instead,
}


def run(args: argparse.Namespace) -> int:
    """Run the command that was given; its exit code. Raises :data:`REFUSED` where the input is at fault."""
    name = args.command
    return RUNS.get(name, run_ask if name in COMMANDS else run_benched)(args)
