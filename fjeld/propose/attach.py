"""A new point is joined at once, by the cheapest way into the standing cables.

Only what an edit left loose is touched: cables whose boxes went are dropped, boxes not
joined are put in at the end of a cable or into the middle of one, whichever adds least
length over the floor and up the walls, keeping the job's way of feeding where it can. No
routing is done here; a better tree is found later and offered.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import msgspec

from fjeld import practice as practices
from fjeld.derive.intents import circuit_boxes, control_circuit, source_of
from fjeld.derive.places import place
from fjeld.derive.standing import lay
from fjeld.derive.tree import tree
from fjeld.drawing.building import Panel, Room
from fjeld.drawing.changes import Change, apply, between
from fjeld.drawing.edits import Edit
from fjeld.drawing.handles import Handle, Mint, order
from fjeld.drawing.model import Cable, Control, Drawing, House, LoadRef, Point, home
from fjeld.drawing.naming import named
from fjeld.drawing.old_box import OldBox
from fjeld.drawing.validate import require_no_worse
from fjeld.geometry import Point3

Ends = tuple[Handle, Handle]


def settle(drawing: Drawing, edit: Edit, mint: Mint) -> tuple[Change, ...]:
    """The changes of an edit, then those to the cables that what it left loose needs.

    One mint gives every handle, of the edit's own things first. Raises
    :class:`fjeld.drawing.edits.EditRefused`, :class:`fjeld.drawing.changes.StaleChange` and
    :class:`fjeld.drawing.validate.InvalidDrawing`.
    """
    meant: Edit = named(edit, mint)
    changes = meant.plan(drawing)
    # An edit read from elsewhere may bring handles of its own.
    mint.note(change.handle for change in changes)
    edited = require_no_worse(drawing, apply(drawing, changes))
    return (*changes, *between(edited, attached(edited, mint)))


def attached(drawing: Drawing, mint: Mint) -> Drawing:
    """The drawing with every box of every circuit joined to the tree of where it begins, if it begins
    anywhere.
    """
    members = circuit_boxes(drawing)
    sources = {q: source_of(drawing, q) for q in members}
    items = dict(drawing.items)
    # A cable that a person holds to may lead through another circuit's box; others may go on from there.
    held: dict[Handle, set[Handle]] = defaultdict(set)
    for cable in drawing.of(Cable).values():
        if cable.state != "proposed":
            held[cable.circuit] |= {cable.a, cable.b}
    for handle, cable in drawing.of(Cable).items():
        on = {*members.get(cable.circuit, ()), *held[cable.circuit], sources.get(cable.circuit)}
        if not {cable.a, cable.b} <= on and cable.state == "proposed":
            del items[handle]
    loose = Drawing(items)
    spots = _spots(loose)
    for circuit, boxes in members.items():
        source = sources[circuit]
        if source in spots:
            loose = _join(
                loose, circuit, panel=source, boxes=[b for b in boxes if b in spots], spots=spots, mint=mint
            )
    return loose


def _spots(drawing: Drawing) -> dict[Handle, Point3]:
    practice = practices.load(drawing.house.practice).amended(drawing.house.amendments)
    rooms = lay(drawing, practice).rooms
    spots: dict[Handle, Point3] = {}
    boxes: dict[Handle, Panel | Point | OldBox] = {
        **drawing.of(Panel),
        **drawing.of(Point),
        **drawing.of(OldBox),
    }
    for handle, item in boxes.items():
        where = rooms[item.room]
        if item.wall <= len(where.walls):
            spots[handle] = place(
                handle, item, room=drawing.get(item.room, Room), where=where, gangs=1, practice=practice
            ).position
    return spots


def _join(
    drawing: Drawing,
    circuit: Handle,
    panel: Handle,
    boxes: list[Handle],
    spots: dict[Handle, Point3],
    mint: Mint,
) -> Drawing:
    items = dict(drawing.items)
    cables: dict[Handle, Ends] = {h: (c.a, c.b) for h, c in drawing.of(Cable).items() if c.circuit == circuit}
    points = drawing.of(Point)
    controls = [
        # By the boxes that they are in.
        msgspec.structs.replace(
            c,
            positions=tuple(home(points, p) for p in c.positions),
            loads=tuple(LoadRef(home(points, load.point)) for load in c.loads),
        )
        for c in drawing.of(Control).values()
        if control_circuit(drawing, c) == circuit
    ]
    where = tree(panel, boxes, cables)
    waiting = sorted(
        where.unfed, key=lambda b: (_rank(drawing.house, controls, b), _far(spots, panel, b), order(b))
    )
    while waiting:
        box = waiting.pop(0)
        at = _cheapest(drawing, controls, panel=panel, box=box, cables=cables, depth=where.depth, spots=spots)
        if isinstance(at, tuple):
            cut, (up, down) = at
            fixed = items[cut]
            assert isinstance(fixed, Cable)
            items[cut] = msgspec.structs.replace(fixed, a=up, b=box, measured=None)
            cables[cut] = (up, box)
            joins = (box, down)
        else:
            joins = (at, box)
        handle = mint.fresh("cable")
        items[handle] = Cable(joins[0], joins[1], circuit)
        cables[handle] = joins
        where = tree(panel, boxes, cables)
        waiting = [b for b in waiting if b in where.unfed]
    return Drawing(items)


def _rank(house: House, controls: list[Control], box: Handle) -> int:
    """Fed at the switch, switches are joined before lights; at the light, after."""
    switch = any(box in c.positions for c in controls)
    return {"switch": int(not switch), "light": int(switch)}.get(house.feed, 0)


def _far(spots: dict[Handle, Point3], a: Handle, b: Handle) -> float:
    """Length over the floor and up the walls, mm."""
    return sum(abs(x - y) for x, y in zip(spots[a], spots[b], strict=True))


def _cheapest(
    drawing: Drawing,
    controls: list[Control],
    panel: Handle,
    box: Handle,
    cables: dict[Handle, Ends],
    depth: dict[Handle, int],
    spots: dict[Handle, Point3],
) -> Handle | tuple[Handle, Ends]:
    """The box to go on from, or the cable to go into as (cable, (upstream, downstream))."""
    laid = {
        cable: (a, b) if depth[a] < depth[b] else (b, a)
        for cable, (a, b) in cables.items()
        if a in depth and b in depth
    }
    above = {down: up for up, down in laid.values()}

    def unhappy(at: Handle, beyond: Sequence[Handle]) -> int:
        return _unhappy(drawing.house, controls, box, _path(above, at), beyond)

    ways: list[tuple[int, float, int, Handle | tuple[Handle, Ends]]] = []
    home_run = any(panel in ends for ends in cables.values())
    for n, there in enumerate(depth):
        if there != panel or not home_run:
            ways.append((unhappy(there, ()), _far(spots, there, box), n, there))
    for n, cable in enumerate(cables):
        standing = drawing.items.get(cable)
        if cable not in laid or (isinstance(standing, Cable) and standing.state != "proposed"):
            continue
        up, down = laid[cable]
        beyond = [x for x in above if down in _path(above, x)]
        added = _far(spots, up, box) + _far(spots, box, down) - _far(spots, up, down)
        ways.append((unhappy(up, beyond), added, n, (cable, (up, down))))
    return min(ways, key=lambda w: w[:3])[3]


def _path(above: dict[Handle, Handle], box: Handle) -> list[Handle]:
    path = [box]
    while path[-1] in above:
        path.append(above[path[-1]])
    return path


def _unhappy(house: House, controls: list[Control], box: Handle, path: list[Handle], beyond: object) -> int:
    """How many controls would be fed the other way around than chosen if ``box`` came after ``path``."""
    if house.feed == "cheapest":
        return 0
    wrong = 0
    for control in controls:
        loads, positions = {load.point for load in control.loads}, set(control.positions)
        first, second = (positions, loads) if house.feed == "switch" else (loads, positions)
        after = {b for b in beyond if b in second} if isinstance(beyond, list) else set()
        if box in second and not first & set(path):
            wrong += 1
        if box in first and not first & set(path) and second and not after:
            # The first switch should come before the lights that wait for it.
            wrong += bool(second & set(path))
    return wrong
