"""A box opened: cables from above, joints on three shelves from back to front, devices at the right.

The shelves are the order of making up and of folding: grounds at the back, neutrals,
hots at the front. Conductors keep their true colours; what is in hand is marked around
them, never on them. Beside the box stands its fill: a block an allowance, the volume a
line across, the reserve in outline.
"""

from __future__ import annotations

from collections.abc import Iterator
from textwrap import shorten

from fjeld.derive.boxes import Box, Joint, Landing
from fjeld.derive.conductors import Conductor
from fjeld.derive.keys import GROUND, DeviceKey
from fjeld.drawing.handles import order
from fjeld.graphics.conductor import wire
from fjeld.graphics.fill_column import column
from fjeld.graphics.shapes import Shape, circle, group, line, path, rect, text
from fjeld.practice import Practice

#: Colours whose word is not the name of their drawing class.
WORDS = {"GY": "grey", "?": "one not seen"}
SHELVES = (("grounds", ("ground",)), ("neutrals", ("neutral",)), ("hots", ()))

Px = tuple[float, float]
#: Where cables end and the box begins.
RIM = 92.0


def shelf(joint: Joint) -> int:
    """0 grounds at the back, 1 neutrals, 2 hots at the front."""
    return next((n for n, (_, roles) in enumerate(SHELVES) if joint.net.role in roles), 2)


class _Frame:
    """Where things stand in the picture of one box."""

    def __init__(self, box: Box, practice: Practice, width: float, height: float) -> None:
        self.box = box
        self.practice = practice
        self.narrow = width < 500
        self.left, self.right, self.bottom = (
            (8.0, width - 4, height - 12) if self.narrow else (26.0, width - 20, height - 16)
        )
        round_one = box.kind.shape == "ceiling" and box.kind.outline != "square"
        self.corner = (
            (28.0 if self.narrow else 48.0) if round_one else 14.0 if box.kind.shape == "device" else 4.0
        )
        #: The names of the shelves start so far inside the box, clear of its corners.
        self.inset = 6.0 if self.narrow else 32.0 if round_one else 14.0
        self.cables = sorted({c.bundle for c in box.ends}, key=order)
        self.step = (self.bottom - RIM - 24) / 3
        self.devices = self.right - (66 if self.narrow else 132)
        room = (self.devices - self.left - 30) / max(len(box.ends) + len(self.cables), 1)
        self.gap = min(room, 20.0 if self.narrow else 22.0)
        self.terminals = self._terminals()

    def shelf_y(self, n: int) -> float:
        """The line a shelf's joints sit on."""
        return RIM + 24 + self.step * (n + 0.62)

    def cable_x(self, n: int) -> float:
        return self.left + (self.devices - self.left) * (n + 0.6) / (len(self.cables) + 0.2)

    def entries(self) -> dict[str, Px]:
        """Where each conductor leaves its sheath."""
        found: dict[str, Px] = {}
        for n, cable in enumerate(self.cables):
            mine = [c for c in self.box.ends if c.bundle == cable]
            for k, conductor in enumerate(mine):
                found[conductor.key] = (self.cable_x(n) + (k - (len(mine) - 1) / 2) * self.gap, RIM)
        return found

    def _shelf_ends(self) -> tuple[float, float]:
        return self.left + (40 if self.narrow else 110), self.devices - (16 if self.narrow else 44)

    def beside(self, joint: Joint) -> float:
        """How wide the words under a joint may be, or they meet its neighbour's."""
        low, high = self._shelf_ends()
        if self.narrow:
            return high - low  # one joint at a time has words
        return (high - low) / sum(shelf(j) == shelf(joint) for j in self.box.joints)

    def joints(self) -> list[Px]:
        """Where each joint sits on its shelf."""
        counts = [sum(shelf(j) == n for j in self.box.joints) for n in range(3)]
        seen = [0, 0, 0]
        low, high = self._shelf_ends()
        found: list[Px] = []
        for joint in self.box.joints:
            s = shelf(joint)
            found.append((low + (high - low) * (seen[s] + 0.5) / counts[s], self.shelf_y(s)))
            seen[s] += 1
        return found

    def _terminals(self) -> dict[tuple[DeviceKey, str], Px]:
        """The screws and leads of every device, from back to front down its left side."""
        found: dict[tuple[DeviceKey, str], Px] = {}
        landed = [
            (shelf(j), at.device, at.terminal) for j in self.box.joints for at in j.landings if at.device
        ]
        devices = sorted({device for _, device, _ in landed}, key=lambda device: order(str(device)))
        room = (self.bottom - RIM - 40) / max(len(landed) + len(devices), 1)
        y = RIM + 30.0
        for device in devices:
            y += min(room, 30.0) * 0.8
            for _, at in sorted((s, terminal) for s, of, terminal in landed if of == device):
                found[device, at] = (self.devices, y)
                y += min(room, 38.0)
        return found


