"""Survey: the tape in hand, the walls laid so far, what the room is built of."""

from __future__ import annotations

from itertools import pairwise
from typing import Any, NamedTuple, TypeVar, get_args

from msgspec.structs import replace

from fjeld import practice as practices
from fjeld.check import Finding, survey
from fjeld.check.survey import to_measure
from fjeld.derive.joins import Misfit
from fjeld.drawing.building import Body, Join, Opening, Panel, Room, Storey, Underlay
from fjeld.drawing.edits.survey import WalkSide, held_by
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, Item
from fjeld.drawing.old_box import Lead, Material, OldBox, OldCable
from fjeld.errand.record import as_found
from fjeld.formats.jobfile import bearing_words
from fjeld.formats.words import Misread, read
from fjeld.geometry import BEARINGS, area, step
from fjeld.graphics.floor import Floor
from fjeld.graphics.labels import Px
from fjeld.graphics.shapes import Shape, circle, group, line, path, shape, text
from fjeld.graphics.strip import STRIP, walls_unrolled
from fjeld.graphics.symbols import STAND_OFF
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.infer import infer
from fjeld.practice import rules
from fjeld.practice.finished.sources import sources
from fjeld.quantities import UnreadableLength, format_length, whole_number
from fjeld.web.http.view import MEMO, View
from fjeld.web.http.waypoint import Waypoint
from fjeld.web.places.kinds import KINDS
from fjeld.web.places.looked import CONDITIONS, GROUNDS, ROLES, ahead_words
from fjeld.web.places.records import Kept, counting, readings_of
from fjeld.web.places.shots import Shot, shots_of
from fjeld.web.survey.actions import ACTIONS, CARRIES, SURFACES, USES, bearing, walk
from fjeld.web.survey.panels import Dock, SideRow, Traced, TracedLine, Workings
from fjeld.web.ui.panel import Choices

T = TypeVar("T")


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """Walls with their dimensions, joists faint, the pen and what is being typed."""
    return {
        "f-walls": floor.walls(),
        "f-below": _below(view, floor),
        "f-underlay": _underlay(view, floor),
        "f-joists": floor.joists(),
        "f-openings": floor.openings(),
        "f-dims": floor.wall_lengths(),
        "f-faces": _faces(view, floor),
        "f-old": _old_boxes(view, floor),
        "f-points": floor.points(view.selected, quiet=True),
        "f-pen": _pen(view, floor),
        "f-draw": _draw(view, floor),
    }


def _below(view: View, floor: Floor) -> Shape:
    """The storey below in outline, so that one is drawn over the other."""
    if floor.where is None:
        return group("f-below")
    here = floor.where.level
    lower = [w for w in view.plan.rooms.values() if w.level < here - 1.0]
    top = max((w.level for w in lower), default=0.0)
    parts: list[Shape | None] = [
        path([floor.to_px(c) for c in w.corners], "below", close=w.closed)
        for w in lower
        if abs(w.level - top) < 1.0 and len(w.corners) > 1
    ]
    return group("f-below", *parts)


def _faces(view: View, floor: Floor) -> Shape:
    """The walls of the room in hand to be chosen by pointer; by keyboard they are chosen in the notebook."""
    if floor.where is None or floor.whole:
        return group("f-faces")
    room = view.drawing.get(floor.where.handle, Room)
    chosen = _wall_in_hand(view, room)
    parts: list[Shape | None] = []
    for wall in floor.where.walls:
        a, b = floor.to_px(wall.start), floor.to_px(wall.end)
        face = line(*a, *b, "face-hit" + (" is-selected" if wall.number == chosen else ""))
        words = shape("title", text=f"wall {wall.number}")
        parts.append(
            shape(
                "a", words, face, href=f"?wall={wall.number}", data_live="", tabindex=-1, aria_hidden="true"
            )
        )
    return group("f-faces", *parts)


def _underlay(view: View, floor: Floor) -> Shape:
    """The lines of imported drawings on this storey; of the one selected each stretch can be chosen to scale
    by.
    """
    here = view.drawing.get(view.room, Room).storey if view.room else None
    parts: list[Shape | None] = []
    for handle, underlay in view.drawing.of(Underlay).items():
        if underlay.storey != here:
            continue
        chosen = handle == view.selected
        for n, found in enumerate(underlay.lines):
            if found.layer in underlay.off:
                continue
            points = [floor.to_px(c) for c in underlay.placed(n)]
            parts.append(path(points, "underlay", close=found.closed))
            if chosen and len(points) <= 60:
                parts += [
                    _stretch(handle, n, k=k, a=a, b=b, view=view) for k, (a, b) in enumerate(pairwise(points))
                ]
    return group("f-underlay", *parts)


