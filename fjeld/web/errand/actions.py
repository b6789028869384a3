"""Edits of an old box by tapping: begin from a usual one, add a cable, join, part, land, put in a device."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from typing import Any, get_args

from msgspec.structs import replace

from fjeld.drawing.building import RoomUse
from fjeld.drawing.changes import differing
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place, Remove, Revise, Together
from fjeld.drawing.ends import End, codes, owner, part
from fjeld.drawing.extents import clean
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import (
    Ahead,
    Condition,
    Device,
    HeldKind,
    Lead,
    Material,
    OldBox,
    OldCable,
    OldPlace,
    joined,
    parted,
)
from fjeld.errand.record import drawn_as
from fjeld.oldbox.arrangements import arrangements
from fjeld.practice import Practice, with_article
from fjeld.practice.colours import NAMES
from fjeld.practice.devices import device as kind_of
from fjeld.practice.devices import screws_of
from fjeld.practice.finished.fixings import fixings
from fjeld.practice.finished.sources import sources
from fjeld.quantities import Length, UnreadableLength, finite_number, not_measured, parse_length, whole_number
from fjeld.web.ui.forms import given, need, weight

Form = Mapping[str, Any]
#: An edit of a box: what it is, its handle, its practice and the form.
Act = Callable[[OldBox, Handle, Practice, Form], Edit]
MOST_CABLES = 12


def begin(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """Begin from a box as one finds them most often."""
    n = whole_number(need(form, "usual"))
    known = arrangements(practice.tables)
    if n is None or not 0 <= n < len(known):
        raise EditRefused("there is no such box to begin from")
    begun = drawn_as(old, known[n].box)
    return _changed(handle, old, replace(begun, holds=_holds(begun.held)), f"{handle}: {known[n].words}")


def _changed(handle: Handle, old: OldBox, new: OldBox, words: str) -> Revise:
    """The box as it is now, in place of what it was."""
    return Revise(handle, {field: value for field, _, value in differing(old, new)}, words)


def _holds(held: tuple[Device, ...]) -> str:
    return " and ".join(h.kind for h in held)


def place(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """What kind of box it is."""
    wanted = need(form, "place")
    if wanted not in get_args(OldPlace):
        raise EditRefused(f"“{wanted[:20]}” is no place of a box")
    return Revise(handle, {"place": wanted}, f"{handle} is {with_article(wanted)} box")


def cable(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """One more cable, of two conductors or three, in the practice's colours."""
    cores = whole_number(need(form, "cores"))
    if cores not in (2, 3):
        raise EditRefused("a cable has two conductors or three, and a ground")
    if practice.former and cores == 2 and given(form, "old"):
        return _with_cable(old, handle, practice.former, practice.former_sheath)
    colours = next(c.colours for c in practice.catalogue.cables if c.insulated == cores)
    return _with_cable(old, handle, tuple(NAMES[c] for c in colours))


def _with_cable(old: OldBox, handle: Handle, colours: tuple[str, ...], sheath: str = "") -> Edit:
    if len(old.cables) >= MOST_CABLES:
        raise EditRefused(f"a box of more than {MOST_CABLES} cables is a panel")
    named = zip(codes([*colours, "bare"]), (*colours, "bare"), strict=True)
    found = OldCable(old.next_cable(), tuple(Lead(code, colour) for code, colour in named), sheath=sheath)
    return Revise(handle, {"cables": (*old.cables, found)}, f"One more cable in {handle}")


def _cable_named(old: OldBox, form: Form) -> OldCable:
    """The cable that a form is of."""
    found = old.cable(need(form, "cable"))
    if found is None:
        raise EditRefused("there is no such cable in it")
    return found


