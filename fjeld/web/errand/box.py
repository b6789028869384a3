"""The box of an errand, before and after: what it holds, what would make it fit, how it comes out, and the box at the new place."""

from __future__ import annotations

from typing import Literal
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET
from msgspec.structs import replace

from fjeld import practice as practices
from fjeld.drawing.building import Room
from fjeld.drawing.errand import Errand, length_of
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.finished.answer import NotAsked, Said
from fjeld.finished.book import NEW
from fjeld.finished.box.filled import Filled, asked_of, larger, new_box, old_box
from fjeld.finished.box.record import as_found
from fjeld.finished.box.replacing import may_become
from fjeld.finished.cut import hand_box
from fjeld.finished.devices import HangsAsked, ReplaceAsked, hangs, replaced
from fjeld.finished.fits import BY_DEPTH, METAL, FitsAsked
from fjeld.finished.questions import QUESTIONS, unit_of
from fjeld.finished.wires import ShortAsked, short
from fjeld.practice import Practice
from fjeld.practice.finished import OldWorkBox, habits
from fjeld.practice.finished.fixings import fixings
from fjeld.quantities import Length, Unit, Working, format_length
from fjeld.web.errand.actions import YES_NO
from fjeld.web.errand.columns import columns
from fjeld.web.errand.hand import drawing_of
from fjeld.web.errand.joints import REPLACED, replaced_device, stead
from fjeld.web.errand.kinds import KINDS, Kind
from fjeld.web.errand.picture import picture
from fjeld.web.errand.records import counting, readings_of
from fjeld.web.errand.screen import at_hand
from fjeld.web.errand.spot import errand_of
from fjeld.web.errand.stones import Stone, stones
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.forms import shown_weight
from fjeld.web.ui.panel import Choices, Shown, context

#: Errands in which the old box gives way to another.
CHANGED = ("larger box", "move")
#: What takes up as much as a protective outlet does.
BULKY = ("protective", "sensor", "dimmer")


class Look(Shown, frozen=True):
    """Something that is read off the old box: a figure to type, or answers to choose from."""

    field: str
    words: str
    value: str
    options: Choices


class Stead(Shown, frozen=True):
    """What stands in the place of a device: which of those in the box, what it may become and becomes, and what is said of that;
    ``weighs`` where it ``hangs``."""

    devices: Choices
    device: str
    options: Choices
    becomes: str
    said: list[Said]
    trouble: str
    weighs: str
    hangs: bool


class BoxPage(Shown, frozen=True):
    """Columns before and after, the first thing to read off the box, what stands in a device's place, what is said, the sums, what would fit, and how the old one comes out."""

    job: Job
    kind: Kind
    stones: list[Stone]
    handle: Handle
    columns: str
    inside: str
    headline: str
    verdict: str
    next: Look | None
    stead: Stead | None
    looks: list[Look]
    boxes: list[Filled]
    said: list[Said]
    offers: list[OldWorkBox]
    chosen: str
    ring: str
    out: str
    comes_out: bool
    bench: Choices
    unit: Unit
    may_edit: bool
    refused: str


@require_GET
@for_member
def show(request: HttpRequest, member: Member) -> HttpResponse:
    """The box before and after."""
    return box_page(request, member)


def box_page(request: HttpRequest, member: Member, refused: str = "") -> HttpResponse:
    """The box before and after, with what was refused of it."""
    return render(request, "errand/box.html", context(_page(member, refused)), status=422 if refused else 200)


def _page(member: Member, refused: str) -> BoxPage:
    drawing = drawing_of(member)
    practice, errand = practices.load(drawing.house.practice), errand_of(drawing)
    handle, old = at_hand(drawing, "")
    boxes = []
    asked = asked_for(old, errand, practice)
    try:
        boxes = before_and_after(asked, errand, practice) if old.cables else []
    except NotAsked as wrong:
        refused = refused or str(wrong)
    looks = _looks(old, errand, practice)
    changes = errand.wants in CHANGED
    after = boxes[1] if len(boxes) > 1 else None
    needy = changes or bool(after and after.over)
    offers = list(larger(asked, practice)[:4]) if needy and old.cables and not refused else []
    held = next((f for f in fixings() if f.id == old.fixing), None)
    over = after.needs.total - (after.holds or 0.0) if after and after.over and not practice.metric else 0.0
    return BoxPage(
        member.job, KINDS[errand.wants], stones(errand.wants, "box"), handle, columns(boxes) if boxes else "", picture(as_found(old), {}, metric=practice.metric) if old.cables else "",
        _headline(after), _verdict(after), next((look for look in looks if not look.value), None), _stead(member.job, handle, old, drawing, errand, practice), looks, boxes, [*(s for b in boxes for s in b.said), *_wires_said(old, errand, practice)], offers,
        errand.spot.box if changes else "", f"{over:.2f} in³" if over else "", held.out(practice.metric) if held else "", changes,
        _bench(old, errand, practice), "mm" if practice.metric else "ft-in", member.may_edit, refused,
    )  # fmt: skip


