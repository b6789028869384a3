"""Layout: rows of lights, boxes on their walls, and the reach band along the floor line."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec
from django.http import QueryDict

from fjeld.derive.light import Lamp, light_map
from fjeld.derive.places import Placed, default_edge, fastening, from_sides
from fjeld.drawing.building import Room
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.layout import row_of
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Photometry, Point
from fjeld.drawing.validate import InvalidDrawing
from fjeld.graphics.floor import Floor
from fjeld.graphics.shapes import Shape, circle, group
from fjeld.graphics.strip import STRIP, strip_scale, walls_unrolled
from fjeld.practice import rules
from fjeld.propose import fixes, rows, stops
from fjeld.quantities import UnreadableLength, format_length
from fjeld.web.http.actions import asked
from fjeld.web.http.trial import Trial, ghosts, tried
from fjeld.web.http.view import View
from fjeld.web.http.waypoint import Waypoint
from fjeld.web.layout import light
from fjeld.web.layout.actions import ACTIONS, ArrayAsked, array_of, outlets_of
from fjeld.web.layout.fittings import beside, sheet_of
from fjeld.web.layout.panels import ArrayOffer, Dock, EdgeWords, Workings
from fjeld.web.ui.coverage import coverage


def _ways(view: View, handle: Handle) -> list[tuple[str, str]]:
    """What the selected box can be set by, as (value, words)."""
    plan = view.plan
    placed = plan.placed.get(handle)
    if placed is None or not isinstance(view.item, Point):
        return []
    in_room = {h: p for h, p in plan.placed.items() if p.room == placed.room}
    others = [h for h, p in in_room.items() if h != handle and p.kind != "panel"]
    if placed.wall:
        return _ways_on_wall(view, view.item, placed, others)
    found = [("center", "center in the room")]
    bodies = (h for h, b in plan.blocks.items() if b.room == placed.room and not b.in_the_way)
    found += [(f"center:{h}", f"center over {h}") for h in bodies]
    if any(len(row_of(view.drawing, handle, axis)) > 2 for axis in ("x", "y")):
        found.append(("even", "space its row evenly"))
    found += [(f"line:{h}", f"in line with {h}") for h in others if not plan.placed[h].wall]
    return found + [(f"center:{h}", f"center on {h}") for h in plan.openings[placed.room]]


def _ways_on_wall(view: View, point: Point, placed: Placed, others: list[Handle]) -> list[tuple[str, str]]:
    """What a box on a wall can be set by: the wall, what stands on it, and the boxes beside it."""
    openings = view.plan.openings[placed.room]
    here = [h for h, o in openings.items() if o.wall == placed.wall]
    bodies = [h for h, b in view.plan.blocks.items() if (b.room, b.wall) == (placed.room, placed.wall)]
    found = [("center", "center on the wall")]
    found += [(f"center:{h}", f"center over {h}") for h in (*here, *bodies)]
    found.append(("mirror", "mirror about the middle of the wall"))
    found += [(f"mirror:{h}", f"mirror about {h}") for h in bodies]
    sheet = point.fitting
    if sheet and sheet.body_height and sheet.body_below:
        found += [
            (f"{e}:{h}", f"its body's {e} at the head of {h}") for h in openings for e in ("top", "middle")
        ]
    found += [(f"mirror:{h}", f"mirror about {h}") for h in here]
    return found + [(f"level:{h}", f"level with {h}") for h in others if view.plan.placed[h].wall]


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """Framing over the room, boxes, the selected box's tape readings, and the array being tried."""
    return {
        "f-walls": floor.walls(),
        "f-light": light.layer(view, floor),
        "f-joists": floor.joists(),
        "f-openings": floor.openings(),
        "f-lux": light.written(view, floor),
        "f-ghost": _ghost(view, floor),
        "f-points": floor.points(view.selected),
        "f-marks": _marks(view, floor),
        "f-drag": _drag(view, floor),
    }


