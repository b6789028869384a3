"""A fitting's sheet beside the selected box: what the maker's paper says, and what follows from it."""

from __future__ import annotations

from fjeld.derive import cords
from fjeld.derive.facts.lamps import blades
from fjeld.derive.places import Placed
from fjeld.drawing.building import Body, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Fitting, Photometry, Point
from fjeld.practice import rules
from fjeld.practice.kinds import KG_PER_LB
from fjeld.propose.reach import Bands, bands
from fjeld.quantities import Unit, Working
from fjeld.web.http.view import View
from fjeld.web.layout.panels import Beside, Blades, Extent, FittingSheet, Setback, SheetLength

#: The figures of a sheet that are typed, by what hangs or is sunk: (field, label).
_ASKED: dict[str, tuple[tuple[str, str], ...]] = {
    "recessed": (("hole", "Hole across"), ("depth", "Depth needed above")),
    "pendant": (("clearance", "Clear above the thing"), ("shade", "Shade height")),
    "wall": (
        ("body_width", "Body width"),
        ("body_height", "Body height"),
        ("body_left", "Its left edge from the box"),
        ("body_below", "Its foot below the box"),
    ),
    "fan": (("blades", "Blade sweep"), ("downrod", "Downrod"), ("body_drop", "Motor below the rod")),
}


def sheet_of(view: View, handle: Handle) -> FittingSheet | Setback | None:
    """The sheet of a light or fan with what is computed from it; None for other boxes."""
    point = view.drawing.items.get(handle)
    placed = view.plan.placed.get(handle)
    if not isinstance(point, Point) or point.kind not in ("light", "fan") or placed is None:
        return _setback(view, handle)
    sheet = point.fitting or Fitting()
    kind = "fan" if point.kind == "fan" else {"outdoor": "wall"}.get(point.mount, point.mount)
    lengths = [
        SheetLength(field=f, label=label, value=v.typed if (v := getattr(sheet, f)) else "")
        for f, label in _ASKED.get(kind, ())
    ]
    return FittingSheet(
        sheet=sheet,
        mount=point.mount,
        lengths=lengths,
        weight=_weight(sheet.weight, view.drawing.house.unit),
        fan=_blades(view, placed) if point.kind == "fan" else None,
        cord=_cord(view, placed, point) if point.mount == "pendant" and point.over else None,
        body=_body(placed, sheet) if placed.wall else None,
        files=view.drawing.of(Photometry),
        over=[h for h, b in view.plan.blocks.items() if b.room == point.room],
        by_code=rules.ZONE_RATING in view.plan.practice,
        recessed=point.mount == "recessed",
        light=point.kind == "light",
    )


def _body(placed: Placed, sheet: Fitting) -> Extent | None:
    """From where to where a body on a wall reaches."""
    if not sheet.body_height or not sheet.body_below:
        return None
    foot = placed.height - sheet.body_below.mm
    return Extent(foot, foot + sheet.body_height.mm)


def _weight(weight: float | None, unit: Unit) -> str:
    if weight is None:
        return ""
    return f"{weight:.1f} kg" if unit == "mm" else f"{weight / KG_PER_LB:.1f} lb"


def _blades(view: View, placed: Placed) -> Blades:
    """How high a fan's blades turn, and how wide."""
    drop, sweep, guess = blades(view.plan, placed.handle)
    return Blades(placed.height - drop, sweep, guess)


def _cord(view: View, placed: Placed, point: Point) -> Working | None:
    """The cord of a pendant over something."""
    assert point.over is not None
    below = view.drawing.get(point.over, Body)
    return cords.cord(placed.height, below, point.fitting, view.plan.practice, (placed.handle,))


def _setback(view: View, handle: Handle) -> Setback | None:
    """For a box with a device: how proud of the framing it stands."""
    placed = view.plan.placed.get(handle)
    if placed is None or not placed.wall or placed.kind == "panel":
        return None
    build = view.drawing.get(placed.room, Room).build(placed.wall)
    board = view.drawing.get(placed.room, Room).studs_of(placed.wall).board.mm
    return Setback(proud=board, closed=build.closed, surface=build.surface)


def beside(view: View, handle: Handle) -> Beside | None:
    """A bed or seat in hand: where its reading lights are in reach."""
    body = view.drawing.items.get(handle)
    if not isinstance(body, Body) or handle not in view.plan.blocks:
        return None
    found: Bands | None = bands(body) if body.wall and body.kind in ("bed", "cabinet") else None
    return Beside(kind=body.kind, bands=found, table=body.kind in ("table", "counter", "bed"))