def _stead(
    job: Job, handle: Handle, old: OldBox, drawing: Drawing, errand: Errand, practice: Practice
) -> Stead | None:
    """What may stand in the place of a device, and what is said of what was chosen."""
    box = as_found(old, counting(readings_of(job, handle, as_found(old))))
    device = replaced_device(box, errand)
    if device is None:
        return None
    options = [(k, practice.said(_becomes(k, device.kind))) for k in may_become(device.kind, practice)]
    becomes = errand.becomes if errand.becomes in dict(options) else ""
    said: list[Said] = []
    trouble = ""
    if becomes:
        use = drawing.get(old.room, Room).use
        asked = ReplaceAsked(
            WHAT.get(device.kind, "switch"), use, _GROUND.get(old.ground, "not known"), old.condition == "aluminium", protective=becomes == "protective"
        )  # fmt: skip
        said += replaced(asked, practice).said
        try:
            told = stead(box, errand, practice)
            said += told.said if told else ()
        except NotAsked as wrong:
            trouble = str(wrong)
    if errand.wants == "heavy" and errand.weighs is not None:
        said += _carried(errand.weighs, becomes, old, practice)
    names = [(str(n), f"{d.id}, {d.kind}") for n, d in enumerate(box.devices, 1)]
    return Stead(
        names if len(names) > 1 else [], str(box.devices.index(device) + 1), options, becomes, _spoken(said, practice), practice.said(trouble),
        shown_weight(errand.weighs, practice.metric), errand.wants == "heavy",
    )  # fmt: skip


def _carried(kg: float, becomes: str, old: OldBox, practice: Practice) -> tuple[Said, ...]:
    """Whether its box carries what hangs there, by its mark; of one that nobody has looked at that is not known."""
    on_ceiling = old.place in ("", "ceiling")
    what: Literal["fan", "light", "wall light"] = (
        "fan" if becomes == "fan" else "light" if on_ceiling else "wall light"
    )
    if old.marked is None and not practice.metric and what == "fan":
        return (Said("ask", "Whether its box is listed and marked for a fan: look for the mark inside it"),)
    return hangs(HangsAsked(what, kg=kg, marked=old.marked or None), practice).said


def _becomes(what: str, kind: str) -> str:
    """What stands in its place, in words."""
    words = {
        "dimmer": "a dimmer", "sensor": "a sensor or timer, or a switch that wants a neutral", "protective": "a ground-fault or arc-fault outlet", "fan": "a fan, with its light",
    }  # fmt: skip
    article = "an" if kind[0] in "aeiou" else "a"
    return words.get(what, f"{article} {kind} like it")


def _spoken(said: list[Said], practice: Practice) -> list[Said]:
    """What is said, once each, in the practice's words."""
    return list(dict.fromkeys(replace(s, words=practice.said(s.words)) for s in said))


def asked_for(old: OldBox, errand: Errand, practice: Practice) -> FitsAsked:
    """Whether the old box takes what is added to it; nothing is, where only what is there changes."""
    add = ("",) if errand.wants in NEW else ()
    gauges = tuple(c.gauge for c in old.cables)
    volume = None if old.volume is None else float(old.volume)
    asked = asked_of(as_found(old), gauges, volume, old.size, old.depth, old.clamps, add)
    return replace(asked, protective=True) if errand.wants in REPLACED and errand.becomes in BULKY else asked


def before_and_after(asked: FitsAsked, errand: Errand, practice: Practice) -> list[Filled]:
    """The old box as found and after, and the box at the new place or in its stead."""
    found = list(old_box(asked, practice))
    mine = habits(practice.id)
    gauge = next((c.partition("/")[0] for c in asked.cables), "")
    if errand.wants in NEW:
        on_it = 0 if errand.wants in ("light", "alarms") else 1
        return [*found, new_box(hand_box(errand.spot, mine), gauge, on_it, practice)]
    if errand.wants in CHANGED:
        other = hand_box(errand.spot, mine)
        stead = FitsAsked(
            asked.cables, asked.add, other.volume or None, "", round(other.depth), asked.devices, False, asked.socket, asked.protective
        )  # fmt: skip
        return [found[0], Filled("in the new one", *_after(stead, practice))]
    return found[:1] if not asked.add else found


def _after(asked: FitsAsked, practice: Practice) -> tuple[Working, float | None, str, tuple[Said, ...]]:
    after = old_box(asked, practice)[1]
    return after.needs, after.holds, after.unit, after.said


def _headline(after: Filled | None) -> str:
    if after is None:
        return ""
    return f"{after.needs.total:g} of {'?' if after.holds is None else f'{after.holds:g}'} {after.unit}"


def _verdict(after: Filled | None) -> str:
    if after is None:
        return ""
    return "not known" if after.holds is None else "does not fit" if after.over else "fits"


