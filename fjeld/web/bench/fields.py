"""What a question's page asks: a field for each measure, in a person's words, and how what is
typed is read.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any, get_args, get_origin, get_type_hints

import msgspec
from django.http import QueryDict

from fjeld.bench.questions import Question, choices_of
from fjeld.formats.jobfile import JobFileError, convert
from fjeld.judge.answer import NotAsked
from fjeld.practice import Practice
from fjeld.practice.finished import minutes
from fjeld.quantities import Length, UnreadableLength, finite_number
from fjeld.web.ui.panel import Choices, Shown


class Asking(Shown, frozen=True, kw_only=True):
    """One field of a question: ``kind`` is ``text``, ``number``, ``choice``, ``tick`` or ``lines``."""

    name: str
    label: str
    kind: str
    value: str
    hint: str = ""
    options: Choices = ()
    needed: bool = False


def asking(question: Question, practice: Practice, given: QueryDict) -> list[Asking]:
    """The fields of a question as its page shows them, with what was typed."""
    hints = get_type_hints(question.asked)
    needed = {f.name for f in msgspec.structs.fields(question.asked) if f.required}
    found = []
    for name, field in question.fields.items():
        if not field.wanted(practice.catalogue.box_unit):
            continue
        options = choices_of(field, practice)
        kind = "choice" if options else "lines" if field.lines else _kind(hints[name])
        example = field.example or _example(hints[name], practice)
        value = given.get(name, "")
        found.append(
            Asking(
                name=name,
                label=field.label,
                kind=kind,
                value=value,
                hint=example,
                options=options,
                needed=name in needed,
            )
        )
    return found


def _kind(wanted: Any) -> str:
    if wanted is bool:
        return "tick"
    return "number" if wanted in (int, float) or wanted in (int | None, float | None) else "text"


def _example(wanted: Any, practice: Practice) -> str:
    lengths = wanted is Length or Length in get_args(wanted)
    return ("460 mm" if practice.unit == "mm" else '18 1/8"') if lengths else ""


def read(question: Question, practice: Practice, given: QueryDict) -> Any:
    """What was typed, as the question's struct; raises :class:`NotAsked` with the field's own words."""
    unit, hints = practice.unit, get_type_hints(question.asked)
    body: dict[str, Any] = {}
    for name, field in question.fields.items():
        typed = given.get(name, "").strip()
        if not typed:
            continue
        try:
            body[name] = _value(name, typed, hints[name])
        except NotAsked as wrong:
            raise NotAsked(f"{field.label}: {wrong}") from None
    if missing := [
        f.name for f in msgspec.structs.fields(question.asked) if f.required and f.name not in body
    ]:
        raise NotAsked(f"{question.fields[missing[0]].label}: still wanted")
    try:
        return convert(body, question.asked, "", unit)
    except (JobFileError, UnreadableLength) as wrong:
        at, _, words = str(wrong).lstrip(".").partition(": ")
        known = question.fields.get(re.split(r"[.\[]", at)[0])
        raise NotAsked(f"{known.label}: {words}" if known else str(wrong)) from None


def _value(name: str, typed: str, wanted: Any) -> Any:
    if name in _LINES:
        into, read = _LINES[name]
        return into(read(line) for line in typed.splitlines() if line.strip())
    if wanted in (bool, bool | None):
        return typed in ("on", "1", "true", "yes")
    if get_origin(wanted) is tuple:
        # Among lengths a comma within a figure is no end of it: it is asked what it means. Names have none.
        ends = r"[;\n]|,\s" if get_args(wanted)[0] is Length else r"[;\n,]"
        return [part.strip() for part in re.split(ends, typed) if part.strip()]
    if wanted in (int, float, int | None, float | None):
        return _number(typed, wanted in (int, int | None))
    return typed


def _number(typed: str, whole: bool = False) -> float | int:
    found = finite_number(typed)
    if found is None or (whole and found != int(found)):
        raise NotAsked(f"“{typed[:30]}” is not a {'whole ' if whole else ''}number")
    return int(found) if whole else found


def _load(line: str) -> dict[str, Any]:
    """``6 x 9``, with ``estimated`` or ``continuous`` after it."""
    found = re.fullmatch(r"\s*(\S+)\s*[x×*]\s*(\S+)\s*(?:W|VA)?\s*(.*)", line)
    if not found:
        raise NotAsked(f"“{line.strip()[:30]}” is no load; write it like 6 x 9 known")
    said = found[3].lower()
    return {
        "count": _number(found[1]),
        "va": _number(found[2]),
        "what": found[3].strip()[:40],
        "estimated": "estimated" in said,
        "continuous": "continuous" in said,
    }


def _stretch(line: str) -> dict[str, Any]:
    """``80' 14 8 A``: its length, its gauge, its amperes."""
    parts = line.replace(" A", "").rsplit(None, 2)
    if len(parts) != 3:
        raise NotAsked(f"“{line.strip()[:30]}” is no stretch; write its length, its gauge and its amperes")
    return {"length": parts[0], "gauge": parts[1], "amps": _number(parts[2])}


def _step(line: str) -> tuple[str, float]:
    """``pull 2``: a step, with how many times what repeats in it does."""
    plain = " ".join(line.split())
    if plain in minutes().steps:
        return plain, 0.0
    name, _, count = plain.rpartition(" ")
    if name not in minutes().steps:
        raise NotAsked(f"there is no step “{plain[:30]}”; there is {', '.join(minutes().steps)}")
    return name, float(_number(count))


def _reading(line: str) -> tuple[str, list[float]]:
    """``black 1 / whites 119.8 119.5``: a pair, without a load and under one."""
    pair, *values = line.rsplit(None, 2) if len(line.split()) > 2 else ("",)
    if len(values) != 2:
        raise NotAsked(f"“{line.strip()[:30]}” is no reading; write the pair, and both figures")
    return pair.strip(), [float(_number(v)) for v in values]


#: What is typed a line each, and what the lines make.
_LINES: dict[str, tuple[Callable[[Iterator[Any]], Any], Callable[[str], Any]]] = {
    "loads": (list, _load),
    "stretches": (list, _stretch),
    "steps": (dict, _step),
    "readings": (dict, _reading),
}