def opened(box: Box, practice: Practice, step: int, width: float, height: float) -> Shape:
    """The box with the joint ``step`` in hand (-1 before the first)."""
    frame = _Frame(box, practice, width, height)
    parts: list[Shape | None] = [_body(frame)]
    for n in range(1, len(SHELVES)):
        y = RIM + 24 + frame.step * n
        parts.append(line(frame.left + 12, y - 4, frame.devices - 26, y - 4, "shelf"))
    conductors = {c.key: c for c in box.ends}
    entries, spots = frame.entries(), frame.joints()
    order_of = sorted(range(len(box.joints)), key=lambda n: n == step)
    for n in order_of:
        parts += _wires(
            frame,
            box.joints[n],
            conductors=conductors,
            entries=entries,
            at=spots[n],
            current=n == step,
            grey=step >= 0 and n != step,
        )
    for n in order_of:
        parts += _meeting(frame, box.joints[n], spots[n], n == step)
    parts += _sheaths(frame)
    for key, (x, y) in entries.items():
        parts.append(rect(x - 9, y + 5, width=18, height=14, cls="code-ground", rx=3))
        parts.append(text(x, y + 16, conductors[key].colour, "conductor-code"))
    parts += _devices(frame)
    for n, (name, _) in enumerate(SHELVES):
        parts.append(
            text(
                frame.left + frame.inset,
                RIM + 36 + frame.step * n,
                practice.said(name),
                "shelf-name",
                "start",
            )
        )
    return group("f-box", *parts)


def _body(frame: _Frame) -> Shape:
    """The box as it is seen from below or before: round, with eight sides, square, or as a device box's
    opening.
    """
    left, right, top, bottom = frame.left, frame.right, RIM, frame.bottom
    if frame.box.kind.outline == "octagon":
        c = frame.corner
        points = [
            (left + c, top),
            (right - c, top),
            (right, top + c),
            (right, bottom - c),
            (right - c, bottom),
            (left + c, bottom),
            (left, bottom - c),
            (left, top + c),
        ]
        return path(points, "box-body", close=True)
    return rect(left, top, width=right - left, height=bottom - top, cls="box-body", rx=frame.corner)


def _sheaths(frame: _Frame) -> list[Shape | None]:
    """Each cable's end of sheath, with its name and where it comes from."""
    parts: list[Shape | None] = []
    for n, cable in enumerate(frame.cables):
        x = frame.cable_x(n)
        mine = [c for c in frame.box.ends if c.bundle == cable]
        other = mine[0].b if mine[0].a == frame.box.handle else mine[0].a
        cable_kind = frame.practice.catalogue.cable(mine[0].gauge, len(mine) - 1)
        kind = cable_kind.id if cable_kind else mine[0].gauge
        half = len(mine) * frame.gap / 2
        parts.append(
            path(
                [(x - half, RIM), (x - half + 8, 46), (x + half - 8, 46), (x + half, RIM)],
                "sheath",
                close=True,
            )
        )
        found = other == frame.box.handle
        parts.append(text(x, 74, "" if found else kind, "label"))
        parts.append(text(x, 22, cable, "handle"))
        parts.append(text(x, 38, "as found" if found else f"to {other}", "label muted"))
    return parts


