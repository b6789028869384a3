"""Malformed and hostile input by the thousand: seeded, bounded, of each kind as many as are asked for.

``python -m tests.fuzz 10000`` runs so many of each and prints the counts.
"""

from __future__ import annotations

import json
import random
import sys
import time
from collections import Counter
from collections.abc import Callable
from typing import Any

from fjeld.check import check
from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.record import AmendRule
from fjeld.drawing.handles import Mint
from fjeld.drawing.naming import Drafts
from fjeld.drawing.validate import InvalidDrawing
from fjeld.formats import document, dxf, ies, instead, jobfile, sources
from fjeld.formats.words import WORDS, Misread, Walk, read
from fjeld.judge.answer import NotAsked
from fjeld.practice import UnknownRule, load
from fjeld.propose.attach import settle
from fjeld.quantities import UnreadableLength, finite_number, parse_length, whole_number

#: No one input may take longer than this, seconds.
LONGEST = 5.0
ODD = (
    "",
    " ",
    "0",
    "-1",
    "1e9",
    "1e400",
    "nan",
    "inf",
    "²",
    "٣",
    "½",
    "'",
    '"',
    "''",
    "?",
    "??",
    "9" * 60,
    "1/0",
    "12,375",
    "12.375.1",
    "\x00",
    "\u202e",
    "\n",
    "A1",
    "R1",
    "§",
    "=1+1",
    "on",
    "at",
    "by",
    "on on",
    "at at 3'",
    "3'3'3'",
    "<b>",
    "🙂",
    "\ud7ff",
    "ＡＢ",
)


def text(die: random.Random) -> str:
    """Some text, mostly odd."""
    roll = die.random()
    if roll < 0.5:
        return die.choice(ODD)
    if roll < 0.8:
        return "".join(die.choice("0123456789'\" /.,-?mftincEWNS") for _ in range(die.randint(1, 24)))
    return "".join(
        chr(die.choice((die.randint(1, 127), die.randint(128, 0x2FFF)))) for _ in range(die.randint(1, 40))
    )


def _said(error: Exception) -> None:
    """A refusal is one line of words."""
    assert str(error).strip()
    assert "\n" not in str(error)


def figures(die: random.Random) -> None:
    """The readers of figures: anything is a value or a sentence."""
    for unit in ("ft-in", "mm"):
        try:
            found = parse_length(text(die), unit)
            assert abs(found.mm) <= 1e6
        except UnreadableLength as error:
            _said(error)
    whole_number(text(die))
    finite_number(text(die))


def words(die: random.Random) -> None:
    """A line of the tape on the demo's house: an edit that stands, or a sentence."""
    drawing = _house("boot-room")
    line = " ".join(
        [die.choice([*WORDS, "N", "112.5", text(die)]), *(text(die) for _ in range(die.randint(0, 4)))]
    )
    if die.random() < 0.5:
        keys = (
            "at",
            "on",
            "by",
            "high",
            "low",
            "east",
            "south",
            "as",
            "storey",
            "kind",
            "first",
            "deep",
            "sill",
            "head",
        )
        line = f"{die.choice(list(WORDS))} {text(die)} " + " ".join(
            f"{die.choice(keys)} {text(die)}" for _ in range(die.randint(0, 3))
        )
    try:
        edit = read(line, Walk(drawing, "R1", 90.0), Drafts())
        _stands(drawing, edit)
    except (Misread, UnreadableLength, EditRefused, InvalidDrawing):
        return


def amendments(die: random.Random) -> None:
    """A local value for any rule: taken and worked out, or a sentence."""
    drawing = _house("boot-room")
    rule = die.choice(list(load("na").rules.values()))
    value: Any = die.choice(
        (0, -1, 1e-9, 1e308, float("inf"), float("nan"), "x", [], {}, None, True, rule.value)
    )
    if isinstance(rule.value, int | float) and die.random() < 0.6:
        value = rule.value * 10 ** die.uniform(-2, 2)
    try:
        _stands(drawing, AmendRule(rule.id, value, die.choice(("", "local")), "x"))
    except (UnknownRule, EditRefused, InvalidDrawing, document.NotTheSame):
        return