def _ghost(view: View, floor: Floor) -> Shape:
    if offered := _offered(view):
        return ghosts(view, floor, offered)
    found = _tried(view)[0] if view.params.get("try") == "rows" else None
    if found is None:
        return group("f-ghost")
    parts: list[Shape | None] = [circle(*floor.to_px(p), 11, "ghost") for p in found.points]
    return group("f-ghost", *parts, *_measures(view, floor, found))


def _measures(view: View, floor: Floor, found: rows.Array) -> Iterator[Shape]:
    """Where the first light of an array stands, and how far the next in its row."""
    where = floor.where
    assert where is not None
    left, top = (min(c[axis] for c in where.corners) for axis in (0, 1))
    first = found.points[0]
    room, finish = view.drawing.get(where.handle, Room), view.drawing.house.measure_from == "finish"
    west, north = (from_sides(first, where, room, axis, finish)[0] for axis in (0, 1))
    spots = (floor.to_px(p) for p in found.points)
    taken = floor.covered() + [(x - 11, y - 11, x + 11, y + 11) for x, y in spots]
    for start, away, reading in (((left, first[1]), (0, -1), west), ((first[0], top), (-1, 0), north)):
        words = format_length(reading, floor.unit)
        yield floor.dimension(start, first, away, 16, words, cls="figure-text", taken=taken)
    row = (p for p in found.points if abs(p[1] - first[1]) < 1 and p[0] > first[0] + 1)
    if (across := next(row, None)) is not None:
        words = format_length(across[0] - first[0], floor.unit)
        yield floor.dimension(first, across, (0, -1), 16, words, cls="figure-text", taken=taken)


def _offered(view: View) -> Trial | None:
    """The fix or the outlets being shown, tried on the drawing; None when nothing is, or it has gone."""
    trying = view.params.get("try")
    try:
        if trying == "outlets":
            return tried(view, outlets_of(view, QueryDict()))
        if trying == "fix":
            key = view.params.get("finding", "")
            finding = next((f for f in view.here if f.key == key), None)
            edit = view.fix(finding) if finding else None
            return tried(view, edit) if edit else None
    except (EditRefused, InvalidDrawing):
        return None
    return None


def _marks(view: View, floor: Floor) -> Shape:
    """The tape readings of the selected box as dimension lines whose figures can be typed over."""
    placed = view.plan.placed.get(Handle(view.selected)) if view.selected else None
    if placed is None or floor.where is None or not floor.where.closed:
        return group("f-marks")
    where, unit = floor.where, floor.unit
    mark = view.plan.marks[placed.handle]
    if placed.wall:
        wall = where.walls[placed.wall - 1]
        out = (-wall.normal[0], -wall.normal[1])
        return group(
            "f-marks",
            floor.dimension(
                wall.start,
                wall.at(placed.along),
                out,
                34,
                format_length(mark.across, unit),
                focus="at",
                cls="figure-text",
            ),
            floor.dimension(
                wall.at(placed.along), wall.end, out, 34, format_length(mark.rest[0], unit), cls="figure-text"
            ),
        )
    x, y, _ = placed.position
    left, top = min(c[0] for c in where.corners), min(c[1] for c in where.corners)
    taken = floor.covered() + [named.covers for named in floor.named]
    return group(
        "f-marks",
        floor.dimension(
            (left, y),
            (x, y),
            (0, -1),
            16,
            format_length(mark.across, unit),
            focus="x",
            cls="figure-text",
            taken=taken,
        ),
        floor.dimension(
            (x, top),
            (x, y),
            (-1, 0),
            18,
            format_length(mark.down or 0.0, unit),
            focus="y",
            cls="figure-text",
            taken=taken,
        ),
    )