def _wires(
    frame: _Frame,
    joint: Joint,
    conductors: dict[str, Conductor],
    entries: dict[str, Px],
    at: Px,
    current: bool,
    grey: bool,
) -> list[Shape | None]:
    """The conductors of a joint from their sheaths, and its tails to the devices."""
    parts: list[Shape | None] = []
    first = joint.landings[0].device if joint.how == "direct" else None
    direct = frame.terminals.get((first, joint.landings[0].terminal)) if first else None
    for key in joint.ends:
        conductor = conductors[key]
        end = direct or (at[0], at[1] - 8)
        parts += wire(
            _curve(entries[key], end, bool(direct)), conductor.colour, _mark(frame, conductor), current, grey
        )
    if joint.how != "direct":
        for landing in joint.landings:
            there = _landing(frame, landing, at)
            if there:
                d = (
                    f"M{at[0]:.1f} {at[1] + 6:.1f} C{at[0]:.1f} {at[1] + 34:.1f} {there[0] - 60:.1f}"
                    f" {there[1]:.1f} {there[0]:.1f} {there[1]:.1f}"
                )
                parts += wire(d, _tail_colour(frame, joint, landing, conductors), "", current, grey)
    return parts


def _mark(frame: _Frame, conductor: Conductor) -> str:
    """The colour of the tape or sleeve that tells what a conductor carries, where its own does not."""
    return conductor.marked_as(frame.practice.neutral) if conductor.marked else ""


def _landing(frame: _Frame, landing: Landing, at: Px) -> Px | None:
    if landing.device is None:
        return frame.left + (24 if frame.narrow else 52), at[1] + 14
    return frame.terminals.get((landing.device, landing.terminal))


def _tail_colour(frame: _Frame, joint: Joint, landing: Landing, conductors: dict[str, Conductor]) -> str:
    """A fitting's own lead by its name; a tail in the colour of what it is joined to."""
    if landing.lead:
        return frame.practice.leads.get(landing.terminal, "BK")
    return next((conductors[k].colour for k in joint.ends), "G" if joint.net == GROUND else "BK")


def _curve(start: Px, end: Px, sideways: bool) -> str:
    (x1, y1), (x2, y2) = start, end
    if sideways:
        return f"M{x1:.1f} {y1:.1f} C{x1:.1f} {y2 - 10:.1f} {x2 - 80:.1f} {y2:.1f} {x2:.1f} {y2:.1f}"
    return f"M{x1:.1f} {y1:.1f} C{x1:.1f} {y1 + 56:.1f} {x2:.1f} {y2 - 56:.1f} {x2:.1f} {y2:.1f}"


def _meeting(frame: _Frame, joint: Joint, at: Px, current: bool) -> list[Shape | None]:
    """The connector or cap where a joint's conductors meet."""
    x, y = at
    state = " current" if current else ""
    if joint.how == "direct":
        return []
    parts: list[Shape | None] = []
    if joint.how == "parked":
        parts.append(circle(x, y, 8, "cap" + state))
        words = f"capped: {joint.reason}"
    else:
        parts.append(
            path(
                [(x - 12, y + 9), (x + 12, y + 9), (x + 6, y - 11), (x - 6, y - 11)],
                "connector" + state,
                close=True,
            )
        )
        words = f"{frame.practice.said(joint.words)} · {len(joint.ends) + len(joint.landings)}"
    if not frame.narrow or current:
        parts.append(text(x, y + 27, _fitted(words, frame.beside(joint)), "label joint-words"))
    return parts


#: The width of a letter of a label, over the alphabet.
_LETTER = 6.2