def _stretch(handle: str, n: int, k: int, a: Px, b: Px, view: View) -> Shape:
    picked = view.params.get("line") == f"{n}.{k}"
    hit = line(*a, *b, "underlay-hit" + (" is-selected" if picked else ""))
    words = f"stretch {k + 1} of line {n + 1}"
    return shape(
        "a",
        shape("title", text=words),
        hit,
        href=f"?sel={handle}&line={n}.{k}",
        data_live="",
        aria_label=words,
    )


def _old_boxes(view: View, floor: Floor) -> Shape:
    """Boxes that are there already: broken outline."""
    parts: list[Shape | None] = []
    for handle, old in view.drawing.of(OldBox).items():
        where = floor.shown.get(old.room)
        if where is None or old.wall > len(where.walls):
            continue
        if old.wall:
            wall = where.walls[old.wall - 1]
            x, y = floor.to_px(wall.at(old.at.mm if old.at else 0.0))
            x, y = x + wall.normal[0] * STAND_OFF, y + wall.normal[1] * STAND_OFF
        else:
            x, y = floor.to_px(
                (
                    where.origin[0] + (old.x.mm if old.x else 0.0),
                    where.origin[1] + (old.y.mm if old.y else 0.0),
                )
            )
        parts.append(floor.old_box(handle, (x, y), handle == view.selected))
    return group("f-old", *parts)


def _draw(view: View, floor: Floor) -> Shape:
    """For the script: a room without walls can be dragged on the floor, at whole inches or 5 cm."""
    empty = view.room is not None and not view.drawing.get(view.room, Room).sides
    if not empty or not view.may_edit:
        return group("f-draw")
    to_px = floor.to_px
    metric = floor.unit == "mm"
    return group(
        "f-draw",
        data_scale=to_px.scale,
        data_left=to_px.left,
        data_top=to_px.top,
        data_unit=floor.unit,
        data_step=50.0 if metric else 25.4,
    )


def _pen(view: View, floor: Floor) -> Shape:
    """While the walls do not close: the pen, the way back to the start, and a wall being typed."""
    where = floor.where
    if where is None or not where.walls:
        start = floor.to_px(where.origin if where else (0.0, 0.0))
        return group(
            "f-pen",
            circle(*start, 6, "pen"),
            text(start[0] + 12, start[1] + 5, "start here", "label", "start"),
        )
    typed = _typed(view, floor)
    if where.closed and not typed:
        return group("f-pen")
    begin, here = floor.to_px(where.walls[0].start), floor.to_px(where.walls[-1].end)
    parts: list[Shape | None] = [circle(*begin, 5, "pen-start")]
    if not where.closed:
        parts.append(line(*here, *begin, "way-back"))
        gap = format_length(where.misclosure, floor.unit)
        parts.append(
            text(
                (here[0] + begin[0]) / 2 + 8,
                (here[1] + begin[1]) / 2 - 8,
                f"{gap} to the start",
                "label",
                "start",
            )
        )
    if typed:
        parts.append(path([here, typed], "ghost-wall"))
    return group("f-pen", *parts, circle(*(typed or here), 6, "pen"))


def _typed(view: View, floor: Floor) -> tuple[float, float] | None:
    """Where the wall in the typed words would end."""
    words = view.params.get("typing", "")
    if not words or floor.where is None or view.room is None:
        return None
    try:
        edit = read(words, walk(view, view.params), view.drafts())
    except (Misread, UnreadableLength):
        return None
    if not isinstance(edit, WalkSide):
        return None
    dx, dy = step(edit.bearing, edit.length.mm)
    x, y = floor.where.walls[-1].end
    return floor.to_px((x + dx, y + dy))


def dock(view: View) -> Dock:
    """The tape line and the notebook of walls."""
    if view.room is None:
        return Dock(uses=USES, room=None)
    room, where = view.drawing.get(view.room, Room), view.plan.rooms[view.room]
    sides = [
        SideRow(
            n=n,
            way=bearing_words(side.bearing),
            length=side.length,
            typed=side.length.typed or format_length(side.length.mm, view.drawing.house.unit),
            shown=wall.length,
        )
        for n, (side, wall) in enumerate(zip(room.sides, where.walls, strict=False), 1)
    ]
    said = _reading(view)
    return Dock(
        uses=USES,
        storeys=view.drawing.of(Storey),
        room=room,
        sides=sides,
        bearing=bearing_words(bearing(view, view.params)),
        bearings=list(BEARINGS),
        reading=said.words,
        misread=said.misread,
        tape_ready=view.item is None or isinstance(view.item, Room),
        asked=to_measure(view.plan),
        strip=(
            walls_unrolled(
                view.plan, view.room, view.selected, STRIP, 0 if where.closed else len(where.walls)
            )
        ),
    )


