"""DXF in and out: lines of someone else's drawing to trace, and the survey as lines for others.

Read with the drawing's own units where it states them; curves become short straight
stretches; blocks are opened. Files from strangers are limited in size, lines and points,
and nothing in them is evaluated. Written in millimetres, y to the north as DXF has it.
"""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator, Sequence

import ezdxf
import ezdxf.path
from ezdxf import units
from ezdxf.document import Drawing as DxfDrawing
from ezdxf.entities.dxfentity import DXFEntity
from ezdxf.entities.insert import Insert
from ezdxf.enums import InsertUnits
from ezdxf.filemanagement import new as new_document
from ezdxf.filemanagement import read as read_document
from ezdxf.lldxf.const import DXFError

from fjeld.derive.plan import Plan
from fjeld.drawing.building import Polyline, Room, Underlay
from fjeld.drawing.handles import Handle

LARGEST_FILE = 8_000_000
MOST_LINES = 4000
MOST_POINTS = 15_000
#: Blocks opened in all: a few lines within blocks within blocks can stand for millions.
MOST_INSERTS = 4000
#: The largest coordinate, in the file's units, of anything that can be traced.
FARTHEST = 1e7
#: What reading a damaged file may end in, for all that the reader checks.
_DAMAGED = (
    DXFError,
    ValueError,
    KeyError,
    IndexError,
    TypeError,
    AttributeError,
    ArithmeticError,
    RecursionError,
    AssertionError,
)
#: How far a curve may lie from the straight stretches it becomes, as a share of its size.
_FLAT = 0.01
_DRAWN = {"LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"}
MEDIA_TYPE = "image/vnd.dxf"


class DxfError(ValueError):
    """A file that is no DXF drawing, or more than can be traced; the message says so in words."""


def read(data: bytes, name: str, storey: Handle | None = None) -> Underlay:
    """The lines of a DXF file as an underlay; raises :class:`DxfError`."""
    document = _document(data)
    try:
        found = _traced(document)
        if not found:
            raise DxfError("the drawing has no lines in its model space")
        return Underlay(name[:80], _from_corner(found), _millimetres(document), storey=storey)
    except DxfError:
        raise
    except _DAMAGED as error:
        raise DxfError(f"the DXF file is damaged: {_first_line(error)}") from None


def _traced(document: DxfDrawing) -> list[Polyline]:
    """Every line of the model space, blocks opened, as many as can be traced."""
    found: list[Polyline] = []
    points, opened = 0, [0]
    for entity in _entities(document.modelspace(), 0, opened):
        for line in _lines(entity):
            points += len(line.points)
            if len(found) >= MOST_LINES or points > MOST_POINTS:
                raise DxfError(
                    f"the drawing has more than {MOST_LINES} lines or {MOST_POINTS} points; "
                    "save it again with the walls' layers only"
                )
            found.append(line)
    return found


def _first_line(error: BaseException) -> str:
    return str(error).splitlines()[0][:120] if str(error) else type(error).__name__


def _document(data: bytes) -> DxfDrawing:
    if len(data) > LARGEST_FILE:
        raise DxfError(f"the file is larger than {LARGEST_FILE // 1_000_000} MB")
    if b"\x00" in data[:4096]:
        raise DxfError("this is a binary file; save the drawing as text DXF")
    text = data.decode("utf-8", errors="replace")
    if "SECTION" not in text[:4000]:
        raise DxfError("this is no DXF drawing: it does not begin with a section")
    try:
        return read_document(io.StringIO(text))
    except _DAMAGED as error:
        raise DxfError(f"the DXF file is damaged: {_first_line(error)}") from None


def _entities(space: Iterable[DXFEntity], depth: int, opened: list[int]) -> Iterator[DXFEntity]:
    """What is drawn, blocks opened; blocks within blocks only so deep, and only so many. ``opened`` counts
    them.
    """
    for entity in space:
        if isinstance(entity, Insert):
            opened[0] += 1
            if opened[0] > MOST_INSERTS:
                raise DxfError(
                    f"the drawing opens more than {MOST_INSERTS} blocks; save it again with the walls only"
                )
            if depth < 4:
                yield from _entities(entity.virtual_entities(), depth + 1, opened)
        elif entity.dxftype() in _DRAWN:
            yield entity