def _fitted(words: str, room: float) -> str:
    """A joint's words in the room it has; where that is short, what it belongs to comes first."""
    letters = min(int(room / _LETTER), 30)
    if len(words) <= letters:
        return words
    what, _, whose = words.partition(" · ")[0].partition(" of ")
    return shorten(f"{whose} {what}", max(letters, 3), placeholder="…")


def _devices(frame: _Frame) -> list[Shape | None]:
    """Each device or fitting as a plate at the right, with its screws or leads named."""
    parts: list[Shape | None] = []
    by_device: dict[DeviceKey, list[tuple[str, Px]]] = {}
    for (device, terminal), at in frame.terminals.items():
        by_device.setdefault(device, []).append((terminal, at))
    wide = frame.right - frame.devices - 8
    for n, (device, ends) in enumerate(by_device.items(), 1):
        top, bottom = ends[0][1][1] - 34, ends[-1][1][1] + 18
        parts.append(rect(frame.devices, top, width=wide, height=bottom - top, cls="device", rx=7))
        parts.append(text(frame.devices + 10, top + 17, _named(frame, device, n), "handle", "start"))
        for terminal, at in ends:
            parts += _terminal(frame, terminal, at)
    if any(at.device is None for j in frame.box.joints for at in j.landings):
        x, y = frame.left + (24 if frame.narrow else 52), frame.shelf_y(0) + 14
        parts += [circle(x, y, 7, "terminal"), line(x - 4, y, x + 4, y, "slot")]
        # Above it, where neither its conductor nor the next shelf's name is.
        parts.append(text(x - 9, y - 14, "box screw", "label muted", "start"))
    return parts


def _named(frame: _Frame, device: DeviceKey, n: int) -> str:
    """What a plate is called: of several gangs by its place, with the box and the control that it is of."""
    if frame.narrow:
        return device.box
    if frame.box.kind.gangs < 2:
        return device.words
    whose = [device.box if device.box != frame.box.handle else "", device.control]
    return f"gang {n} · {' '.join(filter(None, whose))}".removesuffix(" · ")


def _terminal(frame: _Frame, terminal: str, at: Px) -> Iterator[Shape]:
    """A screw or a lead, with its name."""
    x, y = at
    if terminal.endswith("lead"):
        yield circle(x, y, 4.5, "lead-end")
    else:
        yield circle(x, y, 6.5, "terminal")
        yield line(x - 4, y, x + 4, y, "slot")
    words = frame.practice.terminal(terminal)
    label = words.removesuffix(" lead").replace("traveller", "trav.") if frame.narrow else words
    letters = int((frame.right - 8 - x - 12) / _LETTER)
    yield text(x + 12, y + 4.5, shorten(label, max(letters, 4), placeholder="…"), "label", "start")


def fill_column(box: Box, x: float, width: float, height: float) -> Shape:
    """One block an allowance, the box's volume as a line across, the reserve in outline."""
    top, bottom = 58.0, height - 16.0
    narrow = width < 100
    left, thick = x + (12 if narrow else 16), min(52.0, width - 22)
    # A box whose volume nobody has read cannot be over it.
    over = " over" if box.kind.volume and not box.passes else ""
    parts = column(
        box.needed,
        box.kind.volume,
        over=bool(over),
        x=left,
        thick=thick,
        top=top,
        bottom=bottom,
        words=not narrow,
        reserved=box.reserved.total,
    )
    middle = left + thick / 2
    holds = f"{box.kind.volume:g}" if box.kind.volume else "?"
    parts.append(text(middle, 26, f"{box.needed.total:g}", f"figure-text{over}"))
    words = f"of {holds} {box.needed.unit}"
    if narrow:
        parts.append(text(x + width - 4, 44, words, "label muted", "end"))
    else:
        parts.append(text(middle, 44, words, "label muted"))
    return group("f-fill", *parts)
