"""Whether a drawing hangs together: every reference names something of the right kind.

A problem here means that the drawing cannot be computed at all, so an edit or a file
that would cause one is refused. What is merely wrong by a rule is a finding instead.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator

import msgspec

from fjeld import practice
from fjeld.drawing import extents
from fjeld.drawing.building import Body, Join, Opening, Panel, Room, Storey, Underlay
from fjeld.drawing.handles import HOUSE, Handle, is_handle
from fjeld.drawing.model import (
    PARTS,
    Cable,
    Circuit,
    Control,
    Drawing,
    House,
    Item,
    LoadRef,
    Photometry,
    Point,
    Standing,
    first_panel,
)
from fjeld.drawing.old_box import Device, OldBox
from fjeld.practice import rules
from fjeld.practice.devices import screws_of
from fjeld.quantities import Length

#: More of anything than a house has; beyond these no page would be worked out in time.
LIMITS = {
    "items": 5000,
    "points": 1500,
    "points in a room": 250,
    "rooms": 200,
    "controls at a box": 6,
    "underlay points": 20_000,
}


class Problem(msgspec.Struct, frozen=True):
    """What is wrong, and the path to it as in the job file."""

    path: str
    words: str

    def __str__(self) -> str:
        return f"{self.path}: {self.words}"


class InvalidDrawing(ValueError):
    """A drawing that cannot be computed; ``problems`` says why and where."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(str(p) for p in problems[:3]))
        self.problems = problems


def require_valid(drawing: Drawing) -> Drawing:
    """The same drawing; raises :class:`InvalidDrawing`."""
    problems = list(problems_of(drawing))
    if problems:
        raise InvalidDrawing(problems)
    return drawing


def require_no_worse(before: Drawing, after: Drawing) -> Drawing:
    """``after``; raises :class:`InvalidDrawing` for the problems that ``before`` did not have.

    What an older program took may lie beyond what is taken now; that must not stand in the
    way of putting it right.
    """
    problems = list(problems_of(after))
    if problems and (brought := [p for p in problems if p not in set(problems_of(before))]):
        raise InvalidDrawing(brought)
    return after


def problems_of(drawing: Drawing) -> Iterator[Problem]:
    """Every broken reference, and every value that no computation could use."""
    if not isinstance(drawing.items.get(HOUSE), House):
        yield Problem("house", "the job's own choices are missing")
        return
    if len(drawing.items) > LIMITS["items"]:
        yield Problem("house", f"more than {LIMITS['items']} items")
        return
    beyond = [p for handle, item in drawing.items.items() for p in _outside(drawing, handle, item)]
    yield from beyond
    if beyond:
        # What is out of all measure is not looked at any further.
        return
    yield from _house(drawing)
    if drawing.house.practice not in practice.available():
        return
    yield from _too_many(drawing)
    yield from _controls(drawing)
    yield from _panels(drawing)
    for handle, item in drawing.items.items():
        yield from _of_item(drawing, handle, item)


def _of_item(drawing: Drawing, handle: str, item: Item) -> Iterator[Problem]:
    """What is wrong with one thing that is drawn."""
    match item:
        case Room():
            yield from _room(drawing, handle, item)
        case OldBox():
            yield from _placed(drawing, handle, item)
            yield from _names(handle, item)
        case Opening() | Panel() | Body() | Point():
            yield from _placed(drawing, handle, item)
        case Join():
            yield from _join(drawing, handle, item)
        case Underlay():
            yield from _underlay(drawing, handle, item)
        case Photometry():
            yield from _photometry(handle, item)
        case Circuit():
            yield from _circuit(drawing, handle, item)
        case Cable():
            yield from _cable(drawing, handle, item)


def _outside(drawing: Drawing, handle: str, item: Item) -> Iterator[Problem]:
    if not is_handle(handle):
        yield Problem(handle[:40], "is not a handle; write a capital letter and a number, like S12")
    for path, words in extents.outside(item, drawing.house.unit):
        yield Problem(f"{handle}.{path}", words)


def _too_many(drawing: Drawing) -> Iterator[Problem]:
    points = drawing.of(Point)
    rooms = Counter(p.room for p in points.values())
    if len(points) > LIMITS["points"]:
        yield Problem("house", f"more than {LIMITS['points']} boxes")
    if len(drawing.of(Room)) > LIMITS["rooms"]:
        yield Problem("house", f"more than {LIMITS['rooms']} rooms")
    for room, count in rooms.items():
        if count > LIMITS["points in a room"]:
            yield Problem(f"{room}", f"more than {LIMITS['points in a room']} boxes in one room")


