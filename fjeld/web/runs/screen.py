"""Runs: the way of every cable, its length as a sum, and the trees on offer."""

from __future__ import annotations

import itertools
import math
from typing import Any

from fjeld.derive.facts.tally import tally
from fjeld.derive.holes import steel_plates
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import guards
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place, Remove, Revise, Together
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Cable, Circuit, Control, Point
from fjeld.graphics.floor import Floor
from fjeld.graphics.labels import place_labels
from fjeld.graphics.shapes import Shape, circle, group, path, shape, text
from fjeld.practice import rules
from fjeld.propose.heed import Heed
from fjeld.propose.offers import Offer, offer
from fjeld.propose.protection import on_load_side
from fjeld.propose.rings import close, open_again
from fjeld.propose.trees import Feed
from fjeld.quantities import Length
from fjeld.web.http.actions import action
from fjeld.web.http.search import Search, await_all, forget_stopped, search
from fjeld.web.http.typed_over import COMMON
from fjeld.web.http.view import View
from fjeld.web.http.waypoint import Waypoint
from fjeld.web.runs.panels import CableRow, Dock, Ends, Offered, Sides, Workings

FEEDS: dict[Feed, str] = {
    "switch": "Feed at the switch",
    "light": "Feed at the light",
    "cheapest": "Whatever is cheapest",
}


def feeds_of(view: View, circuit: Handle) -> tuple[Feed, ...]:
    """The trees that differ for a circuit: where it is fed matters only where something on it is switched."""
    mine = view.plan.circuits[circuit].boxes
    switched = any({load.point for load in c.loads} & {*mine} for c in view.drawing.of(Control).values())
    return tuple(FEEDS) if switched else ("cheapest",)


def offered(view: View, circuit: Handle, feed: Feed) -> Search[Offer | None]:
    """The search for a tree to offer; one a drawing."""

    def look(heed: Heed) -> Offer | None:
        return offer(view.plan, circuit, feed, view.drafts(), heed)

    return search(view.job.pk, view.drawing, ("tree", circuit, feed), look)


def _looked_for(view: View) -> dict[Feed, Search[Offer | None]]:
    """The searches of the circuit in hand, each given its moment."""
    circuit = circuit_in_hand(view)
    if (
        circuit is None
        or not view.plan.circuits[circuit].tree.edges
        or view.plan.circuits[circuit].circuit.ring
    ):
        return {}
    feeds = feeds_of(view, circuit)
    if view.params.get("again"):
        for feed in feeds:
            forget_stopped(view.drawing, ("tree", circuit, feed))
    found = {feed: offered(view, circuit, feed) for feed in feeds}
    await_all(list(found.values()))
    return found


def circuit_in_hand(view: View) -> Handle | None:
    """The circuit of what is selected, else the one asked for, else the first."""
    item = view.item
    wanted = (
        item.circuit
        if isinstance(item, Cable)
        else Handle(view.selected)
        if isinstance(item, Circuit)
        else Handle(view.params.get("circuit", ""))
    )
    # Without a panel no circuit is worked out, whatever is selected.
    if wanted in view.plan.circuits:
        return wanted
    of = [q for q, plan in view.plan.circuits.items() if view.selected in plan.boxes]
    return of[0] if of else min(view.plan.circuits, key=order, default=None)


@action
def _take(view: View, feed: str, circuit: Handle) -> Edit:
    if feed not in FEEDS or circuit not in view.plan.circuits:
        raise EditRefused("there is no such tree on offer")
    found = offer(view.plan, circuit, feed, view.drafts())
    if found is None:
        raise EditRefused(f"no tree of {circuit} can be {FEEDS[feed].lower()}")
    return found.edit


@action
def _measured(view: View, handle: Handle, value: Length | None = None) -> Edit:
    """A length held up by hand; left empty, the computed one holds again."""
    return Revise(handle, {"measured": value}, f"Measure {handle} by hand")


