"""The box of an errand, before and after: what it holds, what would make it fit, how it comes out, and the
box at the new place.
"""

from __future__ import annotations

from urllib.parse import urlencode

from msgspec.structs import replace

from fjeld.bench.questions import QUESTIONS
from fjeld.drawing.errand import CHANGED, Errand, length_of
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.errand.asked import extender
from fjeld.errand.filled import Filled, asked_for, in_its_place, larger
from fjeld.errand.known import ErrandFacts
from fjeld.errand.plan import SHORT, at_hand
from fjeld.graphics.columns import columns
from fjeld.graphics.picture import picture
from fjeld.graphics.shapes import Shape
from fjeld.judge.answer import Said
from fjeld.oldbox.replacing import may_become
from fjeld.practice import Practice, rules, with_article
from fjeld.practice.finished.fixings import fixings
from fjeld.practice.parts import OldWorkBox
from fjeld.quantities import Length, Unit
from fjeld.web.errand.step import ErrandStep, InHand
from fjeld.web.errand.wanted import OF_BOX
from fjeld.web.places.looked import YES_NO
from fjeld.web.places.planned import facts_at
from fjeld.web.ui.forms import shown_weight
from fjeld.web.ui.panel import Choices, Shown


class Look(Shown, frozen=True):
    """Something that is read off the old box: a figure to type, or answers to choose from."""

    field: str
    words: str
    value: str
    options: Choices


class SteadPanel(Shown, frozen=True, kw_only=True):
    """What stands in the place of a device: which of those in the box, what it may become and becomes, and
    what is said of that; ``weighs`` where it ``hangs``.
    """

    devices: Choices
    device: str
    options: Choices
    becomes: str
    said: list[Said]
    trouble: str
    weighs: str
    hangs: bool


class Wish(Shown, frozen=True):
    """Something that is told of the box that comes: its field, in words, and as it was told."""

    field: str
    words: str
    value: str


class BoxPage(Shown, frozen=True, kw_only=True):
    """Columns before and after, the first thing to read off the box, what stands in a device's place, what is
    said, the sums, what would fit, and how the old one comes out.
    """

    handle: Handle
    columns: Shape | None
    inside: Shape | None
    headline: str
    verdict: str
    next: Look | None
    wishes: list[Wish]
    stead: SteadPanel | None
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
    trouble: str


def _page(hand: InHand) -> BoxPage:
    """The box before and after."""
    facts, refused = facts_at(hand.job, hand.drawing, at_hand(hand.drawing)[0]), hand.refused
    practice, errand, old, handle = facts.practice, facts.errand, facts.old, facts.handle
    asked = (
        in_its_place(asked_for(old, errand), errand) if errand.wants in CHANGED else asked_for(old, errand)
    )
    boxes = [*facts.filled]
    looks = _looks(old, errand, practice)
    changes = errand.wants in CHANGED
    after = boxes[1] if len(boxes) > 1 else None
    needy = changes or bool(after and after.over)
    offers = list(larger(asked, practice)[:4]) if needy and old.cables and not refused else []
    held = next((f for f in fixings() if f.id == old.fixing), None)
    return BoxPage(
        handle=handle,
        columns=columns(boxes) if boxes else None,
        inside=picture(facts.box, {}, practice=practice) if old.cables else None,
        headline=_headline(after),
        verdict=_verdict(after),
        next=next((look for look in looks if not look.value), None),
        wishes=_wishes(errand),
        stead=_stead(facts),
        looks=looks,
        boxes=boxes,
        said=[*(s for b in boxes for s in b.said), *_wires_said(facts)],
        offers=offers,
        chosen=errand.spot.box if changes else "",
        ring=_ring(after, practice),
        out=held.out(practice.unit) if held else "",
        comes_out=changes,
        bench=_bench(old, errand, practice),
        unit=practice.unit,
        trouble=facts.trouble,
    )


def _ring(after: Filled | None, practice: Practice) -> str:
    """How much an extension ring would have to hold; empty where the box holds it all, or counts cables."""
    if after is None or not after.over or practice.counts_cables:
        return ""
    over = after.needs.total - (after.holds or 0.0)
    return f"{over:.2f} in³" if over else ""


def _wishes(errand: Errand) -> list[Wish]:
    """What is told of the box that comes in the old one's stead."""
    if errand.wants == "larger box":
        return [Wish("devices", "How many devices will be in the new box?", str(errand.devices or ""))]
    if errand.wants == "move":
        words = "How much farther does its cable have to go? Less with a minus."
        return [Wish("farther", words, errand.farther.typed if errand.farther else "")]
    return []