def job_files(die: random.Random) -> None:
    """The demo's file with a few things changed: a drawing that stands, or one line."""
    body = json.loads(_file("boot-room"))
    for _ in range(die.randint(1, 3)):
        _mutate(body, die)
    data = json.dumps(body).encode()
    if die.random() < 0.2:
        at = die.randrange(len(data))
        data = (
            data[:at]
            + bytes(die.randrange(256) for _ in range(die.randint(0, 6)))
            + data[at + die.randint(0, 30) :]
        )
    try:
        drawing = jobfile.decode(data)
    except jobfile.JobFileError as error:
        _said(error)
        return
    check(derive(drawing))
    document.require_same(drawing)


def dxf_files(die: random.Random) -> None:
    """A small drawing with its values spoilt: an underlay or a sentence."""
    lines = list(_dxf())
    for _ in range(die.randint(1, 4)):
        n = die.randrange(len(lines))
        lines[n] = die.choice(
            (
                "1e300",
                "-1e300",
                "nan",
                "inf",
                "",
                "INSERT",
                "CIRCLE",
                "0",
                "999999999999",
                text(die),
                lines[die.randrange(len(lines))],
            )
        )
    try:
        found = dxf.read("\n".join(lines).encode(errors="replace"), "x.dxf")
        assert found.lines
    except dxf.DxfError as error:
        _said(error)


def ies_files(die: random.Random) -> None:
    """A small photometry with its values spoilt: a photometry or a sentence."""
    numbers = [
        "1",
        "1000",
        "1",
        "3",
        "2",
        "1",
        "2",
        "0.1",
        "0.1",
        "0.1",
        "1",
        "1",
        "20",
        "0",
        "45",
        "90",
        "0",
        "180",
        "100",
        "80",
        "10",
        "100",
        "70",
        "5",
    ]
    for _ in range(die.randint(0, 3)):
        numbers[die.randrange(len(numbers))] = die.choice(
            ("0", "-1", "1e308", "inf", "nan", "1e9", text(die), "7")
        )
    head = die.choice(
        ("IESNA:LM-63-2002\nTILT=NONE\n", "IESNA91\nTILT=INCLUDE\n1\n2\n0 90\n1 1\n", text(die))
    )
    try:
        found = ies.read((head + " ".join(numbers)).encode(errors="replace"), "x.ies")
        assert found.lumens >= 0
    except ies.IesError as error:
        _said(error)


#: Boxes as people write them: every part that a box file can have is in one of them.
BOXES: tuple[dict[str, Any], ...] = (
    {
        "place": "switch",
        "cables": [
            ["BK", "WH", "G"],
            {"colours": ["BK", "WH", "G"], "gauge": "14", "sheath": "plastic", "marked": {"WH": "BK"}},
        ],
        "device": {"kind": "switch", "a": "1.BK", "b": "2.BK"},
        "joints": [["1.WH", "2.WH"], ["1.G", "2.G", "dev.g"]],
        "wants": "light",
        "room": "bed",
        "circuit": "general",
        "breaker": 15,
        "gauges": ["14", "14"],
        "ground": "present",
        "condition": "sound",
        "volume": 18,
        "clamps": False,
        "opening": True,
        "reachable": True,
        "way": "9'",
        "minutes": 35,
        "loads": [{"count": 6, "va": 9}, {"count": 1, "va": 180, "estimated": True}],
        "va": 12,
        "becomes": "dimmer",
        "readings": [
            {
                "id": "R4",
                "state": "S open",
                "1.BK": "120.1 V∞, 119.8 V3",
                "2.BK": 0.3,
                "tester": "proven before and after",
                "every_switch": "yes",
                "power": True,
            },
            {
                "id": "R5",
                "lamps_out": "yes",
                "1.BK–joint": [119.8, 119.5],
                "lamp": "bright",
                "tester": "proven before and after",
            },
            {"id": "R7", "figures": {"ohms": 0.4}, "proven": True},
            {"id": "R6", "amps": {"1.WH": 0.0}, "proven": True},
            {"id": "R3", "state": {"S": "open"}, "1.BK": 0, "off": ["1.BK"], "proven": True},
        ],
    },
    {
        "place": "outlet",
        "cables": [["BK", "WH", "G"], ["BK", "RD", "WH", "G"]],
        "devices": [{"kind": "protective", "line": "1.BK", "load": "2.BK", "tab": "broken"}],
        "joints": [["1.G", "2.G"]],
        "becomes": "same",
        "readings": [
            {"id": "R8", "1.BK": 120, "2.BK": 0, "parted": True, "proven": True},
            {"id": "R16", "dies": ["2"], "proven": True},
        ],
    },
    {
        "place": "ceiling",
        "cables": [["BN", "BU", "G"]],
        "device": {"kind": "light"},
        "wants": "outlet",
        "circuit": "ring",
        "breaker": 32,
        "readings": [
            {"id": "R9", "ohms": {"1.BN-1.BU": 0.4}, "proven": True},
            {"id": "R19", "ring": "yes", "proven": True},
            {"id": "R10", "loads": ["1"], "proven": True},
        ],
    },
)