class _Said(NamedTuple):
    """How a line that is being typed is read; or why it cannot be, yet."""

    words: str
    misread: bool = False


def _reading(view: View) -> _Said:
    """What the words being typed are read as, or what is wrong with them."""
    words = view.params.get("typing", "")
    if not words or view.room is None:
        return _Said("")
    try:
        edit = read(words, walk(view, view.params), view.drafts())
    except (Misread, UnreadableLength) as error:
        return _Said(str(error), misread=True)
    if isinstance(edit, WalkSide):
        return _Said(
            f"{bearing_words(edit.bearing)} {format_length(edit.length.mm, view.drawing.house.unit)}"
        )
    return _Said(edit.words(view.drawing))


def _only(item: Item | None, kind: type[T]) -> T | None:
    """What is selected, where it is of a kind."""
    return item if isinstance(item, kind) else None


def _or_not_looked(choices: Choices) -> list[tuple[str, str]]:
    """The answers to something that is looked at, or that nobody has."""
    return [(value, words if value else "not looked") for value, words in choices]


_MATERIALS = [(m, {"": "not looked", "none": "no box at all"}.get(m, m)) for m in get_args(Material)]


def workings(view: View) -> Workings:
    """The selected thing, or the room: how it closes and what it is built of."""
    room = view.drawing.get(view.room, Room) if view.room else None
    item = view.item
    wall = _wall_in_hand(view, room)
    flags, measures = _of_wall(room, wall) if room and wall else ([], [])
    old = _only(item, OldBox)
    inside = _looked_into(view, old) if old else _Inside([], [], [], [])
    underlay = _only(item, Underlay)
    return Workings(
        room=room,
        square=room is not None and all(abs(side.bearing % 90) < 1e-9 for side in room.sides),
        room_handle=view.room,
        where=view.plan.rooms[view.room] if view.room else None,
        uses=USES,
        surfaces=SURFACES,
        wall=wall,
        build=room.build(wall) if room and wall else None,
        wall_flags=flags,
        wall_measures=measures,
        opening=_only(item, Opening),
        join=_join(view),
        misfit=_misfit(view),
        panel=_only(item, Panel),
        body=_only(item, Body),
        old=old,
        wires=inside.wires,
        read_there=inside.read_there,
        cables_are=inside.cables_are,
        shots=inside.shots,
        carries=CARRIES.items(),
        errands=[(k.name, k.words) for k in KINDS.values()],
        true_false=(("true", "yes"), ("false", "no")),
        yes_no_open=(("", "not looked"), ("true", "yes"), ("false", "no")),
        ahead=_or_not_looked(ahead_words(view.plan.practice)),
        conditions=_or_not_looked(CONDITIONS),
        grounds=_or_not_looked(GROUNDS),
        materials=_MATERIALS,
        serves=[("", "not looked"), *((k, k) for k in sources().local(view.plan.practice).circuits)],
        feeders=_feeders(view),
        underlay=_traced(view, underlay) if underlay else None,
        underlays=view.drawing.of(Underlay),
        limit=practices.load(view.drawing.house.practice)[rules.ROOM_CLOSES],
        closing=next((f for f in _closing(view)), None),
        open_or_finished=[("false", "open framing"), ("true", "finished")],
        yes_no=[("", "not looked at"), ("yes", "yes"), ("no", "no")],
        grades=[("", "as the storey, or not told"), ("below", "below it"), ("above", "level or above")],
        held=held_by(view.drawing, view.room) if view.room else [],
        storey=_only(item, Storey),
        storey_rooms=_rooms_on(view),
        storeys=_storeys(view),
        way=bearing_words(room.sides[wall - 1].bearing) if room and wall else "",
        things=_things(view),
    )


_FLAGS = (
    ("exterior", "Exterior"),
    ("insulated", "Insulated"),
    ("bearing", "Bearing"),
    ("closed", "Closed up"),
)
_MEASURES = (
    ("spacing", "Studs on center"),
    ("first", "First stud from its start"),
    ("depth", "Stud depth"),
    ("board", "Surface thickness"),
)


def _of_wall(room: Room, wall: int) -> tuple[list[tuple[str, str, Any]], list[tuple[str, str, str]]]:
    """What is so of a wall, and what it measures, each under its label."""
    build, studs = room.build(wall), room.studs_of(wall)
    flags = [(field, label, getattr(build, field)) for field, label in _FLAGS]
    return flags, [(field, label, getattr(studs, field).typed) for field, label in _MEASURES]