def _drag(view: View, floor: Floor) -> Shape:
    """For the script: the selected box's stops in pixels, with the readings to show at each."""
    handle = Handle(view.selected)
    placed = view.plan.placed.get(handle) if view.selected else None
    if (
        placed is None
        or placed.kind == "panel"
        or not view.may_edit
        or floor.where is None
        or not floor.where.closed
    ):
        return group("f-drag")
    to_px = floor.to_px
    axes: list[Axis] = []
    if placed.wall:
        wall = floor.where.walls[placed.wall - 1]
        (x0, y0), (x1, y1) = to_px(wall.start), to_px(wall.end)
        length = wall.length or 1.0
        ux, uy = (x1 - x0) / length, (y1 - y0) / length
        axes.append(
            Axis(
                field="at",
                ux=ux,
                uy=uy,
                here=placed.along,
                stops=_plain(stops.wall_stops(view.plan, handle)),
            )
        )
    else:
        for axis in (0, 1):
            u = (to_px.scale, 0.0) if axis == 0 else (0.0, to_px.scale)
            found = stops.ceiling_stops(view.plan, handle, axis)
            axes.append(
                Axis(
                    field="xy"[axis],
                    ux=u[0],
                    uy=u[1],
                    here=placed.position[axis],
                    stops=_plain(found),
                )
            )
    return group("f-drag", data_handle=handle, data_axes=_written(axes))


def strip_drag(view: View) -> Shape | None:
    """For the script: the selected box's stops on the unrolled walls, along and up."""
    handle = Handle(view.selected)
    placed = view.plan.placed.get(handle) if view.selected else None
    if placed is None or placed.kind == "panel" or not placed.wall or not view.may_edit or view.room is None:
        return None
    scale = strip_scale(view.plan, view.room, STRIP)
    if scale is None:
        return None
    mark = view.plan.marks[handle]
    heights = stops.height_stops(view.plan, handle)
    floor_finish = view.drawing.get(placed.room, Room).floor.mm
    here = (mark.height or 0.0) - (0.0 if view.drawing.house.measure_from == "finish" else floor_finish)
    way = -scale.k if scale.mirrored else scale.k
    axes = [
        Axis(
            field="at",
            ux=way,
            uy=0.0,
            here=placed.along,
            stops=_plain(stops.wall_stops(view.plan, handle)),
        ),
        Axis(field="height", ux=0.0, uy=-scale.k, here=here, stops=_plain(heights)),
    ]
    return group("strip-drag", data_handle=handle, data_axes=_written(axes))


class Axis(msgspec.Struct, frozen=True):
    """A way that a box can be dragged: px a mm across and down, where it is, mm, and where it stops: at,
    label, why.
    """

    field: str
    ux: float
    uy: float
    here: float
    stops: list[tuple[float, str, str]]


def _written(axes: list[Axis]) -> str:
    return msgspec.json.encode(axes).decode()


def _plain(found: list[stops.Stop]) -> list[tuple[float, str, str]]:
    return [(s.at, s.label, s.why) for s in found]


def dock(view: View) -> Dock:
    """What can be put in, with what the array being tried would cost; the reach band beneath."""
    trying = view.params.get("try", "") == "rows"
    found, refused = _tried(view) if trying else (None, "")
    missing = fixes.missing_outlets(view.plan, view.room) if view.room else None
    where = view.plan.rooms[view.room] if view.room else None
    return Dock(
        array=found,
        moved=max(map(abs, found.shift)) if found else 0.0,
        refused=refused,
        offered=_offered(view),
        params=view.params,
        doors=[h for h, o in view.plan.openings[view.room].items() if o.kind == "door"] if view.room else [],
        missing=len(missing.added) if missing else 0,
        closed=where is not None and bool(where.closed),
        strip=walls_unrolled(view.plan, view.room, view.selected, STRIP, extra=strip_drag(view)),
        room_name=view.drawing.get(view.room, Room).name if view.room and len(view.plan.rooms) > 1 else "",
        arrays=_arrays(view) if found else [],
        evenness=_evenness(view, found) if found else None,
        usual="750 mm" if view.drawing.house.unit == "mm" else '30"',
        schools=SCHOOLS,
        tables=[h for h, b in view.plan.blocks.items() if b.room == view.room and not b.in_the_way],
        walls=[w.number for w in where.walls] if where else [],
    )


def _tried(view: View) -> tuple[rows.Array | None, str]:
    """The rows that are being tried, or why they cannot be."""
    try:
        return array_of(view, asked(ArrayAsked, view.params, view)), ""
    except (EditRefused, rows.RowsRefused, UnreadableLength) as error:
        return None, str(error)


