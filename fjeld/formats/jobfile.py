"""The job file: a drawing as JSON that is pleasant to write by hand.

Lengths are written as people measure them (``"12'4 1/2"``) or as a number of
millimetres; walls as ``"E 12'4"`` or, skew, ``"112.5 4'2"`` (compass degrees). Things are
grouped by kind under their handles. See docs/job-file.md.
"""

from __future__ import annotations

import json
import re
from functools import cache
from typing import Any

import msgspec

from fjeld.drawing.building import Body, Join, Opening, Panel, Room, Side, Storey, Underlay
from fjeld.drawing.extents import clean
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, House, Item, LoadRef, Photometry, Point
from fjeld.drawing.old_box import OldBox
from fjeld.drawing.validate import problems_of
from fjeld.formats.older import body_with_names
from fjeld.formats.one_of import one_of
from fjeld.geometry import BEARINGS
from fjeld.quantities import Length, Unit, UnreadableLength, parse_length

#: Since 2 all in an old box has a name; where none is written, it is given by place.
FORMAT = 2
LARGEST_FILE = 4_000_000
MEDIA_TYPE = "application/json"

GROUPS: dict[str, type[Any]] = {
    "storeys": Storey,
    "rooms": Room,
    "openings": Opening,
    "joins": Join,
    "bodies": Body,
    "panels": Panel,
    "old_boxes": OldBox,
    "points": Point,
    "controls": Control,
    "circuits": Circuit,
    "cables": Cable,
    "photometry": Photometry,
    "underlays": Underlay,
}


class JobFileError(ValueError):
    """A file that is no job file; the message is one line with the path to the place."""

    def __init__(self, words: str) -> None:
        super().__init__(clean(words)[:300])


class JobFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"format": "fjeld"}):
    """The shape of the file, for its schema."""

    format: int
    house: House = House()
    storeys: dict[str, Storey] = {}
    rooms: dict[str, Room] = {}
    openings: dict[str, Opening] = {}
    joins: dict[str, Join] = {}
    bodies: dict[str, Body] = {}
    panels: dict[str, Panel] = {}
    old_boxes: dict[str, OldBox] = {}
    points: dict[str, Point] = {}
    controls: dict[str, Control] = {}
    circuits: dict[str, Circuit] = {}
    cables: dict[str, Cable] = {}
    photometry: dict[str, Photometry] = {}
    underlays: dict[str, Underlay] = {}


def encode(drawing: Drawing) -> bytes:
    """The drawing as a job file: stable order, two-space indent, newline at the end."""
    body: dict[str, Any] = {"fjeld": FORMAT, "house": _plain(drawing.house)}
    for group, kind in GROUPS.items():
        things = {handle: _plain(item) for handle, item in drawing.of(kind).items()}
        if things:
            body[group] = things
    return (json.dumps(body, indent=2, ensure_ascii=False) + "\n").encode()


def _plain(item: Item) -> Any:
    """Builtins for JSON: walls and lengths as people write them."""
    return msgspec.to_builtins({k: _written(v) for k, v in _fields(item).items()}, str_keys=True)


@cache
def _shape(kind: Any) -> tuple[tuple[str, str, Any], ...]:
    """Of each field its name, its name in the file, and its default; a required one's default
    equals nothing.
    """
    found = []
    for field in msgspec.structs.fields(kind):
        default = object() if field.required else field.default
        if field.default_factory is not msgspec.NODEFAULT:
            default = field.default_factory()
        found.append((field.name, field.encode_name, default))
    return tuple(found)


def _fields(item: Any) -> dict[str, Any]:
    """What differs from the defaults, by its name in the file."""
    kind: Any = type(item)
    return {
        written: value for name, written, default in _shape(kind) if (value := getattr(item, name)) != default
    }


