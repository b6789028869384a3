"""Boxes: one box opened, its joints in the order of making up, its fill as a column."""

from __future__ import annotations

from typing import Any

from fjeld.derive.boxes import Box, Joint
from fjeld.derive.conductors import SPARE, Conductor
from fjeld.drawing.handles import Handle, order
from fjeld.formats.sheet import Shape, circle, group, line, path, rect, shape, text
from fjeld.web.ui.floor import Floor
from fjeld.web.ui.forms import COMMON
from fjeld.web.ui.view import View

NAME = "boxes"
ACTIONS = {**COMMON}

COLOURS = {"BK": "black", "WH": "white", "RD": "red", "BU": "blue", "G": "bare"}
SHELVES = (("grounds", ("PE",)), ("neutrals", ("N",)), ("hots", ("L", "SL", "T", "C", "IC", SPARE)))


def box_in_hand(view: View) -> Box | None:
    """The selected box, else the first that holds anything."""
    found = view.plan.boxes.get(Handle(view.selected))
    if found and found.ends:
        return found
    filled = [b for b in view.plan.boxes.values() if b.ends]
    return min(filled, key=lambda b: (len(b.devices) == 0, order(b.handle)), default=None)


def step_of(view: View, box: Box) -> int:
    """The joint in hand, from 0; -1 before the first."""
    step = view.params.get("step", "")
    return min(int(step), len(box.joints)) - 1 if step.isdigit() else -1


def shelf(joint: Joint) -> int:
    """0 grounds at the back, 1 neutrals, 2 hots at the front."""
    role = joint.net.partition("/")[0].partition(":")[0]
    return next((n for n, (_, roles) in enumerate(SHELVES) if role in roles), 2)


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """The box in place of the floor: cables from above, three shelves, the fill column."""
    box = box_in_hand(view)
    width, height = floor.size.width, floor.size.height
    if box is None:
        words = text(
            width / 2, height / 2, "No box holds a conductor yet: join boxes with cables first.", "label"
        )
        return {"f-box": group("f-box", words), "f-fill": group("f-fill")}
    column = 150 if width > 500 else 62
    return {
        "f-box": _opened(view, box, width - column, height),
        "f-fill": _fill_column(box, width - column, column, height),
    }


def _opened(view: View, box: Box, width: float, height: float) -> Shape:
    step = step_of(view, box)
    conductors = {c.key: c for c in box.ends}
    cables = sorted({c.bundle for c in box.ends}, key=order)
    joints = {n: j for n, j in enumerate(box.joints)}
    left, right, top, bottom = 26.0, width - 26.0, 92.0, height - 30.0
    parts: list[Shape | None] = [rect(left, top, right - left, bottom - top, "box-body", 14)]
    shelf_y = [top + (bottom - top) * k for k in (0.25, 0.55, 0.85)]
    for y, (name, _) in zip(shelf_y, SHELVES, strict=True):
        parts += [
            line(left + 12, y + 14, right - 12, y + 14, "shelf"),
            text(left + 16, y + 28, name, "label muted", "start"),
        ]
    spots = _spots(box, left + 70, right - 30, shelf_y)
    ends = _entries(box, cables, left, right)
    for n, joint in joints.items():
        parts += _joint(joint, conductors, spots[n], ends, n == step, step >= 0 and n != step, width < 500)
    for n, cable in enumerate(cables):
        x = _cable_x(n, len(cables), left, right)
        far = next(c for c in box.ends if c.bundle == cable)
        other = far.b if far.a == box.handle else far.a
        parts += [rect(x - 26, 34, 52, 58, "sheath", 5), text(x, 22, f"{cable} to {other}", "handle")]
    return group("f-box", *parts)


def _cable_x(n: int, count: int, left: float, right: float) -> float:
    return left + (right - left) * (n + 1) / (count + 1)


def _entries(box: Box, cables: list[str], left: float, right: float) -> dict[str, tuple[float, float]]:
    found: dict[str, tuple[float, float]] = {}
    for n, cable in enumerate(cables):
        mine = [c for c in box.ends if c.bundle == cable]
        x = _cable_x(n, len(cables), left, right)
        for k, conductor in enumerate(mine):
            found[conductor.key] = (x + (k - (len(mine) - 1) / 2) * 11, 92.0)
    return found


def _spots(box: Box, left: float, right: float, shelf_y: list[float]) -> list[tuple[float, float]]:
    """Where each joint sits on its shelf."""
    counts = [0, 0, 0]
    for joint in box.joints:
        counts[shelf(joint)] += 1
    seen = [0, 0, 0]
    found = []
    for joint in box.joints:
        s = shelf(joint)
        found.append((left + (right - left) * (seen[s] + 0.5) / counts[s], shelf_y[s] - 8))
        seen[s] += 1
    return found


def _joint(
    joint: Joint, conductors: dict[str, Conductor], at: tuple[float, float], ends: dict[str, tuple[float, float]],
    current: bool, grey: bool, narrow: bool,
) -> list[Shape | None]:  # fmt: skip
    x, y = at
    parts: list[Shape | None] = []
    for key in joint.ends:
        conductor = conductors[key]
        ex, ey = ends[key]
        d = f"M{ex:.1f} {ey:.1f} C{ex:.1f} {ey + 46:.1f} {x:.1f} {y - 54:.1f} {x:.1f} {y - 8:.1f}"
        parts += wire(d, conductor, current, grey)
        parts.append(text(ex, ey - 8, conductor.colour, "conductor-code"))
    landed = ", ".join(_terminal_words(landing.device, landing.terminal) for landing in joint.landings)
    if joint.how == "joint":
        parts.append(
            path(
                [(x - 10, y + 10), (x + 10, y + 10), (x + 5, y - 10), (x - 5, y - 10)],
                "connector" + (" current" if current else ""),
                close=True,
            )
        )
    elif joint.how == "parked":
        parts.append(circle(x, y, 8, "cap" + (" current" if current else "")))
    else:
        parts.append(circle(x, y, 8, "terminal" + (" current" if current else "")))
    words = {
        "direct": landed,
        "through": landed,
        "joint": f"joint of {len(joint.ends) + len(joint.landings)}",
        "parked": f"capped: {joint.reason}",
    }[joint.how]
    if not narrow or current:
        parts.append(
            text(
                x,
                y + 26,
                words if len(words) < 34 else words[:32] + "…",
                "label" + ("" if current else " muted"),
            )
        )
    return parts


