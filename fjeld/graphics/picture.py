"""The old box opened, drawn: cables from above in the order of entry, conductors to their joints
and screws.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from fjeld.drawing.ends import End, is_ground, owner, part, plain
from fjeld.graphics.conductor import wire
from fjeld.graphics.shapes import Shape, group, line, rect, shape, text
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.makeup import NEW_CABLE
from fjeld.practice import Practice
from fjeld.practice.colours import NAMES
from fjeld.practice.devices import device as kind_of
from fjeld.practice.devices import screw_marks, screws_of

#: Room for each conductor across, and down to the joints and the devices.
STEP, TOP, JOINTS, FOOT = 36.0, 34.0, 98.0, 44.0


def picture(
    box: FoundBox,
    carries: Mapping[str, str],
    held: str = "",
    within: tuple[int, int] | None = None,
    *,
    practice: Practice,
) -> Shape:
    """The box. ``carries`` is what each end is known to carry, in a word; ``held`` the end in hand;
    ``within`` the px of another drawing that it stands in, terminals and kinds as ``practice`` has them."""
    x = _places(box)
    width = max([*x.values(), 200.0]) + STEP
    lines = [j for j in box.joints if not all(is_ground(e) for e in j)]
    grounds = [j for j in box.joints if all(is_ground(e) for e in j)]
    down = JOINTS + 26.0 * (len(lines) + len(grounds))
    parts: list[Shape | None] = [rect(4, TOP - 8, width - 8, down + FOOT + 40 - TOP, "box-body")]
    parts += _sheaths(box, x)
    row = {joint: JOINTS + 26.0 * n for n, joint in enumerate([*lines, *grounds])}
    at = _screws(box, width, down + 12)
    parts += _joined(row, x, at)
    for cable in box.cables:
        for end in cable.ends:
            parts += _conductor(end, x, row=row, at=at, box=box, carries=carries, held=held)
    parts += _devices(box, at, practice)
    height = down + FOOT + 46
    label = f"The box opened: {len(box.cables)} cable{'s' if len(box.cables) != 1 else ''}"
    inner, view = group("f-old-box", *parts), f"0 0 {width:.0f} {height:.0f}"
    if within is not None:
        return shape("svg", inner, width=within[0], height=within[1], viewBox=view)
    return shape("svg", inner, cls="box-found", viewBox=view, role="img", aria_label=label)


def _sheaths(box: FoundBox, x: Mapping[str, float]) -> list[Shape | None]:
    """Each cable where it comes in, with its name."""
    parts: list[Shape | None] = []
    for cable in box.cables:
        ends = [x[e] for e in cable.ends]
        name = "the new cable" if cable.id == NEW_CABLE else f"cable {cable.id}"
        parts.append(text((ends[0] + ends[-1]) / 2, 14, name, "label"))
        parts.append(rect(ends[0] - 9, TOP - 16, ends[-1] - ends[0] + 18, 12, "sheath"))
    return parts


def _joined(
    row: Mapping[tuple[End, ...], float], x: Mapping[str, float], at: Mapping[str, tuple[float, float]]
) -> list[Shape | None]:
    """Each joint as a bar across what it joins, with its tails down to the screws."""
    parts: list[Shape | None] = []
    for joint, y in row.items():
        tails = [at[e] for e in joint if e in at]
        across = [*(x[e] for e in joint if e in x), *(tx for tx, _ in tails)]
        if across:
            parts.append(line(min(across), y, max(across), y, "old-joint"))
        parts += [line(tx, y, tx, ty, "old-tail") for tx, ty in tails]
    return parts


def _devices(box: FoundBox, at: Mapping[str, tuple[float, float]], practice: Practice) -> list[Shape | None]:
    """The screws of each device with their marks, and what it is."""
    parts: list[Shape | None] = []
    for device in box.devices:
        shown = _shown(box, device.id)
        for terminal in shown:
            tx, ty = at[device.at(terminal)]
            parts.append(rect(tx - 7, ty, 14, 14, "terminal"))
            parts.append(text(tx, ty + 28, _mark(device.kind, terminal, practice), "label muted"))
        x, y = at[device.at(shown[0])]
        called = kind_of(device.kind).called.get(practice.tables, device.kind)
        parts.append(text(x - 7, y + 46, called, "label", "start"))
    return parts


def _mark(kind: str, terminal: str, practice: Practice) -> str:
    if terminal == "g":
        return practice.word("ground")
    return screw_marks(kind, practice.tables).get(terminal, terminal) if practice.lettered else terminal


def _places(box: FoundBox) -> dict[str, float]:
    found: dict[str, float] = {}
    x = STEP
    for cable in box.cables:
        for end in cable.ends:
            found[end] = x
            x += STEP
        x += STEP / 2
    return found


def _shown(box: FoundBox, device: str) -> tuple[str, ...]:
    """The terminals of a device that are worth a screw in the drawing: its own, without those that nothing
    uses.
    """
    found = next(d for d in box.devices if d.id == device)
    used = {t for t in found.lands} | {part(e) for j in box.joints for e in j if owner(e) == device}
    usual = [
        t for t in (*screws_of(found.kind), "g") if t not in ("n", "brass2", "silver2", "g") or t in used
    ]
    return tuple(usual)


def _screws(box: FoundBox, width: float, y: float) -> dict[str, tuple[float, float]]:
    every = [d.at(t) for d in box.devices for t in _shown(box, d.id)]
    gap = (width - STEP) / max(len(every), 1)
    # Between the conductors: what comes down to a screw is not taken for one of them.
    half = STEP / 2
    return {
        name: (half * round((gap * (n + 0.5) + half / 2) / half) + half / 2, y)
        for n, name in enumerate(every)
    }


def _conductor(
    end: End,
    x: Mapping[str, float],
    row: Mapping[tuple[End, ...], float],
    at: Mapping[str, tuple[float, float]],
    box: FoundBox,
    carries: Mapping[str, str],
    held: str,
) -> list[Shape | None]:
    colour = part(end)
    mine = end == held
    there = next((y for joint, y in row.items() if end in joint), None)
    landed = next(
        (at[d.at(t)] for d in box.devices for t, ends in d.lands.items() if end in ends and d.at(t) in at),
        None,
    )
    start = f"M{x[end]:.0f} {TOP - 4:.0f}"
    way = f"{start} V{TOP + 28:.0f}"
    if there is not None:
        way = f"{start} V{there:.0f}"
    elif landed is not None:
        way = f"{start} V{landed[1] - 14:.0f} L{landed[0]:.0f} {landed[1]:.0f}"
    parts = wire(way, plain(colour) if plain(colour) in NAMES else "?", current=mine)
    # Its colour in letters, so that it is told apart without it.
    parts.append(text(x[end] + 7, TOP + 8, colour, "label muted", "start"))
    below = TOP + 23
    if mark := next((c.marked[end] for c in box.cables if end in c.marked), ""):
        parts += wire(f"M{x[end]:.0f} {TOP + 12:.0f} V{TOP + 22:.0f}", mark if mark in NAMES else "?")
        parts.append(text(x[end] + 7, below, f"={mark}", "label muted", "start"))
        below += 13
    if word := carries.get(end, ""):
        parts.append(text(x[end] + 7, below, word, "shelf-name", "start"))
    return parts


def short_words(ends: Sequence[tuple[str, str]]) -> dict[str, str]:
    """A letter or two for what each end carries."""
    letters = {"l": "L", "s": "SL", "t": "T", "n": "N", "k": "link", "c": "C"}
    return {end: letters[what] for end, what in ends if what in letters}