def _house(drawing: Drawing) -> Iterator[Problem]:
    house = drawing.house
    if house.practice not in practice.available():
        yield Problem(
            "house.practice", f"no practice “{house.practice}”; there is {', '.join(practice.available())}"
        )
        return
    for n, amendment in enumerate(house.amendments):
        try:
            practice.load(house.practice).amended((amendment,))
        except practice.UnknownRule as error:
            yield Problem(f"house.amendments[{n}]", str(error))
        if not amendment.reason.strip():
            yield Problem(f"house.amendments[{n}].reason", "a local value needs its reason")


def _room(drawing: Drawing, handle: str, room: Room) -> Iterator[Problem]:
    if room.storey is not None and not isinstance(drawing.items.get(room.storey), Storey):
        yield Problem(f"{handle}.storey", f"there is no storey {room.storey}")
    for wall in room.builds:
        if not 1 <= wall <= len(room.sides):
            yield Problem(f"{handle}.builds", f"there is no wall {wall}")
    if room.slope is not None and not 1 <= room.slope.wall <= len(room.sides):
        yield Problem(f"{handle}.slope", f"there is no wall {room.slope.wall}")
    for n, check in enumerate(room.diagonals):
        if not (1 <= check.a <= len(room.sides) and 1 <= check.b <= len(room.sides)) or check.a == check.b:
            yield Problem(f"{handle}.diagonals[{n}]", "a diagonal runs between two corners, numbered from 1")
    for n, side in enumerate(room.sides):
        if side.length.mm <= 0 and not side.length.unknown:
            yield Problem(f"{handle}.walls[{n}]", "a wall has no length")


def _join(drawing: Drawing, handle: str, join: Join) -> Iterator[Problem]:
    opening, room = drawing.items.get(join.opening), drawing.items.get(join.room)
    if not isinstance(opening, Opening):
        yield Problem(f"{handle}.opening", f"there is no opening {join.opening}")
    elif opening.room == join.room:
        yield Problem(f"{handle}.room", f"{join.opening} would join {join.room} to itself")
    if not isinstance(room, Room):
        yield Problem(f"{handle}.room", f"there is no room {join.room}")
    elif not 1 <= join.wall <= len(room.sides):
        yield Problem(f"{handle}.wall", f"{join.room} has no wall {join.wall}")
    if any(j.opening == join.opening and h < handle for h, j in drawing.of(Join).items()):
        yield Problem(f"{handle}.opening", f"{join.opening} already leads somewhere")


def _underlay(drawing: Drawing, handle: str, underlay: Underlay) -> Iterator[Problem]:
    if sum(len(found.points) for found in underlay.lines) > LIMITS["underlay points"]:
        yield Problem(f"{handle}.lines", f"more than {LIMITS['underlay points']} points")
    if underlay.storey is not None and not isinstance(drawing.items.get(underlay.storey), Storey):
        yield Problem(f"{handle}.storey", f"there is no storey {underlay.storey}")


def _photometry(handle: str, found: Photometry) -> Iterator[Problem]:
    if len(found.angles) != len(found.candela) or len(found.angles) < 2:
        yield Problem(f"{handle}.candela", "wants one candela value for each angle, two at least")
    elif list(found.angles) != sorted(set(found.angles)):
        yield Problem(f"{handle}.angles", "angles rise")


def _free(
    handle: str, on_wall: bool, at: Length | None, x: Length | None, y: Length | None
) -> Iterator[Problem]:
    if on_wall and at is None:
        yield Problem(f"{handle}.at", "what is on a wall needs its distance along it")
    if not on_wall and (x is None or y is None):
        yield Problem(f"{handle}.x", "what is on no wall needs x and y")


def _placed(drawing: Drawing, handle: str, item: Standing) -> Iterator[Problem]:
    room = drawing.items.get(item.room)
    if not isinstance(room, Room):
        yield Problem(f"{handle}.room", f"there is no room {item.room}")
        return
    on_wall = isinstance(item, Opening | Panel) or item.wall != 0
    if on_wall and not 1 <= item.wall <= len(room.sides):
        yield Problem(f"{handle}.wall", f"{item.room} has no wall {item.wall}")
    if isinstance(item, Body | OldBox | Point):
        yield from _free(handle, on_wall, item.at, item.x, item.y)
    if isinstance(item, Point):
        yield from _within(drawing, handle, item)
        yield from _goes_with(drawing, handle, item)