def inside(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """What one cable is: its sheath, and its own gauge."""
    found, sheath, gauge = _cable_named(old, form), given(form, "sheath"), given(form, "gauge")
    if sheath and sheath not in sources().local(practice).sheaths:
        raise EditRefused(f"“{sheath[:20]}” is no kind of cable that is known")
    _require_gauge(gauge, practice)
    cables = tuple(replace(c, sheath=sheath, gauge=gauge) if c is found else c for c in old.cables)
    return Revise(handle, {"cables": cables}, f"{handle}: cable {found.id} looked at")


def mark(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """The colour that tape or a sleeve gives an end; empty where it has its own."""
    end, colour = need(form, "end"), given(form, "colour")
    if colour and colour not in marks(practice):
        raise EditRefused(f"“{colour[:20]}” is none of: {', '.join(marks(practice))}")
    at = _end_of(old, end)
    words = f"{end} is marked {colour}" if colour else f"{end} is not marked"
    cables = tuple(
        replace(
            c, leads=tuple(replace(lead, marked=colour) if c.at(lead.id) == at else lead for lead in c.leads)
        )
        for c in old.cables
    )
    return Revise(handle, {"cables": cables}, words)


def marks(practice: Practice) -> tuple[str, ...]:
    """The colours that conductors are marked in."""
    return practice.marked


def strike(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """Take a cable off the record."""
    found = _cable_named(old, form)
    return _changed(handle, old, old.without(found.id), f"Strike cable {found.id} of {handle}")


def device(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """Put a device into the record, or take one off it."""
    if taken := given(form, "off"):
        if not any(d.id == taken for d in old.held):
            raise EditRefused("there is no such device in it")
        left = old.without(taken)
        return _changed(handle, old, replace(left, holds=_holds(left.held)), f"Take {taken} off {handle}")
    kind = need(form, "kind")
    if kind not in get_args(HeldKind):
        raise EditRefused(f"“{kind[:20]}” is no device that is known")
    if len(old.held) >= 6:
        raise EditRefused("a box holds six devices at most")
    name = old.next_device(kind_of(kind).letter)
    held = (*old.held, Device(name, kind))  # type: ignore[arg-type]
    return Revise(
        handle, {"held": held, "holds": _holds(held)}, f"{with_article(kind).capitalize()} in {handle}"
    )


def join(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """Join the end in hand with another, land it on a terminal, or leave it loose."""
    end, to = _end_of(old, need(form, "end")), given(form, "to")
    if not to:
        return _changed(handle, old, _loose(old, end), f"{end} is loose")
    device = next((d for d in old.held if d.id == owner(End(to))), None)
    if device is not None:
        return _landed(old, handle, end, device, part(End(to)))
    other = _end_of(old, to)
    if other == end:
        raise EditRefused("that is the same end")
    return _changed(handle, old, _joined(old, end, other), f"{end} is joined with {to}")


def _loose(old: OldBox, end: End) -> OldBox:
    """The box with an end in no joint and on no terminal."""
    return replace(
        old,
        joints=joined(tuple(e for e in joint if e != end) for joint in old.joints),
        held=tuple(parted(d, (end,)) for d in old.held),
    )


def _joined(old: OldBox, end: End, other: End) -> OldBox:
    """The box with an end in the joint of another, else both in that of the first, else in one of their own;
    what stood on a screw is joined, and a tail goes to the screw.
    """
    there, mine = (next((j for j in old.joints if e in j), ()) for e in (other, end))
    if there:
        loose = _loose(old, end)
        return replace(loose, joints=tuple((*j, end) if other in j else j for j in loose.joints))
    screws = tuple(d.at(t) for d in old.held for t, ends in d.lands.items() if other in ends)
    held = tuple(parted(d, (end, other)) for d in old.held)
    grown = (*mine, other, *screws) if mine else (other, end, *screws)
    return replace(old, joints=(*(j for j in old.joints if j is not mine), grown), held=held)


def _landed(old: OldBox, handle: Handle, end: End, device: Device, terminal: str) -> Edit:
    if terminal not in (*screws_of(device.kind), "g"):
        raise EditRefused(f"a {device.kind} has no {terminal[:20]}")
    screw = device.at(terminal)
    if any(end in j for j in old.joints):
        elsewhere = (tuple(e for e in j if e != screw or end in j) for j in old.joints)
        grown = (j if end not in j or screw in j else (*j, screw) for j in elsewhere)
        return Revise(handle, {"joints": joined(grown)}, f"A tail from {end} to {terminal}")
    loose = _loose(old, end)
    held = tuple(
        replace(d, lands={**d.lands, terminal: (*d.lands.get(terminal, ()), end)}) if d.id == device.id else d
        for d in loose.held
    )
    return _changed(handle, old, replace(loose, held=held), f"{end} is on {terminal}")


def _end_of(old: OldBox, name: str) -> End:
    if name not in old.ends:
        raise EditRefused(f"there is no {name[:20]} in this box")
    return End(name)


def look(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """One thing that was looked at: its field and its answer; an empty answer is not known again."""
    field, value = need(form, "field"), given(form, "value")
    if field == "gauge":
        return _gauge(old, handle, practice, value)
    if field == "use":
        if value and value not in get_args(RoomUse):
            raise EditRefused(f"“{value[:20]}” is no use of a room")
        return Revise(old.room, {"use": value or "other"}, f"The room: {value or 'not told'}")
    found = _looked_at(field, value, practice)
    return Revise(handle, {field: found}, f"{handle}: {field} {value or 'not known'}")


def _looked_at(field: str, value: str, practice: Practice) -> Any:
    """What an answer to a thing that was looked at is, as a box keeps it."""
    if field in ("clamps", "opening", "accessible", "alone", "listed"):
        return _either(value, ("yes", "no", ""), "it is yes, no, or not known")
    if field == "breaker_read":
        return _either(value, ("yes", "no"), "it was seen to make it dead, or it was not")
    if field in ("volume", "amps", "depth", "beside"):
        return _figure(field, value)
    if field in ("free", "sheath", "past", "setback", "slack", "clear"):
        return read_length(value, practice) if value else None
    if field == "marked":
        return weight(value, practice.unit) if value else None
    if field in ("breaker", "dies"):
        return clean(value)[:300]
    if field not in (known := _known(practice)):
        raise EditRefused(f"nothing called {field[:20]} is asked of a box")
    if value and value not in known[field]:
        raise EditRefused(f"“{value[:20]}” is none of: {', '.join(known[field])}")
    return value


def _either(value: str, known: Collection[str], refused: str) -> bool | None:
    if value not in known:
        raise EditRefused(refused)
    return None if value == "" else value == "yes"


def read_length(value: str, practice: Practice) -> Length:
    """A length as it was typed, in the practice's own unit; refused in words."""
    try:
        return parse_length(value, practice.unit)
    except UnreadableLength as wrong:
        raise EditRefused(str(wrong)) from None


def _known(practice: Practice) -> dict[str, list[str]]:
    """What can be answered where it is one of a few words."""
    return {
        "ground": ["present", "none"],
        "condition": [c for c in get_args(Condition) if c],
        "serves": list(sources().local(practice).circuits),
        "fixing": [f.id for f in fixings()],
        "size": list(practice.catalogue.unstamped),
        "material": [m for m in get_args(Material) if m],
        "ahead": [a for a in get_args(Ahead) if a],
    }


def _figure(field: str, value: str) -> Any:
    if not value:
        return None
    figure = finite_number(value)
    most = {"volume": 200.0, "amps": 125.0, "depth": 200.0, "beside": 20_000.0}[field]
    if figure is None or not 0 < figure <= most:
        raise EditRefused(f"“{value[:20]}” is no {field}; it is a figure up to {most:g}")
    return round(figure) if field in ("amps", "depth") else figure


def _gauge(old: OldBox, handle: Handle, practice: Practice, value: str) -> Edit:
    _require_gauge(value, practice)
    cables = tuple(replace(c, gauge=value) for c in old.cables)
    return Revise(handle, {"cables": cables}, f"{handle}: every cable {value or 'not read'}")


def _require_gauge(value: str, practice: Practice) -> None:
    known = [g.id for g in practice.catalogue.gauges]
    if value and value not in known:
        raise EditRefused(f"“{value[:20]}” is no gauge; there is {', '.join(known)}")


ACTS: dict[str, Act] = {
    "begin": begin,
    "place": place,
    "cable": cable,
    "strike": strike,
    "device": device,
    "join": join,
    "look": look,
    "inside": inside,
    "mark": mark,
}


def unplaced(room: Handle) -> OldBox:
    """An old box in a room, where nobody has measured yet."""
    nowhere = not_measured(Length(0.0))
    return OldBox(room, x=nowhere, y=nowhere)


def away(drawing: Drawing, handle: Handle) -> Edit:
    """A box that cannot feed it taken off the list; what was read in it is kept, and listed without it."""
    if len(drawing.of(OldBox)) < 2:
        raise EditRefused("it is the only old box there is: say another first")
    gone, errand = Remove(handle), drawing.house.errand
    if errand is None or errand.source != handle:
        return gone
    return Together((Revise(HOUSE, {"errand": replace(errand, source=None)}), gone), f"Take away {handle}")


def another(drawing: Drawing, handle: Handle) -> Edit:
    """One more box that could feed it, in the same room."""
    room = next(iter(drawing.of(OldBox).values())).room
    return Place({handle: unplaced(room)}, f"another old box, {handle}")
