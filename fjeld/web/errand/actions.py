"""Edits of an old box by tapping: begin from a usual one, add a cable, join, part, land, put in a device."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, get_args

from msgspec.structs import replace

from fjeld.drawing.building import RoomUse
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place, Remove, Revise, Together
from fjeld.drawing.extents import clean
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import (
    Ahead,
    Condition,
    Held,
    HeldKind,
    Lead,
    Material,
    OldBox,
    OldCable,
    OldPlace,
    Tail,
)
from fjeld.errand.record import device_names, drawn_as, names_of
from fjeld.oldbox.arrangements import arrangements
from fjeld.practice import Practice, with_article
from fjeld.practice.colours import NAMES
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
    known = arrangements(practice.id)
    if n is None or not 0 <= n < len(known):
        raise EditRefused("there is no such box to begin from")
    begun = drawn_as(old, known[n].box)
    fields = {"place": begun.place, "cables": begun.cables, "held": begun.held, "holds": _holds(begun.held)}
    return Revise(handle, fields, f"{handle}: {known[n].words}")


def _holds(held: tuple[Held, ...]) -> str:
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
    leads = tuple(Lead(c) for c in (*colours, "bare"))
    return Revise(
        handle, {"cables": (*old.cables, OldCable(leads, sheath=sheath))}, f"One more cable in {handle}"
    )


def inside(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """What one cable is: its sheath, and its own gauge."""
    n, sheath, gauge = whole_number(need(form, "cable")), given(form, "sheath"), given(form, "gauge")
    if n is None or not 1 <= n <= len(old.cables):
        raise EditRefused("there is no such cable in it")
    if sheath and sheath not in sources().local(practice).sheaths:
        raise EditRefused(f"“{sheath[:20]}” is no kind of cable that is known")
    _require_gauge(gauge, practice)
    cables = tuple(replace(c, sheath=sheath, gauge=gauge) if k == n else c for k, c in enumerate(old.cables, 1))
    return Revise(handle, {"cables": cables}, f"{handle}: cable {n} looked at")


def mark(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """The colour that tape or a sleeve gives an end; empty where it has its own."""
    end, colour = need(form, "end"), given(form, "colour")
    if colour and colour not in marks(practice):
        raise EditRefused(f"“{colour[:20]}” is none of: {', '.join(marks(practice))}")
    at = _find(old, end)
    words = f"{end} is marked {colour}" if colour else f"{end} is not marked"
    return _revised(old, handle, {at: replace(_lead(old, at), marked=colour)}, words)


def marks(practice: Practice) -> tuple[str, ...]:
    """The colours that conductors are marked in."""
    return practice.marked


def strike(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """Take a cable off the record."""
    n = whole_number(need(form, "cable"))
    if n is None or not 1 <= n <= len(old.cables):
        raise EditRefused("there is no such cable in it")
    return Revise(handle, {"cables": old.cables[: n - 1] + old.cables[n:]}, f"Strike cable {n} of {handle}")


def device(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """Put a device into the record, or take one off it."""
    taken = given(form, "off")
    if taken:
        n = whole_number(taken)
        if n is None or not 1 <= n <= len(old.held):
            raise EditRefused("there is no such device in it")
        held = old.held[: n - 1] + old.held[n:]
        cables = tuple(replace(c, leads=tuple(_without(lead, n) for lead in c.leads)) for c in old.cables)
        return Revise(
            handle, {"held": held, "cables": cables, "holds": _holds(held)}, f"Take a device off {handle}"
        )
    kind = need(form, "kind")
    if kind not in get_args(HeldKind):
        raise EditRefused(f"“{kind[:20]}” is no device that is known")
    if len(old.held) >= 6:
        raise EditRefused("a box holds six devices at most")
    held = (*old.held, Held(kind))  # type: ignore[arg-type]
    return Revise(
        handle, {"held": held, "holds": _holds(held)}, f"{with_article(kind).capitalize()} in {handle}"
    )


def _without(lead: Lead, n: int) -> Lead:
    if lead.device == n:
        return replace(lead, device=0, terminal="")
    return replace(lead, device=lead.device - 1) if lead.device > n else lead


def join(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """Join the end in hand with another, land it on a terminal, or leave it loose."""
    end, to = need(form, "end"), given(form, "to")
    at = _find(old, end)
    if not to:
        return _revised(
            old, handle, {at: replace(_lead(old, at), joint=0, device=0, terminal="")}, f"{end} is loose"
        )
    letter, _, terminal = to.partition(".")
    devices = device_names(old.held)
    if letter in devices:
        n = devices.index(letter) + 1
        if terminal not in (*screws_of(old.held[n - 1].kind), "g"):
            raise EditRefused(f"a {old.held[n - 1].kind} has no {terminal[:20]}")
        return _land(old, handle, at, end, n, terminal)
    other = _find(old, to)
    if other == at:
        raise EditRefused("that is the same end")
    number = _lead(old, other).joint or _lead(old, at).joint or _free(old)
    moved = {e: replace(_lead(old, e), joint=number, device=0, terminal="") for e in (at, other)}
    held = old.held
    lead = _lead(old, other)
    if lead.device and not lead.joint:
        # What stood on a screw is joined, and a tail goes to the screw.
        held = _tailed(old.held, lead.device, number, lead.terminal)
    return _revised(old, handle, moved, f"{end} is joined with {to}", held)


def _land(old: OldBox, handle: Handle, at: tuple[int, int], end: str, n: int, terminal: str) -> Edit:
    lead = _lead(old, at)
    if lead.joint:
        held = _tailed(old.held, n, lead.joint, terminal)
        return Revise(handle, {"held": held}, f"A tail from {end} to {terminal}")
    return _revised(old, handle, {at: replace(lead, device=n, terminal=terminal)}, f"{end} is on {terminal}")


def _tailed(held: tuple[Held, ...], n: int, joint: int, terminal: str) -> tuple[Held, ...]:
    tail = Tail(joint, terminal)
    return tuple(
        replace(h, tails=(*(t for t in h.tails if t != tail), tail)) if k == n else h
        for k, h in enumerate(held, 1)
    )


def _find(old: OldBox, end: str) -> tuple[int, int]:
    for n, names in enumerate(names_of(old)):
        if end in names:
            return n, names.index(end)
    raise EditRefused(f"there is no {end[:20]} in this box")


def _lead(old: OldBox, at: tuple[int, int]) -> Lead:
    return old.cables[at[0]].leads[at[1]]


def _free(old: OldBox) -> int:
    """A number that no joint has."""
    used = {lead.joint for c in old.cables for lead in c.leads} | {t.joint for h in old.held for t in h.tails}
    return next(n for n in range(1, 200) if n not in used)


def _revised(
    old: OldBox, handle: Handle, leads: dict[tuple[int, int], Lead], words: str, held: tuple[Held, ...] | None = None
) -> Edit:  # fmt: skip
    cables = tuple(
        replace(c, leads=tuple(leads.get((n, k), lead) for k, lead in enumerate(c.leads)))
        for n, c in enumerate(old.cables)
    )
    return Revise(handle, {"cables": cables, "held": old.held if held is None else held}, words)


def look(old: OldBox, handle: Handle, practice: Practice, form: Form) -> Edit:
    """One thing that was looked at: its field and its answer; an empty answer is not known again."""
    field, value = need(form, "field"), given(form, "value")
    if field in ("clamps", "opening", "accessible", "alone", "listed"):
        if value not in ("yes", "no", ""):
            raise EditRefused("it is yes, no, or not known")
        found: Any = None if value == "" else value == "yes"
    elif field in ("volume", "amps", "depth", "beside"):
        found = _figure(field, value)
    elif field in ("free", "sheath", "past", "setback", "slack", "clear"):
        found = read_length(value, practice) if value else None
    elif field == "marked":
        found = weight(value, practice.unit) if value else None
    elif field in ("breaker", "dies"):
        found = clean(value)[:300]
    elif field == "breaker_read":
        if value not in ("yes", "no"):
            raise EditRefused("it was seen to make it dead, or it was not")
        found = value == "yes"
    elif field == "gauge":
        return _gauge(old, handle, practice, value)
    elif field == "use":
        if value and value not in get_args(RoomUse):
            raise EditRefused(f"“{value[:20]}” is no use of a room")
        return Revise(old.room, {"use": value or "other"}, f"The room: {value or 'not told'}")
    elif field in (known := _known(practice)):
        if value and value not in known[field]:
            raise EditRefused(f"“{value[:20]}” is none of: {', '.join(known[field])}")
        found = value
    else:
        raise EditRefused(f"nothing called {field[:20]} is asked of a box")
    return Revise(handle, {field: found}, f"{handle}: {field} {value or 'not known'}")


def read_length(value: str, practice: Practice) -> Length:
    """A length as it was typed, in the practice's own unit; refused in words."""
    try:
        return parse_length(value, practice.unit)
    except UnreadableLength as wrong:
        raise EditRefused(str(wrong)) from None


def _known(practice: Practice) -> dict[str, list[str]]:
    """What can be answered where it is one of a few words."""
    return {
        "ground": ["present", "none"], "condition": [c for c in get_args(Condition) if c], "serves": list(sources().local(practice).circuits),
        "fixing": [f.id for f in fixings()], "size": list(practice.catalogue.unstamped), "material": [m for m in get_args(Material) if m],
        "ahead": [a for a in get_args(Ahead) if a],
    }  # fmt: skip


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
    "begin": begin, "place": place, "cable": cable, "strike": strike, "device": device, "join": join, "look": look, "inside": inside, "mark": mark,
}  # fmt: skip


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