def _misfit(view: View) -> Misfit | None:
    """Where the selected opening, or the join that is selected, does not close up."""
    for misfit in view.plan.placement.misfits:
        if view.selected in (misfit.join, view.drawing.get(misfit.join, Join).opening):
            return misfit
    return None


def _things(view: View) -> list[tuple[Handle, str, Any]]:
    """What stands in the room in hand."""
    kinds = Opening | Panel | Body | OldBox
    return [
        (handle, _kind(item), item)
        for handle, item in view.drawing.items.items()
        if isinstance(item, kinds) and item.room == view.room
    ]


class _Inside(NamedTuple):
    """What was seen and read in an old box."""

    wires: list[tuple[OldCable, list[tuple[Lead, str]]]]
    read_there: list[Kept]
    cables_are: list[tuple[str, str, str]]
    shots: list[Shot]


def _join(view: View) -> tuple[Handle, Join] | None:
    """What the opening in hand joins."""
    joins = view.drawing.of(Join).items()
    return next(((h, join) for h, join in joins if join.opening == view.selected), None)


def _feeders(view: View) -> list[tuple[str, str]]:
    """What a panel can be fed from."""
    return [("", "the service"), *((q, f"{q} {c.name}") for q, c in view.drawing.of(Circuit).items())]


def _rooms_on(view: View) -> list[Handle]:
    """The rooms of the storey in hand."""
    return [h for h, room in view.drawing.of(Room).items() if room.storey == view.selected]


def _storeys(view: View) -> list[tuple[str, str]]:
    return [("", "Ground floor"), *((h, s.name) for h, s in view.drawing.of(Storey).items())]


def _looked_into(view: View, old: OldBox) -> _Inside:
    return _Inside(
        wires=_wires(old),
        read_there=readings_of(view.job, Handle(view.selected), as_found(old)),
        cables_are=_cables_are(view, old),
        shots=shots_of(view.job).get(view.selected, []),
    )


def _wires(old: OldBox) -> list[tuple[OldCable, list[tuple[Lead, str]]]]:
    """The cables of an old box, each conductor with what it lands on."""
    return [
        (cable, [(lead, old.landing(end)) for lead, end in zip(cable.leads, cable.ends, strict=True)])
        for cable in old.cables
    ]


def _cables_are(view: View, old: OldBox) -> list[tuple[str, str, str]]:
    """What the cables of an old box are by the readings that came with it, and how sure that is; nothing
    before any.
    """
    box = as_found(old)
    taken = tuple(k.reading for k in counting(readings_of(view.job, Handle(view.selected), box)) if k.reading)
    if not taken:
        return []
    try:
        found = infer(replace(box, readings=taken), view.plan.practice, MEMO)
    except NotAsked:
        return []
    return [(c.id, ROLES[c.role] if c.word != "contradictory" else "not known", c.word) for c in found.cables]


def _kind(item: Opening | Panel | Body | OldBox) -> str:
    """What a thing is called in a list."""
    if isinstance(item, Panel):
        return "panel"
    return f"old {item.holds}" if isinstance(item, OldBox) else item.kind


def _wall_in_hand(view: View, room: Room | None) -> int:
    """The wall chosen in the address, if the room has it."""
    asked = view.params.get("wall", "")
    wall = whole_number(asked) or 0
    return wall if room and 1 <= wall <= len(room.sides) else 0


def _traced(view: View, underlay: Underlay) -> Traced:
    """An underlay's layers, the stretch chosen to scale by, and the closed lines that could be rooms."""
    n, k = (whole_number(part) for part in view.params.get("line", "").partition(".")[::2])
    chosen = None
    if n is not None and k is not None and n < len(underlay.lines) and k + 1 < len(underlay.lines[n].points):
        chosen = TracedLine(line=n, part=k, length=underlay.stretch(n, k))
    rooms = []
    for number, found in enumerate(underlay.lines):
        size = abs(area(underlay.placed(number))) / 1e6 if found.closed else 0.0
        if found.closed and found.layer not in underlay.off and 0.5 <= size <= 500:
            rooms.append((number, found, size))
    layers = sorted({found.layer for found in underlay.lines})
    counts = {name: sum(found.layer == name for found in underlay.lines) for name in layers}
    return Traced(item=underlay, layers=counts, chosen=chosen, rooms=rooms[:40])


def _closing(view: View) -> list[Finding]:
    return [f for f in survey.check(view.plan) if f.rule.id == rules.ROOM_CLOSES.id and f.working]


SURVEY = Waypoint(
    name="survey",
    title="Survey",
    layers=layers,
    dock=dock,
    workings=workings,
    actions=ACTIONS,
    previews=True,
    names=True,
)