def _stead(facts: ErrandFacts) -> SteadPanel | None:
    """What may stand in the place of a device, and what is said of what was chosen."""
    found, errand, practice = facts.stead, facts.errand, facts.practice
    if found is None:
        return None
    options = [
        (k, practice.said(_becomes(k, found.device.kind))) for k in may_become(found.device.kind, practice)
    ]
    names = [(d.id, f"{d.id}, {d.kind}") for d in facts.box.devices]
    return SteadPanel(
        devices=names if len(names) > 1 else [],
        device=found.device.id,
        options=options,
        becomes=errand.becomes if errand.becomes in dict(options) else "",
        said=_spoken([*found.said, *facts.support.said], practice),
        trouble=practice.said(found.trouble),
        weighs=shown_weight(errand.weighs, practice.unit),
        hangs=errand.wants == "heavy",
    )


def _becomes(what: str, kind: str) -> str:
    """What stands in its place, in words."""
    words = {
        "dimmer": "a dimmer",
        "sensor": "a sensor or timer, or a switch that wants a neutral",
        "protective": "a ground-fault or arc-fault outlet",
        "fan": "a fan, with its light",
    }
    return words.get(what, f"{with_article(kind)} like it")


def _spoken(said: list[Said], practice: Practice) -> list[Said]:
    """What is said, once each, in the practice's words."""
    return list(dict.fromkeys(replace(s, words=practice.said(s.words)) for s in said))


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
    gauges = [(g, g) for g in practice.catalogue.wired_gauges()]
    gauge = old.cables[0].gauge if old.cables else ""
    found = [Look("gauge", "What gauge are its cables?", gauge, [*gauges, ("", "?")])]
    found += _of_its_room(old, practice)
    if errand.wants in CHANGED:
        held = [*((f.id, f.seen) for f in fixings()), ("", "?")]
        found.append(Look("fixing", "How is it held?", old.fixing, held))
    if errand.wants == "heavy":
        found += _of_its_mark(old, practice)
    made = [("metal", "metal"), ("plastic", "plastic"), ("none", "no box at all"), ("", "?")]
    found.append(Look("material", "What is it made of?", old.material or ("metal" if old.size else ""), made))
    wires = _of_wires(old, errand)
    return [*wires, *found] if errand.wants == "short wires" else [*found, *wires]


def _yes_no(value: bool | None) -> str:
    return "" if value is None else "yes" if value else "no"


def _of_its_room(old: OldBox, practice: Practice) -> list[Look]:
    """What tells how much goes into it: its depth, or its volume."""
    if practice.counts_cables:
        depths = [(str(d), f"{d} mm") for d in (b.depth for b in practice.catalogue.told_by_depth)]
        return [Look("depth", "How deep is it?", str(old.depth or ""), [*depths, ("", "?")])]
    volume = f"{old.volume:g}" if old.volume else ""
    stamp = volume or ("by its size" if old.size else "")
    sizes = [*((s, s) for s in practice.catalogue.unstamped), ("", "?")]
    inside = "Or, of metal: what does it measure inside, in inches?"
    return [
        Look("volume", "What does the stamp inside say, in³?", stamp, ()),
        Look("size", inside, old.size or ("by its stamp" if volume else ""), sizes),
        Look("clamps", "Are there clamps inside it?", _yes_no(old.clamps), YES_NO),
    ]


def _of_its_mark(old: OldBox, practice: Practice) -> list[Look]:
    """What tells how much hangs from it."""
    marked = "no mark" if old.marked == 0 else shown_weight(old.marked, practice.unit)
    weight = Look("marked", "What weight is its box marked for? 0 where there is no mark.", marked, ())
    if rules.FAN_BOX not in practice:
        return [weight]
    wide = "How wide is the clear space between the joists there?"
    return [
        Look("listed", "Does its mark say that it is for a fan?", _yes_no(old.listed), YES_NO),
        weight,
        Look("clear", wide, old.clear.typed if old.clear else "", ()),
    ]


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
        Look(
            "slack",
            "Slack in the wall: how much more can gently be pulled in? 0 where it is fast.",
            typed("slack"),
            (),
        ),
        Look("sheath", "Sheath inside the box?", typed("sheath"), ()),
        Look("past", "Wire past the face, the shortest?", typed("past"), ()),
        back,
    ]


def _wires_said(facts: ErrandFacts) -> list[Said]:
    """Whether the wires are long enough, and whether the box stands too far back."""
    said = list(facts.ends.said) if facts.ends else []
    if change := extender(facts):
        said.append(Said("needs", f"{change.why[:1].upper()}{change.why[1:]}: {change.part}", change.basis))
    return said


def _bench(old: OldBox, errand: Errand, practice: Practice) -> Choices:
    """The questions that go with the box in hand."""
    names = {
        "heavy": ("hangs", "fan", "downrod", "dimmer"),
        "replace": ("terminals", "replace", "dimmer"),
        "short wires": ("short",),
        "loose splice": ("splice", "short"),
        "larger box": ("cutout",),
        "move": ("reach", "cutout", "patch"),
        "alarms": ("link",),
        "outdoors": ("outdoors", "load", "extends"),
    }
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


BOX = ErrandStep(name="box", template="box", page=_page, tells=OF_BOX)