def box_files(die: random.Random) -> None:
    """A box file with values spoilt, as the command line takes it: an answer or a sentence, whatever its
    shape.
    """
    body = json.loads(json.dumps(die.choice(BOXES)))
    for _ in range(die.randint(1, 3)):
        _mutate(body, die)
    practice = load(die.choice(("na", "gb")))
    asks = (
        lambda given: sources.answer(given, practice, practice.unit),
        lambda given: instead.answer(given, practice),
    )
    for answer in asks:
        try:
            found = answer(jobfile.json_object(json.dumps(body).encode()))
            json.dumps(found, default=str)
        except (NotAsked, jobfile.JobFileError) as error:
            _said(error)


KINDS: dict[str, Callable[[random.Random], None]] = {
    "figures": figures,
    "words": words,
    "amendments": amendments,
    "job files": job_files,
    "DXF": dxf_files,
    "IES": ies_files,
    "box files": box_files,
}


def run(kind: str, count: int, seed: int = 1) -> tuple[Counter[str], float]:
    """So many of a kind: what went wrong by its first line, and the longest any took, seconds."""
    wrong: Counter[str] = Counter()
    longest = 0.0
    for n in range(count):
        begun = time.monotonic()
        try:
            KINDS[kind](random.Random(f"{kind} {seed} {n}"))
        except Exception as error:  # Whatever it is, it is counted and shown.
            wrong[
                f"{type(error).__name__}: {str(error).splitlines()[0][:90] if str(error) else ''} ({kind}"
                f" {n})"
            ] += 1
        longest = max(longest, time.monotonic() - begun)
    return wrong, longest


_files: dict[str, bytes] = {}


def _file(name: str) -> bytes:
    return _files.setdefault(name, job_file(name))


def _house(name: str) -> Any:
    return jobfile.decode(_file(name))


def _stands(drawing: Any, edit: Any) -> None:
    from fjeld.drawing.changes import apply

    after = apply(drawing, settle(drawing, edit, Mint(drawing.items)))
    check(derive(after))
    document.require_same(after)


def _mutate(body: Any, die: random.Random) -> None:
    """Change one value somewhere in a tree of JSON."""
    while isinstance(body, dict | list) and body:
        key = die.choice(list(body)) if isinstance(body, dict) else die.randrange(len(body))
        if not isinstance(body[key], dict | list) or not body[key] or die.random() < 0.15:
            roll = die.random()
            if roll < 0.15:
                del body[key]
            elif roll < 0.3 and isinstance(body, dict):
                body[text(die)] = body[key]
            else:
                body[key] = die.choice(
                    (
                        None,
                        True,
                        -1,
                        0,
                        1e300,
                        10**9,
                        10**18,
                        0.5,
                        [],
                        {},
                        text(die),
                        text(die),
                        "1 km",
                        "200 m",
                        "0.1 mm",
                    )
                )
            return
        body = body[key]


def _dxf() -> list[str]:
    if "dxf" not in _files:
        import io

        import ezdxf

        made = ezdxf.new("R2000")
        block = made.blocks.new("B")
        block.add_circle((0, 0), 3)
        space = made.modelspace()
        space.add_lwpolyline([(0, 0), (4000, 0), (4000, 3000), (0, 3000)], close=True)
        space.add_circle((10, 10), 50)
        space.add_arc((0, 0), 10, 0, 90)
        space.add_blockref("B", (1, 1))
        stream = io.StringIO()
        made.write(stream)
        text_ = stream.getvalue()
        start = text_.index("ENTITIES")
        _files["dxf"] = (
            "  0\nSECTION\n  2\nBLOCKS\n" + "  0\nENDSEC\n  0\nSECTION\n  2\n" + text_[start:]
        ).encode()
    return _files["dxf"].decode().split("\n")


if __name__ == "__main__":
    asked = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    for name in KINDS:
        found, slowest = run(name, asked)
        print(f"{name}: {asked} tried, {sum(found.values())} faults, longest {slowest:.2f} s")
        for words_, times in found.most_common(12):
            print(f"   {times} × {words_}")