@action
def _gauge(view: View, handle: Handle, gauge: str = "") -> Edit:
    """This piece of a gauge of its own, which a person then holds to; of its circuit's again where it is that
    or empty.
    """
    cable = view.drawing.items.get(handle)
    if not isinstance(cable, Cable):
        raise EditRefused(f"{handle} is no longer there")
    usual = view.drawing.get(cable.circuit, Circuit).gauge
    if gauge in ("", usual):
        return Revise(
            handle, {"gauge": ""}, f"Make {handle} of gauge {usual}, as the rest of {cable.circuit}"
        )
    return Revise(
        handle, {"gauge": gauge, "by": "person", "state": "pinned"}, f"Make {handle} of gauge {gauge}"
    )


@action
def _side(view: View, handle: Handle, side: str) -> Edit:
    """Which side of the protective outlet at its upper end a cable hangs on."""
    upper = _upper_end(view, handle)
    if side not in ("line", "load"):
        raise EditRefused("a cable hangs on the line side or on the load side")
    if upper is None or upper not in guards(view.drawing.of(Point)):
        raise EditRefused(f"{handle} does not come from a protective outlet")
    return on_load_side(
        handle,
        side == "load",
        f"Join {handle} to the load side of {upper}" if side == "load" else f"Join {handle} ahead of {upper}",
    )


def _upper_end(view: View, handle: Handle) -> Handle | None:
    """The box that a cable comes from, seen from the panel."""
    edges = (edge for circuit in view.plan.circuits.values() for edge in circuit.tree.edges)
    return next((edge.up for edge in edges if edge.cable == handle), None)


def _sides(view: View, handle: Handle) -> Sides | None:
    """The protective outlet that a cable comes from, what lies beyond, and whether it is covered; None where
    there is none.
    """
    upper = _upper_end(view, handle)
    if upper is None or upper not in guards(view.drawing.of(Point)):
        return None
    circuit = view.plan.circuits[view.drawing.get(handle, Cable).circuit]
    beyond = sorted(circuit.tree.beyond[handle], key=order)
    return Sides(device=upper, load=view.drawing.get(handle, Cable).load_side, beyond=beyond)


@action
def _ring(view: View, circuit: Handle) -> Edit:
    """The circuit in hand closed to a ring, or opened again."""
    if circuit not in view.plan.circuits or rules.RING_CLOSED not in view.plan.practice:
        raise EditRefused("there is no circuit that can be a ring")
    if view.plan.circuits[circuit].circuit.ring:
        return open_again(view.plan, circuit)
    closed = close(view.plan, circuit, view.drafts())
    if closed is None:
        raise EditRefused(f"put outlets on {circuit} before it is closed to a ring")
    return closed


@action
def _join(view: View, a: Handle, b: Handle) -> Edit:
    circuit = circuit_in_hand(view)
    if circuit is None:
        raise EditRefused("make a circuit first")
    _require_ends(view, a, b, circuit)
    handle = view.drafts().fresh("cable")
    cable = Cable(a, b, circuit, by="person", state="pinned")
    return Place({handle: cable}, f"cable {handle} from {cable.a} to {cable.b}")


def _require_ends(view: View, a: Handle, b: Handle, circuit: Handle) -> None:
    """Two boxes, or the panel and a box: a circuit may pass through boxes that are not its own. Others are
    refused in words.
    """
    for end in (a, b):
        if end not in _source_and_panels(view, circuit) and end not in view.plan.boxes:
            raise EditRefused(f"{end} is no box of this job, nor where {circuit} begins")
    if a == b:
        raise EditRefused("that joins a box to itself; a cable joins two")


def _ends_of(view: View, circuit: Handle | None) -> Ends:
    """Where a cable of a circuit can end: the panel and its own boxes, and those of others that it can pass
    through.
    """
    plan = view.plan
    own = dict.fromkeys(map(plan.home, plan.circuits[circuit].boxes)) if circuit in plan.circuits else {}
    ends = _source_and_panels(view, circuit) if circuit else ()
    others = [h for h in view.plan.boxes if h not in own and h in view.plan.placed]
    return Ends(own=[*ends, *own], others=sorted(others, key=order))


def _source_and_panels(view: View, circuit: Handle) -> tuple[Handle, ...]:
    """Where a circuit begins, and the panels that it feeds."""
    figured = view.plan.circuits.get(circuit)
    return (figured.source, *figured.panels) if figured else ()