def _goes_with(drawing: Drawing, handle: str, point: Point) -> Iterator[Problem]:
    """What a point is over, is measured by, and is fed from is there; and so is its box."""
    measured = point.fitting.photometry if point.fitting else ""
    for field, named, kind, words in (
        ("over", point.over, Body, "body"),
        ("fitting.photometry", measured or None, Photometry, "photometry"),
        ("circuit", point.circuit, Circuit, "circuit"),
    ):
        if named is not None and not isinstance(drawing.items.get(Handle(named)), kind):
            yield Problem(f"{handle}.{field}", f"there is no {words} {named}")
    if point.box and practice.load(drawing.house.practice).catalogue.box(point.box) is None:
        yield Problem(f"{handle}.box", f"the catalogue has no box “{point.box}”")


def _within(drawing: Drawing, handle: str, point: Point) -> Iterator[Problem]:
    """What sits in another's box: a switch or outlet with a switch or outlet, on a wall, in one room."""
    if point.within is None:
        return
    host = drawing.items.get(point.within)
    if not isinstance(host, Point) or host.kind not in ("switch", "outlet") or not host.wall:
        yield Problem(f"{handle}.within", f"{point.within} is no switch or outlet on a wall")
    elif point.kind not in ("switch", "outlet"):
        yield Problem(f"{handle}.within", f"a {point.kind} does not sit in another's box")
    elif host.within is not None or point.within == handle:
        yield Problem(f"{handle}.within", f"{point.within} has no box of its own")
    elif host.room != point.room:
        yield Problem(f"{handle}.within", f"{point.within} is in another room")
    elif point.protective:
        yield Problem(f"{handle}.within", "a protective outlet has a box of its own")


def _controls(drawing: Drawing) -> Iterator[Problem]:
    controls = drawing.of(Control)
    sharing = Counter(position for control in controls.values() for position in control.positions)
    worked: dict[Handle, list[tuple[Handle, LoadRef]]] = {}
    for handle, control in controls.items():
        yield from _control(drawing, handle, control)
        taken = {
            (other, o) for load in control.loads for other, o in worked.get(load.point, ()) if load.meets(o)
        }
        for other in sorted({other for other, _ in taken}):
            shared = sorted(str(o) for by, o in taken if by == other)
            yield Problem(f"{handle}.loads", f"{', '.join(shared)} is already worked by {other}")
        for load in control.loads:
            worked.setdefault(load.point, []).append((handle, load))
        for position in control.positions:
            if sharing[position] > LIMITS["controls at a box"]:
                yield Problem(
                    f"{handle}.positions",
                    f"{position} would hold more than {LIMITS['controls at a box']} switches",
                )


def _control(drawing: Drawing, handle: str, control: Control) -> Iterator[Problem]:
    for n, position in enumerate(control.positions):
        point = drawing.items.get(position)
        if not isinstance(point, Point) or point.kind != "switch":
            yield Problem(f"{handle}.positions[{n}]", f"{position} is not a switch")
    if control.device in ("timer", "sensor") and len(control.positions) > 1:
        yield Problem(
            f"{handle}.device",
            f"a {control.device} works alone; of several positions the first can be a dimmer",
        )
    if len(set(control.positions)) != len(control.positions):
        yield Problem(f"{handle}.positions", "names a switch twice")
    for n, load in enumerate(control.loads):
        point = drawing.items.get(load.point)
        if not isinstance(point, Point) or point.kind in ("switch", "alarm", "junction", "blank"):
            yield Problem(f"{handle}.loads[{n}]", f"{load} is not a light, outlet or fan")
        elif load.part and load.part not in PARTS.get(point.kind, ()):
            yield Problem(f"{handle}.loads[{n}]", f"{load} names no part of a {point.kind}")