def _written(value: Any) -> Any:
    if isinstance(value, Length):
        return value.typed or round(value.mm, 6)
    if isinstance(value, Side):
        length = value.length.typed or f"{round(value.length.mm, 6)!r} mm"
        return f"{bearing_words(value.bearing)} {length}"
    if isinstance(value, LoadRef):
        return str(value)
    if isinstance(value, msgspec.Struct):
        return {k: _written(v) for k, v in _fields(value).items()}
    if isinstance(value, tuple):
        return [_written(v) for v in value]
    if isinstance(value, dict):
        return {k: _written(v) for k, v in value.items()}
    if isinstance(value, float) and value.is_integer():
        return int(value)
    return value


def bearing_words(bearing: float) -> str:
    """A compass bearing as written in a wall: ``E``, or degrees."""
    return next((name for name, degrees in BEARINGS.items() if degrees == bearing), repr(round(bearing, 9)))


_WORKED_OUT = re.compile(r"\d+\.\d+ mm")
_SIDE = re.compile(r"^\s*(?P<bearing>[NESW]|\d{1,3}(?:\.\d+)?)\s+(?P<length>.+)$", re.IGNORECASE)


def parse_side(text: str, unit: Unit = "ft-in") -> Side:
    """Read a wall; raises :class:`UnreadableLength`."""
    found = _SIDE.match(text)
    if not found:
        raise UnreadableLength(f"“{text[:40]}” is not a wall; write it like E 12'4 or 112.5 4'2")
    bearing = BEARINGS.get(found["bearing"].upper())
    text = with_unit(found["length"]).strip()
    length = parse_length(text, unit)
    # What the program worked out is written in plain decimal millimetres, and is not what somebody typed.
    length = Length(length.mm) if _WORKED_OUT.fullmatch(text) else length
    return Side(float(found["bearing"]) % 360 if bearing is None else bearing, length)


def with_unit(text: str) -> str:
    """A wall's length as it was meant.

    Older programs wrote what they had worked out as bare millimetres. Nobody writes a
    wall in hundredths of an inch, or in decimals of inches from a foot of millimetres on.
    """
    found = re.fullmatch(r"[0-9]{1,7}\.([0-9]+)", text.strip())
    worked_out = found and (len(found[1]) >= 2 or float(text) >= 304.8)
    return f"{text.strip()} mm" if worked_out else text


def _length(value: Any, unit: Unit) -> Length:
    if isinstance(value, str):
        return parse_length(value, unit)
    if isinstance(value, int | float) and not isinstance(value, bool) and abs(value) < 1e6:
        return Length(float(value))
    raise UnreadableLength(f"{value!r} is not a length")


def decode(data: bytes) -> Drawing:
    """Read a job file; raises :class:`JobFileError` with the path to the first thing wrong."""
    body = json_object(data)
    number = body.get("fjeld")
    if isinstance(number, bool) or not isinstance(number, int) or not 1 <= number <= FORMAT:
        raise JobFileError(_format_words(number))
    unknown = set(body) - {"fjeld", "house", *GROUPS}
    if unknown:
        raise JobFileError(f"{sorted(unknown)[0][:40]}: a job file has no such group")
    drawing = read_items(_cleaned(body))
    problems = list(problems_of(drawing))
    if problems:
        raise JobFileError(_located(problems[0].path, problems[0].words, drawing))
    return drawing


def read_items(body: dict[str, Any]) -> Drawing:
    """The things of a file's body, whether or not they hang together; raises :class:`JobFileError`."""
    body = body_with_names(body)
    house = convert(body.get("house", {}), House, "house", "ft-in")
    items: dict[Handle, Item] = {HOUSE: house}
    for group, kind in GROUPS.items():
        things = body.get(group, {})
        if not isinstance(things, dict):
            raise JobFileError(f"{group}: is a {type(things).__name__}, not an object of handles")
        for handle, thing in things.items():
            if handle in items:
                raise JobFileError(f"{group}.{clean(handle)[:20]}: that handle is already taken")
            items[Handle(handle)] = convert(thing, kind, f"{group}.{clean(handle)[:20]}", house.unit)
    return Drawing(items)


