"""What is told of an errand beside its spot and its way, by the field that a page sends; each by the page
that asks for it, where it is refused.
"""

from __future__ import annotations

from typing import Any, get_args

from django.http import Http404, HttpRequest

from fjeld.derive.plan import in_force
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.errand import Becomes, Errand
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.errand.plan import at_hand
from fjeld.quantities import Length, finite_number, whole_number
from fjeld.web.errand.actions import read_length
from fjeld.web.errand.step import Telling
from fjeld.web.ui.forms import given, weight


def _source(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    """Which old box is the source: what was tested dead, and the way from there, is of the one before."""
    box = str(request.POST.get("source", ""))
    if box not in drawing.of(OldBox):
        raise Http404("no such box")
    return {"source": Handle(box)}, f"{box} is the source"


def _follows(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    follows = request.POST.get("same_switch") == "yes"
    words = "It follows the switch that is there" if follows else "It is always live at the old box"
    return {"same_switch": follows}, words


def _weighs(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    typed = given(request.POST, "weighs")
    kg = weight(typed, drawing.house.unit) if typed else None
    return {"weighs": kg}, f"What hangs there weighs {typed[:40] or 'what nobody has said'}"


def _reached(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    attic, below = bool(request.POST.get("attic")), bool(request.POST.get("below"))
    reached = " and ".join(w for w, open_ in (("above", attic), ("below", below)) if open_) or "neither"
    return {"attic": attic, "below": below}, f"It can be reached from {reached}"


def _takes(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    takes = finite_number(value) if value else None
    if value and (takes is None or takes < 0):
        raise EditRefused(f"“{value[:20]}” is no load; it is a figure in VA")
    return {"takes": takes}, f"What is new takes {value or 'what nobody has said'}"


def _hours(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    if value not in ("yes", "no"):
        raise EditRefused("it is on for hours on end, or it is not")
    return {"hours": value == "yes"}, f"On for hours on end: {value}"


def _in_its_place(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    handle, old = at_hand(drawing)
    device = str(request.POST.get("replaces", errand.replaces))
    becomes = str(request.POST.get("becomes", ""))
    if becomes not in (*get_args(Becomes), "") or device not in ("", *(d.id for d in old.held)):
        raise Http404("no such device, or nothing of that kind")
    words = f"In the place of a device of {handle}: {becomes or 'not said'}"
    return {"replaces": device, "becomes": becomes}, words


def _fits(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    if value not in ("outlet", "switch", ""):
        raise EditRefused("it is an outlet or a switch")
    return {"fits": value}, f"What is new is {value or 'not said'}"


def _devices(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    devices = whole_number(value) if value else None
    if value and (devices is None or not 1 <= devices <= 8):
        raise EditRefused(f"“{value[:20]}” is no number of devices; a box holds one to eight")
    return {"devices": devices}, f"Devices in the new box: {value or 'not said'}"


def _farther(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    nearer = value.startswith(("-", "−"))
    length = read_length(value.lstrip("-− "), in_force(drawing.house)) if value else None
    if nearer and length is not None:
        length = Length(-length.mm, value)
    return {"farther": length}, f"Its cable goes farther by {value or 'what nobody has said'}"


OF_SOURCE: dict[str, Telling] = {"source": _source, "takes": _takes, "hours": _hours, "fits": _fits}
OF_PATH: dict[str, Telling] = {"reached": _reached}
OF_BOX: dict[str, Telling] = {
    "weighs": _weighs,
    "becomes": _in_its_place,
    "replaces": _in_its_place,
    "devices": _devices,
    "farther": _farther,
}
OF_PROOF: dict[str, Telling] = {"same_switch": _follows}