def _through(view: View, circuit: Handle) -> tuple[Handle, ...]:
    figured = view.plan.circuits.get(circuit)
    return figured.through if figured else ()


@action
def _other_ends(view: View, handle: Handle, a: Handle, b: Handle) -> Edit:
    """Other ends for a standing cable, which a person then holds to."""
    cable = view.drawing.items.get(handle)
    if not isinstance(cable, Cable):
        raise EditRefused(f"{handle} is no longer there")
    _require_ends(view, a, b, cable.circuit)
    fields = {"a": a, "b": b, "by": "person", "state": "pinned", "measured": None}
    return Revise(handle, fields, f"Lead {handle} from {a} to {b}")


@action
def _lead_through(view: View, handle: Handle, box: Handle) -> Edit:
    """A standing cable led through another box on its way: two pieces, which a person then holds to."""
    cable = view.drawing.items.get(handle)
    if not isinstance(cable, Cable):
        raise EditRefused(f"{handle} is no longer there")
    figured = view.plan.circuits.get(cable.circuit)
    if box not in view.plan.boxes or (figured and box in figured.boxes):
        raise EditRefused(f"{box} is no box of another circuit")
    rest = view.drafts().fresh("cable")
    held = {"by": "person", "state": "pinned"}
    first = Revise(handle, {"b": box, "measured": None, **held})
    second = Place(
        {rest: Cable(box, cable.b, cable.circuit, gauge=cable.gauge, by="person", state="pinned")}, ""
    )
    return Together((first, second), f"Lead {handle} through {box}")


@action
def _take_away(view: View, handle: Handle) -> Edit:
    """Take a cable away, unless its circuit would only lay the same one again."""
    for circuit in view.plan.circuits.values():
        for edge in circuit.tree.edges:
            if edge.cable == handle and view.drawing.get(handle, Cable).state == "proposed":
                raise EditRefused(
                    f"{handle} is what feeds {edge.down}: give it other ends, or take another tree"
                )
    return Remove(handle)


ACTIONS = {
    **COMMON,
    "take": _take,
    "measured": _measured,
    "gauge": _gauge,
    "side": _side,
    "ring": _ring,
    "join": _join,
    "ends": _other_ends,
    "through": _lead_through,
    "remove": _take_away,
}


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """Joists, routes of the circuit in hand in ink, the others as hairlines, and a tree being shown."""
    return {
        "f-walls": floor.walls(),
        "f-joists": floor.joists(),
        "f-openings": floor.openings(),
        "f-routes": _routes(view, floor),
        "f-ghost": _ghost(view, floor),
        "f-points": floor.points(view.selected),
    }


def _routes(view: View, floor: Floor) -> Shape:
    here = circuit_in_hand(view)
    quiet: list[Shape] = []
    loud: list[Shape] = []
    labels: list[tuple[float, float, str]] = []
    named: list[Handle] = []
    showing = bool(view.params.get("show"))
    for n, (handle, cable) in enumerate(sorted(view.plan.cables.items(), key=lambda c: order(c[0]))):
        if cable.route is None:
            continue
        points = floor.route_points(cable.route, n)
        if not points:
            # On another storey.
            continue
        if cable.cable.circuit != here or showing:
            quiet.append(path(points, "route hairline"))
            continue
        chosen = handle == view.selected
        loud += [path(points, "route-edge"), path(points, "route chosen" if chosen else "route")]
        loud += [circle(x, y, 2.6, "hole") for x, y in floor.route_holes(cable.route, n)]
        x, y = _middle(points)
        labels.append((x, y - 6, handle))
        named.append(handle)
    # Box symbols and their handles keep their room.
    taken = [(x - 15, y - 15, x + 15, y + 32) for x, y in (floor.spot(p) for p in view.plan.placed.values())]
    taken += [named.covers for named in floor.named]
    spots = place_labels(labels, taken)
    for handle, (x, y) in zip(named, spots, strict=True):
        cable = view.plan.cables[handle]
        words = f"cable {handle} from {cable.cable.a} to {cable.cable.b}"
        label = text(x, y, handle, "cable-label" + (" chosen" if handle == view.selected else ""))
        loud.append(
            shape(
                "a", shape("title", text=words), label, href=f"?sel={handle}", data_live="", aria_label=words
            )
        )
    return group("f-routes", *quiet, *loud)