def _terminal_words(device: str, terminal: str) -> str:
    return f"{device.partition(':')[0]} {terminal}"


def wire(d: str, conductor: Conductor, current: bool = False, grey: bool = False) -> list[Shape | None]:
    """A conductor in its true colour, outlined in two tones so that it shows on any ground."""
    colour = COLOURS[conductor.colour]
    found: list[Shape | None] = []
    if current:
        found.append(shape("path", d=d, cls="wire-current"))
    found += [
        shape("path", d=d, cls="wire-outline"),
        shape("path", d=d, cls=f"wire wire-{'grey' if grey else colour}"),
    ]
    if conductor.marked and not grey:
        found.append(shape("path", d=d, cls="wire-mark"))
    return found


def _fill_column(box: Box, x: float, width: float, height: float) -> Shape:
    """One block an allowance, the box's volume as a line across, the reserve hatched."""
    top, bottom = 54.0, height - 30.0
    most = max(box.kind.volume, box.reserved.total) * 1.06
    left, thick = x + 14, min(56.0, width - 26)

    def px(volume: float) -> float:
        return bottom - (bottom - top) * volume / most

    parts: list[Shape | None] = []
    at = 0.0
    for n, row in enumerate(box.needed.lines):
        for _ in range(max(1, round(row.count))):
            each = row.amount / max(1, round(row.count))
            parts.append(rect(left, px(at + each), thick, px(at) - px(at + each), f"allowance a{n % 3}"))
            at += each
    parts.append(rect(left, px(box.reserved.total), thick, px(at) - px(box.reserved.total), "reserve"))
    volume = px(box.kind.volume)
    parts.append(
        line(left - 8, volume, left + thick + 8, volume, "volume-line" + ("" if box.passes else " over"))
    )
    parts.append(
        text(
            left + thick / 2,
            top - 24,
            f"{box.needed.total:g}",
            "figure-text over" if not box.passes else "figure-text",
        )
    )
    parts.append(text(left + thick / 2, top - 8, f"of {box.kind.volume:g} in³", "label muted"))
    return group("f-fill", *parts)


def instruction(box: Box, step: int) -> str:
    """What to do at a step, in one sentence."""
    if step < 0:
        cables = len({c.bundle for c in box.ends})
        return (
            f"Bring {cables} cable{'s' if cables > 1 else ''} in; leave at least 6 in free beyond the sheath."
        )
    if step >= len(box.joints):
        return "Fold grounds to the back, then neutrals, hots last, and pull on each once more."
    return joint_words(box, box.joints[step])


def joint_words(box: Box, joint: Joint) -> str:
    """A joint as an instruction."""
    conductors = {c.key: c for c in box.ends}

    def end(key: str) -> str:
        conductor = conductors[key]
        mark = ", marked as hot," if conductor.marked else ""
        return f"{COLOURS[conductor.colour]}{mark} of {conductor.bundle}"

    ends = [end(key) for key in joint.ends]
    tails = [_terminal_words(n.device, n.terminal) for n in joint.landings if not n.lead]
    leads = [f"the {n.terminal} of {n.device}" for n in joint.landings if n.lead]
    if joint.how == "direct":
        return f"Land {ends[0]} on {tails[0]}: {joint.words}."
    if joint.how == "through":
        return f"Land {' and '.join(ends)} on the two screws of {tails[0]}: {joint.words}."
    if joint.how == "parked":
        what = ends[0] if ends else leads[0] if leads else "the end"
        return f"Cap {what} and tag it: {joint.words}, {joint.reason}."
    together = [*ends, *leads, *(f"a tail to {t}" for t in tails)]
    return f"Join {', '.join(together[:-1])} and {together[-1]}: {joint.words}."


def dock(view: View) -> dict[str, Any]:
    """Every box with its fill, to be opened."""
    rows = []
    for box in sorted(view.plan.boxes.values(), key=lambda b: order(b.handle)):
        if box.ends:
            share = 100 * box.needed.total / box.kind.volume
            rows.append(
                {
                    "box": box,
                    "share": min(100.0, share),
                    "open": sum(box.handle in f.handles for f in view.here),
                }
            )
    hand = box_in_hand(view)
    return {"rows": rows, "in_hand": hand.handle if hand else ""}


def workings(view: View) -> dict[str, Any]:
    """The step in hand, its connector, the fill written out, and the box it wants."""
    box = box_in_hand(view)
    if box is None:
        return {"box": None}
    step = step_of(view, box)
    catalogue = view.plan.practice.catalogue
    joint = box.joints[step] if 0 <= step < len(box.joints) else None
    return {
        "box": box,
        "step": step,
        "next": step + 2,
        "last": len(box.joints),
        "instruction": instruction(box, step),
        "joint": joint,
        "connectors": [next(c.name for c in catalogue.connectors if c.id == n) for n in joint.connectors]
        if joint
        else [],
        "kinds": [k for k in catalogue.boxes if k.shape == box.kind.shape],
        "steps": [{"n": n, "words": joint_words(box, j)} for n, j in enumerate(box.joints, 1)],
        "two": len(box.circuits) > 1,
    }
