"""The light map over the floor: painted cell by cell on a canvas, figures beside it."""

from __future__ import annotations

import json

from fjeld.derive.facts.lamps import lamps_of
from fjeld.derive.light import BEAM, CEILING, FLOOR, LUMENS, WALLS, LightMap, light_map
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.graphics.floor import Floor
from fjeld.graphics.labels import meets
from fjeld.graphics.shapes import Shape, circle, group, shape, text
from fjeld.practice import rules
from fjeld.web.http.view import View
from fjeld.web.layout.panels import Light

#: The planes that can be looked at: on the floor, and on a work top.
PLANES = {"floor": 0.0, "work": 762.0}
#: The light that paints a cell full, lx.
FULL = 300.0


def map_of(view: View) -> LightMap | None:
    """The map asked for in the page's address; None when none is, or there is nothing to map."""
    plane = PLANES.get(view.params.get("light", ""))
    if plane is None or view.room is None:
        return None
    return light_map(view.plan.rooms[view.room], lamps_of(view.plan, view.room), plane)


def layer(view: View, floor: Floor) -> Shape:
    """A canvas under the framing, with the cells to paint."""
    found = map_of(view)
    if found is None:
        return group("f-light")
    (x, y), (wide, deep) = floor.to_px(found.origin), _cell(found, floor)
    columns, count = len(found.rows[0]), len(found.rows)
    cells = [[None if v is None else round(min(v / FULL, 1.0), 2) for v in row] for row in found.rows]
    canvas = shape(
        "canvas",
        text=" ",
        cls="light",
        width=columns,
        height=count,
        data_light=json.dumps(cells, separators=(",", ":")),
        aria_hidden="true",
    )
    return group(
        "f-light", shape("foreignObject", canvas, x=x, y=y, width=columns * wide, height=count * deep)
    )


def written(view: View, floor: Floor) -> Shape:
    """A figure for about every metre, where nothing else stands, and the darkest spot."""
    found = map_of(view)
    if found is None:
        return group("f-lux")
    (x, y), (wide, deep) = floor.to_px(found.origin), _cell(found, floor)
    taken = [*floor.covered(), *floor.named_openings()]
    if chosen := view.plan.placed.get(Handle(view.selected)):
        # Its tape readings stand to its west and north.
        sx, sy = floor.spot(chosen)
        taken.append((sx - 90, sy - 60, sx + 20, sy + 30))
    parts: list[Shape | None] = []
    every_x, every_y = (max(1, round(1000 / step)) for step in found.step)
    for j in range(every_y // 2, len(found.rows), every_y):
        for i in range(every_x // 2, len(found.rows[0]), every_x):
            value = found.rows[j][i]
            px, py = x + (i + 0.5) * wide, y + (j + 0.5) * deep
            if value is not None and not meets((px - 13, py - 9, px + 13, py + 7), taken):
                parts.append(text(px, py + 4, f"{value:.0f}", "lux"))
    dx, dy = floor.to_px(found.darkest)
    parts += [circle(dx, dy, 8, "darkest"), text(dx + 14, dy + 5, "darkest", "label lux-dark", "start")]
    return group("f-lux", *parts)


def _cell(found: LightMap, floor: Floor) -> tuple[float, float]:
    """A cell's width and height, px."""
    return found.step[0] * floor.to_px.scale, found.step[1] * floor.to_px.scale


def figures(view: View) -> Light | None:
    """What the workings say of the map: mean, least, evenness, each light left out, one more at the darkest
    spot.
    """
    found = map_of(view)
    if found is None or view.room is None:
        return None
    room = view.drawing.get(view.room, Room)
    return Light(
        map=found,
        wanted=view.plan.practice[rules.LIGHT_WANTED].get(room.use),
        without=list(found.without.items()),
        estimated=[lamp.handle for lamp in lamps_of(view.plan, view.room) if lamp.estimated],
        guess=(LUMENS, BEAM),
        surfaces=(CEILING, WALLS, FLOOR),
        plane=view.params.get("light", ""),
        height=PLANES.get(view.params.get("light", ""), 0.0),
    )