def _circuit(drawing: Drawing, handle: str, circuit: Circuit) -> Iterator[Problem]:
    yield from _gauge(drawing, handle, circuit.gauge)
    if circuit.poles > practice.load(drawing.house.practice).legs:
        yield Problem(f"{handle}.poles", "the supply of this practice has one leg")
    if circuit.ring and rules.RING_CLOSED not in practice.load(drawing.house.practice):
        yield Problem(f"{handle}.ring", "this practice has no ring circuits")
    source = drawing.items.get(circuit.source) if circuit.source is not None else None
    if circuit.source is not None and not isinstance(source, Panel | OldBox):
        yield Problem(f"{handle}.source", f"there is no panel or old box {circuit.source}")
    if circuit.found and not (isinstance(source, OldBox) and source.cable(circuit.found)):
        yield Problem(f"{handle}.found", f"there is no cable {circuit.found} where {handle} begins")


def _names(handle: str, old: OldBox) -> Iterator[Problem]:
    """Every name in an old box is of one thing, and nothing is joined or landed that is not there."""
    names = [*(c.id for c in old.cables), *(d.id for d in old.held)]
    for name, count in Counter([*names, *old.ends]).items():
        if count > 1:
            yield Problem(f"{handle}.cables", f"two are called {name[:40]}")
    for name in names:
        if not name or "." in name:
            words = f"“{name[:40]}” is no name; write a number or letters, without a dot"
            yield Problem(f"{handle}.cables", words)
    terminals = {d.at(t) for d in old.held for t in (*screws_of(d.kind), "g")}
    joined = [(n, end) for n, joint in enumerate(old.joints) for end in joint]
    for n, end in joined:
        if end not in (*old.ends, *terminals):
            yield Problem(f"{handle}.joints[{n}]", f"there is no {end[:40]} in it")
    for n, device in enumerate(old.held):
        yield from _lands(f"{handle}.held[{n}].lands", device, old, terminals)


def _lands(at: str, device: Device, old: OldBox, terminals: Collection[str]) -> Iterator[Problem]:
    """What lands on a device is there, and so is the terminal."""
    for terminal, ends in device.lands.items():
        if device.at(terminal) not in terminals:
            yield Problem(at, f"a {device.kind} has no terminal {terminal[:40]}")
        for end in ends:
            if end not in old.ends:
                yield Problem(f"{at}.{terminal[:40]}", f"there is no {end[:40]} in it")


def _panels(drawing: Drawing) -> Iterator[Problem]:
    """A panel is fed by a circuit that is there, and not, through whatever others, by itself."""
    panels = drawing.of(Panel)
    first = first_panel(drawing)
    for handle, panel in panels.items():
        if panel.circuit is None:
            continue
        if not isinstance(drawing.items.get(panel.circuit), Circuit):
            yield Problem(f"{handle}.circuit", f"there is no circuit {panel.circuit}")
            continue
        seen, here = {handle}, drawing.get(panel.circuit, Circuit).source or first
        while here is not None and here in panels and here not in seen:
            seen.add(here)
            feeder = panels[here].circuit
            if feeder is None or not isinstance(drawing.items.get(feeder), Circuit):
                break
            here = drawing.get(feeder, Circuit).source or first
        else:
            if here in seen:
                yield Problem(
                    f"{handle}.circuit", f"{handle} would be fed by itself, through {panel.circuit}"
                )


def _gauge(drawing: Drawing, handle: str, gauge: str) -> Iterator[Problem]:
    gauges = practice.load(drawing.house.practice)[rules.BREAKER_GAUGE]
    if gauge not in gauges:
        yield Problem(f"{handle}.gauge", f"no circuit cable of gauge {gauge}; there is {', '.join(gauges)}")
    elif practice.load(drawing.house.practice).catalogue.cable(gauge, 2) is None:
        yield Problem(f"{handle}.gauge", f"the catalogue has no cable of gauge {gauge}")


def _cable(drawing: Drawing, handle: str, cable: Cable) -> Iterator[Problem]:
    if not isinstance(drawing.items.get(cable.circuit), Circuit):
        yield Problem(f"{handle}.circuit", f"there is no circuit {cable.circuit}")
    if cable.gauge:
        yield from _gauge(drawing, handle, cable.gauge)
    for field, end in (("from", cable.a), ("to", cable.b)):
        if not isinstance(drawing.items.get(end), Point | Panel | OldBox):
            yield Problem(f"{handle}.{field}", f"there is no box {end}")
    if cable.a == cable.b:
        yield Problem(handle, "joins a box to itself")