def _looks(old: OldBox, errand: Errand, practice: Practice) -> list[Look]:
    """What is read off the box, in the order of asking."""

    def yes_no(value: bool | None) -> str:
        return "" if value is None else "yes" if value else "no"

    gauges = [(g, g) for g in practice.catalogue.wired_gauges()]
    found = [
        Look(
            "gauge",
            "What gauge are its cables?",
            old.cables[0].gauge if old.cables else "",
            [*gauges, ("", "?")],
        )
    ]
    if practice.metric:
        depths = [(str(d), f"{d} mm") for d in BY_DEPTH]
        found.append(Look("depth", "How deep is it?", str(old.depth or ""), [*depths, ("", "?")]))
    else:
        volume = f"{old.volume:g}" if old.volume else ""
        found.append(
            Look(
                "volume",
                "What does the stamp inside say, in³?",
                volume or ("by its size" if old.size else ""),
                (),
            )
        )
        found.append(
            Look(
                "size",
                "Or, of metal: what does it measure inside, in inches?",
                old.size or ("by its stamp" if volume else ""),
                [*((s, s) for s in METAL), ("", "?")],
            )
        )
        found.append(Look("clamps", "Are there clamps inside it?", yes_no(old.clamps), YES_NO))
    if errand.wants in CHANGED:
        found.append(
            Look("fixing", "How is it held?", old.fixing, [*((f.id, f.seen) for f in fixings()), ("", "?")])
        )
    if errand.wants == "heavy":
        marked = "no mark" if old.marked == 0 else shown_weight(old.marked, practice.metric)
        found.append(Look("marked", "What weight is its box marked for? 0 where there is no mark.", marked, ()))
    made = [("metal", "metal"), ("plastic", "plastic"), ("none", "no box at all"), ("", "?")]
    found.append(Look("material", "What is it made of?", old.material or ("metal" if old.size else ""), made))
    return found


#: What the rules of replacement know of devices by, and of a ground.
WHAT: dict[str, Literal["outlet", "switch", "light"]] = {
    "outlet": "outlet", "protective": "outlet", "fused unit": "outlet", "light": "light", "fan": "light", "alarm": "light",
}  # fmt: skip
_GROUND: dict[str, Literal["yes", "no"]] = {"present": "yes", "none": "no"}
#: Errands in which the length of the old wires matters first.
SHORT = ("short wires", "replace", "move", "larger box", "loose splice")


def _of_wires(old: OldBox, errand: Errand) -> list[Look]:
    """How long the wires in it are, and how far back it stands."""

    def typed(name: str) -> str:
        value: Length | None = getattr(old, name)
        return value.typed if value else ""

    back = Look("setback", "How far does its edge stand behind the surface?", typed("setback"), ())
    if errand.wants not in SHORT:
        return [back]
    return [
        Look("free", "Free wire beyond its sheath, the shortest?", typed("free"), ()),
        Look("sheath", "Sheath inside the box?", typed("sheath"), ()),
        Look("past", "Wire past the face, the shortest?", typed("past"), ()), back,
    ]  # fmt: skip


def _wires_said(old: OldBox, errand: Errand, practice: Practice) -> list[Said]:
    """Whether the wires are long enough, and whether the box stands too far back."""
    mine, unit = habits(practice.id), unit_of(practice)
    said: list[Said] = []
    if errand.wants in SHORT and (free := old.free) is not None and length_of(free) is not None:
        known = {
            name: v for name in ("sheath", "past") if (v := getattr(old, name)) is not None and not v.unknown
        }
        said += short(ShortAsked(free, cables=min(len(old.cables), 8), **known), mine, unit).said
    back = length_of(old.setback)
    if back is not None and back > mine.setback + 0.05:
        basis = "" if practice.metric else "314.20"
        said.append(
            Said(
                "needs",
                f"It stands more than {format_length(mine.setback, unit)} behind the surface: an extender, whatever the volume",
                basis,
            )
        )
    return said


def _bench(old: OldBox, errand: Errand, practice: Practice) -> Choices:
    """The questions that go with the box in hand."""
    names = {
        "heavy": ("hangs", "fan", "downrod", "dimmer"), "replace": ("terminals", "replace", "dimmer"), "short wires": ("short",), "loose splice": ("splice", "short"),
        "larger box": ("cutout", "patch"), "move": ("reach", "cutout", "patch"), "alarms": ("link",), "outdoors": ("outdoors", "load", "extends"),
    }  # fmt: skip
    known = {"practice": practice.id}
    rows = []
    for name in names.get(errand.wants, ("load", "extends")):
        extra = dict(known)
        if name == "cutout" and (face := errand.spot.left) is not None and length_of(face) is not None:
            extra["face"] = face.typed
        if name == "short":
            extra |= {
                "cables": str(len(old.cables) or ""),
                "free": old.free.typed if old.free else "",
                "sheath": old.sheath.typed if old.sheath else "",
            }
        rows.append((f"{name}?{urlencode({k: v for k, v in extra.items() if v})}", QUESTIONS[name].title))
    return rows