def _lines(entity: DXFEntity) -> Iterator[Polyline]:
    try:
        path = ezdxf.path.make_path(entity)
    except _DAMAGED:
        return
    reach = [c for v in path.control_vertices() for c in (v.x, v.y, v.z)]
    if not reach or not all(abs(c) <= FARTHEST for c in reach):
        # Farther than any house; to straighten it would take for ever.
        return
    # By its whole size: the ends of a closed curve lie on each other.
    size = max(max(reach[axis::3]) - min(reach[axis::3]) for axis in range(3))
    if size > 0:
        corners = [(round(v.x, 4), round(-v.y, 4)) for v in path.flattening(size * _FLAT, segments=8)]
        yield from _line(str(entity.dxf.layer)[:60], corners)


def _line(layer: str, corners: Sequence[tuple[float, float]]) -> Iterator[Polyline]:
    """The corners as a line, closed where it comes back to where it began; none of a single one."""
    kept = [c for n, c in enumerate(corners) if n == 0 or c != corners[n - 1]]
    closed = len(kept) > 3 and kept[0] == kept[-1]
    kept = kept[:-1] if closed else kept
    if len(kept) > 1 and all(abs(v) < 1e9 for c in kept for v in c):
        yield Polyline(layer, tuple(kept), closed)


def _from_corner(lines: list[Polyline]) -> tuple[Polyline, ...]:
    """The lines moved so that the north-west corner of all is at nought."""
    west = min(x for line in lines for x, _ in line.points)
    north = min(y for line in lines for _, y in line.points)
    return tuple(
        Polyline(
            line.layer, tuple((round(x - west, 4), round(y - north, 4)) for x, y in line.points), line.closed
        )
        for line in lines
    )


def _millimetres(document: DxfDrawing) -> float:
    """Millimetres to one unit of the file; 1 where the file does not say."""
    stated = document.units
    if not stated:
        return 1.0
    factor = units.conversion_factor(InsertUnits(stated), InsertUnits.Millimeters)
    return float(factor) if 1e-6 <= factor <= 1e6 else 1.0


def write(plan: Plan, storey: Handle | None) -> bytes:
    """The storey as DXF: rooms closed on WALLS, openings on OPENINGS, boxes with their handles on BOXES."""
    document = new_document("R2010", units=units.MM)
    space = document.modelspace()
    for layer in ("WALLS", "OPENINGS", "BODIES", "BOXES"):
        document.layers.add(layer)
    rooms = {h: r for h, r in plan.drawing.of(Room).items() if r.storey == storey}
    for handle in rooms:
        where = plan.rooms[handle]
        space.add_lwpolyline(
            [(x, -y) for x, y in where.corners], close=where.closed, dxfattribs={"layer": "WALLS"}
        )
        for opening in plan.openings[handle].values():
            if opening.wall <= len(where.walls):
                wall = where.walls[opening.wall - 1]
                a, b = wall.at(opening.at.mm), wall.at(opening.at.mm + opening.width.mm)
                space.add_line((a[0], -a[1]), (b[0], -b[1]), dxfattribs={"layer": "OPENINGS"})
        for block in plan.blocks_in(handle):
            space.add_lwpolyline(
                [(x, -y) for x, y in block.corners], close=True, dxfattribs={"layer": "BODIES"}
            )
        for placed in plan.placed.values():
            if placed.room == handle:
                x, y, _ = placed.position
                space.add_circle((x, -y), placed.width / 2, dxfattribs={"layer": "BOXES"})
                space.add_text(
                    placed.handle, height=100, dxfattribs={"layer": "BOXES", "insert": (x, -y - 160)}
                )
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode("utf-8")