def _cleaned(value: Any) -> Any:
    """Texts without what nobody can see, all through; keys stay, a handle with such a character is none."""
    if isinstance(value, str):
        return clean(value)
    if isinstance(value, list):
        return [_cleaned(v) for v in value]
    if isinstance(value, dict):
        return {k: _cleaned(v) for k, v in value.items()}
    return value


def _located(path: str, words: str, drawing: Drawing) -> str:
    handle = Handle(re.split(r"[.\[]", path, maxsplit=1)[0])
    group = next((g for g, kind in GROUPS.items() if isinstance(drawing.items.get(handle), kind)), "")
    return f"{group + '.' if group else ''}{path}: {words}"


def json_object(data: bytes) -> dict[str, Any]:
    if len(data) > LARGEST_FILE:
        raise JobFileError(f"the file is larger than {LARGEST_FILE // 1_000_000} MB")
    try:
        body = msgspec.json.decode(data)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        if other := _of_another_kind(data):
            raise JobFileError(other) from None
        raise JobFileError(f"not JSON: {str(error).splitlines()[0]}") from None
    if not isinstance(body, dict):
        raise JobFileError("the file is not an object")
    return body


def _of_another_kind(data: bytes) -> str:
    """What a file is that is no job file, and where such a one is taken; empty where that cannot be told."""
    head = data[:400].lstrip(b"\xef\xbb\xbf").lstrip()
    if b"Binary DXF" in head[:40] or (head[:1] == b"0" and b"SECTION" in head) or head[:3] == b"999":
        return (
            "this is a DXF drawing and no job file: a house is begun first, and the drawing laid under it in"
            " Survey"
        )
    if head.startswith(b"IESNA"):
        return "this is photometry of a fitting and no job file: it is brought in at the fitting, in Layout"
    if head.startswith((b"PK\x03\x04", b"%PDF")):
        return "this is an archive or a printed page and no job file: a job file ends in .json"
    return ""


def _format_words(found: object) -> str:
    if isinstance(found, int) and found > FORMAT:
        return (
            f"fjeld: this file has format {str(found)[:20]}, written by a newer program; this one reads up to"
            f" {FORMAT}"
        )
    return f"fjeld: the format number is missing or not {FORMAT}"


def convert(value: Any, kind: type[Any], path: str, unit: Unit) -> Any:
    def read(wanted: type[Any], found: Any) -> Any:
        if wanted is Length:
            return _length(found, unit)
        if wanted is Side:
            if not isinstance(found, str):
                raise UnreadableLength(f'{found!r} is not a wall; write it like "E 12\'4"')
            return parse_side(found, unit)
        if wanted is LoadRef:
            if not isinstance(found, str):
                raise UnreadableLength(f"{found!r} is no load; write it like A1 or O2.upper")
            return LoadRef.read(found)
        raise NotImplementedError(wanted)

    try:
        return msgspec.convert(value, kind, dec_hook=read, str_keys=True)
    except msgspec.ValidationError as error:
        words, _, place = str(error).partition(" - at `$")
        raise JobFileError(f"{path}{place.rstrip('`')}: {_said(words)}{one_of(kind, words, place)}") from None


def _said(words: str) -> str:
    return words.replace("`", "").replace("Expected", "expected").replace("Object", "object").rstrip(".")


def schema() -> dict[str, Any]:
    """The JSON Schema of the job file."""

    def hook(wanted: type[Any]) -> dict[str, Any]:
        if wanted is Length:
            return {
                "type": ["string", "number"],
                "description": "as typed, like 12'4 1/2 or 3.77 m; a number is mm",
            }
        if wanted is Side:
            return {"type": "string", "description": "direction and length, like E 12'4 or 112.5 4'2"}
        if wanted is LoadRef:
            return {"type": "string", "description": "a point, like A1, or a part of one, like O2.upper"}
        raise NotImplementedError(wanted)

    found = msgspec.json.decode(
        msgspec.json.encode(msgspec.json.schema(JobFile, schema_hook=hook), enc_hook=_written)
    )
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Fjeld job file", **found}