def _middle(points: list[tuple[float, float]]) -> tuple[float, float]:
    """The middle of the longest stretch."""
    a, b = max(itertools.pairwise(points), key=lambda s: math.dist(*s))
    return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2


def _ghost(view: View, floor: Floor) -> Shape:
    """The tree being shown, dashed in place."""
    feed, circuit = view.params.get("show"), circuit_in_hand(view)
    if feed not in FEEDS or circuit is None or view.room is None:
        return group("f-ghost")
    found = offered(view, circuit, feed).found
    if found is None:
        return group("f-ghost")
    routes = [r for a, b in found.pairs if (r := view.plan.ways.route(a, b))]
    return group(
        "f-ghost", *(path(p, "ghost-route") for n, r in enumerate(routes) if (p := floor.route_points(r, n)))
    )


#: A bound that lies farther below what was found says nothing of it.
TELLING = 0.25


def dock(view: View) -> Dock:
    """The trees on offer against the standing one, and every cable of the circuit in hand."""
    circuit = circuit_in_hand(view)
    offers = []
    for feed, looked in _looked_for(view).items():
        found = looked.found
        offers.append(
            Offered(
                feed=feed,
                words=FEEDS[feed],
                state=looked.state,
                offer=found,
                same=bool(found and (not found.edit.fresh or abs(found.saves) < 1)),
                shown=view.params.get("show") == feed,
                above=f"{100 * found.above:.0f} %" if found and found.above <= TELLING else "",
            )
        )
    return Dock(
        circuit=circuit,
        circuits=list(view.plan.circuits),
        offers=offers,
        searching=any(o.state == "running" for o in offers),
        stopped=any(o.state == "stopped" for o in offers),
        rings=rules.RING_CLOSED in view.plan.practice and circuit is not None,
        ringed=circuit in view.plan.circuits and view.plan.circuits[circuit].circuit.ring,
        cables=cable_rows(view.plan, circuit),
        ends=_ends_of(view, circuit),
    )


def cable_rows(plan: Plan, circuit: Handle | None) -> list[CableRow]:
    """A line a cable: kind, ends, route, cut, staples, holes."""
    runs: dict[Handle, list[Any]] = {}
    for run in plan.runs():
        runs.setdefault(run.cable, []).append(run)
    return [
        CableRow(
            handle=h,
            cable=c,
            kinds=" + ".join(r.kind.id for r in runs.get(h, [])) or "—",
            pieces=len(runs.get(h, [])),
            staples=len(runs.get(h, [])) * len(c.staples),
        )
        for h, c in sorted(plan.cables.items(), key=lambda c: order(c[0]))
        if c.cable.circuit == circuit
    ]


def workings(view: View) -> Workings:
    """The selected cable: its cut length written out, and what it asks of the framing."""
    handle = Handle(view.selected)
    cable = view.plan.cables.get(handle) if isinstance(view.item, Cable) else None
    rows = [r for r in cable_rows(view.plan, cable.cable.circuit) if r.handle == handle] if cable else []
    return Workings(
        cable=cable,
        handle=view.selected,
        kinds=rows[0].kinds if rows else "",
        pieces=rows[0].pieces if rows else 0,
        staples=rows[0].staples if rows else 0,
        ends=_ends_of(view, cable.cable.circuit) if cable else None,
        through=(
            [b for b in _through(view, cable.cable.circuit) if b in (cable.cable.a, cable.cable.b)]
            if cable
            else []
        ),
        gauges=view.plan.practice.catalogue.wired_gauges(),
        gauge=(cable.cable.gauge or view.drawing.get(cable.cable.circuit, Circuit).gauge) if cable else "",
        sides=_sides(view, handle) if cable else None,
        plates=steel_plates(view.plan.holes).get(handle, 0),
        totals=tally(view.plan),
    )


RUNS = Waypoint(
    name="runs",
    title="Runs",
    layers=layers,
    dock=dock,
    workings=workings,
    actions=ACTIONS,
    searches=True,
    on_site=frozenset({"measured"}),
)