SCHOOLS = (
    ("half-spacing", "half a spacing from walls"),
    ("offset", "same distance from every wall"),
    ("framing", "fixed offset from framing"),
    ("mounting", "spacing by mounting height"),
)


def _arrays(view: View) -> list[ArrayOffer]:
    """Arrays that suit the room, with what each costs."""
    assert view.room
    where = view.plan.rooms[view.room]
    return [
        ArrayOffer(across=n, down=m, array=a, even=_evenness(view, a))
        for n, m, a in rows.proposals(where, 50.8)
    ]


def _evenness(view: View, found: rows.Array) -> float | None:
    """Least over mean light on the floor from the array alone, its lamps as usual."""
    assert view.room
    where = view.plan.rooms[view.room]
    lamps = [Lamp(Handle(f"A{n}"), (x, y, where.ceiling_at((x, y)))) for n, (x, y) in enumerate(found.points)]
    made = light_map(where, lamps, 0.0, 400.0)
    return made.figures.uniformity if made else None


def _hosts(view: View) -> list[tuple[str, str]]:
    """The boxes that the selected switch or outlet can sit in: its own, and those on the walls of
    its room.
    """
    handle, point = Handle(view.selected), view.item
    if (
        not isinstance(point, Point)
        or point.kind not in ("switch", "outlet")
        or not point.wall
        or point.protective
    ):
        return []
    points = view.drawing.of(Point)
    if any(p.within == handle for p in points.values()):
        return []
    others = [
        h
        for h, p in points.items()
        if h != handle
        and p.room == point.room
        and p.wall
        and p.within is None
        and p.kind in ("switch", "outlet")
    ]
    word = view.plan.practice.word
    return [("", "its own"), *((h, f"that of {word(points[h].kind)} {h}") for h in others)] if others else []


def _height(view: View, point: Point | None, placed: Placed | None) -> EdgeWords | None:
    """From where to which edge of a box on a wall its height is measured."""
    if not (point and placed and placed.wall and view.room):
        return None
    edge = point.edge or default_edge(point.kind, view.plan.practice)
    datum = "Floor" if view.drawing.house.measure_from == "finish" else "Subfloor"
    return EdgeWords(edge=edge, words=f"{datum} to {edge} of box")


def workings(view: View) -> Workings:
    """The selected box: its tape readings large, its height, how it meets the framing."""
    handle = Handle(view.selected)
    point = view.item if isinstance(view.item, Point) else None
    placed = view.plan.placed.get(handle)
    mark = view.plan.marks.get(handle)
    return Workings(
        point=point,
        handle=handle,
        placed=placed,
        gap=placed.gap if placed else None,
        exposures=[("", "not looked at"), ("damp", "damp: under a roof, out of the spray"), ("wet", "wet")],
        fastening=fastening(placed) if placed else "",
        mark=mark,
        height=_height(view, point, placed),
        row=[h for h, p in view.drawing.of(Point).items() if point and point.row and p.row == point.row],
        table=[
            (h, p, view.plan.marks[h], view.drawing.items[h])
            for h, p in view.plan.placed.items()
            if p.room == view.room
        ],
        light=light.figures(view),
        ways=_ways(view, handle),
        sheet=sheet_of(view, handle),
        protects=rules.GROUND_FAULT in view.plan.practice,
        hosts=_hosts(view),
        yes_no=(("true", "yes"), ("false", "no")),
        covered=coverage(view.plan, Handle(view.selected)),
        over_options=["", *(h for h, b in view.plan.blocks.items() if b.room == view.room)],
        file_options=["", *view.drawing.of(Photometry)],
        body=beside(view, handle),
        frame_word="stud" if placed and placed.wall else "joist",
        from_word="rough framing" if view.drawing.house.measure_from == "framing" else "the finished face",
    )


LAYOUT = Waypoint(
    name="layout",
    title="Layout",
    layers=layers,
    dock=dock,
    workings=workings,
    actions=ACTIONS,
    previews=True,
    ghosts=True,
)
